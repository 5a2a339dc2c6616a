"""Bytes copied from elsewhere, checked and explained for every type that they could be."""

import re
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from pivet.decode.checks import crc8_of
from pivet.errors import InputError
from pivet.judge.humidity.report import sum_check
from pivet.judge.onewire.report import crc_check
from pivet.judge.report import Check
from pivet.judge.verdict import Verdict
from pivet.readings.forms import byte_names
from pivet.readings.thermometer import HALF_DEGREES_FAMILY, byte_words, explain, text_of
from pivet.readings.values import quantity, shown
from pivet.sheets.load import recognisable
from pivet.sheets.model import Sheet
from pivet.sheets.onewire import KINDS, POWER_ON_C, code_text, kind_name

HUMIDITY, ROM, SCRATCHPAD = 5, 8, 9
HEX = re.compile(r"(?:0x)?([0-9a-f]{1,2})(?![0-9a-f])", re.IGNORECASE)
KERNEL_CODE = re.compile(r"\s*([0-9a-f]{2})-([0-9a-f]{12})\s*", re.IGNORECASE)
KERNEL_CRC = re.compile(r":\s*crc=([0-9a-f]{2})\s+(YES|NO)", re.IGNORECASE)
KERNEL_T = re.compile(r"t=(-?\d+)")
WANTED = (
    "give 5 bytes of a humidity frame, 8 of a ROM code, 9 of a scratchpad, a code like "
    "28-0000051b2c7d, or the two lines of the kernel's 1-Wire file"
)


@dataclass(frozen=True, slots=True)
class Reading:
    """What bytes would mean for one type.

    Attributes:
        title: the type.
        verdict: how they stand for it.
        says: the meaning, or why there is none, in one sentence.
        check: sum or CRC.
        rows: name and meaning of the parts.
    """

    title: str
    verdict: Verdict
    says: str
    check: Check
    rows: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class Copied:
    """Bytes as they were copied.

    Attributes:
        data: the bytes.
        kernel_crc: check value and verdict of the kernel's file; None elsewhere.
        kernel_t: its reading in thousandths of a degree; None elsewhere.
        has_check: the last byte came along; False for a code in kernel form.
    """

    data: bytes
    kernel_crc: tuple[int, bool] | None = None
    kernel_t: int | None = None
    has_check: bool = True


def read_copied(text: str) -> Copied:
    """Bytes from text.

    Raises:
        InputError: there are none, or something that is no byte.
    """
    code = KERNEL_CODE.fullmatch(text)
    if code is not None:
        body = bytes.fromhex(code[1]) + bytes.fromhex(code[2])[::-1]
        return Copied(body + bytes([crc8_of(body)]), has_check=False)
    crc, t = KERNEL_CRC.search(text), KERNEL_T.search(text)
    if crc is not None or t is not None:
        first = text.splitlines()[0].partition(":")[0].partition("t=")[0]
        stated = (int(crc[1], 16), crc[2].upper() == "YES") if crc else None
        return Copied(_bytes(first), stated, int(t[1]) if t else None)
    return Copied(_bytes(text))


def _bytes(text: str) -> bytes:
    plain = re.sub(r"[\s,;:\[\]{}()]+", " ", text).strip()
    solid = plain.replace(" ", "").removeprefix("0x")
    if re.fullmatch(r"[0-9a-fA-F]+", solid) and len(solid) % 2 == 0 and " " not in plain:
        return bytes.fromhex(solid)
    found: list[int] = []
    for word in plain.split(" "):
        match = HEX.fullmatch(word)
        if match is None:
            if re.fullmatch(r"(?:[0-9a-fA-F]{2})+", word):
                found.extend(bytes.fromhex(word))
                continue
            raise InputError(
                f"{word!r} is no byte in hex" if word else "there are no bytes", WANTED
            )
        found.append(int(match[1], 16))
    return bytes(found)


