"""Moments on the command line: by the calendar, by the clock, or since a capture began."""

import re
from datetime import datetime, timedelta

import numpy as np

from pivet.errors import InputError
from pivet.history.open import Readings
from pivet.history.times import parse_time

DAY_NS = 86_400_000_000_000
CLOCK = re.compile(r"(\d{1,2}):(\d{2})(?::(\d{2}))?")
SINCE = re.compile(r"(\d+(?:\.\d+)?)\s*(ms|s|m|h|d|)")
UNITS_NS = {"ms": 10**6, "s": 10**9, "m": 60 * 10**9, "h": 3600 * 10**9, "d": DAY_NS, "": 10**9}


def moment_ns(text: str, readings: Readings) -> int:
    """A moment on the time axis of the readings.

    Args:
        text: ISO 8601; 02:30, the first after the readings begin; or 90s, 10m, 1.5h after it.
        readings: that it is about.

    Raises:
        InputError: it is no moment, or the readings have no calendar.
    """
    starts = [int(history.times_ns[0]) for history in readings.histories if len(history)]
    begin = min(starts, default=0)
    since = SINCE.fullmatch(text.strip())
    if since:
        whole = round(float(since[1]) * UNITS_NS[since[2]])
        return whole + (begin if readings.clock else 0)
    if not readings.clock:
        raise InputError(
            f"{text!r} is by the calendar, but a capture only knows the time since it began",
            "write 90s, 10m or 1.5h",
        )
    clock = CLOCK.fullmatch(text.strip())
    try:
        return _next_clock(clock, begin) if clock else parse_time(text.strip())
    except ValueError as error:
        raise InputError(
            f"{text!r} is no time", "write 2026-11-23T02:30, 02:30, or 90s after the beginning"
        ) from error


def _next_clock(clock: re.Match[str], begin_ns: int) -> int:
    begin = datetime.fromtimestamp(begin_ns / 1e9).astimezone()
    at = begin.replace(
        hour=int(clock[1]), minute=int(clock[2]), second=int(clock[3] or 0), microsecond=0
    )
    if at < begin.replace(second=0, microsecond=0):
        at += timedelta(days=1)
    return round(at.timestamp() * 1e9)


def span_ns(begin: str | None, end: str | None, readings: Readings) -> tuple[int, int]:
    """From when to when; all where nothing was said.

    Raises:
        InputError: one is no moment, or the end stands before the beginning.
    """
    limits = np.iinfo(np.int64)
    first = int(limits.min) if begin is None else moment_ns(begin, readings)
    last = int(limits.max) if end is None else moment_ns(end, readings)
    if last < first:
        raise InputError(f"{end} is before {begin}", "exchange --from and --to")
    return first, last
