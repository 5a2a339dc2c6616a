"""The running log: flushed, rotated, gone on with, and never in anybody's way."""

import csv
import json
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import ClassVar
from unittest import mock

from pivet.captures.wire import Wire
from pivet.errors import OutputError
from pivet.files.readings_log import RunningLog
from pivet.files.readings_table import Cell, Form, Table, TableRow
from pivet.keeping.log import LogWish, ReadingsLog, read_wish
from pivet.listening.events import Event, Heard, Note
from pivet.person.annotations import NOTHING, Annotations, Labels
from pivet.person.roles import Role, Roles
from pivet.readings.correction import by_offset
from pivet.readings.series import Sensor
from pivet.readings.units import AS_KEPT
from tests.base import PivetTest
from tests.night import demo_night

DAY_NS = 86_400_000_000_000
NOON_NS = round(datetime(2026, 3, 7, 12).astimezone().timestamp()) * 10**9


def row(number: int, value: float | None = 12.5) -> TableRow:
    """A row of a thermometer."""
    reason = "" if value is not None else "no answer"
    return TableRow("t", "w", "", "", number, (Cell("temperature", value, 1),), "sound", reason)


class Files(PivetTest):
    """What stands on the disk."""

    def setUp(self) -> None:
        super().setUp()
        self.table = Table(Form.WIDE, ["temperature"])
        self.path = self.folder / "log.csv"

    def log(self, daily: bool = True) -> RunningLog:
        """A log, closed at the end."""
        log = RunningLog(self.path, self.table, daily)
        self.addCleanup(log.close)
        return log

    def lines(self, name: str) -> list[str]:
        """What a file holds now."""
        return (self.folder / name).read_text(encoding="utf-8").splitlines()

    def test_each_line_is_there_at_once(self) -> None:
        """Nothing waits in a buffer; a day is a file."""
        log = self.log()
        for number in range(3):
            log.add(NOON_NS + number, self.table.lines(row(number)))
            self.assertEqual(number + 2, len(self.lines("log-2026-03-07.csv")))
        log.add(NOON_NS + DAY_NS, self.table.lines(row(3)))
        self.assertEqual(2, len(self.lines("log-2026-03-08.csv")))

    def test_another_header_is_another_file(self) -> None:
        """Columns never change within a file, and nobody's file is written over."""
        self.path.write_text("my own notes\n", encoding="utf-8")
        log = self.log(daily=False)
        log.add(NOON_NS, self.table.lines(row(0)))
        self.table = Table(Form.WIDE, ["temperature"], AS_KEPT.with_unit("°F"))
        log.use(self.table)
        log.add(NOON_NS, self.table.lines(row(1)))
        self.assertEqual(["my own notes"], self.lines("log.csv"))
        self.assertIn("temperature_°C", self.lines("log-2.csv")[0])
        self.assertIn("54.5", self.lines("log-3.csv")[1])

    def test_a_full_disk(self) -> None:
        """Lines wait until there is room, and stand in their order then."""
        log = self.log(daily=False)
        log.add(NOON_NS, self.table.lines(row(0)))
        full = OSError(28, "No space left on device")
        with mock.patch.object(log, "_stream_of", side_effect=full):
            for number in (1, 2):
                with self.assertRaisesRegex(OutputError, "full"):
                    log.add(NOON_NS, self.table.lines(row(number)))
        log.add(NOON_NS, self.table.lines(row(3)))
        self.assertEqual(
            ["0", "1", "2", "3"], [line.split(",")[5] for line in self.lines("log.csv")[1:]]
        )


