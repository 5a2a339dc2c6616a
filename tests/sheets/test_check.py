"""Own timing sheets: what is wrong with one is told with its line, all of it."""

import tomllib
from collections.abc import Iterator
from pathlib import Path

from pivet.errors import InputError
from pivet.person.own_sheets import bring_sheet, copy_text
from pivet.sheets import check
from pivet.sheets.check import checked_sheet, sheet_problems
from pivet.sheets.inside import inside
from pivet.sheets.load import shipped_sheets, use_own
from tests.base import PivetTest
from tests.pages import Page

NAN = float("nan")
FITS = (
    (check.BYTE, (0, 1, 2), (-1, 3, True, 1.0, "1")),
    (check.NUMBER, (0, -1.5, 10**9), (True, NAN, float("inf"), "1")),
    (check.ABOVE_ZERO, (1, 0.1), (0, -1, "1", NAN)),
    (check.NOT_BELOW, (0, 0.1), (-0.1, "1", True)),
    (check.PAIR, ([1, 1], [0, 2], [-2, -1]), ([2, 1], [1], [1, 2, 3], [1, "2"], (1, 2), 3)),
    (check.LENGTH, (3, [1, 1], [1, 2]), (0, [0, 1], [2, 1], [1], "3")),
    (check.TEXTS, ([], ["a"]), (["a", 1], "a")),
    (check.FLAG, (True, False), (0, 1, "true")),
    (check.TABLES, ([], [{}]), ([{}, 1], {})),
    (check.TOP["id"], ("a", "0.b-c_d", "a" * 40), (3, "", "-a", "A", "a" * 41)),
    (check.TOP["family"], ("humidity-frame",), ("damp", 3)),
    (check.ECHO["lines"], (1, 2), (0, 3, True, 1.0)),
)
"""An entry, what can stand there, and what cannot."""

FAULTS = Path(__file__).with_name("faults.toml")
PAGE = Page(__file__)


class Checks(PivetTest):
    """``sheet_problems`` on a copy of each sheet, and on copies with one thing wrong."""

    def test_copies_are_whole(self) -> None:
        """Every sheet of Pivet can be begun with; it then differs in name and id alone."""
        for key, sheet in shipped_sheets().items():
            path = self.folder / f"My {key}.toml"
            path.write_text(copy_text(key, path.stem), encoding="utf-8")
            self.assertEqual([], sheet_problems(path.read_text(encoding="utf-8")), key)
            own = bring_sheet(path)
            self.addCleanup(use_own, ())
            self.assertEqual((f"my-{key}", True), (own.id, own.by_choice))
            for field in ("family", "windows", "values", "echo", "wiring", "interval_s", "parts"):
                self.assertEqual(getattr(sheet, field), getattr(own, field), key)

    def faults(self) -> Iterator[str]:
        """All that is told of each, and the one sentence where it is to be used."""
        for row in tomllib.loads(FAULTS.read_text(encoding="utf-8"))["faults"]:
            text = copy_text(row["sheet"], "own")
            for old, new in row["edits"]:
                self.assertIn(old, text)
                text = text.replace(old, new, 1)
            yield f"# {row['sheet']}: {row['edits']}"
            yield from (f"  {problem.says}" for problem in sheet_problems(text))
            try:
                yield f"  {checked_sheet(text, 'x.toml').id} is right"
            except InputError as error:
                yield f"  {error}"

    def test_fault_by_fault(self) -> None:
        PAGE.same(self, self.faults())

    def test_entries(self) -> None:
        """What can stand at a place, up to its ends, and what cannot."""
        for entry, fits, others in FITS:
            with self.subTest(entry.kind):
                self.assertEqual([], [value for value in fits if not entry.is_fit(value)])
                self.assertEqual([], [value for value in others if entry.is_fit(value)])

    def test_between(self) -> None:
        """Ends count as inside."""
        self.assertEqual(
            [False, True, True, True, False], [inside(v, 1, 3) for v in (0, 1, 2, 3, 4)]
        )

    def test_nested(self) -> None:
        """A file that is nothing but brackets is one sentence."""
        self.assertEqual(1, len(sheet_problems("a = " + "[" * 100_000)))
