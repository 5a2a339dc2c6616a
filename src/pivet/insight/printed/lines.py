"""The numbers in the lines that a firmware printed, whatever their wording."""

import re
from collections.abc import Iterator, Sequence

from pivet.errors import InputError
from pivet.frozen import FrozenValue
from pivet.progress import Progress, each, part, silent

TOLD = 64
"""Progress is told each time so many lines were read, or laid beside an exchange."""

COMMAS_SHARE = 0.2

CLOCK = re.compile(
    r"(?:\d{4}-\d{2}-\d{2}[T ])?\b(\d{1,2}):(\d{2}):(\d{2})(?:[.,](\d{1,6}))?"
    r"(?:Z|[+-]\d{2}:?\d{2})?"
)
CODE = re.compile(
    r"\b[0-9A-Fa-f]{2}[-. ]?(?:[0-9A-Fa-f]{12,14})\b|\b0x[0-9A-Fa-f]+\b|"
    r"(?:\b[0-9A-Fa-f]{2}[: ]){7}[0-9A-Fa-f]{2}\b"
)
NUMBER = re.compile(r"(?<![\w.])[-+−]?(?:\d+(?:\.\d+)?|\.\d+|[nN][aA][nN])(?![\d])")
POINT, WORDY = re.compile(r"\d\.\d"), re.compile(r"[A-Za-z;%°\t]")
COMMA = re.compile(r"(?<![\w.,])([-+−]?\d+),(\d+)(?![\d,])")
FAILED = re.compile(
    r"fail|err|invalid|timed? ?out|check ?sum|crc|no (?:answer|reading|sensor|device|echo)|"
    r"out of range|disconnect|\bbad\b",
    re.IGNORECASE,
)
NOTHING = frozenset({-127.0, -999.0, -9999.0})
"""Numbers that firmware prints for "no reading"."""


class Number(FrozenValue):
    """A number in a line.

    Attributes:
        text: as it was printed.
        value: None for "nan", and for what stands for no reading.
        decimals: how many were printed.
        before, after: the words around it, up to its neighbours.
    """

    text: str
    value: float | None
    decimals: int
    before: str
    after: str


class Printed(FrozenValue):
    """A line that a firmware printed.

    Attributes:
        number: of the line, from 1.
        text: the line.
        shape: its words, with ``#`` for each number.
        numbers: in their order.
        clock_s: time of day in front of it, s; None without.
        failed: it says that something failed.
    """

    number: int
    text: str
    shape: str
    numbers: tuple[Number, ...]
    clock_s: float | None
    failed: bool


STRANGE = re.compile("[\x00-\x08\x0e-\x1a\x1c-\x1f\ufffd]")
MOST_STRANGE = 0.02
"""So large a share of a console's text may be damaged on the way."""


def console_text(content: bytes, where: str) -> str:
    """The text of a console.

    Args:
        content: the content of a file.
        where: the file as the person named it, for messages.

    Raises:
        InputError: it is no text.
    """
    text = content.decode("utf-8", errors="replace")
    if len(STRANGE.findall(text)) > MOST_STRANGE * len(text):
        raise InputError(f"{where} is no text", "choose what the firmware printed, as a text file")
    return text


def printed_lines(text: str, progress: Progress = silent) -> list[Printed]:
    """All lines that are not empty.

    Args:
        text: the text of a console.
        progress: called now and then.
    """
    rows = [(number, row.strip()) for number, row in enumerate(text.splitlines(), 1)]
    rows = [(number, row) for number, row in rows if row]
    comma = _decimal_commas([row for _, row in rows], part(progress, 0.0, COMMAS_SHARE))
    rest = part(progress, COMMAS_SHARE, 1.0)
    return [_printed(number, row, comma) for number, row in each(rows, rest, TOLD)]


def _decimal_commas(rows: Sequence[str], progress: Progress) -> bool:
    """Numbers are written with a comma: no number has a point, and rows are not only numbers."""
    commas = False
    for row in each(rows, progress, TOLD):
        if POINT.search(CLOCK.sub(" ", row)):
            return False
        commas = commas or bool(COMMA.search(row) and WORDY.search(row))
    return commas


def _printed(number: int, text: str, comma: bool) -> Printed:
    rest, clock = text, None
    found = CLOCK.search(text)
    if found is not None:
        hour, minute, second, part = found.groups()
        clock = int(hour) * 3600 + int(minute) * 60 + int(second) + float(f"0.{part or 0}")
        rest = text[: found.start()] + " " * len(found[0]) + text[found.end() :]
    rest = CODE.sub(lambda code: " " * len(code[0]), rest)
    if comma:
        rest = COMMA.sub(r"\1.\2", rest)
    places = list(NUMBER.finditer(rest))
    ends = [0, *(place.end() for place in places)]
    begins = [*(place.start() for place in places), len(rest)]
    numbers = tuple(
        _number(place[0], rest[ends[at] : begins[at]], rest[ends[at + 1] : begins[at + 1]])
        for at, place in enumerate(places)
    )
    # A # of the text's own is no number.
    shape = " ".join(NUMBER.sub("#", rest.replace("#", "♯")).split())
    return Printed(number, text, shape, numbers, clock, bool(FAILED.search(text)))


def _number(text: str, before: str, after: str) -> Number:
    plain = text.replace("−", "-")
    decimals = len(plain.partition(".")[2])
    value = None if "n" in plain.lower() else float(plain)
    if value in NOTHING:
        value = None
    return Number(text, value, decimals, before, after)


def shapes_of(lines: Sequence[Printed]) -> Iterator[tuple[str, int]]:
    """The shapes of lines with numbers, and how many numbers each has, the commonest first.

    Args:
        lines: the lines that were printed.
    """
    counts: dict[str, list[int]] = {}
    for line in lines:
        if line.numbers:
            counts.setdefault(line.shape, []).append(len(line.numbers))
    for shape, rows in sorted(counts.items(), key=lambda pair: -len(pair[1])):
        yield shape, rows[0]
