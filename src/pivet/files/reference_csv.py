"""The log of a reference instrument as CSV: columns are found by what they hold.

Times are ISO 8601 (without a zone local), ``day.month.year`` or ``month/day/year`` with a clock, or
seconds since 1970.  A decimal comma is understood where fields are parted by semicolons or tabs.
"""

import csv
import io
import math
import re
from collections import Counter
from collections.abc import Sequence
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np
import numpy.typing as npt

from pivet.errors import InputError
from pivet.files.incoming import read_bytes
from pivet.frozen import FrozenObject
from pivet.readings.units import QUANTITIES, Dimension, UnitChoice, dimension_of, symbol_of
from pivet.signal.seconds import ns_of

LEAST_SHARE = 0.8
"""A column holds times or numbers when so many of its first rows do."""

LOOKED_AT = 200
LEAST_EPOCH, MOST_EPOCH = 500_000_000, 5_000_000_000
"""Seconds since 1970 that a log may speak of: 1985 to 2128."""

LEAST_YEAR, MOST_YEAR = 1984, 2130
MOST_TIME = 64
MOST_COLUMNS = 200
MOST_BYTES = 1 << 28

FORMS = (
    "%d.%m.%Y %H:%M:%S",
    "%d.%m.%Y %H:%M",
    "%m/%d/%Y %H:%M:%S",
    "%m/%d/%Y %H:%M",
    "%Y/%m/%d %H:%M:%S",
    "%Y/%m/%d %H:%M",
)
HALVED = "%m/%d/%Y %I:%M:%S", "%m/%d/%Y %I:%M"
HALF_OF_DAY = re.compile(r"\s*([ap])\.?m\.?$", re.IGNORECASE)
"""Not by ``%p``: in most languages the system has no word for it."""

SPELLED = {"celsius": "°C", "fahrenheit": "°F", "% rh": "%RH", "inch": "in", "inches": "in"}
SPELLED |= {"g/m3": "g/m³"}
"""Units as headings write them beside what ``symbol_of`` knows, in small letters."""

SHORT = {"rh": "humidity", "hum": "humidity", "temp": "temperature", "dewpt": "dew point"}
"""Quantities likewise."""

WORD = re.compile(r"g/m[³3]|% ?rh\b|[^\W\d_]+|%")


class LoggedColumn(FrozenObject):
    """A column of numbers.

    Attributes:
        name: from the header, or ``column 2``.
        quantity: that its name or unit speaks of; empty when it speaks of none.
        times_ns: rising, ns since 1970, int64 (n,).
        values: float64 (n,), in the kept unit where the quantity is known.
    """

    name: str
    quantity: str
    times_ns: npt.NDArray[np.int64]
    values: npt.NDArray[np.float64]


AGAIN = "save the log of the instrument again"


def read_reference(path: Path) -> list[LoggedColumn]:
    """The columns of numbers of a log.

    Args:
        path: the file.

    Raises:
        InputError: it cannot be read, or holds no times, or no numbers.
    """
    raw = read_bytes(path, most=MOST_BYTES, again=AGAIN)
    text = raw.decode("utf-8-sig", errors="replace")
    sample = text[:8192]
    delimiter = max(";\t,", key=sample.count)
    if not sample.count(delimiter):
        raise InputError(f"{path} has one column only", "save the log with commas between columns")
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    try:
        rows = [row for row in csv.reader(io.StringIO(text), delimiter=delimiter) if any(row)]
    except csv.Error as error:
        raise InputError(f"{path} is no CSV file ({error})", "export it again") from error
    header, body = _headed(rows)
    if not body:
        raise InputError(f"{path} has a heading and no values", AGAIN)
    comma = delimiter != ","
    found = _times(body)
    if found is None:
        raise InputError(f"no column of {path} holds times", "keep the log with its time column")
    at, times = found
    columns = []
    for number in range(min(len(header), MOST_COLUMNS)):
        if number in at:
            continue
        values = _numbers([row[number] if number < len(row) else "" for row in body], comma)
        if values is not None:
            columns.append(_column(header[number], times, values))
    if not columns:
        raise InputError(f"no column of {path} holds numbers", "keep the log with its values")
    return columns


def _headed(rows: list[list[str]]) -> tuple[list[str], list[list[str]]]:
    """The header, and the rows with as many fields as most have."""
    widths = [len(row) for row in rows]
    usual = Counter(widths).most_common(1)[0][0] if widths else 0
    rows = [row for row in rows if len(row) == usual]
    if not rows:
        return [], []
    plain = not any(_number(cell, True) is not None or _time(cell) for cell in rows[0])
    names = rows[0] if plain else [f"column {number + 1}" for number in range(usual)]
    return names, rows[1:] if plain else rows


