"""What kind of CSV a file is: delimiter, decimal mark, columns, unit of time."""

import csv
import re

from pivet.errors import InputError
from pivet.files.spreadsheet import without_mark
from pivet.frozen import FrozenValue

UNIT_NS_EXPONENT = {"s": 9, "ms": 6, "us": 3, "µs": 3, "μs": 3, "ns": 0}
UNIT_WORDS = {
    "sec": "s",
    "secs": "s",
    "second": "s",
    "seconds": "s",
    "milliseconds": "ms",
    "microseconds": "us",
    "usec": "us",
    "msec": "ms",
    "nsec": "ns",
    "nanoseconds": "ns",
}
DELIMITERS = ";\t,"
LOOKED_AT = 4096
MOST_HEAD_LINES = 30


class Shape(FrozenValue):
    """How to read a CSV file.

    Attributes:
        delimiter: between columns.
        decimal: mark in numbers.
        quoted: some field stands in quotation marks.
        columns: names of the level columns.
        unit_exponent: 10 ** this many ns are one unit of the time column.
        first_line: number of lines before the first row of numbers.
        notes: what had to be assumed.
    """

    delimiter: str
    decimal: str
    quoted: bool
    columns: tuple[str, ...]
    unit_exponent: int
    first_line: int
    notes: tuple[str, ...]


def find_shape(text: str, where: str) -> Shape:
    """Looks at the head of a CSV file.

    Args:
        text: the whole file, or enough of its beginning.
        where: its name, for messages.

    Raises:
        InputError: no row of a time and levels is found.
    """
    lines = [line.rstrip("\r") for line in text.split("\n", MOST_HEAD_LINES)[:MOST_HEAD_LINES]]
    for number, line in enumerate(lines):
        for delimiter in DELIMITERS:
            decimal = _decimal_mark(line, delimiter)
            fields = _fields(line, delimiter)
            if len(fields) >= 2 and all(_is_number(field, decimal) for field in fields[:1]):
                head = _head_fields(lines[:number], delimiter, len(fields))
                return _shape(delimiter, decimal, '"' in text, head, len(fields), number)
    raise no_rows(where, lines[0])


def no_rows(where: str, first_line: str = "") -> InputError:
    """The error for a file without any row of numbers.

    Args:
        where: path, and line where there is one.
        first_line: shown, so that one sees what was read.
    """
    begins = f" (it begins with {first_line[:40]!r})" if first_line else ""
    return InputError(
        f"{where} has no row of a time and levels{begins}",
        "choose a VCD capture, or a CSV with a time column and a column of 0 and 1 a line",
    )


def _fields(line: str, delimiter: str) -> list[str]:
    """The fields of one line; a delimiter at its end begins no further field."""
    try:
        fields = next(csv.reader([line[:LOOKED_AT]], delimiter=delimiter), [])
    except csv.Error:
        return []
    if len(fields) > 2 and not fields[-1].strip():
        fields.pop()
    return [field.strip() for field in fields]


def _decimal_mark(line: str, delimiter: str) -> str:
    """A comma parts decimals only where it does not part columns (or stands in quotes)."""
    first = _fields(line, delimiter)[:1]
    return "," if first and "," in first[0] and "." not in first[0] else "."


def _is_number(field: str, decimal: str) -> bool:
    mark = re.escape(decimal)
    return re.fullmatch(rf"[-+]?(\d+({mark}\d*)?|{mark}\d+)([eE][-+]?\d+)?", field) is not None


def _head_fields(lines: list[str], delimiter: str, width: int) -> list[str]:
    """The line of names, if there is one with as many fields as the rows."""
    for line in reversed(lines):
        fields = _fields(line.lstrip("#; "), delimiter)
        if len(fields) == width and any(fields):
            return fields
    return []


def _shape(
    delimiter: str, decimal: str, quoted: bool, head: list[str], width: int, number: int
) -> Shape:
    notes = []
    exponent = _unit_exponent(head[0]) if head else None
    if exponent is None:
        notes.append("its time column names no unit: seconds were assumed")
        exponent = UNIT_NS_EXPONENT["s"]
    names = head[1:] or [f"level {n}" if width > 2 else "level" for n in range(1, width)]
    unique = [without_mark(name) or f"level {n + 1}" for n, name in enumerate(names)]
    for at, name in enumerate(unique):
        if name in unique[:at]:
            unique[at] = f"{name} {at + 1}"
    return Shape(delimiter, decimal, quoted, tuple(unique), exponent, number, tuple(notes))


def _unit_exponent(name: str) -> int | None:
    """Unit named in a column head, such as ``time_s``, ``Time [ms]`` or ``t / µs``."""
    words = [word for word in re.split(r"[^a-zA-Zµμ]+", name) if word]
    for word in reversed(words):
        unit = UNIT_WORDS.get(word.lower(), word)
        if unit in UNIT_NS_EXPONENT:
            return UNIT_NS_EXPONENT[unit]
    return None
