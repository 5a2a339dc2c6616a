"""How far pulses are from the limits of their window.

A width measured in steps of ``resolution`` is uncertain by one step either way.  A pulse
is outside only if it is outside whatever the true width was; inside likewise.  Between
the two, a fine capture says "at the limit" (near), a coarse one cannot tell.  A window that is
only assumed calls nothing outside, and neither does one that parts of other makers commonly miss
by as much.  What the maker advises is never near.
"""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import ABSENT
from pivet.frozen import FrozenObject
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Driver, Window
from pivet.signal.seconds import S_NS
from pivet.signal.uncertainty import Uncertainty

NEAR_SHARE = 0.20
"""Near a limit: less than this share of the way from the limit to the typical width."""

COARSE_SHARE = 0.50
"""A capture is too coarse for a window of which its uncertainty covers this share."""

HOST_SLACK = 0.01
"""The host times by a clock of its own: a pulse or interval of it that misses a limit by no
more than this share of the limit is at the limit, not outside."""

IntArray = npt.NDArray[np.integer]
Verdicts = npt.NDArray[np.uint8]


def _limits_ns(window: Window) -> tuple[int, int | None]:
    """Lower and upper limit, ns."""
    top = None if window.max_us is None else round(window.max_us * 1000)
    return round(window.min_us * 1000), top


def too_soon(since_ns: IntArray, interval_s: float) -> npt.NDArray[np.bool_]:
    """Which asks came sooner after the last than a sheet allows, bool (n,).

    Args:
        since_ns: from the ask before, (n,), ns; below 0 for none.
        interval_s: the shortest that is allowed, s.
    """
    return (since_ns >= 0) & (since_ns < interval_s * (1 - HOST_SLACK) * S_NS)


def is_coarse(window: Window, resolution_ns: Uncertainty) -> bool | npt.NDArray[np.bool_]:
    """Whether a capture is too coarse to place a pulse inside this window.

    Args:
        window: the window of the sheet.
        resolution_ns: uncertainty of every width, ns.
    """
    top_us = window.max_us if window.max_us is not None else 2 * window.min_us
    return 2 * resolution_ns >= COARSE_SHARE * (top_us - window.min_us) * 1000


def judge_widths(
    least_ns: IntArray, most_ns: IntArray, window: Window, resolution_ns: Uncertainty
) -> Verdicts:
    """Verdict on pulses of one window, each row by its shortest and longest pulse.

    Args:
        least_ns: shortest width, (n,), ns; ``ABSENT`` for none.
        most_ns: longest width, likewise.
        window: their window.
        resolution_ns: uncertainty of a width, ns; for all, or for each row (n,).

    Returns:
        ``Verdict`` values, uint8 (n,); SOUND where there is no pulse.
    """
    if _all_sound(least_ns, most_ns, window, resolution_ns):
        return np.zeros(least_ns.shape, dtype=np.uint8)
    absent = least_ns == ABSENT
    # A step of seconds, or a line held low for long, is more than int32 can add up.
    least_ns, most_ns = least_ns.astype(np.int64), most_ns.astype(np.int64)
    low, top = _limits_ns(window)
    slack = HOST_SLACK if window.driver is Driver.HOST else 0.0
    coarse = is_coarse(window, resolution_ns)
    below = least_ns - resolution_ns < low
    near = least_ns < low + _near_ns(window, above=False)
    if window.advised_us is not None:
        advised = least_ns + resolution_ns >= window.advised_us * (1 - HOST_SLACK) * 1000
        below &= ~advised | coarse
        near &= ~advised
    undecided = below
    if top is not None:
        near |= most_ns > top - _near_ns(window, above=True)
        undecided = below | (most_ns + resolution_ns > top)
    verdict = np.where(near, Verdict.NEAR, Verdict.SOUND).astype(np.uint8)
    verdict[undecided] = (
        np.where(coarse, Verdict.UNKNOWN, Verdict.NEAR)[undecided]
        if isinstance(coarse, np.ndarray)
        else (Verdict.UNKNOWN if coarse else Verdict.NEAR)
    )
    outer_low, outer_top = _outer_ns(window)
    beyond = least_ns + resolution_ns < low * (1 - slack)
    outside = least_ns + resolution_ns < outer_low * (1 - slack)
    if top is not None and outer_top is not None:
        beyond |= most_ns - resolution_ns > top * (1 + slack)
        outside |= most_ns - resolution_ns > outer_top * (1 + slack)
    verdict[beyond] = Verdict.NEAR
    if not window.assumed:
        verdict[outside] = Verdict.UNSOUND
    verdict[absent] = Verdict.SOUND
    return verdict


