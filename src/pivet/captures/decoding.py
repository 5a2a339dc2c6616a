"""Feeding the lines of a wire to its family's decoder, piece by piece."""

import numpy as np

from pivet.decode.interface import Exchanges
from pivet.families.family import AnyFamily
from pivet.progress import Progress, silent
from pivet.signal.trace import Int64Array, Line, Trace

BATCH = 1 << 17
"""Edges of the busiest line fed at once: bounds memory, gives progress."""


def decode_lines(
    family: AnyFamily,
    lines: tuple[Line, ...],
    trace: Trace,
    progress: Progress = silent,
    most: int | None = None,
) -> Exchanges:
    """Exchanges of one wire.

    Args:
        family: the family whose decoder to use.
        lines: the lines of the wire, in the family's order.
        trace: the trace they belong to.
        progress: called with the share done, 0 to 1.
        most: how many edges of the busiest line at most, for a look.

    Raises:
        Cancelled: ``progress`` raised it.
    """
    decoder = family.decoder(tuple(line.initial for line in lines), trace.start_ns)
    edges = [line.edges_ns for line in lines]
    busiest = max(edges, key=len)
    bounds, end_ns = _bounds(busiest, most), trace.end_ns
    batches, done = [], [0] * len(lines)
    for number, bound in enumerate(bounds, 1):
        until = end_ns if bound is None else bound
        upto = [len(line) if bound is None else _after(line, bound) for line in edges]
        pieces = tuple(row[first:last] for row, first, last in zip(edges, done, upto, strict=True))
        batches.append(decoder.feed(pieces, until))
        done = upto
        progress(number / len(bounds))
    batches.append(decoder.finish())
    return family.join(batches)


def _bounds(busiest: Int64Array, most: int | None) -> list[int | None]:
    """Times up to which the pieces reach; None stands for the end of the capture."""
    if most is not None and busiest.size > most:
        return [int(busiest[most - 1])]
    cuts: list[int | None] = [int(busiest[at - 1]) for at in range(BATCH, busiest.size, BATCH)]
    return [*cuts, None]


def _after(edges: Int64Array, t_ns: int) -> int:
    return int(np.searchsorted(edges, t_ns, side="right"))
