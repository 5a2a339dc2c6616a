"""What the messages of both sides are made of; see docs/probe-link.md."""

import struct
from enum import IntEnum, IntFlag

MAJOR, MINOR = 1, 1
"""The version that is spoken here.  A probe of another major version is not understood."""

STAMPS_MINOR = 1
"""From this minor version on a probe says how exact its stamps are."""

UNKNOWN_COUNT = 0xFFFF_FFFF

MOST_LINES = 32
MOST_VARINT = 5
"""Bytes of a varint."""

MOST_STEP_US = 500_000
"""The longest step of an ask."""

MOST_RUN = 8
"""How many steps can be repeated at most."""

SENT_WRAP = 1 << 16
MOST_TICK = 1 << 56


class Malformed(Exception):
    """A frame whose CRC holds, but whose content is none of ours."""


class Can(IntFlag):
    """What a line can do."""

    PULL_LOW = 1
    DRIVE_HIGH = 2
    PULL_UP = 4


class Drive(IntEnum):
    """How an ask drives its line: in its odd steps; in the even ones the line is let go."""

    LOW = 0
    HIGH = 1


class Reason(IntEnum):
    """Why a probe refuses a message."""

    UNKNOWN_MESSAGE = 1
    BAD_CONTENT = 2
    NO_SUCH_LINE = 3
    LINE_CANNOT = 4
    TOO_LONG = 5
    BUSY = 6
    VERSION = 7

    @property
    def says(self) -> str:
        """For people."""
        return (
            "it does not know this message",
            "it does not understand the content",
            "it has no such line",
            "the line cannot do that",
            "it is too long for its memory",
            "it is still busy with another ask",
            "it speaks another version of the probe link",
        )[self - 1]


def unpack_from(form: struct.Struct, data: bytes) -> tuple[int, ...]:
    """The numbers at the beginning of a payload.

    Args:
        form: what stands at the beginning.
        data: the payload.

    Raises:
        Malformed: it is too short.
    """
    if len(data) < form.size:
        raise Malformed("too short")
    return form.unpack_from(data)


def text_of(data: bytes) -> str:
    """A name or word of the probe; what is no UTF-8 is replaced.

    Args:
        data: in UTF-8.
    """
    return data.decode("utf-8", errors="replace")


def member(kind: type[IntEnum], value: int) -> IntEnum:
    """One of several, by its number.

    Args:
        kind: the numbers that there are.
        value: as it arrived.

    Raises:
        Malformed: there is none of that number.
    """
    try:
        return kind(value)
    except ValueError as error:
        raise Malformed(f"no {kind.__name__} {value}") from error
