"""Check values over bytes."""

from functools import lru_cache

import numpy as np
import numpy.typing as npt

Bytes = npt.NDArray[np.uint8]


def sum8(payload: Bytes) -> Bytes:
    """Sum of bytes, modulo 256.

    Args:
        payload: uint8, shape (k, ...).

    Returns:
        uint8, shape (...).

    Source: humidity sensors' sheets: b4 = (b0 + b1 + b2 + b3) & 0xFF.
    """
    total: Bytes = payload.sum(axis=0, dtype=np.uint8)
    return total


POLYNOMIAL = 0x8C
"""x^8 + x^5 + x^4 + 1, bits reflected; start value 0."""


def _crc_table() -> Bytes:
    table = np.arange(256, dtype=np.uint8)
    for _ in range(8):
        table = np.where(table & 1, (table >> 1) ^ np.uint8(POLYNOMIAL), table >> 1)
    return table.astype(np.uint8)


CRC_TABLE = _crc_table()


def crc8(payload: Bytes) -> Bytes:
    """CRC-8 of the 1-Wire standard; 0 over bytes followed by their own CRC.

    Args:
        payload: uint8, shape (k, ...).

    Returns:
        uint8, shape (...).

    Source: 1-Wire standard: x^8 + x^5 + x^4 + 1, reflected (0x8C), start 0.
    """
    crc: Bytes = np.zeros(payload.shape[1:], dtype=np.uint8)
    for number in payload:
        crc = CRC_TABLE[crc ^ number]
    return crc


@lru_cache(maxsize=4096)
def crc8_of(data: bytes) -> int:
    """CRC-8 of a few bytes, see ``crc8``.

    Args:
        data: bytes, in the order on the wire.
    """
    return int(crc8(np.frombuffer(data, dtype=np.uint8).reshape(-1, 1))[0]) if data else 0