def _near_ns(window: Window, above: bool) -> float:
    """How close to its upper or lower limit a pulse is near it, ns."""
    return 0.0 if window.any_inside else NEAR_SHARE * window.room_us(above) * 1000


def _all_sound(
    least_ns: IntArray, most_ns: IntArray, window: Window, resolution_ns: Uncertainty
) -> bool:
    """A quick look: all pulses are there, and well inside."""
    if not isinstance(resolution_ns, int) or not least_ns.size:
        return False
    low, top = _limits_ns(window)
    low_room = max(_near_ns(window, above=False), resolution_ns)
    if int(least_ns.min()) < low + low_room:
        return False
    top_room = max(_near_ns(window, above=True), resolution_ns)
    return top is None or int(most_ns.max()) <= top - top_room


def _outer_ns(window: Window) -> tuple[float, float | None]:
    """Limits beyond which not even a copy of the part is known to send, ns."""
    low, top = _limits_ns(window)
    if window.common_us is None:
        return low, top
    common_low, common_top = window.common_us
    return common_low * 1000, None if top is None else common_top * 1000


def margin_us(width_ns: float, window: Window) -> float:
    """Distance from a width to the nearest limit, µs; negative outside.

    Args:
        width_ns: of the pulse, ns.
        window: the window of the sheet.
    """
    return least_margin_us(width_ns, width_ns, window)


def least_margin_us(least_ns: float, most_ns: float, window: Window) -> float:
    """Distance from some widths to the nearest limit, µs; negative when one is outside.

    Args:
        least_ns: the shortest, ns.
        most_ns: the longest, ns.
        window: the window of the sheet.
    """
    below = least_ns / 1000 - window.min_us
    return below if window.max_us is None else min(below, window.max_us - most_ns / 1000)


def margin_share(width_ns: float, window: Window) -> float:
    """Margin as a share of the way from the limit to the typical width.

    1 at the typical width, 0 at a limit, negative outside.  A window of 0.8..20 ms with
    a typical 1 ms is judged on either side by its own scale.

    Args:
        width_ns: of the pulse, ns.
        window: the window of the sheet.
    """
    width_us = width_ns / 1000
    if width_us <= window.typ_us or window.max_us is None:
        room = window.room_us(above=False)
        return min((width_us - window.min_us) / room, 1.0) if room else 1.0
    room = window.room_us(above=True)
    return (window.max_us - width_us) / room if room else -1.0


class LeastMargins(FrozenObject):
    """The least margin of each exchange, over all its pulses.

    Attributes:
        keys: the keys of the windows.
        share: as ``margin_share``, float64 (n,); NaN for an exchange without pulses.
        row: the window it belongs to, by its place in ``keys``, int64 (n,).
    """

    keys: tuple[str, ...]
    share: npt.NDArray[np.float64]
    row: npt.NDArray[np.int64]


def least_margins(windows: Sequence[Window], least_ns: IntArray, most_ns: IntArray) -> LeastMargins:
    """The least margin of each exchange.

    Args:
        windows: a window a row.
        least_ns: shortest pulse of each window, (k, n), ns; ``ABSENT`` for none.
        most_ns: longest, likewise.
    """
    shares = np.stack(
        [
            np.minimum(_shares(least, window), _shares(most, window))
            for window, least, most in zip(windows, least_ns, most_ns, strict=True)
        ]
    )
    known = ~np.isnan(shares)
    row = np.where(known, shares, np.inf).argmin(axis=0)
    share = np.take_along_axis(shares, row[None], axis=0)[0]
    return LeastMargins(tuple(window.key for window in windows), share, row)


def _shares(widths_ns: IntArray, window: Window) -> npt.NDArray[np.float64]:
    """``margin_share`` of widths; NaN for none, and in a window where all is as good inside."""
    us = widths_ns / 1000
    below = window.room_us(above=False)
    low = (us - window.min_us) / below if below else np.where(us < window.min_us, -1.0, 1.0)
    found = np.minimum(low, 1.0)
    if window.max_us is not None:
        above = window.room_us(above=True)
        high = (window.max_us - us) / above if above else np.where(us > window.max_us, -1.0, 1.0)
        found = np.where(us > window.typ_us, np.minimum(high, 1.0), found)
    unfit = (widths_ns == ABSENT) | (window.any_inside & (found >= 0))
    shares: npt.NDArray[np.float64] = np.where(unfit, np.nan, found)
    return shares
