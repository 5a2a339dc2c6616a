"""What is said of made faults, word by word, changes only when somebody means it."""

import unittest

from tests.physics.said import PAGE, lines


class Said(unittest.TestCase):
    """Against the page that was last looked through."""

    maxDiff = 4000

    def test_word_by_word(self) -> None:
        """``python -m tests.physics.said`` writes it anew; read the difference."""
        self.assertEqual(PAGE.read_text(encoding="utf-8").splitlines(), list(lines()))


if __name__ == "__main__":
    unittest.main()
