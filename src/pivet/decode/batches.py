"""Putting batches of exchanges, each a set of columns, one behind the other."""

from collections.abc import Callable, Sequence
from dataclasses import fields
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
