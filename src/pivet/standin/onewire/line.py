"""The line between host and devices: slots become lows in time."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenValue
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level, Line
from pivet.standin.steps import seen_in_steps

FloatArray = npt.NDArray[np.float64]
MOST_JITTER = 2.5


class Conditions(FrozenValue):
    """How host, devices and line deviate from typical.

    Attributes:
        jitter_us: spread of each low, µs.
        rise_us: the pull-up lifts the line so much late, µs.
        step_ns: step of the capture, ns.
    """

    jitter_us: float = 0.15
    rise_us: float = 0.0
    step_ns: int = 100


class LineWriter:
    """Writes lows one after the other.

    Args:
        conditions: how they deviate.
        random: source of the jitter.
        start_us: when the first can begin, µs.
    """

    def __init__(
        self, conditions: Conditions, random: np.random.Generator, start_us: float
    ) -> None:
        self._conditions, self._random = conditions, random
        self._falls: list[FloatArray] = []
        self._lows: list[FloatArray] = []
        self.typical = {key: window.typ_us for key, window in find_sheet("onewire").windows.items()}
        self.now_us = start_us
        self.fast = False
        self.rise_us = conditions.rise_us

    def typ(self, key: str) -> float:
        """Typical length at the present speed, µs."""
        return self.typical["fast_" + key if self.fast else key]

    def _write(self, falls: FloatArray, lows: FloatArray) -> None:
        spread = self._conditions.jitter_us / (10 if self.fast else 1)
        jitter = self._random.normal(0.0, spread, lows.size) if spread else np.zeros(lows.size)
        jitter = np.clip(jitter, -MOST_JITTER * spread, MOST_JITTER * spread)
        self._falls.append(falls)
        self._lows.append(lows + jitter + self.rise_us)

    def reset(self, present: bool, length_us: float | None = None) -> None:
        """A reset, and the presence of whoever is there."""
        length = self.typ("reset") if length_us is None else length_us
        falls, lows = [self.now_us], [length]
        release = self.now_us + length
        if present:
            falls.append(release + self.typ("presence_wait"))
            lows.append(self.typ("presence"))
        self._write(np.array(falls), np.array(lows))
        self.now_us = release + self.typ("phase")

    def slots(
        self, bits: Sequence[int] | npt.NDArray[np.integer], device: bool | npt.NDArray[np.bool_]
    ) -> None:
        """Slots written by the host, or read from devices; of each, or of all alike."""
        values = np.asarray(bits)
        zero = np.where(device, self.typ("hold"), self.typ("zero"))
        pitch = max(self.typ("slot"), self.typ("zero") + self.rise_us + self.typ("recovery"))
        falls = self.now_us + pitch * np.arange(values.size, dtype=np.float64)
        self._write(falls, np.where(values, self.typ("one"), zero))
        self.now_us += values.size * pitch

    def hold(self, length_us: float) -> None:
        """The line is held low, by a short for instance."""
        self._write(np.array([self.now_us]), np.array([length_us]))
        self.now_us += length_us + self.typ("phase")

    def wait_until(self, at_us: float) -> None:
        """The line rests."""
        self.now_us = max(self.now_us, at_us)

    def line(self, name: str) -> Line:
        """What was written, as a capture of the step sees it."""
        if not self._falls:
            return Line(name, Level.HIGH, np.empty(0, dtype=np.int64))
        falls = np.concatenate(self._falls)
        edges = np.stack((falls, falls + np.concatenate(self._lows)), axis=1).ravel()
        return Line(name, Level.HIGH, seen_in_steps(edges, self._conditions.step_ns))
