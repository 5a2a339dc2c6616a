"""Where what the judges say turns, it turns at the figure that was last meant."""

import unittest

from tests.physics.turns import SWEEPS, kept, told


class Turns(unittest.TestCase):
    """Against the page that was last looked through."""

    def test_each(self) -> None:
        """``python -m tests.physics.turns`` writes it anew; read the difference."""
        for name, figure, said in kept("judge"):
            with self.subTest(f"{name} at {figure}"):
                self.assertEqual(said, told(SWEEPS[name], figure))
