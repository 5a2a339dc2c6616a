"""A humidity sensor that answers whoever asks it."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from pivet.sheets.model import Sheet
from pivet.signal.trace import Level
from pivet.standin.encode import encode
from pivet.standin.humidity import ASK, Conditions, edges_of, pulse_table
from pivet.standin.live.circuit import Circuit, Driven, FloatArray, own_edges

WAKE_S = 1.2
"""After power-on it does not answer for so long, and its first frame is bad."""

DEAF_SHARE = 0.4
"""Asked sooner than this share of its interval after the last time, it does not answer."""

Quantities = Callable[[float], dict[str, float]]
"""What it feels at a moment in s: by quantity."""


@dataclass(slots=True)
class LiveHumidity(Circuit):
    """A sensor with a 40-bit frame.

    Attributes:
        sheet: its type.
        feels: what it would measure at a moment.
        late_conversion: it sends what it measured at the ask before, as a 22-type does.
    """

    sheet: Sheet = field(kw_only=True)
    feels: Quantities = field(kw_only=True)
    late_conversion: bool = False
    _measured: dict[str, float] | None = None
    _answered_us: float = -1e12
    _awake_us: float = -1e12
    _fresh: bool = False

    def driven(self, line: int, lows: Driven, level: Level) -> list[FloatArray]:
        """Answers an ask that is long enough, if it is there and rested.

        Args:
            line: its name.
            lows: when the line is pulled low, and until when, µs.
            level: the level that the line is driven to.
        """
        if level is self.idle:
            return [np.empty(0)]
        *before, (start, width) = lows
        ahead = own_edges(before, self.troubles.rise_us)
        answer = self._answer(start, width)
        if answer is None:
            answer = own_edges([(start, width)], self.troubles.rise_us)
        return [self.noise(np.concatenate((ahead, answer)))]

    def _answer(self, start: float, width: float) -> FloatArray | None:
        release = start + width
        rested = release - self._answered_us >= DEAF_SHARE * self.sheet.interval_s * 1e6
        wakes = width >= self.sheet.windows["ask"].min_us
        if self.troubles.unplugged or not wakes or release < self._awake_us or not rested:
            return None
        frame = self._frame(release)
        conditions = Conditions(clock=self.troubles.clock, rise_us=self.troubles.rise_us)
        table = pulse_table(self.sheet, frame, conditions, self.random)
        table[:, ASK] = width + self.troubles.rise_us
        self._answered_us = release
        edges: FloatArray = edges_of(table, np.array([start]))[0]
        return edges

    def _frame(self, now_us: float) -> npt.NDArray[np.uint8]:
        soon = now_us - self._answered_us < self.sheet.interval_s * 1e6 * 0.99
        new = self.feels(now_us / 1e6)
        old = self._measured or new
        sent = old if soon or self.late_conversion else new
        if not soon:
            self._measured = new
        values = {}
        for rule in self.sheet.values:
            kept = min(max(sent[rule.quantity], rule.low), rule.high)
            values[rule.quantity] = np.array([kept])
        frame = encode(self.sheet, values)
        if self._fresh:
            frame[0, 4] ^= 0x40
            self._fresh = False
        return frame

    def power_dips(self, now_us: float) -> None:
        """It starts anew: silent for a while, its first frame bad."""
        self._awake_us = now_us + WAKE_S * 1e6
        self._fresh, self._measured = True, None


@dataclass(slots=True)
class AskedByFirmware(LiveHumidity):
    """The same, asked by another firmware on the same line.

    Attributes:
        every_s: how often, s.
    """

    every_s: float = 2.5
    _next_us: float = 0.6e6

    def poll(self, until_us: float) -> list[FloatArray]:
        """The firmware's asks that are due, with their answers."""
        pieces = []
        while self._next_us <= until_us:
            lows = [(self._next_us, self.sheet.windows["ask"].typ_us)]
            pieces += LiveHumidity.driven(self, 0, lows, Level.LOW)
            self._next_us += self.every_s * 1e6
        return [np.concatenate(pieces) if pieces else np.empty(0)]
