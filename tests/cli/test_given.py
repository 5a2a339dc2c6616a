"""Paths are told as they were typed, and are what they are."""

import unittest
from pathlib import Path

from pivet.cli.given import Given


class Typed(unittest.TestCase):
    """However somebody writes it."""

    def test_told(self) -> None:
        """As typed, wherever it is told; what is made of it is told as any path."""
        for words in ("./a.vcd", "night/", "a//b.csv", ".", "/x/../y", "a.vcd"):
            given = Given(words)
            self.assertEqual((words, words), (str(given), f"{given}"))
            self.assertEqual(Path(words).parent, given.parent)
        self.assertEqual("a.csv", str(Given("./a.vcd").with_suffix(".csv")))
        self.assertEqual("night/x", str(Given("./night//") / "x"))

    def test_same(self) -> None:
        """One path, however it was typed: it counts once."""
        rows = [Given("./a"), Path("a"), Given("a"), Given("b/")]
        self.assertEqual([rows[0], Path("b")], [*dict.fromkeys(rows)])
        self.assertEqual((True, True), (Given("./a") == Path("a"), Path("a") == Given("./a")))
        self.assertNotEqual(Given("./a"), Given("./b"))
        self.assertNotEqual(Given("a"), "a")
