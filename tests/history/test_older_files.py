"""Bench files of before: they open as they did, whatever they call a family or a notice.

``material/benchfiles`` has a file as version 4 wrote it, and what that Pivet printed of it.
"""

import gzip
import sqlite3
from contextlib import closing
from pathlib import Path

from pivet.families import FAMILIES
from pivet.files.benchfile.lock import WriterLock
from pivet.files.benchfile.notice_bits import CodeRow, renumber
from pivet.files.benchfile.rescue import rescue
from pivet.files.benchfile.store import BenchFile
from pivet.history.recorded import KeptHistory
from tests.base import CAPTURES, PivetTest
from tests.cli.running import pivet

BENCHFILES = CAPTURES / "benchfiles"
OURS: list[CodeRow] = [
    (key, int(row), row.code, int(row.weight))
    for key, family in FAMILIES.items()
    for row in family.notices
]


def told(path: Path) -> list[tuple[str, list[int]]]:
    """Family and notices of each wire, while somebody else may write: the file stays as it is."""
    lock = WriterLock(path)
    lock.take()
    try:
        with closing(BenchFile.open(path)) as bench:
            return [(row.family.key, row.notices.tolist()) for row in KeptHistory(bench).read()]
    finally:
        lock.give()


class VersionFour(PivetTest):
    """A file as the version before wrote it."""

    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "version4.pivet"
        self.path.write_bytes(gzip.decompress((BENCHFILES / "version4.pivet.gz").read_bytes()))

    def asked(self, sql: str) -> list[tuple[object, ...]]:
        """What stands in the file."""
        with closing(sqlite3.connect(self.path)) as plain:
            return plain.execute(sql).fetchall()

    def test_prints_as_before(self) -> None:
        """Byte by byte; the second time it has been brought up to date."""
        for _ in range(2):
            for command in ("readings", "stats"):
                done = pivet(command, self.path)
                self.assertEqual(0, done.exit_code, done.stderr)
                wanted = (BENCHFILES / f"version4.{command}.txt").read_text(encoding="utf-8")
                self.assertEqual(wanted, done.stdout)

    def test_families_are_named_anew(self) -> None:
        """In every table, and the example of the document still joins them."""
        before = told(self.path)
        BenchFile.open(self.path).close()
        self.assertEqual([(5,)], self.asked("PRAGMA user_version"))
        for table in ("wire", "sheet", "code"):
            found = {row[0] for row in self.asked(f"SELECT DISTINCT family FROM {table}")}
            self.assertEqual(set(FAMILIES), found, table)
        self.assertEqual(before, told(self.path))

    def test_rescued(self) -> None:
        """A rescued one is of today."""
        target = self.folder / "rescued.pivet"
        rescue(self.path, target)
        self.assertEqual(told(self.path), told(target))

    def shuffled(self) -> None:
        """Gives the file other numbers for its notices, and a table that says so."""
        with closing(sqlite3.connect(self.path, isolation_level=None)) as plain:
            plain.execute("UPDATE code SET bit = -(bit << 7)")
            plain.execute("UPDATE code SET bit = -bit")
            plain.execute("UPDATE exchange SET notices = notices << 7")

    def test_other_numbers(self) -> None:
        """What the file's own table says is believed, also when it is only looked at."""
        before = told(self.path)
        self.assertTrue(any(any(notices) for _, notices in before))
        self.shuffled()
        self.assertEqual(before, told(self.path))

    def test_other_numbers_are_brought_to_ours(self) -> None:
        """Before anything is recorded into the file, once and for all."""
        before, numbers = told(self.path), self.asked("SELECT notices FROM exchange")
        self.shuffled()
        for _ in range(2):
            with closing(BenchFile.open(self.path)) as bench, bench.writing():
                renumber(bench, OURS)
            self.assertEqual(numbers, self.asked("SELECT notices FROM exchange"))
            self.assertEqual(before, told(self.path))
        found = self.asked("SELECT family, bit, code FROM code")
        self.assertLessEqual({row[:3] for row in OURS}, set(found))
        self.assertEqual(len(found), len({row[:2] for row in found}))
