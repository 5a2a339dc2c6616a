"""The rows of an edge CSV, all numbers of a slab at once."""

from collections.abc import Sequence

import numpy as np

from pivet.errors import InputError
from pivet.files.csv_shape import Shape, no_rows
from pivet.files.tokens import ByteArray, IntArray, Words, decimals
from pivet.frozen import FrozenObject
from pivet.progress import Progress

LATEST_NS = 2**62
SLAB = 4 << 20
MOST_BLANKS = 8

ONES = frozenset({"1", "1.0", "H", "HIGH", "TRUE", "X", "Z"})
ZEROS = frozenset({"0", "0.0", "L", "LOW", "FALSE"})
UNDEFINED = frozenset({"X", "Z"})


class Rows(FrozenObject):
    """The numbers of a CSV.

    Attributes:
        times_ns: int64 (n,), ns, never falling.
        levels: 0 or 1, uint8 (n, lines).
        places: the most decimals of a time.
        notes: what had to be passed over or assumed.
    """

    times_ns: IntArray
    levels: ByteArray
    places: int
    notes: tuple[str, ...]


class _Slab(FrozenObject):
    """Some whole lines of the file, and how to name them in a message."""

    lines: Words
    breaks: IntArray
    first_line: int
    where: str

    def fault(self, row: int, what: str, todo: str) -> InputError:
        """The error that names the line of a row."""
        before = int(np.searchsorted(self.breaks, self.lines.starts[row]))
        return InputError(f"{self.where}, line {self.first_line + before + 1}, {what}", todo)

    def times(self, words: Words, shape: Shape, last_ns: int) -> tuple[IntArray, int]:
        """The time column in ns, and its most decimals.

        Raises:
            InputError: a time goes back, or lies beyond what int64 ns hold; says the row.
        """
        found = decimals(words, shape.decimal)
        digits, places = found.digits, found.places
        for number in np.flatnonzero(found.bad).tolist():
            text = words.text(number)
            exact = with_exponent(text.replace(shape.decimal, "."))
            if exact is None:
                raise self.fault(
                    number, f"has the time {text[:40]!r}, which is no number", "mend or remove it"
                )
            digits[number], places[number] = exact
        shift = shape.unit_exponent - places
        size = np.abs(digits).astype(np.float64) * 10.0**shift
        if size.max(initial=0) > LATEST_NS:
            raise self.fault(
                int(size.argmax()), "has a time beyond 146 years", "check the unit of time"
            )
        up = digits * 10 ** np.maximum(shift, 0)
        down = 10 ** np.minimum(np.maximum(-shift, 0), 18)
        times_ns = (up + down // 2) // down
        back = np.flatnonzero(np.diff(times_ns, prepend=last_ns) < 0)
        if back.size:
            raise self.fault(
                int(back[0]), "is earlier than the row before", "sort the rows by time"
            )
        return times_ns, int(places.max(initial=0))

    def levels(self, words: Words, column: str) -> tuple[ByteArray, bool]:
        """One level column, and whether anything in it was undefined.

        Raises:
            InputError: a cell holds no level; says the row and the column.
        """
        first = words.character(0)
        level = (first == ord("1")).astype(np.uint8)
        plain = (words.lengths == 1) & ((first == ord("0")) | (level == 1))
        undefined = False
        for number in np.flatnonzero(~plain).tolist():
            text = words.text(number).upper()
            if text not in ONES and text not in ZEROS:
                raise self.fault(
                    number,
                    f"has {words.text(number)[:40]!r} in column {column!r}, "
                    "where a level of 0 or 1 must be",
                    "export logic levels, not voltages or text",
                )
            level[number] = text in ONES
            undefined = undefined or text in UNDEFINED
        return level, undefined


class RowReader:
    """Parses rows slab by slab.

    Args:
        content: the whole file.
        shape: how to read it.
        where: its name, for messages.
    """

    def __init__(self, content: bytes, shape: Shape, where: str) -> None:
        self._bytes = np.frombuffer(content, dtype=np.uint8)
        self._shape = shape
        self._where = where
        self._line = shape.first_line
        self._start = 0
        for _ in range(shape.first_line):
            self._start = content.find(b"\n", self._start) + 1 or len(content)
        self._notes: dict[str, None] = {}
        self._last_ns = -(2**62)

    def read(self, progress: Progress) -> Rows:
        """Reads all rows.

        Args:
            progress: called with the share done, 0 to 1.

        Raises:
            InputError: a row has too few columns, no time, no level, or goes back in time.
        """
        times: list[IntArray] = []
        levels: list[ByteArray] = []
        places, at = 0, self._start
        while at < self._bytes.size:
            end = self._slab_end(at)
            slab = self._bytes[at:end]
            lines, breaks = _lines(slab)
            if lines.starts.size:
                part = _Slab(lines, breaks, self._line, self._where)
                found, decimals_used = self._numbers(part, end == self._bytes.size, levels)
                times.append(found)
                places = max(places, decimals_used)
            self._line += breaks.size
            at = end
            progress(at / self._bytes.size)
        if not any(part.size for part in times):
            raise no_rows(self._where)
        return Rows(np.concatenate(times), np.concatenate(levels), places, tuple(self._notes))

    def _slab_end(self, at: int) -> int:
        end = at + SLAB
        if end >= self._bytes.size:
            return int(self._bytes.size)
        breaks = np.flatnonzero(self._bytes[at:end] == 10)
        if not breaks.size:
            raise InputError(
                f"{self._where}, line {self._line + 1}, is over four million characters long",
                "export the capture again",
            )
        return at + int(breaks[-1]) + 1

    def _numbers(self, slab: _Slab, last: bool, levels: list[ByteArray]) -> tuple[IntArray, int]:
        width = len(self._shape.columns) + 1
        fields, wrong = _columns(slab.lines, ord(self._shape.delimiter), width)
        if last and wrong.size == 1 and int(wrong[0]) == slab.lines.starts.size - 1:
            self._notes["its last row is not whole and was passed over"] = None
            fields, wrong = [_without_last(words) for words in fields], wrong[:0]
        if wrong.size:
            raise slab.fault(
                int(wrong[0]), f"has not the {width} columns of the others", "mend or remove it"
            )
        times_ns, places = slab.times(fields[0], self._shape, self._last_ns)
        if times_ns.size:
            self._last_ns = int(times_ns[-1])
        columns = []
        for name, words in zip(self._shape.columns, fields[1:], strict=True):
            level, undefined = slab.levels(words, name)
            columns.append(level)
            if undefined:
                self._notes[f"x or z taken as high in column {name}"] = None
        levels.append(np.stack(columns, axis=1))
        return times_ns, places


def _lines(buffer: ByteArray) -> tuple[Words, IntArray]:
    """Lines that are neither blank nor comment, without their ends; and all line breaks."""
    breaks = np.flatnonzero(buffer == 10)
    ends = np.append(breaks, buffer.size)
    starts = np.append(0, ends[:-1] + 1)
    lengths = ends - starts
    returns = buffer[np.maximum(ends - 1, 0)] == 13
    lengths = lengths - (returns & (lengths > 0))
    keep = lengths > 0
    keep[keep] &= buffer[starts[keep]] != ord("#")
    return Words(buffer, starts[keep], lengths[keep]), breaks


def _without_last(words: Words) -> Words:
    return Words(words.buffer, words.starts[:-1], words.lengths[:-1])


def _columns(lines: Words, delimiter: int, width: int) -> tuple[Sequence[Words], IntArray]:
    """Fields by column, blanks trimmed, and the rows that have not just ``width`` of them."""
    marks = np.flatnonzero(lines.buffer == delimiter)
    first = np.searchsorted(marks, lines.starts)
    ends = lines.starts + lines.lengths
    count = np.searchsorted(marks, ends) - first + 1
    trailing = (count == width + 1) & (lines.buffer[np.maximum(ends - 1, 0)] == delimiter)
    wrong = np.flatnonzero((count != width) & ~trailing)
    padded = np.append(marks, np.full(width + 1, lines.buffer.size))
    fields = []
    for column in range(width):
        start = lines.starts if column == 0 else padded[first + column - 1] + 1
        stop = np.where(trailing | (column < width - 1), padded[first + column], ends)
        fields.append(_trimmed(lines.buffer, start, np.maximum(stop - start, 0)))
    return fields, wrong


def _trimmed(buffer: ByteArray, starts: IntArray, lengths: IntArray) -> Words:
    last = buffer.size - 1
    for _ in range(MOST_BLANKS):
        lead = (lengths > 0) & (buffer[np.minimum(starts, last)] == 32)
        tail = (lengths > 1) & (buffer[np.clip(starts + lengths - 1, 0, last)] == 32)
        if not lead.any() and not tail.any():
            break
        starts, lengths = starts + lead, lengths - lead - tail
    return Words(buffer, starts, lengths)


def with_exponent(text: str) -> tuple[int, int] | None:
    """A number like 1.25e-3 as digits and decimals; None when it is no such number.

    Args:
        text: as somebody wrote it.
    """
    mantissa, mark, exponent = text.lower().partition("e")
    whole, _, fraction = mantissa.partition(".")
    try:
        if not mark or abs(int(exponent)) > 30:
            return None
        digits, places = int(whole + fraction), len(fraction) - int(exponent)
    except ValueError:
        return None
    if places < 0:
        digits, places = digits * 10**-places, 0
    if places > 18:
        digits, places = digits // 10 ** (places - 18), 18
    return (digits, places) if abs(digits) < 10**18 else None
