"""Where what the judges say turns, it turns at the figure that was last meant."""

import unittest

from tests.physics.turns import PAGES, SWEEPS, kept


class Turns(unittest.TestCase):
    """Against the pages that were last looked through; ``python -m tests.physics.turns`` writes
    them anew: read the difference.
    """

    def same(self, page: str) -> None:
        """Each figure of a page."""
        for name, figure, said in kept(page):
            with self.subTest(f"{name} at {figure}"):
                self.assertEqual(said, PAGES[page][0](SWEEPS[name], figure))

    def test_judged(self) -> None:
        """Of which sensor it is, and what is said of it."""
        self.same("judge")

    def test_likeness(self) -> None:
        """Whether the lines are those of the family."""
        self.same("likeness")
