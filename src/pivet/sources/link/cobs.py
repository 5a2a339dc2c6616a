"""Consistent overhead byte stuffing (Cheshire and Baker, 1999): bytes without zeros.

A block is a length and that many bytes less one; after each block but the last, and but
those of full length, there was a zero.
"""

FULL = 0xFF
"""Length byte of a block of 254 bytes after which no zero stood."""


def stuff(data: bytes) -> bytes:
    """Bytes as bytes other than zero; at most one more for every 254.

    Args:
        data: any bytes.
    """
    stuffed = bytearray()
    for part in data.split(b"\0"):
        while len(part) >= FULL - 1:
            stuffed.append(FULL)
            stuffed += part[: FULL - 1]
            part = part[FULL - 1 :]
        stuffed.append(len(part) + 1)
        stuffed += part
    return bytes(stuffed)


def unstuff(stuffed: bytes) -> bytes | None:
    """The bytes that were stuffed; None when these are no stuffed bytes.

    Args:
        stuffed: without the zero that ends them.
    """
    data, at, size = bytearray(), 0, len(stuffed)
    while at < size:
        length = stuffed[at]
        after = at + length
        if not length or after > size:
            return None
        data += stuffed[at + 1 : after]
        if length < FULL and after < size:
            data.append(0)
        at = after
    return bytes(data)
