"""The cave's climate: what is true at a place, and what a sensor there feels of it."""

from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
import numpy.typing as npt

FloatArray = npt.NDArray[np.float64]

BREATH_RISE_S, BREATH_FALL_S = 1.5, 14.0
BREATH_RH, BREATH_C = 38.0, 2.0
TOUCH_S, TOUCH_TAU_S = 90.0, 40.0
HAND_C, HAND_RH, COLD_C, COLD_RH = 16.0, 6.0, -12.0, -8.0

HUMIDITY_TAU_S = 4.0
TEMPERATURE_TAU_S = 75.0
"""Humidity follows in seconds, temperature in minutes."""

STEPS_MOST = 400
STEP_S = 0.1


class Disturbance(StrEnum):
    """What a person does at a place."""

    BREATH = "breath"
    HAND = "hand"
    COLD = "cold"


def _breath(age_s: FloatArray) -> FloatArray:
    """Rises in seconds, then fades; 0..1."""
    return (1 - np.exp(-age_s / BREATH_RISE_S)) * np.exp(-age_s / BREATH_FALL_S)


def _touch(age_s: FloatArray) -> FloatArray:
    """Something warm or cold held there for a while, then taken away; 0..1."""
    held = 1 - np.exp(-np.minimum(age_s, TOUCH_S) / TOUCH_TAU_S)
    return held * np.exp(-np.maximum(age_s - TOUCH_S, 0.0) / TOUCH_TAU_S)


@dataclass(frozen=True)
class _Effect:
    """How it goes by, 0..1 over time (s), and what it adds at most, %RH and °C."""

    course: Callable[[FloatArray], FloatArray]
    humidity: float
    temperature: float


_EFFECTS = {
    Disturbance.BREATH: _Effect(_breath, BREATH_RH, BREATH_C),
    Disturbance.HAND: _Effect(_touch, HAND_RH, HAND_C),
    Disturbance.COLD: _Effect(_touch, COLD_RH, COLD_C),
}


@dataclass(slots=True)
class ClimatePlace:
    """A place in the cave.

    Attributes:
        humidity, temperature: at rest, %RH and °C.
        swing_c: temperature swings by so much, °C.
        period_s: of the swing, s.
        phase: the phase of the swing.
        disturbed: what was done here, and when, s.
    """

    humidity: float
    temperature: float
    swing_c: float = 0.2
    period_s: float = 900.0
    phase: float = 0.0
    disturbed: list[tuple[Disturbance, float]] = field(default_factory=list)

    def disturb(self, kind: Disturbance, now_s: float) -> None:
        """Somebody does something here."""
        self.disturbed = [touch for touch in self.disturbed if now_s - touch[1] < 10 * TOUCH_S]
        self.disturbed.append((kind, now_s))

    def humidity_at(self, now_s: float) -> float:
        """What is true, %RH."""
        return float(self.humidities(np.array([now_s]))[0])

    def temperature_at(self, now_s: float) -> float:
        """What is true, °C."""
        return float(self.temperatures(np.array([now_s]))[0])

    def humidities(self, moments_s: FloatArray) -> FloatArray:
        """What is true at moments (s), %RH; shape (n,), as they."""
        more = self._more(moments_s, lambda effect: effect.humidity)
        return np.clip(self.humidity - 1.5 * self._swing(moments_s) + more, 0.0, 100.0)

    def temperatures(self, moments_s: FloatArray) -> FloatArray:
        """What is true at moments (s), °C; shape (n,), as they."""
        more = self._more(moments_s, lambda effect: effect.temperature)
        return self.temperature + self._swing(moments_s) + more

    def _swing(self, moments_s: FloatArray) -> FloatArray:
        return self.swing_c * np.sin(2 * np.pi * moments_s / self.period_s + self.phase)

    def _more(self, moments_s: FloatArray, adds: Callable[[_Effect], float]) -> FloatArray:
        """What people's doings add."""
        found = np.zeros(moments_s.size)
        for kind, start in self.disturbed:
            since = moments_s >= start
            effect = _EFFECTS[kind]
            found[since] += adds(effect) * effect.course(moments_s[since] - start)
        return found


@dataclass(slots=True)
class Felt:
    """A quantity as a sensor feels it: late by a first-order lag.

    Attributes:
        truth: what is true at moments, s.
        tau_s: time constant, s.
        step_s: it is worked out in steps of this, s.
    """

    truth: Callable[[FloatArray], FloatArray]
    tau_s: float
    step_s: float = STEP_S
    _value: float | None = None
    _at_s: float = 0.0

    def at(self, now_s: float) -> float:
        """What it feels now; moments must not go back."""
        return float(self.along(np.array([now_s]))[0])

    def along(self, moments_s: FloatArray) -> FloatArray:
        """What it feels at each moment.

        Args:
            moments_s: s, that rise from those before; shape (n,).
        """
        if self._value is None:
            self._value, self._at_s = float(self.truth(moments_s[:1])[0]), float(moments_s[0])
        before = np.concatenate(([self._at_s], moments_s[:-1]))
        passed = moments_s - before
        steps = np.clip(np.ceil(passed / self.step_s), 1, STEPS_MOST).astype(np.int64)
        shares = 1 - np.exp(-passed / steps / self.tau_s)
        ends = np.cumsum(steps)
        step = np.arange(1, ends[-1] + 1) - np.repeat(ends - steps, steps)
        truths = self.truth(np.repeat(before, steps) + np.repeat(passed / steps, steps) * step)
        value, felt = self._value, []
        for truth, share in zip(truths.tolist(), np.repeat(shares, steps).tolist(), strict=True):
            value += (truth - value) * share
            felt.append(value)
        self._value, self._at_s = value, float(moments_s[-1])
        return np.array(felt)[ends - 1]
