"""Scratchpads of the 1-Wire thermometers: bytes -> °C, and what each byte says.

Source: the data sheets of the families 28, 22, 10, 3B and 42.
"""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject, FrozenValue
from pivet.sheets.onewire import CONVERSION_US, KINDS, POWER_ON_C, SCRATCHPAD_BYTES

Bytes = npt.NDArray[np.uint8]
T_LOW, T_HIGH, HIGH_LIMIT, LOW_LIMIT, CONFIG, FIFTH, REMAIN, PER_DEGREE, CRC = range(9)

SIXTEENTH = 1 / 16
FINE_STEP_C = {9: 0.5, 10: 0.25, 11: 0.125, 12: 0.0625}
MOST_BITS = 12
HALF_DEGREES_FAMILY = 0x10


LOWEST_C, HIGHEST_C = np.full(256, -55.0), np.full(256, 125.0)
"""Range of each family, °C; that of family 28 where it is not known."""
for _kind in KINDS.values():
    LOWEST_C[_kind.code], HIGHEST_C[_kind.code] = _kind.range_c


class Temperatures(FrozenObject):
    """Temperatures of m scratchpads.

    Attributes:
        values: float64 (m,), °C.
        resolution: bits, 9 to 12, int8 (m,); 9 for family 10.
        possible: a thermometer can send this, bool (m,).
        power_on: the value is the one held before any conversion, bool (m,).
    """

    values: npt.NDArray[np.float64]
    resolution: npt.NDArray[np.int8]
    possible: npt.NDArray[np.bool_]
    power_on: npt.NDArray[np.bool_]


def looks_half_degrees(pads: Bytes) -> npt.NDArray[np.bool_]:
    """Whether scratchpads are of family 10, when the family is not known, bool (m,).

    Its bytes 4 and 5 are FF; of the others only byte 5 is.

    Args:
        pads: uint8 (9, p), a column a scratchpad.
    """
    found: npt.NDArray[np.bool_] = (pads[CONFIG] == 0xFF) & (pads[PER_DEGREE] != 0)
    return found


def temperatures(
    pads: Bytes, half: npt.NDArray[np.bool_], family: npt.NDArray[np.int64] | None = None
) -> Temperatures:
    """Values of whole scratchpads.

    Args:
        pads: uint8 (9, m).
        half: of family 10, bool (m,).
        family: the family of each device, int64 (m,), 0 where it is not known; None for all so.
    """
    raw = (pads[T_HIGH].astype(np.int16) << 8) | pads[T_LOW]
    resolution = np.where(half, 9, 9 + ((pads[CONFIG] >> 5) & 3)).astype(np.int8)
    undefined = np.where(half, 0, MOST_BITS - resolution)
    fine = (raw.astype(np.int32) >> undefined << undefined) * SIXTEENTH
    per = pads[PER_DEGREE].astype(np.float64)
    share = (per - pads[REMAIN]) / np.maximum(per, 1)
    coarse = (raw >> 1) - 0.25 + share
    values = np.where(half, coarse, fine)
    row = np.zeros(values.size, dtype=np.int64) if family is None else family
    possible = (values >= LOWEST_C[row]) & (values <= HIGHEST_C[row]) & (~half | (per > 0))
    # AA 00 alone may be 84.75 °C, measured; count remain tells.
    power_on = values == POWER_ON_C
    return Temperatures(values, resolution, possible, power_on.astype(bool))


def text_of(value: float) -> str:
    """A temperature with the decimals it has, at least one.

    Args:
        value: in the kept unit.
    """
    text = f"{value:.4f}".rstrip("0")
    return text + "0" if text.endswith(".") else text


class Scratchpad(FrozenValue):
    """One scratchpad, explained.

    Attributes:
        data: the bytes that came, at most nine.
        half_degrees: of family 10.
        raw: the two temperature bytes as a signed number; None when they did not come.
        value: °C; likewise.
        resolution: bits; None when the configuration did not come.
        undefined: how many low bits of ``raw`` say nothing at this resolution.
        step_c: smallest step at this resolution, °C.
        conversion_us: longest conversion at this resolution, µs.
    """

    data: bytes
    half_degrees: bool
    raw: int | None
    value: float | None
    resolution: int | None
    undefined: int
    step_c: float
    conversion_us: float

    @property
    def limits(self) -> tuple[int, int] | None:
        """Alarm limits TH and TL, whole °C; None when they did not come."""
        if len(self.data) <= LOW_LIMIT:
            return None
        return _signed(self.data[HIGH_LIMIT]), _signed(self.data[LOW_LIMIT])


def _signed(byte: int) -> int:
    return byte - 256 if byte & 0x80 else byte


def explain(data: bytes, family: int | None) -> Scratchpad:
    """What the bytes of a scratchpad say, whole or cut short.

    Args:
        data: up to nine bytes.
        family: the family of the device; None when it is not known.
    """
    whole = np.array([list(data.ljust(SCRATCHPAD_BYTES, b"\0"))], dtype=np.uint8).T
    half = bool(looks_half_degrees(whole)[0]) if family is None else family == HALF_DEGREES_FAMILY
    configured = len(data) > CONFIG
    if not configured:
        whole[CONFIG] = 0x7F
    found = temperatures(whole, np.array([half]))
    there = len(data) > (PER_DEGREE if half else T_HIGH)
    raw = int.from_bytes(data[:2], "little", signed=True)
    resolution = int(found.resolution[0])
    return Scratchpad(
        data=data,
        half_degrees=half,
        raw=raw if len(data) > T_HIGH else None,
        value=float(found.values[0]) if there else None,
        resolution=resolution if configured or half else None,
        undefined=0 if half else MOST_BITS - resolution,
        step_c=FINE_STEP_C[resolution],
        conversion_us=CONVERSION_US[12] if half else CONVERSION_US[resolution],
    )


def byte_words(pad: Scratchpad) -> list[tuple[str, str]]:
    """Name and meaning of each byte that came, for people.

    Args:
        pad: what was read of it.
    """
    rows = list(zip(BYTE_NAMES_HALF if pad.half_degrees else BYTE_NAMES, pad.data, strict=False))
    return [(name, _meaning(pad, number, byte)) for number, (name, byte) in enumerate(rows)]


BYTE_NAMES = ("T, low", "T, high", "TH", "TL", "config", "FF", "reserved", "10", "CRC")
BYTE_NAMES_HALF = ("T, low", "T, high", "TH", "TL", "FF", "FF", "remain", "per degree", "CRC")


def _meaning(pad: Scratchpad, number: int, byte: int) -> str:
    if number == T_LOW:
        return "half degrees" if pad.half_degrees else "sixteenths of a degree"
    if number == T_HIGH:
        return "sign and high bits"
    if number in (HIGH_LIMIT, LOW_LIMIT):
        return (
            f"alarm {'at or above' if number == HIGH_LIMIT else 'at or below'} {_signed(byte)} °C"
        )
    if number == CONFIG and not pad.half_degrees:
        return f"{pad.resolution} bit, {pad.step_c:g} °C, {pad.conversion_us / 1000:g} ms"
    if pad.half_degrees and number == REMAIN:
        return f"count remain {byte}"
    if pad.half_degrees and number == PER_DEGREE:
        return f"count per degree {byte}"
    return "check" if number == CRC else "fixed"