class Readings(PivetTest):
    """What is heard, as rows."""

    wires: ClassVar[dict[str, Wire]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.wires = {wire.label: wire for wire in demo_night().wires}

    def heard(self, wire: Wire) -> Iterator[Heard]:
        """Every exchange of a wire."""
        for index in range(len(wire)):
            yield Heard("w", index + 1, wire, index, 1)

    def logged(self, label: str, form: Form, labels: Labels, derived: bool = True) -> list[str]:
        """The lines of a log of one wire."""
        path = self.folder / f"log{form.suffix}"
        wish = LogWish(path, form, derived, daily=False)
        log = ReadingsLog(wish, lambda t: NOON_NS + t, lambda: labels)
        for event in self.heard(self.wires[label]):
            log.take([event])
        log.close()
        return log.file.read_text(encoding="utf-8").splitlines()

    def test_gaps_have_reasons(self) -> None:
        """A row an exchange; the failed ones are empty, with the reason."""
        rows = list(csv.DictReader(self.logged("cave.shelf_A", Form.WIDE, Labels())))
        self.assertEqual(360, len(rows))
        failed = [line for line in rows if not line["humidity_%RH"]]
        self.assertEqual(15, len(failed))
        self.assertTrue(all(line["reason"] for line in failed))
        self.assertFalse(any(line["dew_point_°C"] for line in failed))
        self.assertAlmostEqual(10.9, float(rows[0]["dew_point_°C"]), delta=0.5)

    def test_devices_roles_and_corrections(self) -> None:
        """Each device is a row of its own, under its role; raw values stand beside."""
        roles = Roles((Role("core", ("28-0000051b2c7d",)),))
        fixed = {Sensor("w", "core", "temperature"): by_offset(1.0)}
        lines = self.logged(
            "cave.wheels", Form.LINES, Labels(roles, Annotations(corrections=fixed))
        )
        rows = [json.loads(line) for line in lines]
        core = [line for line in rows if line["role"] == "core"]
        self.assertEqual({"28-0000051b2c7d"}, {line["device"] for line in core})
        value = core[0]["readings"][0]
        self.assertAlmostEqual(value["value"], value["raw"] + 1)
        others = [line for line in rows if line["role"] != "core"]
        self.assertNotIn("raw", others[0]["readings"][0])

    def test_a_revision_is_a_further_row(self) -> None:
        """Told again with the same values there is none; with others there is."""
        wire = self.wires["cave.shelf_A"]
        path = self.folder / "r.csv"
        log = ReadingsLog(LogWish(path, daily=False), lambda t: NOON_NS + t)
        self.addCleanup(log.close)
        log.take([Heard("w", 1, wire, 0, 1)])
        log.take([Heard("w", 1, wire, 0, 1, revised=True)])
        self.assertEqual(2, len(path.read_text(encoding="utf-8").splitlines()))
        log.take([Heard("w", 1, wire, 5, 1, revised=True)])
        self.assertEqual(3, len(path.read_text(encoding="utf-8").splitlines()))

    def test_a_correction_that_comes_later(self) -> None:
        """From then on the raw values have a column, in a file with another header."""
        given = [NOTHING]
        wish = LogWish(self.folder / "c.csv", daily=False)
        log = ReadingsLog(wish, lambda t: NOON_NS + t, lambda: Labels(annotations=given[0]))
        self.addCleanup(log.close)
        events = list(self.heard(self.wires["cave.shelf_A"]))[:4]
        for event in events[:2]:
            log.take([event])
        first = log.file
        given[0] = NOTHING.corrected(Sensor("w", "", "humidity"), by_offset(-2.0))
        for event in events[2:]:
            log.take([event])
        self.assertNotEqual(first, log.file)
        texts = [path.read_text(encoding="utf-8").splitlines() for path in (first, log.file)]
        before, after = (list(csv.DictReader(text)) for text in texts)
        self.assertEqual([2, 2], [len(before), len(after)])
        self.assertNotIn("humidity_raw_%RH", before[0])
        raw, value = float(after[0]["humidity_raw_%RH"]), float(after[0]["humidity_%RH"])
        self.assertAlmostEqual(-2.0, value - raw)

    def test_trouble_is_told_once(self) -> None:
        """And the rows come later."""
        wire = self.wires["cave.shelf_A"]
        folder = self.folder / "gone"
        log = ReadingsLog(LogWish(folder / "r.csv", daily=False), lambda t: NOON_NS + t)
        self.addCleanup(log.close)
        told: list[Event] = []
        log.say = told.append
        log.take(list(self.heard(wire))[:3])
        (note,) = told
        assert isinstance(note, Note)
        self.assertIn("behind", note.says)
        folder.mkdir()
        log.take([Heard("w", 4, wire, 3, 1)])
        self.assertEqual(5, len((folder / "r.csv").read_text(encoding="utf-8").splitlines()))

    def test_wishes(self) -> None:
        """Kept as text; nonsense is no wish."""
        wish = LogWish(Path("/a/b.csv"), Form.LONG, True, False, AS_KEPT.with_unit("K"))
        self.assertEqual(wish, read_wish(wish.text()))
        for text in ("", "{}", "[1]", '{"path": 1}'):
            self.assertIsNone(read_wish(text))
