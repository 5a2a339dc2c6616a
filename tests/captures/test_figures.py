"""The figures by which this room decides: none changes unless somebody means it.

docs/truth.md and the page of each family say what they are for.
"""

import unittest

from tests.base import same_figures

FIGURES = {
    "looking": {
        "LOOK": 32768,
        "MOST_LOOKED_AT": 64,
        "MOST_PAIRED": 16,
        "MOST_TURNED": 5,
    },
}


class Figures(unittest.TestCase):
    """Each module's own."""

    def test_figures(self) -> None:
        """As they were when they were last meant."""
        same_figures(self, "captures", FIGURES)


if __name__ == "__main__":
    unittest.main()
