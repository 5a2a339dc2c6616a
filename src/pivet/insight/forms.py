"""Margins and comparisons as JSON, see docs/json.md."""

import math
from collections.abc import Sequence

from pivet.insight.compare import Comparison, Share, Shift
from pivet.insight.follows import Follows
from pivet.insight.margins import Margin, Margins
from pivet.judge.verdict import Verdict


def tidy(value: float, digits: int = 3) -> float | None:
    """A number for JSON: without dust, and null where there is none.

    Args:
        value: NaN and infinity are none.
        digits: after the point.
    """
    return round(float(value), digits) + 0.0 if math.isfinite(value) else None


def margins_json(margins: Margins, follows: Sequence[Follows]) -> dict[str, object]:
    """How the pulses of a wire lie in their windows.

    Args:
        margins: the margins of its pulses.
        follows: what they follow.
    """
    return {
        "exchanges": margins.exchanges,
        "classes": [_margin_json(row) for row in margins.rows],
        "between": [
            {
                "shorter": one.shorter,
                "longer": one.longer,
                "low_us": tidy(one.low_us),
                "high_us": tidy(one.high_us),
                "free_us": tidy(one.free_us),
            }
            for one in margins.between
        ],
        "follows": [
            {
                "class": one.key,
                "what": one.what,
                "slope_us": tidy(one.slope, 6),
                "error_us": tidy(one.error, 6),
                "per": one.unit or None,
                "low": tidy(one.low),
                "high": tidy(one.high),
                "says": one.says,
            }
            for one in follows
        ],
    }


def _margin_json(row: Margin) -> dict[str, object]:
    window, spread = row.window, row.spread
    return {
        "class": window.key,
        "count": spread.total,
        "min_us": tidy(spread.ns[0] / 1000),
        "p1_us": tidy(spread.quantile_us(0.01)),
        "median_us": tidy(spread.quantile_us(0.5)),
        "p99_us": tidy(spread.quantile_us(0.99)),
        "max_us": tidy(spread.ns[-1] / 1000),
        "worst_margin_us": tidy(row.least_us),
        "outside": row.count(Verdict.UNSOUND),
        "near": row.count(Verdict.NEAR),
        "unknown": row.count(Verdict.UNKNOWN),
        "inside": row.count(Verdict.SOUND),
        "window": {
            "min_us": window.min_us,
            "max_us": window.max_us,
            "common_us": None if window.common_us is None else list(window.common_us),
        },
        "worst": [
            {
                "exchange": stray.exchange,
                "position": stray.position if stray.position >= 0 else None,
                "start_s": round(stray.start_ns / 1e9, 9),
                "width_us": tidy(stray.width_ns / 1000),
                "margin_us": tidy(stray.margin_us),
            }
            for stray in row.strays
        ],
    }


def comparison_json(found: Comparison) -> dict[str, object]:
    """What differs between two sets of exchanges.

    Args:
        found: their comparison.
    """
    return {
        "classes": [_shift_json(shift) for shift in found.shifts],
        "sound": {
            "before": _share_json(found.before),
            "after": _share_json(found.after),
            "verdict": found.verdict.value,
        },
        "reasons": [
            {"code": code, "before": before, "after": after}
            for code, before, after in found.reasons
        ],
    }


def _shift_json(shift: Shift) -> dict[str, object]:
    return {
        "class": shift.window.key,
        "before": _side_json(shift.before),
        "after": _side_json(shift.after),
        "shift_us": tidy(shift.shift_us),
        "shift_low_us": tidy(shift.low_us),
        "shift_high_us": tidy(shift.high_us),
        "verdict": shift.verdict.value,
    }


def _side_json(side: Margin | None) -> dict[str, object]:
    if side is None:
        keys = ("median_us", "p1_us", "p99_us", "worst_margin_us")
        return {"count": 0, **dict.fromkeys(keys)}
    return {
        "count": side.spread.total,
        "median_us": tidy(side.spread.quantile_us(0.5)),
        "p1_us": tidy(side.spread.quantile_us(0.01)),
        "p99_us": tidy(side.spread.quantile_us(0.99)),
        "worst_margin_us": tidy(side.least_us),
    }


def _share_json(share: Share) -> dict[str, object]:
    return {"share": tidy(share.share, 6), "low": tidy(share.low, 6), "high": tidy(share.high, 6)}
