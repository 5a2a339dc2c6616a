"""A simulated 1-Wire thermometer: code, scratchpad, conversion, power.

Source: the data sheets of the families 28, 22, 10, 3B and 42.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field

from pivet.decode.checks import crc8_of
from pivet.sheets.onewire import CONVERSION_US, KINDS, POWER_ON_C

PER_DEGREE = 16
POWER_ON_REMAIN = 12
DEFAULT_LIMITS = (0x4B, 0x46)
HALF = 0x10

Course = Callable[[float], float]
"""Temperature over time: s -> °C."""


def make_code(family: int, serial: int) -> int:
    """A ROM code with its CRC; bit 0 is the first on the wire."""
    payload = bytes([family]) + serial.to_bytes(6, "little")
    return int.from_bytes(payload + bytes([crc8_of(payload)]), "little")


def pad_bytes(sixteenths: int, family: int, resolution: int, limits: tuple[int, int]) -> bytes:
    """The nine bytes that hold a temperature.

    Args:
        sixteenths: temperature in 1/16 °C; what the resolution cannot hold is cut off.
        family: 0x10 counts half degrees and a remain.
        resolution: bits, 9 to 12; family 10 has none.
        limits: TH and TL as bytes.
    """
    if family == HALF:
        whole = (sixteenths + 4) // 16
        remain = 16 * whole + 12 - sixteenths
        raw = 2 * whole + (sixteenths - 16 * whole >= 4)
        tail = bytes([0xFF, 0xFF, remain, PER_DEGREE])
    else:
        undefined = 12 - resolution
        raw = sixteenths >> undefined << undefined
        tail = bytes([0x1F | (resolution - 9) << 5, 0xFF, 0x0C, 0x10])
    body = (raw & 0xFFFF).to_bytes(2, "little") + bytes(limits) + tail
    return body + bytes([crc8_of(body)])


@dataclass(slots=True)
class Thermometer:
    """One device.

    Attributes:
        code: its ROM code.
        course: the temperature around it.
        resolution: bits.
        parasite: powered by the line.
        away: stretches of time in which it is unplugged, s.
        dips: moments at which its supply dips, s.
        takes: share of the longest conversion time that it needs.
    """

    code: int
    course: Course
    resolution: int = 12
    parasite: bool = False
    away: tuple[tuple[float, float], ...] = ()
    dips: tuple[float, ...] = ()
    takes: float = 0.8
    limits: tuple[int, int] = DEFAULT_LIMITS
    _sixteenths: int = round(POWER_ON_C * 16)
    _started: float | None = None
    _awake_since: float = -math.inf
    _kept: tuple[int, int, int] = field(default=(*DEFAULT_LIMITS, 12))

    @property
    def family(self) -> int:
        """First byte of its code."""
        return self.code & 0xFF

    @property
    def bits(self) -> list[int]:
        """Its code, first bit first."""
        return [self.code >> place & 1 for place in range(64)]

    def plugged(self, at_s: float) -> bool:
        """Whether it is on the line."""
        return not any(start <= at_s < end for start, end in self.away)

    @property
    def conversion_s(self) -> float:
        """How long it converts, s."""
        bits = 12 if self.family == HALF else self.resolution
        return self.takes * CONVERSION_US[bits] / 1e6

    def _wake(self, at_s: float) -> None:
        """Forgets what power loss makes it forget."""
        losses = (*self.dips, *(end for _, end in self.away))
        lost = max((moment for moment in losses if moment <= at_s), default=-math.inf)
        if lost > self._awake_since:
            self._awake_since = lost
            self._sixteenths, self._started = round(POWER_ON_C * 16), None
            self.limits, self.resolution = self._kept[:2], self._kept[2]

    def _settle(self, at_s: float) -> None:
        self._wake(at_s)
        if self._started is not None and at_s >= self._started + self.conversion_s:
            low, high = KINDS[self.family].range_c
            measured = min(max(self.course(self._started), low), high)
            self._sixteenths, self._started = round(measured * 16), None

    def convert(self, at_s: float) -> None:
        """Starts a conversion."""
        self._settle(at_s)
        self._started = at_s

    def done(self, at_s: float) -> bool:
        """Whether no conversion runs."""
        self._settle(at_s)
        return self._started is None

    def disturb(self, at_s: float) -> None:
        """The line is used: a parasite-powered device loses its conversion."""
        if self.parasite and not self.done(at_s):
            self._started = None
            self._sixteenths = round(POWER_ON_C * 16)

    def read(self, at_s: float) -> bytes:
        """Its scratchpad."""
        self._settle(at_s)
        return pad_bytes(self._sixteenths, self.family, self.resolution, self.limits)

    def write(self, data: bytes, at_s: float) -> None:
        """Writes TH, TL and, where it has one, the configuration."""
        self._wake(at_s)
        self.limits = (data[0], data[1])
        if len(data) > 2 and self.family != HALF:
            self.resolution = 9 + (data[2] >> 5 & 3)

    def copy(self) -> None:
        """Keeps limits and configuration for the next power-on."""
        self._kept = (*self.limits, self.resolution)

    def recall(self) -> None:
        """Takes back what was kept."""
        self.limits, self.resolution = self._kept[:2], self._kept[2]

    def alarmed(self, at_s: float) -> bool:
        """Whether its last temperature is at or beyond a limit."""
        self._settle(at_s)
        whole = self._sixteenths >> 4
        high, low = ((byte ^ 0x80) - 0x80 for byte in self.limits)
        return whole >= high or whole <= low
