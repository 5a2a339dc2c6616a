"""Moments on the command line: by the calendar, by the clock, or since a capture began."""

import re
from datetime import datetime, timedelta

import numpy as np

from pivet.errors import InputError
from pivet.history.open import Readings
from pivet.history.times import parse_time
from pivet.signal.seconds import ns_of

DAY_NS = 86_400_000_000_000
CLOCK = re.compile(r"(\d{1,2}):(\d{2})(?::(\d{2}))?")
SINCE = re.compile(r"(\d+(?:\.\d+)?)\s*(ms|s|m|h|d|)")
UNITS_NS = {"ms": 10**6, "s": 10**9, "m": 60 * 10**9, "h": 3600 * 10**9, "d": DAY_NS, "": 10**9}


def moment_ns(text: str, begin_ns: int, clock: bool) -> int:
    """A moment on a time axis.

    Args:
        text: ISO 8601; 02:30, the first after the beginning; or 90s, 10m, 1.5h after it.
        begin_ns: where the axis begins that is by the calendar, ns since 1970.
        clock: it is by the calendar, else since a capture began.

    Raises:
        InputError: it is no moment, or the axis has no calendar.
    """
    since = SINCE.fullmatch(text.strip())
    if since:
        whole = round(float(since[1]) * UNITS_NS[since[2]])
        return whole + (begin_ns if clock else 0)
    if not clock:
        raise InputError(
            f"{text!r} is by the calendar, but a capture only knows the time since it began",
            "write 90s, 10m or 1.5h",
        )
    hands = CLOCK.fullmatch(text.strip())
    try:
        return _next_clock(hands, begin_ns) if hands else parse_time(text.strip())
    except ValueError as error:
        raise InputError(
            f"{text!r} is no time", "write 2026-11-23T02:30, 02:30, or 90s after the beginning"
        ) from error


def _next_clock(hands: re.Match[str], begin_ns: int) -> int:
    begin = datetime.fromtimestamp(begin_ns / 1e9).astimezone()
    at = begin.replace(
        hour=int(hands[1]), minute=int(hands[2]), second=int(hands[3] or 0), microsecond=0
    )
    if at < begin.replace(second=0, microsecond=0):
        at += timedelta(days=1)
    return ns_of(at.timestamp())


def span_of(begin: str | None, end: str | None, begin_ns: int, clock: bool) -> tuple[int, int]:
    """From when to when; all where nothing was said.

    Args:
        begin: as ``moment_ns`` has it; None for the beginning of the axis.
        end: likewise, for its end.
        begin_ns: where an axis begins that is by the calendar, ns since 1970.
        clock: the axis is by the calendar.

    Raises:
        InputError: one is no moment, or the end stands before the beginning.
    """
    limits = np.iinfo(np.int64)
    first = int(limits.min) if begin is None else moment_ns(begin, begin_ns, clock)
    last = int(limits.max) if end is None else moment_ns(end, begin_ns, clock)
    if last < first:
        raise InputError(f"{end} is before {begin}", "exchange the beginning and the end")
    return first, last


def span_ns(begin: str | None, end: str | None, readings: Readings) -> tuple[int, int]:
    """From when to when on the time axis of readings, see ``span_of``.

    Raises:
        InputError: one is no moment, or the end stands before the beginning.
    """
    starts = [int(history.times_ns[0]) for history in readings.histories if len(history)]
    return span_of(begin, end, min(starts, default=0), readings.clock)