def _times(body: Sequence[Sequence[str]]) -> tuple[set[int], npt.NDArray[np.int64]] | None:
    """The columns that hold the time, and the times; a day and a clock may stand apart."""
    width = min(len(body[0]), MOST_COLUMNS) if body else 0
    pairs = [(at, at + 1) for at in range(width - 1)]
    for columns in (*pairs, *((at,) for at in range(width))):
        some = [_time(_joined(row, columns)) for row in body[:LOOKED_AT]]
        if some and sum(at is not None for at in some) >= LEAST_SHARE * len(some):
            found = [_time(_joined(row, columns)) for row in body]
            times = np.array([-1 if at is None else at for at in found], dtype=np.int64)
            return set(columns), times
    return None


def _joined(row: Sequence[str], columns: Sequence[int]) -> str:
    return " ".join(row[at] for at in columns)


def _time(text: str) -> int | None:
    text = text.strip()
    if not re.search(r"\d", text):
        return None
    seconds = _number(text, False)
    if seconds is not None:
        return ns_of(seconds) if LEAST_EPOCH <= seconds <= MOST_EPOCH else None
    if len(text) > MOST_TIME:
        return None
    try:
        return _ns(datetime.fromisoformat(text)) if len(text) > 10 else None
    except ValueError:
        pass
    half = HALF_OF_DAY.search(text)
    if half is not None:
        text = text[: half.start()]
    for form in FORMS if half is None else HALVED:
        try:
            found = datetime.strptime(text, form)
        except ValueError:
            continue
        after_noon = half is not None and half[1] in "pP"
        return _ns(found + timedelta(hours=12 * after_noon))
    return None


def _ns(at: datetime) -> int | None:
    """Ns since 1970, of the local time without a zone; None for one of which no log can speak."""
    if not LEAST_YEAR < at.year < MOST_YEAR:
        return None
    seconds = at.timestamp()
    return round(seconds * 1e6) * 1000 if LEAST_EPOCH <= seconds <= MOST_EPOCH else None


def _number(text: str, comma: bool) -> float | None:
    text = text.strip()
    if comma and text.count(",") == 1 and "." not in text:
        text = text.replace(",", ".")
    try:
        value = float(text)
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def _numbers(cells: Sequence[str], comma: bool) -> npt.NDArray[np.float64] | None:
    some = [_number(cell, comma) for cell in cells[:LOOKED_AT]]
    if not some or sum(value is not None for value in some) < LEAST_SHARE / 2 * len(some):
        return None
    found = [_number(cell, comma) for cell in cells]
    return np.array([np.nan if value is None else value for value in found])


def _column(
    name: str, times: npt.NDArray[np.int64], values: npt.NDArray[np.float64]
) -> LoggedColumn:
    quantity, unit = _meaning(name)
    units = UnitChoice().with_unit(unit).of(quantity)
    values = (values - units.offset) / units.factor
    there = (times >= 0) & ~np.isnan(values)
    order = np.argsort(times[there], kind="stable")
    return LoggedColumn(name.strip(), quantity, times[there][order], values[there][order])


def _meaning(name: str) -> tuple[str, str]:
    """The quantity and the unit that a heading speaks of."""
    plain = name.lower().replace("_", " ").replace("r.h.", "rh").replace("deg ", "deg")
    words = WORD.findall(plain.replace("°", ""))
    known = sorted(QUANTITIES, key=len, reverse=True)
    quantity = next((one for one in known if one in plain), "")
    quantity = quantity or next((SHORT[word] for word in words if word in SHORT), "")
    if not quantity and not any(mark in name for mark in "°(["):
        words = [word for word in words if len(word) > 1 or word == "%"]
    found = [SPELLED.get(word) or symbol_of(word) for word in words]
    if "%" in words and QUANTITIES.get(quantity, Dimension.HUMIDITY) is Dimension.HUMIDITY:
        found.append("%RH")
    units = [unit for unit in found if unit]
    if not quantity:
        unit = units[-1] if units else ""
        kind = dimension_of(unit) if unit else None
        return next((one for one, its in QUANTITIES.items() if its is kind), ""), unit
    meant = [unit for unit in units if dimension_of(unit) is QUANTITIES[quantity]]
    return quantity, meant[-1] if meant else ""
