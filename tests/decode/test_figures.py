"""The figures by which this room decides."""

import unittest

from tests.figures import same_constants


class Figures(unittest.TestCase):
    """Each module's own."""

    def test_constants(self) -> None:
        """As they were when they were last meant."""
        same_constants(self, __file__)


if __name__ == "__main__":
    unittest.main()
