"""Bytes copied from elsewhere, and what they would mean for one type."""

import re

from pivet.decode.checks import crc8_of
from pivet.errors import InputError
from pivet.frozen import FrozenValue
from pivet.judge.report import Check
from pivet.judge.verdict import Verdict

HEX = re.compile(r"(?:0x)?([0-9a-f]{1,2})(?![0-9a-f])", re.IGNORECASE)
KERNEL_CODE = re.compile(r"\s*([0-9a-f]{2})-([0-9a-f]{12})\s*", re.IGNORECASE)
KERNEL_CRC = re.compile(r":\s*crc=([0-9a-f]{2})\s+(YES|NO)", re.IGNORECASE)
KERNEL_T = re.compile(r"t=(-?\d+)")


class Meaning(FrozenValue):
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


class Copied(FrozenValue):
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


def read_copied(text: str, wanted: str) -> Copied:
    """Bytes from text: in hex, as a 1-Wire code, or as the kernel's 1-Wire file.

    Args:
        text: as it was copied.
        wanted: what can be given, for the message.

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
        return Copied(_bytes(first, wanted), stated, int(t[1]) if t else None)
    return Copied(_bytes(text, wanted))


def _bytes(text: str, wanted: str) -> bytes:
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
                f"{word!r} is no byte in hex" if word else "there are no bytes", wanted
            )
        found.append(int(match[1], 16))
    return bytes(found)
