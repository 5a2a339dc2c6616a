"""The 1-Wire standard's commands and families: one table for decoder, judge, stand-in, help.

Source: the 1-Wire standard and the data sheets of the thermometer families.
"""

from collections.abc import Mapping
from enum import IntEnum
from functools import lru_cache

from pivet.frozen import FrozenValue

RESOLUTIONS = (9, 10, 11, 12)
CONVERSION_US = {9: 93_750.0, 10: 187_500.0, 11: 375_000.0, 12: 750_000.0}
"""Longest conversion time by resolution, µs."""

POWER_ON_C = 85.0
"""What a thermometer's scratchpad holds before its first conversion, °C."""

SCRATCHPAD_BYTES = 9
ROM_BYTES = 8
ROM_BITS = 64


class Rom(IntEnum):
    """ROM commands: who is meant."""

    READ = 0x33
    MATCH = 0x55
    SKIP = 0xCC
    SEARCH = 0xF0
    ALARM_SEARCH = 0xEC
    FAST_SKIP = 0x3C
    FAST_MATCH = 0x69
    RESUME = 0xA5


class Function(IntEnum):
    """Function commands of the thermometers: what is to be done."""

    CONVERT = 0x44
    READ_SCRATCHPAD = 0xBE
    WRITE_SCRATCHPAD = 0x4E
    COPY = 0x48
    RECALL = 0xB8
    POWER = 0xB4


ROM_NAMES = {
    Rom.READ: "read ROM",
    Rom.MATCH: "match ROM",
    Rom.SKIP: "skip ROM",
    Rom.SEARCH: "search ROM",
    Rom.ALARM_SEARCH: "alarm search",
    Rom.FAST_SKIP: "overdrive skip",
    Rom.FAST_MATCH: "overdrive match",
    Rom.RESUME: "resume",
}

FUNCTION_NAMES = {
    Function.CONVERT: "convert",
    Function.READ_SCRATCHPAD: "read scratchpad",
    Function.WRITE_SCRATCHPAD: "write scratchpad",
    Function.COPY: "copy scratchpad",
    Function.RECALL: "recall",
    Function.POWER: "read power supply",
}

HOST, DEVICE = "h", "d"

BEHIND: Mapping[Rom, str] = {
    Rom.READ: DEVICE * ROM_BITS,
    Rom.MATCH: HOST * ROM_BITS,
    Rom.FAST_MATCH: HOST * ROM_BITS,
    Rom.SKIP: "",
    Rom.FAST_SKIP: "",
    Rom.RESUME: "",
    Rom.SEARCH: (DEVICE + DEVICE + HOST) * ROM_BITS,
    Rom.ALARM_SEARCH: (DEVICE + DEVICE + HOST) * ROM_BITS,
}
"""Who speaks in the slots between a ROM command and the function command, a letter a slot."""

GIVEN: Mapping[Function, str] = {
    Function.CONVERT: DEVICE,
    Function.READ_SCRATCHPAD: DEVICE,
    Function.WRITE_SCRATCHPAD: HOST,
    Function.COPY: DEVICE,
    Function.RECALL: DEVICE,
    Function.POWER: DEVICE,
}
"""Who speaks after a thermometer's function command, up to the next reset."""

SEARCHES = (Rom.SEARCH, Rom.ALARM_SEARCH)
MATCHES = (Rom.MATCH, Rom.FAST_MATCH)
POLLED = (Function.CONVERT, Function.COPY, Function.RECALL, Function.POWER)
"""After these the host may read single bits: 0 busy (or parasite power), 1 done."""


class Kind(FrozenValue):
    """A 1-Wire family.

    Attributes:
        code: its number, the first byte of each ROM code.
        name: what it is, for people.
        thermometer: its scratchpad holds a temperature.
        half_degrees: family 10: 9 bits, finer with count remain.
        written: bytes that follow Write Scratchpad.
        low_c, high_c: range of a thermometer, °C.
        conversion_us: longest conversion where that is not told by the resolution, µs; None.
        least_conversion_us: some of the family convert in so short a time, µs; None.
        accuracy_c, wide_c: what its sheet promises from -10 to +85 °C and beyond, plus or
            minus, °C.
    """

    code: int
    name: str
    thermometer: bool = False
    half_degrees: bool = False
    written: int = 3
    low_c: float = -55.0
    high_c: float = 125.0
    accuracy_c: float = 0.5
    wide_c: float = 2.0
    conversion_us: float | None = None
    least_conversion_us: float | None = None

    @property
    def range_c(self) -> tuple[float, float]:
        """What such a thermometer can measure, °C."""
        return self.low_c, self.high_c


KINDS = {
    kind.code: kind
    for kind in (
        Kind(0x28, "thermometer, 9 to 12 bit", thermometer=True),
        Kind(0x22, "thermometer, 9 to 12 bit", thermometer=True, accuracy_c=2.0, wide_c=3.0),
        Kind(
            0x10,
            "thermometer, 9 bit",
            thermometer=True,
            half_degrees=True,
            written=2,
            conversion_us=750_000.0,
        ),
        Kind(
            0x3B,
            "thermometer, 9 to 12 bit, or thermocouple converter",
            thermometer=True,
            low_c=-270.0,
            high_c=1800.0,
            least_conversion_us=100_000.0,
        ),
        Kind(0x42, "thermometer, 9 to 12 bit", thermometer=True, low_c=-40.0, high_c=85.0),
        Kind(0x01, "serial number"),
        Kind(0x05, "switch"),
        Kind(0x12, "two-channel switch"),
        Kind(0x1D, "counter with memory"),
        Kind(0x20, "four-channel A/D converter"),
        Kind(0x23, "4 kbit memory"),
        Kind(0x26, "battery monitor"),
        Kind(0x29, "eight-channel switch"),
        Kind(0x2D, "1 kbit memory"),
        Kind(0x3A, "two-channel switch"),
    )
}

NARROW_C = (-10.0, 85.0)
"""Where ``Kind.accuracy_c`` is promised, °C."""

UNNAMED = "device of a family without a name here"


def kind_name(family: int) -> str:
    """What a family is, for people.

    Args:
        family: the lowest byte of a ROM code.
    """
    return KINDS[family].name if family in KINDS else UNNAMED


def is_thermometer(family: int) -> bool:
    """Whether a family's scratchpad holds a temperature.

    Args:
        family: the lowest byte of a ROM code.
    """
    return family in KINDS and KINDS[family].thermometer


_ROM_NAMES = {int(command): name for command, name in ROM_NAMES.items()}
_FUNCTION_NAMES = {int(command): name for command, name in FUNCTION_NAMES.items()}


def rom_name(command: int) -> str:
    """A ROM command's name, for people.

    Args:
        command: the byte.
    """
    return _ROM_NAMES.get(command, "unknown ROM command")


def function_name(command: int) -> str:
    """A function command's name, for people.

    Args:
        command: the byte.
    """
    return _FUNCTION_NAMES.get(command, "function of another family")


@lru_cache(maxsize=4096)
def code_text(code: int) -> str:
    """A ROM code as the Linux kernel writes it: family, dash, serial most significant first.

    Args:
        code: 64 bits; bit 0 is the first on the wire, so the lowest byte is the family.
    """
    serial = (code >> 8) & 0xFFFF_FFFF_FFFF
    return f"{code & 0xFF:02x}-{serial:012x}"


def code_bytes(code: int) -> bytes:
    """A ROM code's eight bytes in the order on the wire.

    Args:
        code: the code of the device: eight bytes as a number, the family in the lowest.
    """
    return int(code).to_bytes(ROM_BYTES, "little")
