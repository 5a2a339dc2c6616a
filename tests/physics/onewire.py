"""1-Wire transactions by the standard's figures: who pulls low and when; µs."""

from dataclasses import dataclass, field

import numpy as np

from tests.physics.line import Times, pulled_low


def crc8(data: bytes) -> int:
    """x^8 + x^5 + x^4 + 1, bit by bit as the standard draws it."""
    crc = 0
    for byte in data:
        for place in range(8):
            mix = (crc ^ (byte >> place)) & 1
            crc = (crc >> 1) ^ (0x8C if mix else 0)
    return crc


def code(family: int, serial: int) -> bytes:
    """Eight bytes of a ROM code."""
    body = bytes([family]) + serial.to_bytes(6, "little")
    return body + bytes([crc8(body)])


def pad_28(celsius: float, bits: int = 12, reserved: int | None = None) -> bytes:
    """A scratchpad of family 28 (22, 42, 3B)."""
    raw = round(celsius * 16)
    if reserved is None:
        reserved = 0x10 - (raw & 0xF)
    body = (raw & 0xFFFF).to_bytes(2, "little") + bytes(
        (0x4B, 0x46, 0x1F | (bits - 9) << 5, 0xFF, reserved, 0x10)
    )
    return body + bytes([crc8(body)])


def pad_10(celsius: float) -> bytes:
    """A scratchpad of family 10 with count remain."""
    fine = round((celsius + 0.25) * 16)
    whole, part = fine >> 4, fine & 15
    raw = (whole << 1) & 0xFFFF
    body = raw.to_bytes(2, "little") + bytes((0x4B, 0x46, 0xFF, 0xFF, 16 - part, 16))
    return body + bytes([crc8(body)])


@dataclass
class Bus:
    """A host and what answers it; writes down who pulls low."""

    at: float = 1000.0
    slot: float = 70.0
    one: float = 6.0
    zero: float = 60.0
    hold: float = 30.0
    reset_low: float = 480.0
    wait: float = 30.0
    presence_low: float = 120.0
    answers: bool = True
    spans: list[tuple[float, float]] = field(default_factory=list)

    def reset(self) -> "Bus":
        """A reset, and presence if somebody is there."""
        self.spans.append((self.at, self.at + self.reset_low))
        release = self.at + self.reset_low
        if self.answers:
            self.spans.append((release + self.wait, release + self.wait + self.presence_low))
        self.at = release + 500.0
        return self

    def write(self, *data: int) -> "Bus":
        """Bytes by the host."""
        for byte in data:
            for place in range(8):
                low = self.one if byte >> place & 1 else self.zero
                self.spans.append((self.at, self.at + low))
                self.at += self.slot
        return self

    def read(self, data: bytes) -> "Bus":
        """Bytes by a device; FF without one."""
        for byte in data:
            for place in range(8):
                held = self.answers and not byte >> place & 1
                self.spans.append((self.at, self.at + (self.hold if held else self.one)))
                self.at += self.slot
        return self

    def rest(self, us: float) -> "Bus":
        """Nothing happens."""
        self.at += us
        return self

    def scratchpad(self, pad: bytes, rom: bytes | None = None) -> "Bus":
        """Read Scratchpad of one device, or of whoever answers."""
        self.reset()
        self.write(*((0x55, *rom) if rom else (0xCC,)), 0xBE)
        return self.read(pad).rest(2000)

    def convert(self, rom: bytes | None = None, wait_us: float = 800_000) -> "Bus":
        """Convert, and the time it takes."""
        self.reset()
        self.write(*((0x55, *rom) if rom else (0xCC,)), 0x44)
        return self.rest(wait_us)

    def edges(self) -> Times:
        """The line's edges."""
        return pulled_low(np.array(self.spans))
