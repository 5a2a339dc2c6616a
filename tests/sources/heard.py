"""What came out of a source."""

import numpy as np

from pivet.sources.source import Batch


def edges_of(batches: list[Batch], line: str) -> np.ndarray:
    """All edges that came of a line."""
    pieces = [row.edges_ns for batch in batches for row in batch.pieces if row.line == line]
    return np.concatenate(pieces)
