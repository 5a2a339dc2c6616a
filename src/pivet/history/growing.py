"""Columns that grow at their end, and whose last rows may be put anew."""

import numpy as np
import numpy.typing as npt

LEAST = 1024


class Growing:
    """An array that grows; what is taken out stays as it was.

    Args:
        dtype: the dtype of the values.
    """

    def __init__(self, dtype: npt.DTypeLike) -> None:
        self._room = np.empty(LEAST, dtype=dtype)
        self._size = self._shared = 0

    def __len__(self) -> int:
        return self._size

    def cut(self, size: int) -> None:
        """Forgets all rows from a place on.

        Args:
            size: how many rows stay.
        """
        if size < self._shared:
            # Somebody holds rows that are to be put anew.
            self._room = self._room.copy()
            self._shared = 0
        self._size = min(size, self._size)

    def extend(self, values: npt.NDArray[np.generic]) -> None:
        """Adds rows.

        Args:
            values: the new rows.
        """
        end = self._size + values.size
        if end > self._room.size:
            room = np.empty(max(end, 2 * self._room.size), dtype=self._room.dtype)
            room[: self._size] = self._room[: self._size]
            self._room, self._shared = room, 0
        self._room[self._size : end] = values
        self._size = end

    def taken(self) -> npt.NDArray[np.generic]:
        """All rows, without copying."""
        self._shared = self._size
        return self._room[: self._size]
