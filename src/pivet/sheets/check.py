"""Checking a timing sheet that somebody wrote: all that is wrong with it, each with its line."""

import difflib
import math
import re
import tomllib
from collections.abc import Callable, Iterator, Mapping
from typing import Any

from pivet.errors import InputError
from pivet.frozen import FrozenValue
from pivet.sheets.families import FAMILY_KEYS, family_key
from pivet.sheets.load import parse_sheet, shipped_sheets
from pivet.sheets.model import Driver, Origin, Sheet
from pivet.sheets.written import Place, line_of, lines_of

IDENT = re.compile(r"[a-z0-9][a-z0-9._-]{0,39}")
MOST_BYTES = 1 << 20
"""A sheet that is larger is none."""


class Problem(FrozenValue):
    """Something wrong with a sheet.

    Attributes:
        line: where, from 1; None where it is the whole file.
        what: without a full stop.
        todo: what to do about it, without a full stop.
    """

    line: int | None
    what: str
    todo: str

    @property
    def says(self) -> str:
        """Where, what, and what to do."""
        where = "" if self.line is None else f"line {self.line}: "
        return f"{where}{self.what}: {self.todo}."


class Entry(FrozenValue):
    """What an entry of a sheet must be.

    Attributes:
        is_fit: whether a value can stand there.
        kind: what it must be, in words.
        needed: it cannot be left out.
    """

    is_fit: Callable[[Any], bool]
    kind: str
    needed: bool = True


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)


def _is_pair(value: Any) -> bool:
    return isinstance(value, list) and len(value) == 2 and all(map(_is_number, value))


def _is_texts(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(one, str) for one in value)


def _one_of(choices: tuple[str, ...]) -> Entry:
    return Entry(lambda value: value in choices, "one of " + ", ".join(choices))


def _may(entry: Entry) -> Entry:
    return Entry(entry.is_fit, entry.kind, needed=False)


TEXT = Entry(lambda value: isinstance(value, str), "a text in quotes")
TEXTS = Entry(_is_texts, "a list of texts")
NUMBER = Entry(_is_number, "a number")
ABOVE_ZERO = Entry(lambda value: _is_number(value) and value > 0, "a number above 0")
NOT_BELOW = Entry(lambda value: _is_number(value) and value >= 0, "a number from 0 on")
PAIR = Entry(lambda value: _is_pair(value) and value[0] <= value[1], "two numbers, [least, most]")
FLAG = Entry(lambda value: isinstance(value, bool), "true or false")
TABLE = Entry(lambda value: isinstance(value, dict), "a table of its own")
TABLES = Entry(
    lambda value: isinstance(value, list) and all(isinstance(one, dict) for one in value),
    "tables, each with its [[…]]",
)
LENGTH = Entry(
    lambda value: ABOVE_ZERO.is_fit(value) or (_is_pair(value) and 0 < value[0] <= value[1]),
    "a number above 0, or two",
)
BYTE = Entry(lambda value: type(value) is int and 0 <= value <= 2, "0, 1 or 2")

TOP = {
    "id": Entry(
        lambda value: isinstance(value, str) and IDENT.fullmatch(value) is not None,
        "a short name of small letters, digits, dots and dashes",
    ),
    "name": TEXT,
    "family": Entry(
        lambda value: isinstance(value, str) and family_key(value) in FAMILY_KEYS,
        "one of " + ", ".join(FAMILY_KEYS),
    ),
    "parts": TEXTS,
    "source": TEXT,
    "notes": _may(TEXTS),
    "by_choice": _may(FLAG),
    "interval": _may(TABLE),
    "wiring": _may(TABLE),
    "echo": _may(TABLE),
    "window": TABLES,
    "value": _may(TABLES),
}
INTERVAL = {"least_s": NOT_BELOW, "note": _may(TEXT)}
WIRING = {"pins": TEXTS, "idle": _one_of(("high", "low")), "pull_up": TEXT, "hint": TEXT}
ECHO = {
    "lines": Entry(lambda value: type(value) is int and value in (1, 2), "1 or 2"),
    "timeout_us": ABOVE_ZERO,
    "nearest_m": NOT_BELOW,
    "farthest_m": ABOVE_ZERO,
    "accuracy_m": _may(NOT_BELOW),
}
WINDOW = {
    "key": TEXT,
    "label": TEXT,
    "driver": _one_of(tuple(Driver)),
    "min_us": _may(ABOVE_ZERO),
    "typ_us": LENGTH,
    "max_us": _may(ABOVE_ZERO),
    "from": _may(_one_of(tuple(Origin))),
    "note": _may(TEXT),
    "source": _may(TEXT),
    "any_inside": _may(FLAG),
    "open": _may(FLAG),
    "advised_us": _may(ABOVE_ZERO),
    "common_us": _may(PAIR),
}


