"""Putting batches of exchanges, each a set of columns, one behind the other."""

from collections.abc import Callable, Sequence
from dataclasses import fields, replace
from typing import TYPE_CHECKING, TypeVar

import numpy as np

if TYPE_CHECKING:
    from _typeshed import DataclassInstance

B = TypeVar("B", bound="DataclassInstance")


def join_batches(batches: Sequence[B], nothing: Callable[[], B]) -> B:
    """Batches of one wire, in order of time, as one.

    Args:
        batches: dataclasses of arrays; the last axis of each counts.
        nothing: gives a batch without exchanges.
    """
    if len(batches) == 1:
        return batches[0]
    if not batches:
        return nothing()
    names = [row.name for row in fields(batches[0])]
    columns = {
        name: np.concatenate([getattr(batch, name) for batch in batches], axis=-1) for name in names
    }
    return type(batches[0])(**columns)


def beside_between(batch: B, from_ns: int, to_ns: int) -> B:
    """The same exchanges with only those spikes and strays that begin in a time.

    Args:
        batch: of any family.
        from_ns: its beginning, ns.
        to_ns: its end, which does not count, ns.
    """
    kept = {}
    for kind in ("spike", "stray"):
        names = [row.name for row in fields(batch) if row.name.startswith(f"{kind}_")]
        starts = getattr(batch, f"{kind}_start_ns")
        inside = (starts >= from_ns) & (starts < to_ns)
        kept.update({name: getattr(batch, name)[inside] for name in names})
    return replace(batch, **kept)
