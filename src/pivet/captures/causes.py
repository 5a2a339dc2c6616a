"""What a long capture holds: a table by wire and cause, for the terminal."""

from collections.abc import Iterator, Mapping

import numpy as np

from pivet.captures.capture import Capture
from pivet.captures.text import MARKS, summary_lines, wire_line, wire_lines
from pivet.captures.wire import Wire
from pivet.frozen import FrozenValue
from pivet.judge.notices import first_words, leading
from pivet.judge.verdict import Verdict

LONG = 100
"""More exchanges are not told one by one, but those that are not sound."""

MOST_NUMBERS = 4
OTHERWISE = "for other reasons"


class Cause(FrozenValue):
    """Why exchanges of a wire are not sound.

    Attributes:
        verdict: theirs.
        words: what is told first of them, in a few words.
        at: which they are, rising.
    """

    verdict: Verdict
    words: str
    at: tuple[int, ...]


def causes_of(wire: Wire) -> list[Cause]:
    """Why exchanges of a wire are not sound: the gravest first, then the commonest.

    Args:
        wire: the wire to look at.
    """
    rows = np.flatnonzero(wire.verdicts != Verdict.SOUND)
    keys = zip(wire.verdicts[rows].tolist(), wire.judged.notices[rows].tolist(), strict=True)
    found: dict[tuple[Verdict, str], list[int]] = {}
    for row, (verdict, bits) in zip(rows.tolist(), keys, strict=True):
        words = _words(wire, bits)
        found.setdefault((Verdict(verdict), words), []).append(wire.first + row)
    causes = [Cause(verdict, words, tuple(at)) for (verdict, words), at in found.items()]
    return sorted(causes, key=lambda cause: (-cause.verdict, -len(cause.at), cause.words))


def _words(wire: Wire, bits: int) -> str:
    """What is told first of some notices; of one that has no words of its own, its code."""
    found = first_words(bits, wire.family.notices, wire.family.words)
    cause = leading(bits, wire.family.notices)
    return found or (cause.code.replace("-", " ") if cause is not None else OTHERWISE)


def table_lines(capture: Capture) -> Iterator[str]:
    """Every wire of a capture, with its causes, how often each, and in which exchanges.

    Args:
        capture: the open capture.
    """
    causes = [causes_of(wire) for wire in capture.wires]
    width = max((len(cause.words) for rows in causes for cause in rows), default=0)
    for wire, rows in zip(capture.wires, causes, strict=True):
        yield ""
        yield wire_line(wire)
        for cause in rows:
            shown = ", ".join(str(number) for number in cause.at[:MOST_NUMBERS])
            more = " …" if len(cause.at) > MOST_NUMBERS else ""
            times = f"{len(cause.at)} ×"
            yield (
                f"  {MARKS[cause.verdict]} {times:>7}  {cause.words:<{width}}  "
                f"exchange{'s' * (len(cause.at) > 1)} {shown}{more}"
            )


def is_long(capture: Capture) -> bool:
    """Whether it holds more than one wants to read.

    Args:
        capture: the open capture.
    """
    return sum(len(wire) for wire in capture.wires) > LONG


def long_lines(capture: Capture, names: Mapping[str, str]) -> Iterator[str]:
    """A long capture: by wire and cause first, then each exchange that is not sound.

    Args:
        capture: the open capture.
        names: the person's names of devices.
    """
    yield from summary_lines(capture)
    yield from table_lines(capture)
    yield ""
    yield from not_sound_lines(capture, names)


def not_sound_lines(capture: Capture, names: Mapping[str, str]) -> Iterator[str]:
    """Each exchange that is not sound, wire by wire.

    Args:
        capture: the open capture.
        names: the person's names of devices.
    """
    ahead = False
    for wire in capture.wires:
        rows = np.flatnonzero(wire.verdicts != Verdict.SOUND).tolist()
        if not rows:
            continue
        if ahead:
            yield ""
        ahead = True
        yield f"{wire.label}, what is not sound:"
        yield from wire_lines(wire, rows, names)
