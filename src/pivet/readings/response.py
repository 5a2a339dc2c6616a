"""How a sensor follows a disturbance: the first-order response after a marked moment.

    y = start                                             before the dead time is over
    y = settled + (start - settled) exp(-(t - dead) / tau)   after it

A step has one such phase.  What comes and goes, as a breath, has two: it answers, and returns.
The fit is least squares (Levenberg-Marquardt, by SciPy); uncertainties are standard errors.
"""

from enum import StrEnum

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenValue
from pivet.readings.statistics import robust_spread

FloatArray = npt.NDArray[np.float64]

LEAST_BEFORE, LEAST_AFTER = 3, 6
"""Readings that a fit needs before and after the moment."""

LEAST_CHANGE = 4.0
"""A change must be so many times the noise."""

SEEN_TAUS = 1.5
"""The readings must cover so many time constants, or the settled value is a guess."""

FIT_TAUS = 8.0
"""Beyond so many nothing of the response is left, only what else happens."""

RETURNED = 0.5
"""Something that falls back by this share of its change came and went."""

LEAST_EXPLAINED = 0.8
MOST_UNSURE = 0.5


class Phase(StrEnum):
    """A part of the response."""

    ANSWER = "answer"
    RETURN = "return"


class Measure(FrozenValue):
    """A figure and its standard error, in the same unit."""

    value: float
    error: float


class Response(FrozenValue):
    """A phase of the response to a disturbance.

    Attributes:
        phase: which part it is.
        begin_s: where it begins, s after the moment.
        end_s: up to where readings were used, s after the moment.
        readings: how many were used.
        why_not: why nothing can be said, one sentence; empty when the fit holds.
        dead: from its beginning until something changes, s.
        tau: time constant, s.
        start, settled: values before and after, in the unit of the readings.
    """

    phase: Phase
    begin_s: float
    end_s: float
    readings: int
    why_not: str = ""
    dead: Measure = Measure(0.0, 0.0)
    tau: Measure = Measure(0.0, 0.0)
    start: Measure = Measure(0.0, 0.0)
    settled: Measure = Measure(0.0, 0.0)

    def course(self, times_s: FloatArray) -> FloatArray:
        """The fitted curve at times after the moment, float64 (n,).

        Args:
            times_s: after the moment, float64 (n,), s.
        """
        return model(
            times_s - self.begin_s,
            self.dead.value,
            self.tau.value,
            self.start.value,
            self.settled.value,
        )


def model(times_s: FloatArray, dead: float, tau: float, start: float, settled: float) -> FloatArray:
    """First-order response with dead time; times from its beginning, s.

    Args:
        times_s: since the change, float64 (n,), s.
        dead: time in which nothing happens, s.
        tau: time constant, s.
        start: the value before.
        settled: the value at the end.
    """
    passed = np.maximum(times_s - dead, 0.0)
    found: FloatArray = settled + (start - settled) * np.exp(-passed / tau)
    return found


def responses(times_s: FloatArray, values: FloatArray, step: float) -> list[Response]:
    """The phases of the response to what happened at time 0.

    Args:
        times_s: of the readings, rising, float64 (n,), s; before the moment below 0.
        values: float64 (n,); NaN where a reading failed.
        step: smallest step of the values.
    """
    there = ~np.isnan(values)
    times_s, values = times_s[there], values[there]
    before, after = values[times_s <= 0], int(np.count_nonzero(times_s > 0))
    end = float(times_s[-1]) if times_s.size else 0.0
    if before.size < LEAST_BEFORE:
        few = f"{_only(before.size)} before the mark; {LEAST_BEFORE} are needed."
        return [Response(Phase.ANSWER, 0.0, end, after, few)]
    if after < LEAST_AFTER:
        few = f"{_only(after)} after the mark; {LEAST_AFTER} are needed."
        return [Response(Phase.ANSWER, 0.0, end, after, few)]
    rest = float(np.median(before))
    noise = max(robust_spread(before), step / 2)
    change = np.where(times_s > 0, values - rest, 0.0)
    peak = int(np.argmax(np.abs(change)))
    if abs(change[peak]) < LEAST_CHANGE * noise:
        small = f"Nothing changed by more than {LEAST_CHANGE:g} times the noise."
        return [Response(Phase.ANSWER, 0.0, end, after, small)]
    behind = change[peak:] / change[peak]
    if behind.min() > 1 - RETURNED:
        return [_fitted(Phase.ANSWER, times_s, values, 0.0, step)]
    answer = _fitted(Phase.ANSWER, times_s[: peak + 1], values[: peak + 1], 0.0, step)
    begin = float(times_s[peak])
    back = _fitted(Phase.RETURN, times_s[peak:], values[peak:], begin, step)
    return [answer, back]


