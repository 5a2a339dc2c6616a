"""The figures by which this room decides: none changes unless somebody means it.

docs/truth.md and the page of each family say what they are for.
"""

import unittest

from tests.base import same_figures

FIGURES = {
    "reach": {
        "LEAST_TIMEOUT_MS": 1.0,
        "MOST_TIMEOUT_MS": 1000.0,
        "LEAST_M": 0.1,
        "MOST_M": 50.0,
    },
}


class Figures(unittest.TestCase):
    """Each module's own."""

    def test_figures(self) -> None:
        """As they were when they were last meant."""
        same_figures(self, "sheets", FIGURES)


if __name__ == "__main__":
    unittest.main()