def explain_bytes(text: str) -> list[Reading]:
    """What copied bytes mean, for every type that they could be, the likeliest first.

    Raises:
        InputError: no type has so many bytes, or the text is none.
    """
    copied = read_copied(text)
    size = len(copied.data)
    found: list[Reading]
    if size == HUMIDITY:
        found = [_as_frame(copied.data, sheet) for sheet in recognisable("humidity")]
    elif size == ROM:
        found = _as_codes(copied)
    elif size == SCRATCHPAD:
        found = [_as_pad(copied, family) for family in (0x28, HALF_DEGREES_FAMILY)]
    else:
        raise InputError(f"no type has {size} bytes" if size else "there are no bytes", WANTED)
    return sorted(found, key=lambda row: row.verdict)


def _as_frame(data: bytes, sheet: Sheet) -> Reading:
    check = sum_check(data)
    packed = np.frombuffer(data, dtype=np.uint8).reshape(HUMIDITY, 1)
    verdict, words = Verdict.SOUND, []
    for rule in sheet.values:
        row = quantity(rule, packed)
        words.append(f"{shown(float(row.values[0]), rule)} {rule.unit}")
        if not row.possible[0]:
            verdict = Verdict.UNSOUND
            words[-1] += " (impossible)"
        elif not row.in_range[0]:
            verdict = max(verdict, Verdict.NEAR)
            words[-1] += " (out of range)"
    says = ", ".join(words)
    if not any(data):
        verdict, says = Verdict.UNSOUND, "all bytes are zero: the sum holds, yet nothing was sent"
    elif not check.ok:
        verdict, says = Verdict.UNSOUND, f"the sum is wrong; it would say {says}"
    names = byte_names(sheet)
    rows = tuple((f"{byte:02x}", name) for byte, name in zip(data, names, strict=True))
    return Reading(f"{sheet.name} ({sheet.id})", verdict, says, check, rows)


def _as_codes(copied: Copied) -> list[Reading]:
    """As a ROM code, and read from the other end if only that checks."""
    found = [_as_code(copied.data, "ROM code", copied.has_check)]
    backwards = copied.data[::-1]
    if found[0].verdict is Verdict.UNSOUND and any(backwards) and crc8_of(backwards) == 0:
        found.append(_as_code(backwards, "ROM code, bytes in the other order", True))
    return found


def _as_code(data: bytes, title: str, has_check: bool) -> Reading:
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
    return Reading(title, verdict, says, check, rows)


def _as_pad(copied: Copied, family: int) -> Reading:
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
    low, high = KINDS[family].low_c, KINDS[family].high_c
    if not any(data):
        verdict, says = Verdict.UNSOUND, "all zeros: the CRC holds, yet nothing was sent"
    elif data == b"\xff" * SCRATCHPAD:
        verdict, says = Verdict.UNSOUND, "all ones: nobody answered"
    elif not check.ok:
        verdict, says = Verdict.UNSOUND, f"the CRC is wrong; it would say {says}"
    elif not low <= value <= high or (of_half and not data[7]):
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
    return Reading(title, verdict, says, check, tuple(rows))


def _unlike(data: bytes, of_half: bool) -> bool:
    """Whether the fixed bytes speak for the other kind."""
    return (data[4] != 0xFF) if of_half else (data[4] & 0x9F != 0x1F)


def _kernel_rows(copied: Copied, check: Check, value: float) -> Iterator[tuple[str, str]]:
    """What the kernel's file says beside the bytes."""
    if copied.kernel_crc is not None:
        stated, holds = copied.kernel_crc
        agrees = stated == check.computed and holds == bool(check.ok)
        said = "as reckoned here" if agrees else "which is not what the bytes give"
        yield f"crc={stated:02x} {'YES' if holds else 'NO'}", f"the kernel's check, {said}"
    if copied.kernel_t is not None:
        agrees = abs(copied.kernel_t - value * 1000) <= 1
        said = "the same" if agrees else f"not the same: the bytes give {value * 1000:.0f}"
        yield f"t={copied.kernel_t}", f"the kernel's reading in 1/1000 °C, {said}"


def explained_lines(readings: list[Reading]) -> Iterator[str]:
    """All meanings as plain text."""
    marks = {Verdict.SOUND: "●", Verdict.NEAR: "▲", Verdict.UNKNOWN: "○", Verdict.UNSOUND: "✗"}
    for row in readings:
        yield f"{marks[row.verdict]} {row.title}: {row.says}"
        yield f"    {row.check.says}"
        for part, meaning in row.rows:
            yield f"    {part:<18} {meaning}"
