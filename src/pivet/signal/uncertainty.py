"""How far widths may be from the truth: one number for all, or one for each exchange.

A recorder that looks once a step knows each edge to half a step either way, and a width to a
whole one.  Sources that know more bring a number for each edge (``Line.uncertain_ns``); a width
is then as uncertain as its two edges together, and an exchange as its worst two.
"""

from collections.abc import Sequence

import numpy as np

from pivet.signal.trace import Int64Array, Line

Uncertainty = int | Int64Array
"""Of a width, ns: for all, or for the widths of each exchange, int64 (n,)."""


def at(uncertainty: Uncertainty, index: int) -> int:
    """Of the widths of one exchange, ns.

    Args:
        uncertainty: one for all, or of each exchange, ns.
        index: of the exchange, from 0.
    """
    return uncertainty if isinstance(uncertainty, int) else int(uncertainty[index])


def part(uncertainty: Uncertainty, first: int, last: int) -> Uncertainty:
    """Of the exchanges ``first`` up to ``last``.

    Args:
        uncertainty: one for all, or of each exchange, ns.
        first: index of the first exchange.
        last: one past the index of the last exchange.
    """
    return uncertainty if isinstance(uncertainty, int) else uncertainty[first:last]


def pick(uncertainty: Uncertainty, rows: Int64Array) -> Uncertainty:
    """Of chosen exchanges.

    Args:
        uncertainty: one for all, or of each exchange, ns.
        rows: which exchanges, int64 (k,).
    """
    return uncertainty if isinstance(uncertainty, int) else uncertainty[rows]


def worst(uncertainty: Uncertainty) -> int:
    """Of any width, ns.

    Args:
        uncertainty: of widths, ns.
    """
    if isinstance(uncertainty, int):
        return uncertainty
    return int(uncertainty.max()) if uncertainty.size else 0


def of_exchanges(
    lines: Sequence[Line], start_ns: Int64Array, end_ns: Int64Array, step_ns: int
) -> Uncertainty:
    """Of the widths of exchanges on some lines.

    Args:
        lines: the lines of a wire.
        start_ns: of each exchange, int64 (n,), ns.
        end_ns: likewise.
        step_ns: what holds where a line says nothing of its edges, ns.
    """
    own = [line for line in lines if line.uncertain_ns is not None]
    if not own or not start_ns.size:
        return step_ns
    worst = np.full(start_ns.size, step_ns if len(own) < len(lines) else 0, dtype=np.int64)
    for line in own:
        assert line.uncertain_ns is not None
        first = np.searchsorted(line.edges_ns, start_ns)
        last = np.searchsorted(line.edges_ns, end_ns, side="right")
        padded = np.append(line.uncertain_ns, 0)
        bounds = np.stack((first, np.maximum(last, first)), axis=1).ravel()
        found = np.maximum.reduceat(padded, bounds)[0::2]
        worst = np.maximum(worst, np.where(last > first, 2 * found, 0))
    return worst
