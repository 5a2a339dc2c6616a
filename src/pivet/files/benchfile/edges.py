"""Edges of a stretch of a line as bytes."""

import zlib

import numpy as np

from pivet.signal import varint
from pivet.signal.trace import Int64Array

LEVEL = 6
MOST_BYTES = 1 << 24
"""A block is unpacked to no more."""

MOST_NS = 1 << 61


def packed(edges_ns: Int64Array, start_ns: int) -> bytes:
    """Edges as a block: zlib (RFC 1950) of varints, the distance from each to the one before.

    Args:
        edges_ns: strictly rising, not before ``start_ns``, int64 (n,), ns.
        start_ns: from when on the line is known; the first distance is from here, ns.
    """
    distances = edges_ns.copy()
    distances[1:] -= edges_ns[:-1]
    distances[:1] -= start_ns
    return zlib.compress(varint.packed_array(distances), LEVEL)


def unpacked(data: bytes, start_ns: int) -> Int64Array | None:
    """The edges of a block, int64 (n,), ns; None when it is damaged, or larger than any block.

    Args:
        data: a block as it is stored.
        start_ns: where the block begins.
    """
    unpacker = zlib.decompressobj()
    try:
        plain = unpacker.decompress(data, MOST_BYTES)
    except zlib.error:
        return None
    distances = varint.unpacked(plain) if unpacker.eof else None
    if distances is None or (distances.size > 1 and int(distances[1:].min()) < 1):
        return None
    if float(distances.sum(dtype=np.float64)) > MOST_NS:
        return None
    edges: Int64Array = distances.cumsum() + start_ns
    return edges
