"""What is said of a row: our own JSON, see docs/feeds.md, and the fields of templates."""

import json
from collections.abc import Mapping
from typing import Any

import msgspec

from pivet.feeds.outbox import Sent
from pivet.feeds.setup import FORM
from pivet.files.benchfile.feeds import Change
from pivet.files.readings_table import Cell
from pivet.readings.units import UnitChoice

Json = dict[str, Any]


def value_of(cell: Cell, value: float | None, units: UnitChoice) -> float | None:
    """A value in the unit in which it is sent, with as many decimals as are known.

    Args:
        cell: that has it.
        value: in the kept unit; None where there is none.
        units: in which values are sent.
    """
    if value is None:
        return None
    decimals = units.decimals(cell.quantity, cell.decimals)
    return round(units.shown(cell.quantity, value), decimals) + 0.0


def reading_object(feed: str, sent: Sent, cell: Cell, units: UnitChoice) -> Json:
    """One reading as an object; ``reason`` where there is no value, ``raw`` under a correction.

    Args:
        feed: the feed's own id.
        sent: the row.
        cell: the reading in it.
        units: in which values are sent.
    """
    row = sent.row
    name = cell.quantity.replace(" ", "-")
    return {
        "form": FORM,
        "id": f"{feed}-{sent.ident}-{name}",
        "time": row.time,
        "wire": row.wire,
        **_device(sent),
        "quantity": cell.quantity,
        "value": value_of(cell, cell.value, units),
        "unit": units.of(cell.quantity).symbol,
        **_raw(cell, units),
        **_end(sent, cell.reason or row.reason if cell.value is None else ""),
    }


def row_object(feed: str, sent: Sent, units: UnitChoice) -> Json:
    """All readings of a device in one exchange as an object.

    Args:
        feed: the feed's own id.
        sent: the row.
        units: in which values are sent.
    """
    row = sent.row
    return {
        "id": f"{feed}-{sent.ident}",
        "time": row.time,
        "wire": row.wire,
        **_device(sent),
        "values": {
            cell.quantity: {
                "value": value_of(cell, cell.value, units),
                "unit": units.of(cell.quantity).symbol,
                **_raw(cell, units),
                **({"reason": cell.reason} if cell.reason and cell.value is None else {}),
            }
            for cell in row.cells
        },
        **_end(sent, row.reason),
    }


def _device(sent: Sent) -> Json:
    if not sent.row.device:
        return {}
    return {"device": sent.row.device, **({"role": sent.row.role} if sent.row.role else {})}


def _raw(cell: Cell, units: UnitChoice) -> Json:
    return {} if cell.raw is None else {"raw": value_of(cell, cell.raw, units)}


def _end(sent: Sent, reason: str) -> Json:
    return {
        "verdict": sent.row.verdict or None,
        **({"reason": reason} if reason else {}),
        "exchange": sent.row.exchange,
        **({"correction": True} if sent.change is not Change.NEW else {}),
    }


def who(sent: Sent) -> str:
    """The device for people: its role, else its code; empty where the wire has one sensor.

    Args:
        sent: the row.
    """
    return sent.row.role or sent.row.device


def fields_of(feed: str, sent: Sent, units: UnitChoice) -> Mapping[str, Any]:
    """What templates can name: ``temperature``, ``temperature.raw``, ``temperature.unit`` too.

    Args:
        feed: the feed's own id.
        sent: the row.
        units: in which values are sent.
    """
    row = sent.row
    found: Json = {
        "id": f"{feed}-{sent.ident}",
        "time": row.time,
        "unix": round(sent.at_ns / 1e9, 3),
        "wire": row.wire,
        "device": row.device,
        "role": row.role,
        "who": who(sent),
        "exchange": row.exchange,
        "verdict": row.verdict,
        "reason": row.reason,
        "correction": sent.change is not Change.NEW,
    }
    for cell in row.cells:
        found[cell.quantity] = value_of(cell, cell.value, units)
        found[f"{cell.quantity}.raw"] = value_of(cell, cell.raw, units)
        found[f"{cell.quantity}.unit"] = units.of(cell.quantity).symbol
    return found


FIELDS = frozenset(
    {
        *("id", "time", "unix", "wire", "device", "role", "who", "exchange", "verdict", "reason"),
        "correction",
    }
)
"""Fields that every row has."""


def text_of(value: Any) -> str:
    """A value inside a text.

    Args:
        value: of a field.
    """
    return "" if value is None else value if isinstance(value, str) else json.dumps(value)


def json_of(said: Any) -> str:
    """What is said as JSON on one line.

    Args:
        said: what is sent.
    """
    return msgspec.json.encode(said).decode()
