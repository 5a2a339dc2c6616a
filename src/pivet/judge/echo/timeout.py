"""The sensor's timeout, learned from its echoes: identical, longest of all, while others spread.

A sensor that hears nothing ends its pulse by its own timer, so such pulses are alike to some µs;
sound from a wall is not.  What is learned reaches back as far as a chapter reaches (see
``judge.chapter``), so a file and a live wire say the same.
"""

import numpy as np
import numpy.typing as npt

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.frozen import FrozenValue, replace
from pivet.judge.chapter import CHAPTER
from pivet.signal.trace import Int64Array

LEAST_NS = 15_000_000
"""No board is known whose timeout is shorter than 18 ms."""

ALIKE_NS = 6_000
"""A timer ends its pulses within so much, beside the steps of the recorder."""

OFTEN = 3
CLEAR = 0.97
SPREAD = 10
"""So often the longest must come back, and as many others, all shorter by this share, must spread
this many times as far."""

NEVER = -1


class Longest(FrozenValue):
    """What is known of a wire's longest echoes.

    Attributes:
        top_ns: the longest, ns; ``NEVER`` before there is one.
        alike: how many are as long.
        others: how many are shorter.
        least_ns, most_ns: of the others, ns.
    """

    top_ns: int = NEVER
    alike: int = 0
    others: int = 0
    least_ns: int = 2**62
    most_ns: int = NEVER


UNKNOWN = Longest()


def learn(
    exchanges: EchoExchanges, resolution_ns: int, before: Longest, count_before: int
) -> tuple[npt.NDArray[np.bool_], Longest]:
    """Which echoes are the sensor's timeout.

    Args:
        exchanges: the exchanges, in order of time, n.
        resolution_ns: uncertainty of a width, ns.
        before: what the measurements before left behind.
        count_before: how many those were, whole chapters.

    Returns:
        whether each is one, bool (n,), and what these leave behind.
    """
    flight = np.where(exchanges.ended, ABSENT, exchanges.flight_ns)
    size = flight.size
    if not size:
        return np.zeros(0, dtype=bool), before
    if max(int(flight.max()), before.top_ns) < LEAST_NS:
        return np.zeros(size, dtype=bool), _shorter(flight[flight != ABSENT], before)
    alike_ns = ALIKE_NS + 2 * resolution_ns
    chapter = (np.arange(size) + count_before) // CHAPTER
    chapter -= chapter[0]
    first = np.flatnonzero(np.diff(chapter, prepend=-1))
    heard = flight != ABSENT
    longest = np.maximum.reduceat(flight, first)
    top = np.maximum.accumulate(np.maximum(longest, before.top_ns))
    alike = heard & (flight >= top[chapter] - alike_ns)
    other = heard & ~alike
    number = np.add.reduceat(alike, first, dtype=np.int64)
    others = np.add.reduceat(other, first, dtype=np.int64)
    least = np.minimum.reduceat(np.where(other, flight, 2**62), first)
    most = np.maximum.reduceat(np.where(other, flight, NEVER), first)
    steps = _Steps(top, number, others, least, most)
    found, after = steps.follow(before, alike_ns)
    is_timeout = np.array(found, dtype=bool)
    later = np.minimum(chapter + 1, is_timeout.size - 1)
    named = is_timeout[later] & heard & (flight >= top[later] - alike_ns)
    return named, after


def _shorter(flight: Int64Array, before: Longest) -> Longest:
    """What echoes leave behind that are too short for a timeout."""
    if not flight.size:
        return before
    top = max(int(flight.max()), before.top_ns)
    return Longest(
        top_ns=top,
        alike=0,
        others=before.others + flight.size,
        least_ns=min(int(flight.min()), before.least_ns),
        most_ns=top,
    )


class _Steps(FrozenValue):
    """Chapters of measurements, int64 (c,) each."""

    top: Int64Array
    number: Int64Array
    others: Int64Array
    least: Int64Array
    most: Int64Array

    def follow(self, before: Longest, alike_ns: int) -> tuple[list[bool], Longest]:
        """Whether the longest is a timeout as known after each chapter; and what is known then."""
        known, found = before, []
        rows = zip(
            self.top.tolist(),
            self.number.tolist(),
            self.others.tolist(),
            self.least.tolist(),
            self.most.tolist(),
            strict=True,
        )
        for top, number, others, least, most in rows:
            if top > known.top_ns + alike_ns and known.top_ns != NEVER:
                known = _outdone(known)
            known = Longest(
                top_ns=top,
                alike=known.alike + number,
                others=known.others + others,
                least_ns=min(known.least_ns, least),
                most_ns=max(known.most_ns, most),
            )
            found.append(_is_timeout(known, alike_ns))
        return found, known


def _outdone(known: Longest) -> Longest:
    """A longer one came: what was the longest is one of the others."""
    return replace(
        known,
        alike=0,
        others=known.others + known.alike,
        least_ns=min(known.least_ns, known.top_ns),
        most_ns=known.top_ns,
    )


def _is_timeout(known: Longest, alike_ns: int) -> bool:
    spread = known.most_ns - known.least_ns
    return (
        known.top_ns >= LEAST_NS
        and known.alike >= OFTEN
        and known.others >= OFTEN
        and known.most_ns < CLEAR * known.top_ns
        and spread > SPREAD * alike_ns
    )
