"""The long demo night as a bench file: whoever waits for it sees how far it is, and may stop it."""

from itertools import pairwise

from pivet.bench.demo_night import FOUND, MADE, record_night
from pivet.errors import Cancelled
from tests.base import PivetTest
from tests.night import BEGAN

ENOUGH = 0.56


class Stopped(PivetTest):
    """What it holds is told by the tests that look at it."""

    def test_in_the_middle(self) -> None:
        """It tells of itself after few exchanges each, and leaves nothing when it is stopped."""
        shares: list[float] = []

        def told(share: float) -> None:
            shares.append(share)
            if share > ENOUGH:
                raise Cancelled

        path = self.folder / "night.pivet"
        with self.assertRaises(Cancelled):
            record_night(path, told, BEGAN)
        self.assertEqual([], list(self.folder.iterdir()))
        self.assertEqual(sorted(shares), shares)
        self.assertLess(max(b - a for a, b in pairwise(shares)), 0.08)
        for low, high, least in ((0.0, MADE, 100), (MADE, FOUND, 10), (FOUND, ENOUGH, 500)):
            self.assertGreater(sum(low <= share < high for share in shares), least)
