"""Times of readings as people and programs write them."""

from datetime import UTC, datetime
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from pivet.signal.seconds import ns_of

HOUR_NS = 3_600_000_000_000
"""A zone changes on the hour at most (or a quarter of it: asked for at every quarter)."""

QUARTER_NS = HOUR_NS // 4
UTC_SUFFIX = "+00:00"


def zone_ns(at_ns: int) -> int:
    """What the local time is ahead of UTC at a moment, ns.

    Args:
        at_ns: the moment, ns since 1970.
    """
    offset = datetime.fromtimestamp(at_ns / 1e9).astimezone().utcoffset()
    return 0 if offset is None else ns_of(offset.total_seconds())


def iso_times(times_ns: npt.NDArray[np.int64]) -> list[str]:
    """ISO 8601 with milliseconds and the local zone, ``2026-11-23T02:11:00.123+01:00``.

    Args:
        times_ns: ns since 1970, int64 (n,).
    """
    quarters, inverse = np.unique(times_ns // QUARTER_NS, return_inverse=True)
    zones = np.array([zone_ns(int(quarter) * QUARTER_NS) for quarter in quarters], dtype=np.int64)
    local = times_ns + (zones[inverse] if zones.size else 0)
    texts = np.datetime_as_string(local.astype("datetime64[ns]"), unit="ms").tolist()
    suffixes = [_suffix(int(zone)) for zone in zones]
    return [text + suffixes[place] for text, place in zip(texts, inverse.tolist(), strict=True)]


def utc_times(times_ns: npt.NDArray[np.int64]) -> list[str]:
    """ISO 8601 with milliseconds in UTC: these sort, and never come twice.

    Args:
        times_ns: ns since 1970, int64 (n,).
    """
    texts = np.datetime_as_string(times_ns.astype("datetime64[ns]"), unit="ms").tolist()
    return [text + UTC_SUFFIX for text in texts]


def utc_time(at_ns: int) -> str:
    """One time, as ``utc_times`` gives them.

    Args:
        at_ns: the moment, ns since 1970.
    """
    return f"{_utc_second(at_ns // 1_000_000_000)}.{at_ns // 1_000_000 % 1000:03d}{UTC_SUFFIX}"


@lru_cache(maxsize=64)
def _utc_second(second: int) -> str:
    return f"{datetime.fromtimestamp(second, UTC):%Y-%m-%dT%H:%M:%S}"


def iso_time(at_ns: int) -> str:
    """One time, as ``iso_times`` gives them; readings that come live share their seconds.

    Args:
        at_ns: the moment, ns since 1970.
    """
    whole, suffix = _second(at_ns // 1_000_000_000)
    return f"{whole}.{at_ns // 1_000_000 % 1000:03d}{suffix}"


@lru_cache(maxsize=64)
def _second(second: int) -> tuple[str, str]:
    zone, suffix = _zone(second * 1_000_000_000 // QUARTER_NS)
    local = datetime.fromtimestamp(second + zone // 1_000_000_000, UTC)
    return f"{local:%Y-%m-%dT%H:%M:%S}", suffix


@lru_cache(maxsize=64)
def _zone(quarter: int) -> tuple[int, str]:
    zone = zone_ns(quarter * QUARTER_NS)
    return zone, _suffix(zone)


def _suffix(zone: int) -> str:
    sign, minutes = ("-" if zone < 0 else "+"), abs(zone) // 60_000_000_000
    return f"{sign}{minutes // 60:02d}:{minutes % 60:02d}"


def second_times(times_ns: npt.NDArray[np.int64]) -> list[str]:
    """Seconds with nine decimals.

    Args:
        times_ns: rising, int64 (n,), ns.
    """
    return [f"{t_ns // 1_000_000_000}.{t_ns % 1_000_000_000:09d}" for t_ns in times_ns.tolist()]


def parse_time(text: str) -> int:
    """A moment that somebody wrote: ISO 8601, without a zone in the local one; ns since 1970.

    Args:
        text: as somebody wrote it.

    Raises:
        ValueError: it is none.
    """
    at = datetime.fromisoformat(text)
    local = at if at.tzinfo is not None else at.astimezone()
    whole = local.replace(microsecond=0)
    return round(whole.timestamp()) * 1_000_000_000 + local.microsecond * 1000
