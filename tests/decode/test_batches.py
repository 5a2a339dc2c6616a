"""Checks over bytes; spikes and strays beside exchanges, by time and by number."""

import unittest

import numpy as np

from pivet.decode.batches import beside_between, beside_bounded
from pivet.frozen import replace
from tests.base import FAMILIES, feed_in_pieces
from tests.decode.frames import edges_from, frame_widths, with_sum


class Beside(unittest.TestCase):
    """Spikes around one frame."""

    def setUp(self) -> None:
        frame = edges_from(frame_widths(with_sum(b"\2\x8c\1\x5f")), 100_000.0)
        spikes = [np.array([at, at + 3_000]) for at in (10**6, *range(4 * 10**8, 8 * 10**8, 10**8))]
        edges = np.sort(np.concatenate([frame, *spikes]))
        self.found = feed_in_pieces(FAMILIES["humidity-frame"], (edges,), 10**9)
        self.starts = self.found.spike_start_ns

    def test_between(self) -> None:
        """The beginning counts, the end does not."""
        self.assertEqual(5, self.starts.size)
        kept = beside_between(self.found, 4 * 10**8, 6 * 10**8)
        self.assertEqual([4 * 10**8, 5 * 10**8], kept.spike_start_ns.tolist())
        self.assertEqual(len(self.found), len(kept))

    def test_bounded(self) -> None:
        """The newest behind the last exchange; those before its end are all kept."""
        kept = beside_bounded(self.found, 2)
        self.assertEqual([10**6, 6 * 10**8, 7 * 10**8], kept.spike_start_ns.tolist())
        self.assertIs(self.found, beside_bounded(self.found, 4))
        ends_there = replace(self.found, end_ns=np.array([4 * 10**8]))
        self.assertIs(ends_there, beside_bounded(ends_there, 3))
