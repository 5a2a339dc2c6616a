"""A 1-Wire line with devices that answer whoever drives it."""

import math
from dataclasses import dataclass, field

from pivet.decode.onewire import layout
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level
from pivet.standin.live.circuit import NO_EDGES, Circuit, Driven, FloatArray, own_edges
from pivet.standin.live.talk import Talk, talk
from pivet.standin.onewire.thermometer import Thermometer

JITTER_US = 0.15
TYPICAL = {key: window.typ_us for key, window in find_sheet("onewire").windows.items()}
SAMPLE_US = layout.WRITE_SPLIT_NS / 1000
FAST_SAMPLE_US = layout.FAST_WRITE_SPLIT_NS / 1000
"""When a device looks at the line after a fall."""

RESET_US = 480.0 * 0.99
FAST_RESET_US = 48.0 * 0.99


@dataclass(slots=True)
class _Listener:
    """A device and where its talk stands."""

    device: Thermometer
    talk: Talk | None = None
    wants: int | None = None
    fast: bool = False


@dataclass(slots=True)
class LiveBus(Circuit):
    """A line with thermometers.

    Attributes:
        devices: plugged or not.
    """

    devices: list[Thermometer] = field(kw_only=True)
    _listeners: list[_Listener] = field(default_factory=list)
    _chosen: list[int] = field(default_factory=list)
    _now_us: float = 0.0

    def __post_init__(self) -> None:
        self._listeners = [_Listener(device) for device in self.devices]

    def driven(self, line: int, lows: Driven, level: Level) -> list[FloatArray]:
        """Goes through the host's lows; devices hold some of them longer.

        Args:
            line: its name.
            lows: when the line is pulled low, and until when, µs.
            level: the level that the line is driven to.
        """
        if level is self.idle:
            return [NO_EDGES]
        rise = self.troubles.rise_us
        pulses: list[tuple[float, float]] = []
        for start, width in lows:
            self._now_us = start
            held = width + rise
            if width >= RESET_US:
                pulses += [(start, held), *self._reset(start + width)]
            else:
                answers = self._fast_reset(start, width)
                pulses += answers
                hold = self._slot(held, reset=bool(answers))
                pulses.append((start, max(held, hold + rise if hold else 0.0)))
        return [self.noise(own_edges(pulses))]

    def _there(self) -> list[_Listener]:
        if self.troubles.unplugged:
            return []
        now_s = self._now_us / 1e6
        return [listener for listener in self._listeners if listener.device.plugged(now_s)]

    def _reset(self, release_us: float) -> list[tuple[float, float]]:
        """All devices listen anew; the presence of those that are there."""
        there = self._there()
        for listener in self._listeners:
            listener.talk = None
            listener.fast = False
        for device in there:
            self._begin(device)
        if not there:
            return []
        wait, length = self._typ("presence_wait", False), self._typ("presence", False)
        return [(release_us + wait, length + self.troubles.rise_us)]

    def _fast_reset(self, start: float, width: float) -> list[tuple[float, float]]:
        """A short reset is one for devices at overdrive speed only."""
        if width < FAST_RESET_US:
            return []
        fast = [wire for wire in self._there() if wire.fast]
        for device in fast:
            self._begin(device)
        if not fast:
            return []
        wait, length = self._typ("presence_wait", True), self._typ("presence", True)
        return [(start + width + wait, length)]

    def _begin(self, row: _Listener) -> None:
        row.device.disturb(self._now_us / 1e6)

        def speed_up() -> None:
            row.fast = True

        row.talk = talk(row.device, self._chosen, lambda: self._now_us / 1e6, speed_up)
        row.wants = next(row.talk)

    def _slot(self, low_us: float, reset: bool) -> float:
        """A slot that the host began; how long a device holds the line low, µs.

        Args:
            low_us: so long the host held it.
            reset: for devices at overdrive speed it was no slot.
        """
        hold = 0.0
        for wire in self._there():
            if wire.talk is None or (reset and wire.fast):
                continue
            sent = wire.wants
            if sent == 0:
                hold = max(hold, self._typ("hold", wire.fast))
            limit = FAST_SAMPLE_US if wire.fast else SAMPLE_US
            try:
                wire.wants = (
                    wire.talk.send(int(low_us < limit)) if sent is None else next(wire.talk)
                )
            except StopIteration:
                wire.talk = None
        return hold

    def _typ(self, key: str, fast: bool) -> float:
        typical = TYPICAL["fast_" + key if fast else key]
        return typical + float(self.random.normal(0.0, JITTER_US / (10 if fast else 1)))

    def power_dips(self, now_us: float) -> None:
        """All devices forget what they measured."""
        for device in self.devices:
            device.dips = (*device.dips[-3:], now_us / 1e6)

    def plug_device(self, device: Thermometer, plugged: bool, now_us: float) -> None:
        """One device is pulled off, or put back.

        Args:
            device: its code.
            plugged: it is there, or no longer.
            now_us: what the clock says, us.
        """
        now_s = now_us / 1e6
        if plugged:
            device.away = tuple((start, min(end, now_s)) for start, end in device.away[-4:])
        elif device.plugged(now_s):
            device.away = (*device.away, (now_s, math.inf))