def _value_entries() -> dict[str, Entry]:
    """The entries of a value; its forms, quantities and units are those that decoding knows."""
    rules = [rule for sheet in shipped_sheets().values() for rule in sheet.values]
    return {
        "quantity": _one_of(tuple(dict.fromkeys(rule.quantity for rule in rules))),
        "form": _one_of(tuple(dict.fromkeys(rule.form for rule in rules))),
        "first": BYTE,
        "unit": _one_of(tuple(dict.fromkeys(rule.unit for rule in rules))),
        "step": ABOVE_ZERO,
        "range": PAIR,
        "possible": _may(PAIR),
        "accuracy": _may(NOT_BELOW),
        "accuracy_from": _may(_one_of(tuple(Origin))),
    }


def sheet_problems(text: str) -> list[Problem]:
    """All that is wrong with the text of a sheet, in its order; nothing when it can be used.

    Args:
        text: TOML, as docs/sheets.md describes it.
    """
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        found = re.search(r"line (\d+)", str(error))
        what = f"this is no TOML ({str(error).partition(' (at ')[0]})"
        todo = "mend it there" if found else "see whether a quote or a bracket is left open"
        return [Problem(int(found[1]) if found else None, what, todo)]
    except RecursionError:
        return [Problem(None, "it is nested too deeply", "mend it")]
    lines = lines_of(text)
    rows = list(_wrong_entries(data)) or list(_wrong_together(data, text))
    problems = [Problem(line_of(place, lines), what, todo) for place, what, todo in rows]
    return sorted(problems, key=lambda problem: problem.line or math.inf)


Wrong = tuple[Place, str, str]


def _wrong_entries(data: dict[str, Any]) -> Iterator[Wrong]:
    """Entries that are missing, unknown or of a wrong kind, table by table."""
    yield from _wrong_table(data, TOP, (), "the sheet")
    for name, entries in (("interval", INTERVAL), ("wiring", WIRING), ("echo", ECHO)):
        if isinstance(data.get(name), dict):
            yield from _wrong_table(data[name], entries, (name,), f"[{name}]")
    for name, entries in (("window", WINDOW), ("value", _value_entries())):
        if TABLES.is_fit(data.get(name)):
            for number, table in enumerate(data[name]):
                called = f"the {name} {table.get('key' if name == 'window' else 'quantity', '')!r}"
                yield from _wrong_table(table, entries, (name, number), called)


def _wrong_table(
    table: dict[str, Any], entries: Mapping[str, Entry], place: Place, called: str
) -> Iterator[Wrong]:
    for key, value in table.items():
        if key not in entries:
            near = difflib.get_close_matches(key, entries, 1)
            todo = f"write {near[0]}" if near else f"there are {', '.join(entries)}"
            yield (*place, key), f"{called} has no entry {key!r}", todo
        elif not entries[key].is_fit(value):
            what = f"{key} of {called} is {str(value)[:40]!r}"
            yield (*place, key), what, f"it must be {entries[key].kind}"
    for key, entry in entries.items():
        if entry.needed and key not in table:
            yield place, f"{called} lacks {key}", f"add it: {entry.kind}"


def _wrong_together(data: dict[str, Any], text: str) -> Iterator[Wrong]:
    """What contradicts itself, or what decoding needs."""
    family = family_key(data["family"])
    if data["id"] in shipped_sheets():
        yield ("id",), f"{data['id']} is a sheet of Pivet", "give yours an id of its own"
    yield from _wrong_windows(data["window"])
    keys = tuple(window["key"] for window in data["window"])
    yield from _wrong_keys(keys, _models(family, data), data["window"])
    yield from _wrong_values(data, family)


