"""What copied bytes mean as a ROM code or as the scratchpad of a thermometer."""

from collections.abc import Iterator

from pivet.decode.checks import crc8_of
from pivet.judge.copied import Copied, Meaning
from pivet.judge.onewire.report import crc_check
from pivet.judge.report import Check
from pivet.judge.verdict import Verdict
from pivet.readings.thermometer import HALF_DEGREES_FAMILY, byte_words, explain, text_of
from pivet.sheets.inside import inside
from pivet.sheets.onewire import KINDS, POWER_ON_C, code_text, kind_name

ROM, SCRATCHPAD = 8, 9
SIXTEENTHS_FAMILY = 0x28


def meanings(copied: Copied) -> list[Meaning]:
    """What the bytes would say; none where they are neither eight nor nine.

    Args:
        copied: the bytes, and what came with them.
    """
    if len(copied.data) == ROM:
        return _as_codes(copied)
    if len(copied.data) == SCRATCHPAD:
        return [_as_pad(copied, family) for family in (SIXTEENTHS_FAMILY, HALF_DEGREES_FAMILY)]
    return []


def _as_codes(copied: Copied) -> list[Meaning]:
    """As a ROM code, and read from the other end if only that checks."""
    found = [_as_code(copied.data, "ROM code", copied.has_check)]
    backwards = copied.data[::-1]
    if found[0].verdict is Verdict.UNSOUND and any(backwards) and crc8_of(backwards) == 0:
        found.append(_as_code(backwards, "ROM code, bytes in the other order", True))
    return found


def _as_code(data: bytes, title: str, has_check: bool) -> Meaning:
    check, code = crc_check(data, "ROM code"), code_text(int.from_bytes(data, "little"))
    name = kind_name(data[0])
    verdict, says = Verdict.SOUND, f"{code}, {name}"
    if not has_check:
        says += f"; its CRC is {data[-1]:02x}"
    if not any(data):
        verdict, says = Verdict.UNSOUND, "all zeros: the CRC holds, yet no device has this code"
    elif data == b"\xff" * ROM:
        verdict, says = Verdict.UNSOUND, "all ones: nobody gave a code"
    elif not check.ok:
        verdict, says = Verdict.UNSOUND, f"the CRC is wrong; it would be {code}, {name}"
    rows = (
        (f"{data[0]:02x}", f"family: {name}"),
        (data[1:7].hex(" "), "serial number, least significant byte first"),
        (f"{data[7]:02x}", "CRC"),
    )
    return Meaning(title, verdict, says, check, rows)


def _as_pad(copied: Copied, family: int) -> Meaning:
    data = copied.data
    pad, check = explain(data, family), crc_check(data, "scratchpad")
    kinds = [f"{code:02x}" for code, kind in KINDS.items() if kind.thermometer]
    of_half = family == HALF_DEGREES_FAMILY
    others = [code for code in kinds if code != f"{HALF_DEGREES_FAMILY:02x}"]
    title = "thermometer of family 10" if of_half else f"thermometer of {', '.join(others)}"
    value = 0.0 if pad.value is None else pad.value
    verdict, says = Verdict.SOUND, f"{text_of(value)} °C"
    if pad.resolution is not None and not of_half:
        says += f", {pad.resolution} bit"
    if not any(data):
        verdict, says = Verdict.UNSOUND, "all zeros: the CRC holds, yet nothing was sent"
    elif data == b"\xff" * SCRATCHPAD:
        verdict, says = Verdict.UNSOUND, "all ones: nobody answered"
    elif not check.ok:
        verdict, says = Verdict.UNSOUND, f"the CRC is wrong; it would say {says}"
    elif not inside(value, *KINDS[family].range_c) or (of_half and not data[7]):
        verdict, says = Verdict.UNSOUND, f"{says} cannot come from such a thermometer"
    elif _unlike(data, of_half):
        verdict, says = Verdict.NEAR, f"{says}; but bytes 5 to 8 are not this family's"
    elif value == POWER_ON_C:
        verdict, says = Verdict.NEAR, f"{says}: what it holds from power-on; was it converted?"
    rows = [
        (f"{byte:02x}", f"{name}: {meaning}")
        for byte, (name, meaning) in zip(data, byte_words(pad), strict=True)
    ]
    rows += _kernel_rows(copied, check, value)
    return Meaning(title, verdict, says, check, tuple(rows))


def _unlike(data: bytes, of_half: bool) -> bool:
    """Whether the fixed bytes speak for the other kind."""
    return (data[4] != 0xFF) if of_half else (data[4] & 0x9F != 0x1F)


def _kernel_rows(copied: Copied, check: Check, value: float) -> Iterator[tuple[str, str]]:
    """What the kernel's file says beside the bytes."""
    if copied.kernel_crc is not None:
        stated, holds = copied.kernel_crc
        agrees = stated == check.computed and holds == bool(check.ok)
        said = "as worked out here" if agrees else "which is not what the bytes give"
        yield f"crc={stated:02x} {'YES' if holds else 'NO'}", f"the kernel's check, {said}"
    if copied.kernel_t is not None:
        agrees = abs(copied.kernel_t - value * 1000) <= 1
        said = "the same" if agrees else f"not the same: the bytes give {value * 1000:.0f}"
        yield f"t={copied.kernel_t}", f"the kernel's reading in 1/1000 °C, {said}"
