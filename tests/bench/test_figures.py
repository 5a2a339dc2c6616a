"""The figures by which this room decides: none changes unless somebody means it.

docs/truth.md and the page of each family say what they are for.
"""

import importlib
import unittest

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
        for name, figures in FIGURES.items():
            module = importlib.import_module(f"pivet.bench.{name}")
            with self.subTest(name):
                self.assertEqual(figures, {key: getattr(module, key) for key in figures})


if __name__ == "__main__":
    unittest.main()
