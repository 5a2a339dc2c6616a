"""The person's own sheets: a folder of them, and single ones."""

import os
import unittest
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from pivet.errors import InputError
from pivet.person.own_folder import own_folder
from pivet.person.own_sheets import bring_sheet, copy_text, use_folder
from pivet.sheets.check import sheet_problems
from pivet.sheets.load import (
    all_sheets,
    find_sheet,
    own_sheets,
    recognisable,
    sheet_text,
    shipped_sheets,
    use_own,
)
from tests.base import PivetTest


class Folder(PivetTest):
    """The person's folder of sheets."""

    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(use_own, ())

    def write(self, name: str, model: str, change: Callable[[str], str] = str) -> Path:
        """A sheet in the folder."""
        path = self.folder / f"{name}.toml"
        path.write_text(change(copy_text(model, name)), encoding="utf-8")
        return path

    def test_beside_ours(self) -> None:
        """They are found, come last, and are recognised only when they shall be."""
        self.write("cave", "dht22")
        self.write("vat", "dht11", lambda text: text.replace("by_choice = true", ""))
        self.assertEqual([], use_folder(self.folder))
        self.assertEqual(["cave", "vat"], list(all_sheets())[-2:])
        self.assertEqual({"cave", "vat"}, set(own_sheets()))
        self.assertEqual(["vat"], [one.id for one in recognisable("humidity-frame")][-1:])
        self.assertIn('id = "cave"', sheet_text("cave"))
        use_own(())
        with self.assertRaises(InputError):
            find_sheet("cave")

    def test_what_cannot_be_used(self) -> None:
        """Is left out and told; the others count."""
        self.write("good", "dht22")
        self.write("bad", "dht22", lambda text: text.replace("typ_us = 50", "typ_us = 500"))
        self.write("twice", "dht22", lambda text: text.replace('"twice"', '"good"'))
        (self.folder / "latin.toml").write_bytes(b"name = '\xff'")
        refused = [str(error) for error in use_folder(self.folder)]
        self.assertEqual(["good"], list(own_sheets()))
        self.assertEqual(3, len(refused))
        self.assertRegex(refused[0], r"bad\.toml, line \d+: max_us of bit_low")
        self.assertIn("tells", refused[0])
        self.assertIn("no UTF-8", refused[1])
        self.assertIn("has the id of good.toml", refused[2])

    def test_brought_again(self) -> None:
        """A file that was changed replaces what it was before."""
        path = self.write("own", "dht22")
        bring_sheet(path)
        text = path.read_text(encoding="utf-8").replace("min_us = 48", "min_us = 49")
        path.write_text(text, encoding="utf-8")
        bring_sheet(path)
        self.assertEqual(49, find_sheet("own").windows["bit_low"].min_us)
        self.assertEqual(1, len(own_sheets()))

    def test_where(self) -> None:
        """As the base directories say; a relative one is none."""
        with mock.patch.dict(os.environ, {"XDG_DATA_HOME": "/data"}):
            self.assertEqual(Path("/data/pivet/sheets"), own_folder())
        with mock.patch.dict(os.environ, {"XDG_DATA_HOME": "here", "HOME": "/h"}):
            self.assertEqual(Path("/h/.local/share/pivet/sheets"), own_folder())


class Copies(unittest.TestCase):
    """Beginnings of own sheets."""

    def test_ids(self) -> None:
        """Made of the name; never one of Pivet's; whole, with one line that says by choice."""
        for name, wanted in (
            ("My Cave", "my-cave"),
            ("dht22", "own-dht22"),
            ("..é..", "own"),
            ("x" * 99, "x" * 30),
            ("a.b_c-d", "a.b_c-d"),
        ):
            for model in shipped_sheets():
                text = copy_text(model, name)
                self.assertIn(f'id = "{wanted}"', text)
                self.assertEqual(1, text.count("by_choice = "))
                self.assertTrue(
                    text.startswith(f"# A timing sheet of your own, begun with {model}.")
                )
                self.assertEqual([], sheet_problems(text), (name, model))
        with self.assertRaises(InputError):
            copy_text("dht33", "x")
