"""What is known of the devices on a line, carried from transaction to transaction."""

from dataclasses import dataclass, field
from functools import cache

from pivet.sheets.onewire import CONVERSION_US, KINDS

EVERY = -2
"""Target of a command for all devices at once."""
NOBODY = -1

MOST_BITS = 12


@dataclass(slots=True)
class Device:
    """One device of a line.

    Attributes:
        code: its ROM code.
        resolution: bits, as last written or read; 0 when it is not known.
        parasite: powered by the line, as last asked; None when nobody asked.
        answered: it has answered in this capture.
        left: it has answered before and does not answer now.
        converted_ns: when its last conversion was started, and whether one was read since.
        done_ns: when it was seen to be over.
        value: last believed temperature.
        reserved: byte 6 of its last scratchpad; None before one was read.
        moves: that byte was seen to change.
    """

    code: int
    resolution: int = 0
    parasite: bool | None = None
    answered: bool = False
    left: bool = False
    converted_ns: int | None = None
    done_ns: int | None = None
    read_since: bool = False
    value: float | None = None
    reserved: int | None = None
    moves: bool = False

    def start(self, at_ns: int, done_ns: int | None) -> None:
        """A conversion was started.

        Args:
            at_ns: when, ns.
            done_ns: when it is over, ns; None where that is not known.
        """
        self.converted_ns, self.done_ns, self.read_since = at_ns, done_ns, False

    @property
    def due_ns(self) -> int:
        """How long a conversion takes at most, ns."""
        return _conversion_ns(self.code & 0xFF, self.resolution)[1]

    @property
    def soonest_ns(self) -> int:
        """How soon a conversion can be over, by what the family promises, ns."""
        return _conversion_ns(self.code & 0xFF, self.resolution)[0]

    def saw_reserved(self, byte: int) -> None:
        """Takes note of byte 6 of a scratchpad, which follows the temperature in some parts.

        Args:
            byte: the byte, 0 to 255.
        """
        self.moves = self.moves or (self.reserved is not None and self.reserved != byte)
        self.reserved = byte


@cache
def _conversion_ns(family: int, resolution: int) -> tuple[int, int]:
    """How soon a conversion can be over, and how long it takes at most, ns."""
    kind = KINDS.get(family)
    most_us = None if kind is None else kind.conversion_us
    due = round((most_us or CONVERSION_US[resolution or MOST_BITS]) * 1000)
    least_us = None if kind is None else kind.least_conversion_us
    return due if least_us is None else min(round(least_us * 1000), due), due


@dataclass(slots=True)
class Bus:
    """All devices of a line, and which one is meant.

    Attributes:
        devices: the devices, in the order in which they were met.
        chosen: number of the device that the last ROM command left chosen.
        anyone: stands for whatever answers when all are asked at once.
    """

    devices: list[Device] = field(default_factory=list)
    chosen: int = NOBODY
    anyone: Device = field(default_factory=lambda: Device(0))
    numbers: dict[int, int] = field(default_factory=dict)

    def number_of(self, code: int) -> int:
        """Number of the device with a code, met now if it was not before.

        Args:
            code: the code of the device: eight bytes as a number, the family in the lowest.
        """
        if code not in self.numbers:
            self.numbers[code] = len(self.devices)
            met = Device(code)
            for name in ("converted_ns", "done_ns", "parasite", "resolution"):
                setattr(met, name, getattr(self.anyone, name))
            self.devices.append(met)
        return self.numbers[code]

    def meant(self, target: int) -> list[Device]:
        """The devices that a target means.

        Args:
            target: number of a device, or all of them, or nobody.
        """
        if target == EVERY:
            return [*self.devices, self.anyone]
        return [self.devices[target]] if target >= 0 else []

    def one(self, target: int) -> Device | None:
        """The device whose answer is read.

        Args:
            target: number of a device, or all of them, or nobody.
        """
        if target == EVERY:
            return self.devices[0] if len(self.devices) == 1 else self.anyone
        return self.devices[target] if target >= 0 else None

    def near(self, code: int) -> int | None:
        """The known device whose code differs from this one in a single bit.

        Args:
            code: the code of the device: eight bytes as a number, the family in the lowest.
        """
        found = [
            number
            for number, device in enumerate(self.devices)
            if (device.code ^ code).bit_count() == 1
        ]
        return found[0] if len(found) == 1 else None
