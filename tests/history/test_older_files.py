"""Bench files of before: they open as they did, whatever they call a family or a notice.

``material/benchfiles`` has a file as version 4 wrote it, and what that Pivet printed of it.
"""

import re
import sqlite3
from contextlib import closing
from pathlib import Path

from pivet.families import FAMILIES
from pivet.files.benchfile.lock import WriterLock
from pivet.files.benchfile.notice_bits import CodeRow, renumber
from pivet.files.benchfile.rescue import rescue
from pivet.files.benchfile.schema import VERSION
from pivet.files.benchfile.store import BenchFile
from pivet.history.recorded import KeptHistory
from pivet.keeping.recorded import RecordedWire, recorded_wires
from tests.base import CAPTURES, PivetTest, older_bench
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


Read = dict[tuple[str, ...], list[tuple[int, str]]]


def readings_in(path: Path) -> Read:
    """Numbers and values of what was read, by lines, device and quantity."""
    found: Read = {}
    with closing(BenchFile.open(path)) as bench:
        for row, history in zip(bench.wires(), KeptHistory(bench).read(), strict=True):
            lines = sorted(RecordedWire(bench, row).lines)
            for track in history.tracks:
                pairs = zip(history.number[track.at].tolist(), track.values.tolist(), strict=True)
                key = (*lines, track.rom, track.quantity)
                found[key] = [(number, f"{value:.4f}") for number, value in pairs]
    return found


class EveryVersion(PivetTest):
    """The same minute and a half of the cave, recorded by the programs of then."""

    def test_the_same_readings(self) -> None:
        """Opened, and rescued: at the same exchanges, though the first versions were one late."""
        wanted = readings_in(older_bench(3, self.folder))
        self.assertEqual(110, sum(map(len, wanted.values())))
        for version in (1, 2, 3):
            path = older_bench(version, self.folder)
            target = self.folder / "rescued.pivet"
            rescue(path, target)
            self.assertEqual(wanted, readings_in(target), f"rescued {version}")
            target.unlink()
            for _ in range(2):
                self.assertEqual(wanted, readings_in(path), version)

    def test_every_exchange_can_be_looked_at(self) -> None:
        """Decoded from the edges of then, each says what the file says of its verdict."""
        for version in range(1, VERSION):
            with closing(BenchFile.open(older_bench(version, self.folder))) as bench:
                for recorded in recorded_wires(bench):
                    last = len(recorded) - 1
                    wire = recorded.around(last)
                    rows = bench.exchanges(recorded.row.id, 0, last + 1)
                    self.assertEqual(last + 1, wire.end, recorded.row.name)
                    for row in rows[wire.first :]:
                        self.assertEqual(
                            row.start_ns, int(wire.exchanges.start_ns[row.number - wire.first])
                        )

    def test_only_looked_at(self) -> None:
        """While somebody else may write, the file stays of its version, and is shown."""
        for version in range(1, VERSION):
            path = older_bench(version, self.folder)
            before = path.read_bytes()
            self.assertEqual(7 if version == 5 else 5, len(told(path)))
            self.assertEqual(before, path.read_bytes())


class VersionFour(PivetTest):
    """A file as the version before wrote it."""

    def setUp(self) -> None:
        super().setUp()
        self.path = older_bench(4, self.folder)

    def asked(self, sql: str) -> list[tuple[object, ...]]:
        """What stands in the file."""
        with closing(sqlite3.connect(self.path)) as plain:
            return plain.execute(sql).fetchall()

    def test_prints_as_before(self) -> None:
        """Byte by byte, but for the zone of the times and a column that local ones have since.

        The second time the file has been brought up to date.
        """
        self.in_zone("UTC")
        for _ in range(2):
            for command in ("readings", "stats"):
                done = pivet(command, self.path)
                self.assertEqual(0, done.exit_code, done.stderr)
                wanted = (BENCHFILES / f"version4.{command}.txt").read_text(encoding="utf-8")
                # The file was told in UTC: local times stand beside it now, in any zone.
                now = re.sub(
                    r"^(time|\S{29}),(local_time|\S{29}),", r"\1,", done.stdout, flags=re.M
                )
                self.assertEqual(wanted, now)

    def test_families_are_named_anew(self) -> None:
        """In every table, and the example of the document still joins them."""
        before = told(self.path)
        BenchFile.open(self.path).close()
        self.assertEqual([(VERSION,)], self.asked("PRAGMA user_version"))
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
