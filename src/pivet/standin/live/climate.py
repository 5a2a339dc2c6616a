"""The cave's climate: what is true at a place, and what a sensor there feels of it."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum

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


def _breath(age_s: float) -> float:
    """Rises in seconds, then fades; 0..1."""
    return (1 - math.exp(-age_s / BREATH_RISE_S)) * math.exp(-age_s / BREATH_FALL_S)


def _touch(age_s: float) -> float:
    """Something warm or cold held there for a while, then taken away; 0..1."""
    held = 1 - math.exp(-min(age_s, TOUCH_S) / TOUCH_TAU_S)
    return held * math.exp(-max(age_s - TOUCH_S, 0.0) / TOUCH_TAU_S)


_EFFECTS: dict[Disturbance, tuple[Callable[[float], float], float, float]] = {
    Disturbance.BREATH: (_breath, BREATH_RH, BREATH_C),
    Disturbance.HAND: (_touch, HAND_RH, HAND_C),
    Disturbance.COLD: (_touch, COLD_RH, COLD_C),
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
        more = sum(
            _EFFECTS[kind][1] * _EFFECTS[kind][0](now_s - start)
            for kind, start in self.disturbed
            if now_s >= start
        )
        drier = -1.5 * self.swing_c * math.sin(2 * math.pi * now_s / self.period_s + self.phase)
        return min(max(self.humidity + drier + more, 0.0), 100.0)

    def temperature_at(self, now_s: float) -> float:
        """What is true, °C."""
        more = sum(
            _EFFECTS[kind][2] * _EFFECTS[kind][0](now_s - start)
            for kind, start in self.disturbed
            if now_s >= start
        )
        swing = self.swing_c * math.sin(2 * math.pi * now_s / self.period_s + self.phase)
        return self.temperature + swing + more


@dataclass(slots=True)
class Felt:
    """A quantity as a sensor feels it: late by a first-order lag.

    Attributes:
        truth: what is true at a moment, s.
        tau_s: time constant, s.
        step_s: it is worked out in steps of this, s.
    """

    truth: Callable[[float], float]
    tau_s: float
    step_s: float = STEP_S
    _value: float | None = None
    _at_s: float = 0.0

    def at(self, now_s: float) -> float:
        """What it feels now; moments must not go back."""
        if self._value is None:
            self._value, self._at_s = self.truth(now_s), now_s
        passed = now_s - self._at_s
        steps = min(max(math.ceil(passed / self.step_s), 1), STEPS_MOST)
        share = 1 - math.exp(-passed / steps / self.tau_s)
        for step in range(1, steps + 1):
            moment = self._at_s + passed * step / steps
            self._value += (self.truth(moment) - self._value) * share
        self._at_s = now_s
        return self._value
