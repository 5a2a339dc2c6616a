"""Putting batches of exchanges, each a set of columns, one after the other."""

from collections.abc import Callable, Sequence
from typing import Any, TypeVar

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import Exchanges
from pivet.frozen import replace
from pivet.signal.trace import Int64Array

B = TypeVar("B", bound=Exchanges)


def join_batches(batches: Sequence[B], nothing: Callable[[], B]) -> B:
    """Batches of one wire, in order of time, as one.

    Args:
        batches: arrays; the last axis of each counts.
        nothing: gives a batch without exchanges.
    """
    if len(batches) == 1:
        return batches[0]
    if not batches:
        return nothing()
    names = [name for name in batches[0].__struct_fields__ if not name.startswith("_")]
    columns = {
        name: np.concatenate([getattr(batch, name) for batch in batches], axis=-1) for name in names
    }
    return type(batches[0])(**columns)


def beside_between(batch: B, from_ns: int, to_ns: int) -> B:
    """The same exchanges with only those spikes and strays that begin in a time.

    Args:
        batch: a batch of any family.
        from_ns: its beginning, ns.
        to_ns: its end, which does not count, ns.
    """
    return _beside_where(batch, lambda starts: (starts >= from_ns) & (starts < to_ns))


def beside_bounded(batch: B, most: int) -> B:
    """The same exchanges with at most this many spikes and strays after the last of them.

    Those that stand before its end may be its own; of those after, the newest are kept.

    Args:
        batch: a batch of any family.
        most: how many spikes and strays.
    """
    starts = np.sort(np.concatenate((batch.spike_start_ns, batch.stray_start_ns)))
    ends = batch.end_ns
    end_ns = int(ends[-1]) if ends.size else int(np.iinfo(np.int64).min)
    behind = starts[starts > end_ns]
    if behind.size <= most:
        return batch
    newest = int(behind[-most])
    return _beside_where(batch, lambda times: (times <= end_ns) | (times >= newest))


def _beside_where(batch: B, wanted: Callable[[Int64Array], npt.NDArray[np.bool_]]) -> B:
    kept = {}
    for kind in ("spike", "stray"):
        names = [name for name in batch.__struct_fields__ if name.startswith(f"{kind}_")]
        inside = wanted(getattr(batch, f"{kind}_start_ns"))
        kept.update({name: getattr(batch, name)[inside] for name in names})
    struct: Any = batch
    other: B = replace(struct, **kept)
    return other
