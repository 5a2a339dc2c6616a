"""The figures by which this room decides: none changes unless somebody means it.

docs/truth.md and the page of each family say what they are for.
"""

import unittest

from tests.base import same_figures

FIGURES = {
    "step": {
        "LOOKED_AT": 4096,
        "LEAST_WIDTHS": 24,
        "LEAST_KINDS": 4,
        "LONGEST_STEPS": 400,
        "MOST_IN_SHORTEST": 64,
        "ROUNDED": 1.5,
        "NEIGHBOURS_SHARE": 0.05,
        "MANY_KINDS": 12,
        "MANY_FROM_NS": 5000,
    },
}


class Figures(unittest.TestCase):
    """Each module's own."""

    def test_figures(self) -> None:
        """As they were when they were last meant."""
        same_figures(self, "signal", FIGURES)


if __name__ == "__main__":
    unittest.main()