def _models(family: str, data: dict[str, Any]) -> Sheet:
    """The sheet of Pivet whose windows those of another must be."""
    shipped = shipped_sheets().values()
    rows = [sheet for sheet in shipped if sheet.family == family and not sheet.by_choice]
    lines = data.get("echo", {}).get("lines")
    return next((sheet for sheet in rows if sheet.echo and sheet.echo.lines == lines), rows[0])


def _wrong_keys(keys: tuple[str, ...], model: Sheet, windows: list[Any]) -> Iterator[Wrong]:
    wanted = tuple(model.windows)
    for number, key in enumerate(keys):
        if key in keys[:number]:
            yield ("window", number, "key"), f"a second window {key!r}", "remove one of them"
        elif key not in wanted:
            near = difflib.get_close_matches(key, wanted, 1)
            todo = f"write {near[0]}" if near else f"there are {', '.join(wanted)}"
            yield ("window", number, "key"), f"{key!r} is no window of this family", todo
    for key in wanted:
        if key not in keys:
            yield (), f"the window {key} is missing", f"copy it from {model.id} and change it"


def _wrong_windows(windows: list[dict[str, Any]]) -> Iterator[Wrong]:
    """Windows whose limits do not lie about what is typical."""
    for number, window in enumerate(windows):
        place, key, typical = ("window", number), window["key"], window["typ_us"]
        low, high = typical if isinstance(typical, list) else (typical, typical)
        least, most = window.get("min_us"), window.get("max_us")
        if least is None and window.get("from") != Origin.ASSUMED:
            yield place, f"the window {key!r} lacks min_us", 'add it, or from = "assumed"'
        if least is not None and least > low:
            yield (*place, "min_us"), f"min_us of {key} is above typ_us", "make it the least"
        if most is not None and most < high:
            yield (*place, "max_us"), f"max_us of {key} is below typ_us", "make it the most"
        if "common_us" in window:
            low, high = window["common_us"]
            if low <= 0 or (least or low) < low or (most or high) > high:
                todo = "write [from, to] around min_us and max_us, or leave it out"
                yield (*place, "common_us"), f"common_us of {key} does not hold its window", todo


def _wrong_values(data: dict[str, Any], family: str) -> Iterator[Wrong]:
    """Values and range, each where its family has them."""
    model, rules = _models(family, data), data.get("value", [])
    wanted = [rule.quantity for rule in model.values]
    if sorted(rule["quantity"] for rule in rules) != sorted(wanted):
        one = f"one [[value]] each for {', '.join(wanted)}" if wanted else "no [[value]]"
        place = ("value", 0) if rules else ()
        yield place, "the values are not those of this family", f"give {one}"
    for number, rule in enumerate(rules):
        least, most = rule.get("possible", rule["range"])
        if least > rule["range"][0] or most < rule["range"][1]:
            what = f"what is possible for {rule['quantity']} is less than its range"
            yield ("value", number, "possible"), what, "widen it, or leave it out"
    if (model.echo is None) != ("echo" not in data):
        needs = "needs" if model.echo is not None else "has no"
        yield ("echo",), f"a sheet of this family {needs} [echo]", "see docs/sheets.md"
    elif "echo" in data and data["echo"]["nearest_m"] >= data["echo"]["farthest_m"]:
        yield ("echo", "nearest_m"), "nearest_m is not below farthest_m", "exchange them"


def checked_sheet(text: str, where: str) -> Sheet:
    """A sheet that somebody brings.

    Args:
        text: TOML, as docs/sheets.md describes it.
        where: name of its file, for messages.

    Raises:
        InputError: it cannot be used; the message tells the first problem, with its line.
    """
    problems = sheet_problems(text)
    if problems:
        first, more = problems[0], len(problems) - 1
        line = "" if first.line is None else f", line {first.line}"
        also = f"; pivet sheet check tells {more} more" if more else ""
        raise InputError(f"{where}{line}: {first.what}", first.todo + also)
    return parse_sheet(text, where)
