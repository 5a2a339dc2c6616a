"""Frames: what stands between two zeros on the line, with number and CRC."""

import binascii
from collections.abc import Iterator

from pivet.frozen import FrozenValue
from pivet.sources.link.cobs import stuff, unstuff

END = b"\0"
HEAD = 2
CRC_BYTES = 2
CRC_START = 0xFFFF
MOST_BODY = 2048
"""A longer body is none: what goes on for longer between zeros is passed over."""

MOST_STUFFED = MOST_BODY + MOST_BODY // 254 + 2
NUMBERS = 256


def crc16(data: bytes) -> int:
    """CRC-16/IBM-3740: x^16 + x^12 + x^5 + 1, start FFFF; of ``123456789`` it is 29B1.

    Args:
        data: any bytes.
    """
    return binascii.crc_hqx(data, CRC_START)


class Frame(FrozenValue):
    """One frame.

    Attributes:
        kind: the kind of the message.
        number: the sender counts its frames, 0 to 255 and round again.
        payload: the payload of the message.
        missing: how many frames before this one did not arrive (at least).
    """

    kind: int
    number: int
    payload: bytes
    missing: int = 0


class FrameWriter:
    """Makes the frames of one side."""

    def __init__(self) -> None:
        self._number = 0

    def write(self, kind: int, payload: bytes) -> tuple[int, bytes]:
        """A frame's number, and its bytes as they go on the line.

        Args:
            kind: one of ``Kind``.
            payload: at most as long as a body may be, ``MOST_BODY`` with its head.
        """
        number = self._number
        self._number = (number + 1) % NUMBERS
        return number, frame_bytes(kind, number, payload)


def frame_bytes(kind: int, number: int, payload: bytes) -> bytes:
    """A frame as it goes on the line, the zero after it included.

    Args:
        kind: the kind of the message.
        number: that counts the frames, 0 to 255.
        payload: its bytes.
    """
    body = bytes((kind, number)) + payload
    return stuff(body + crc16(body).to_bytes(CRC_BYTES, "little")) + END


class FrameReader:
    """Finds the frames in whatever arrives; nothing that arrives makes it raise.

    Attributes:
        damaged: how many stretches between zeros were no frame.
        missing: how many frames did not arrive, by their numbers.
        skipped_bytes: how many bytes stood in damaged stretches.
    """

    def __init__(self) -> None:
        self._held = bytearray()
        self._next: int | None = None
        self._overlong = False
        self.damaged = 0
        self.missing = 0
        self.skipped_bytes = 0

    def feed(self, data: bytes) -> Iterator[Frame]:
        """Takes further bytes; gives the frames that they complete.

        Args:
            data: what came, cut anywhere.
        """
        self._held += data
        *parts, rest = self._held.split(END)
        self._held = rest
        for part in parts:
            overlong, self._overlong = self._overlong, False
            frame = None if overlong else self._frame(bytes(part))
            if frame is not None:
                yield frame
            elif part or overlong:
                self.damaged += 1
                self.skipped_bytes += len(part)
        if len(self._held) > MOST_STUFFED:
            self.skipped_bytes += len(self._held)
            self._held.clear()
            self._overlong = True

    def _frame(self, part: bytes) -> Frame | None:
        body = unstuff(part) if part else None
        if body is None or len(body) < HEAD + CRC_BYTES:
            return None
        content, crc = body[:-CRC_BYTES], body[-CRC_BYTES:]
        if crc16(content) != int.from_bytes(crc, "little"):
            return None
        number = content[1]
        missing = 0 if self._next is None else (number - self._next) % NUMBERS
        self._next = (number + 1) % NUMBERS
        self.missing += missing
        return Frame(content[0], number, content[HEAD:], missing)