def _only(count: int) -> str:
    return "Only 1 reading stands" if count == 1 else f"Only {count} readings stand"


def _fitted(
    phase: Phase, times_s: FloatArray, values: FloatArray, begin_s: float, step: float
) -> Response:
    """A fit; once more over fewer readings when it turns out to be over long before the end."""
    passed = times_s - begin_s
    found = _fit(phase, passed, values, begin_s, step)
    if not found.why_not or found.tau.value > 0:
        until = found.dead.value + FIT_TAUS * found.tau.value
        near = passed <= until
        if not near.all() and np.count_nonzero(near & (passed > 0)) >= LEAST_AFTER:
            found = _fit(phase, passed[near], values[near], begin_s, step)
    return found


def _fit(
    phase: Phase, passed: FloatArray, values: FloatArray, begin_s: float, step: float
) -> Response:
    from scipy.optimize import curve_fit

    later = int(np.count_nonzero(passed > 0))
    end = begin_s + float(passed[-1])
    if later < LEAST_AFTER:
        few = f"{_only(later)} in it; {LEAST_AFTER} are needed: ask more often."
        return Response(phase, begin_s, end, later, few)
    guess, low, high = _first_guess(passed, values)
    sure = np.full(passed.size, max(step, 1e-12))
    try:
        best, spread = curve_fit(
            model, passed, values, guess, sure, bounds=(low, high), maxfev=5000
        )
    except (RuntimeError, ValueError):
        return Response(phase, begin_s, end, later, "No first-order response fits the readings.")
    left = values - model(passed, *best)
    # Readings in steps are not surer than their step allows, however well they fit.
    scatter = float(np.mean(left**2))
    floor = step**2 / 12
    scale = max(1.0, floor / scatter) if scatter > 0 else 1.0
    errors = np.sqrt(np.maximum(np.diag(spread) * scale, 0.0))
    dead, tau, start, settled = (
        Measure(float(v), float(e)) for v, e in zip(best, errors, strict=True)
    )
    why = _why_not(passed, values, left, best, float(errors[1]))
    return Response(phase, begin_s, end, later, why, dead, tau, start, settled)


def _first_guess(
    passed: FloatArray, values: FloatArray
) -> tuple[list[float], list[float], list[float]]:
    """Where the fit begins, and its bounds: dead time, time constant, start, settled."""
    span, top = float(passed[-1]), float(values.max() - values.min())
    before = values[passed <= 0]
    start = float(np.median(before)) if before.size else float(values[0])
    settled = float(np.median(values[-max(values.size // 3, 1) :]))
    most = np.abs(values - start) >= (1 - np.exp(-1)) * abs(settled - start)
    reached = passed[most & (passed > 0)]
    tau = max(float(reached[0]) if reached.size else span / 3, span / 1000)
    wide = max(3 * top, 1e-9)
    low = [0.0, span / 1e4, start - wide, settled - wide]
    high = [span, 20 * span, start + wide, settled + wide]
    return [min(tau / 20, span / 10), tau, start, settled], low, high


def _why_not(
    passed: FloatArray, values: FloatArray, left: FloatArray, best: FloatArray, tau_error: float
) -> str:
    dead, tau = float(best[0]), float(best[1])
    after = passed[passed > 0]
    every = float(np.median(np.diff(after)))
    seen = (float(after[-1]) - dead) / tau
    explained = 1 - float(np.sum(left**2)) / max(
        float(np.sum((values - values.mean()) ** 2)), 1e-30
    )
    if tau < every / 2:
        return f"It settles faster than the readings come, within {every:.2g} s: ask more often."
    if seen < SEEN_TAUS:
        return f"It had not settled: the readings cover {seen:.1f} time constants only."
    if explained < LEAST_EXPLAINED:
        return "The course is not that of a first-order response."
    if not np.isfinite(tau_error) or tau_error > MOST_UNSURE * tau:
        return "The readings leave the time constant open by more than half."
    return ""
