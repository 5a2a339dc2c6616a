"""A package imported one statement at a time."""

import sys
from importlib import import_module
from pathlib import Path
from unittest import mock

from pivet.ui.piecemeal import import_piecemeal
from tests.base import PivetTest

FIRST = '"""Made up."""\nONE = 1\nfrom .inner import TWO\nfrom pieces import ONE as again\n'


class Piecemeal(PivetTest):
    """Packages in a folder of their own."""

    def setUp(self) -> None:
        super().setUp()
        kept = mock.patch.multiple(sys, path=[str(self.folder), *sys.path])
        self.enterContext(kept)
        self.enterContext(mock.patch.dict(sys.modules))

    def package(self, name: str, text: str) -> Path:
        """Writes one."""
        place = self.folder / name
        place.mkdir()
        (place / "__init__.py").write_text(text, encoding="utf-8")
        (place / "inner.py").write_text("from . import ONE\nTWO = ONE + 1\n", encoding="utf-8")
        return place

    def test_as_import_would(self) -> None:
        """A step for each statement; then it is what an import gives."""
        self.package("pieces", FIRST)
        known = [sorted(vars(sys.modules["pieces"])) for _ in import_piecemeal("pieces")]
        self.assertEqual(4, len(known))
        self.assertNotIn("ONE", known[0])
        self.assertNotIn("TWO", known[1])
        module = import_module("pieces")
        self.assertEqual((1, 2, 1), (module.ONE, module.TWO, module.again))
        self.assertEqual("Made up.", module.__doc__)
        self.assertEqual([], list(import_piecemeal("pieces")), "it is there already")

    def test_left_halfway(self) -> None:
        """It is as if nobody had begun."""
        self.package("pieces", FIRST)
        steps = import_piecemeal("pieces")
        next(steps)
        next(steps)
        del steps
        self.assertNotIn("pieces", sys.modules)
        self.assertEqual(2, import_module("pieces").TWO)

    def test_what_fails(self) -> None:
        """Its error is told, and nothing half is left; what has no text is imported whole."""
        self.package("pieces", "ONE = 1\nimport there_is_none_of_this_name\n")
        with self.assertRaises(ImportError):
            list(import_piecemeal("pieces"))
        self.assertNotIn("pieces", sys.modules)
        with self.assertRaises(ImportError):
            list(import_piecemeal("there_is_none_of_this_name"))
        del sys.modules["_json"]
        self.assertEqual([], list(import_piecemeal("_json")))
        self.assertIn("_json", sys.modules)
