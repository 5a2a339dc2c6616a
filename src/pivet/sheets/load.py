"""Reading the sheets' data files (TOML, one a sensor)."""

import tomllib
from collections.abc import Iterable, Mapping
from functools import cache
from pathlib import Path
from typing import Any

from pivet.errors import InputError
from pivet.frozen import FrozenValue
from pivet.sheets.families import family_key
from pivet.sheets.model import Driver, EchoRule, Origin, Sheet, ValueRule, Window, Wiring

DATA = Path(__file__).parent / "data"

ASSUMED_SHARE = 0.10
"""Half width of a window assumed around a typical value (domain page, first paragraph)."""


def parse_sheet(text: str, where: str) -> Sheet:
    """Makes a sheet from the text of its data file.

    Args:
        text: TOML, as docs/sheets.md describes it.
        where: name of the file, for messages.

    Raises:
        InputError: the text is no TOML or lacks or contradicts something.
    """
    try:
        data = tomllib.loads(text)
        interval = data.get("interval", {"least_s": 0})
        return Sheet(
            id=data["id"],
            name=data["name"],
            family=family_key(data["family"]),
            parts=tuple(data["parts"]),
            source=data["source"],
            interval_s=float(interval["least_s"]),
            interval_note=interval.get("note", ""),
            windows={row["key"]: _window(row) for row in data["window"]},
            values=tuple(_value(row) for row in data.get("value", ())),
            notes=tuple(data.get("notes", ())),
            echo=EchoRule(**data["echo"]) if "echo" in data else None,
            wiring=_wiring(data["wiring"]) if "wiring" in data else None,
            by_choice=bool(data.get("by_choice", False)),
        )
    except tomllib.TOMLDecodeError as error:
        raise InputError(f"{where} is no TOML file ({error})", "mend the line it names") from error
    except KeyError as error:
        raise InputError(f"{where} lacks the entry {error}", "add it") from error
    except (AttributeError, OverflowError, TypeError, ValueError) as error:
        raise InputError(f"{where} cannot be used: {error}", "mend that entry") from error
    except RecursionError as error:
        raise InputError(f"{where} is nested too deeply", "mend it") from error


def _window(row: dict[str, Any]) -> Window:
    origin = Origin(row.get("from", "sheet"))
    typical = row["typ_us"]
    low_typ, high_typ = typical if isinstance(typical, list) else (typical, typical)
    least, most = row.get("min_us"), row.get("max_us")
    if origin is Origin.ASSUMED:
        least = low_typ * (1 - ASSUMED_SHARE) if least is None else least
        most = high_typ * (1 + ASSUMED_SHARE) if most is None and not row.get("open") else most
    return Window(
        key=row["key"],
        label=row["label"],
        driver=Driver(row["driver"]),
        min_us=round(float(row["min_us"] if least is None else least), 3),
        typ_us=(low_typ + high_typ) / 2,
        max_us=None if most is None else round(float(most), 3),
        origin=origin,
        note=row.get("note", ""),
        any_inside=bool(row.get("any_inside", False)),
        advised_us=float(row["advised_us"]) if "advised_us" in row else None,
        common_us=_common(row),
        source=row.get("source", ""),
    )


def _common(row: dict[str, Any]) -> tuple[float, float] | None:
    if "common_us" not in row:
        return None
    low, high = row["common_us"]
    return float(low), float(high)


def _wiring(row: dict[str, Any]) -> Wiring:
    if row["idle"] not in ("high", "low"):
        raise ValueError(f"a line cannot rest {row['idle']!r}")
    return Wiring(tuple(row["pins"]), row["idle"], row["pull_up"], row["hint"])


def _value(row: dict[str, Any]) -> ValueRule:
    low, high = row["range"]
    least, most = row.get("possible", row["range"])
    return ValueRule(
        quantity=row["quantity"],
        form=row["form"],
        first=int(row["first"]),
        unit=row["unit"],
        step=float(row["step"]),
        low=float(low),
        high=float(high),
        least=float(least),
        most=float(most),
        accuracy=float(row["accuracy"]) if "accuracy" in row else None,
        accuracy_origin=Origin(row.get("accuracy_from", "sheet")),
    )


class OwnSheet(FrozenValue):
    """A sheet that the person brought.

    Attributes:
        sheet: what it says.
        text: its data file.
        path: where that stands.
    """

    sheet: Sheet
    text: str
    path: Path


_own: dict[str, OwnSheet] = {}


@cache
def shipped_sheets() -> dict[str, Sheet]:
    """The sheets that ship with Pivet, by id, in the order of their names."""
    return {sheet.id: sheet for sheet in map(_shipped, _shipped_files())}


@cache
def _shipped_of(family: str) -> tuple[Sheet, ...]:
    """Those of one family; only files that name it are read: TOML takes long."""
    paths = [path for path in _shipped_files() if family in path.read_text(encoding="utf-8")]
    return tuple(sheet for sheet in map(_shipped, paths) if sheet.family == family)


@cache
def _shipped(path: Path) -> Sheet:
    return parse_sheet(path.read_text(encoding="utf-8"), path.name)


@cache
def _shipped_files() -> list[Path]:
    return sorted(DATA.glob("*.toml"), key=lambda path: path.stem)


def all_sheets() -> dict[str, Sheet]:
    """The sheets that ship with Pivet, then those that the person brought, by id."""
    return shipped_sheets() | {key: own.sheet for key, own in _own.items()}


def own_sheets() -> Mapping[str, OwnSheet]:
    """The sheets that the person brought, by id."""
    return dict(_own)


def use_own(sheets: Iterable[OwnSheet]) -> None:
    """These are the person's sheets from now on, for all that this process judges.

    Args:
        sheets: all of them.
    """
    _own.clear()
    _own.update((own.sheet.id, own) for own in sheets)


def find_sheet(sheet_id: str) -> Sheet:
    """The sheet with this id.

    Args:
        sheet_id: the sheet id of a sheet of Pivet or of the person.

    Raises:
        InputError: there is none; the message lists those that are there.
    """
    sheets = all_sheets()
    if sheet_id not in sheets:
        raise InputError(f"there is no sheet {sheet_id!r}", f"choose one of {', '.join(sheets)}")
    return sheets[sheet_id]


def sheet_text(sheet_id: str) -> str:
    """The data file of a sheet, as text; empty when there is none.

    Args:
        sheet_id: the sheet id of a sheet of Pivet or of the person.
    """
    if sheet_id in _own:
        return _own[sheet_id].text
    path = DATA / f"{sheet_id}.toml"
    return path.read_text(encoding="utf-8") if sheet_id in shipped_sheets() else ""


def sheets_of(family: str) -> tuple[Sheet, ...]:
    """The sheets of one family, those of Pivet first.

    Args:
        family: its key.
    """
    brought = tuple(own.sheet for own in _own.values() if own.sheet.family == family)
    return _shipped_of(family) + brought


def recognisable(family: str) -> tuple[Sheet, ...]:
    """Those of a family that can be told by their signals.

    Args:
        family: its key.
    """
    return tuple(sheet for sheet in sheets_of(family) if not sheet.by_choice)
