"""Numbers and counts in sentences."""

from pivet.sheets.model import Window


def us(width_us: float) -> str:
    """A length as a person would say it, from ns to s.

    Args:
        width_us: the length, µs.
    """
    if abs(width_us) >= 10_000_000:
        return f"{width_us / 1e6:.1f} s"
    if abs(width_us) >= 1000:
        return f"{width_us / 1000:.2f} ms"
    if 0 < abs(width_us) < 0.1:
        return f"{width_us * 1000:.0f} ns"
    return f"{width_us:.1f} µs"


def span(low_us: float, high_us: float | None) -> str:
    """Two limits.

    Args:
        low_us: the shortest, µs.
        high_us: the longest, µs.
    """
    if high_us is None:
        return f"at least {us(low_us)}"
    if high_us >= 1000:
        return f"{low_us / 1000:g} to {high_us / 1000:g} ms"
    return f"{low_us:g} to {high_us:g} µs"


def limits_of(window: Window) -> str:
    """The limits of a window, and whether they are assumed.

    Args:
        window: the window of the sheet.
    """
    return span(window.min_us, window.max_us) + (" (assumed)" if window.assumed else "")


def limit_of(limit_us: float) -> str:
    """A limit, without decimals that nobody gave.

    Args:
        limit_us: the limit, µs.
    """
    return f"{limit_us / 1000:g} ms" if limit_us >= 1000 else f"{limit_us:g} µs"


def count(number: int, one: str, many: str = "") -> str:
    """``1 pulse``, ``2 pulses``.

    Args:
        number: how many.
        one: the word for one of them.
        many: for several; empty adds an s to it.
    """
    return f"{number} {one if number == 1 else many or one + 's'}"


def seconds(time_ns: int) -> str:
    """A point in time from the capture's zero: h:mm:ss.mmm.

    Args:
        time_ns: from the capture's zero, ns.
    """
    sign, size = ("-", -time_ns) if time_ns < 0 else ("", time_ns)
    total_ms, _ = divmod(size, 1_000_000)
    total_s, ms = divmod(total_ms, 1000)
    minutes, s = divmod(total_s, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{sign}{hours}:{minutes:02d}:{s:02d}.{ms:03d}"


SHORT_NS = 10_000_000_000
"""A stretch shorter than this is told to the millisecond."""


def stretch_of_time(begin_ns: int, end_ns: int) -> str:
    """From when until when, as fine as it takes to tell them apart.

    Args:
        begin_ns: from the capture's zero, ns.
        end_ns: the same, ns.
    """
    both = (seconds(begin_ns), seconds(end_ns))
    if end_ns - begin_ns >= SHORT_NS:
        both = (both[0].partition(".")[0], both[1].partition(".")[0])
    return " to ".join(both)


def age(passed_s: float) -> str:
    """How long ago something was, as short as it goes: ``now``, ``4 s``, ``3 min``, ``2 h``.

    Args:
        passed_s: how long, s.
    """
    if passed_s < 1:
        return "now"
    if passed_s < 60:
        return f"{int(passed_s)} s"
    if passed_s < 3600:
        return f"{int(passed_s // 60)} min"
    return f"{int(passed_s // 3600)} h"
