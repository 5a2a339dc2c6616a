"""Listening in the real window, to the stand-in probe at a real pseudo-terminal."""

import os
import pty
import time
from collections.abc import Callable
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QFileDialog, QInputDialog, QPushButton

from pivet.bench.live_bench import WireNow
from pivet.captures.capture import open_capture
from pivet.errors import Cancelled
from pivet.files.benchfile.store import BenchFile
from pivet.files.captures import write_capture
from pivet.frozen import replace
from pivet.keeping.kept import kept_captures
from pivet.standin.demo import cave_night
from pivet.ui.live.controls import PACES
from pivet.ui.live.thread import ListeningThread
from pivet.ui.standin.pane import StandinPane
from pivet.ui.wires.model import Row
from pivet.ui.work.way import WAY
from tests.patience import PATIENCE_S
from tests.ui.base import WindowTest

SELDOM_S = 5 * PATIENCE_S
SOME = ("wash_room", "wheels", "brine_vat")
FIRST_ASKS = 3
"""A round that may be going on, and the asks of two intervals."""
BREATHS, BREATH_S = 4, 15.0
"""A breath fades in so many seconds: who is asked too seldom for it breathes again."""


class LiveWindowTest(WindowTest):
    """Has a window that may listen."""

    def setUp(self) -> None:
        super().setUp()
        self.live = self.window.live

    def close_window(self) -> None:
        """What was heard is thrown away without a question."""
        self.live.keeper.throwaway = True
        super().close_window()

    def wait(self, condition: Callable[[], bool], what: str) -> None:
        """Lets things happen until something is so."""
        if not self.comes(condition, PATIENCE_S):
            rows = "; ".join(row.spoken for row in self.page.wires.rows)
            self.fail(f"waited in vain: {what} ({self.window.notice.text}) ({rows})")

    def comes(self, condition: Callable[[], bool], most_s: float) -> bool:
        """Lets things happen until something is so, or the time is over."""
        until = time.monotonic() + most_s
        while not condition():
            if time.monotonic() > until:
                return False
            self.nap(0.01)
        return True

    def row(self, name: str) -> Row:
        """A card of a live wire."""
        return next(row for row in self.page.wires.rows if row.short == name)

    def now(self, name: str) -> WireNow:
        """A live wire now."""
        now = self.row(name).now
        assert now is not None
        return now

    def value(self, name: str) -> float:
        """The first number that a card tells; NaN when it tells none."""
        wire = self.row(name).wire
        tracks = [row for row in wire.tracks if row.given.any()] if wire is not None else []
        return float(tracks[0].values[tracks[0].given][-1]) if tracks else float("nan")

    @property
    def pane(self) -> StandinPane:
        """The pane that moves the simulated world."""
        assert self.live.pane is not None
        return self.live.pane

    def choose(self, box: QComboBox, name: str) -> None:
        """Chooses in a list by typing its beginning."""
        box.setFocus()
        box.setCurrentIndex(-1)
        QTest.keyClicks(box, name)
        self.assertEqual(name, box.currentText())
        self.settle()

    def push(self, text: str) -> None:
        """Clicks a button of the pane."""
        button = next(row for row in self.pane.findChildren(QPushButton) if row.text() == text)
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        self.settle()

    def breathe(self, condition: Callable[[], bool], what: str) -> None:
        """Breathes on shelf A until something is so."""
        self.choose(self.pane.place, "shelf_A")
        for _ in range(BREATHS):
            self.push("Breathe")
            if self.comes(condition, BREATH_S):
                return
        self.fail(f"waited in vain: {what}")


class Cave(LiveWindowTest):
    """The cave, as a person plays with it."""

    def test_cave(self) -> None:
        """Breath, a probe pulled off and put back, asks, a crash, and what is kept of it all."""
        self.press("Ctrl+Shift+L")
        self.wait(lambda: "wheels" in self.names(), "all wires are there")
        self.wait(lambda: len(self.known()) == 6, "all sensors are known")
        self.assertEqual("shelf_A", self.session.wire.label)
        self.check_breath()
        self.check_pulled_off()
        self.check_stay_and_follow()
        self.check_ask_now()
        self.check_crash()
        self.check_saved()

    def names(self) -> list[str]:
        """Cards that are there."""
        return [row.short for row in self.page.wires.rows]

    def known(self) -> list[str]:
        """Wires with a sensor that has given a reading."""
        rows = [row for row in self.page.wires.rows if not row.is_head]
        return [row.short for row in rows if self.value(row.short) == self.value(row.short)]

    def check_breath(self) -> None:
        """Humidity climbs in the card and in the answer."""
        before, first = self.value("shelf_A"), self.session.number
        self.breathe(lambda: self.value("shelf_A") > before + 3, "humidity climbs")
        self.assertTrue(self.session.follows)
        self.assertGreater(self.session.number, first)
        self.wait(
            lambda: self.session.report.readings[0].text == f"{self.value('shelf_A'):.1f}",
            "the view follows",
        )

    def check_pulled_off(self) -> None:
        """Which probe it is is said within two intervals; that it is back, too."""
        self.choose(self.pane.sensor, "wheel_2")
        self.push("Pull off")
        said = "wheel 2, core gives no reading any more"
        asks = self.now("wheels").asks
        self.wait(lambda: said in self.window.notice.text, "the probe is missed")
        self.assertLessEqual(self.now("wheels").asks, asks + FIRST_ASKS)
        self.assertEqual("wheel 2, core is silent", self.row("wheels").trouble)
        self.wait(lambda: self.pane.plug.text() == "Put back", "the pane knows")
        self.push("Put back")
        self.wait(lambda: "gives readings again" in self.window.notice.text, "it is back")
        self.assertEqual("", self.row("wheels").trouble)

    def check_stay_and_follow(self) -> None:
        """Who looks at an exchange stays there, until he wants the newest."""
        self.press("PgUp")
        number = self.session.number
        shown = self.session.report.readings
        self.assertFalse(self.session.follows)
        self.press("+")
        zoomed = self.page.strip.scale
        self.wait(lambda: "2 newer" in self.live.bar.follow.text(), "newer ones come")
        self.assertEqual(number, self.session.number)
        self.assertEqual(shown, self.session.report.readings)
        self.assertEqual(zoomed, self.page.strip.scale)
        QTest.mouseClick(self.live.bar.follow, Qt.MouseButton.LeftButton)
        self.assertTrue(self.session.follows)
        newest = self.session.number
        self.assertGreater(newest, number)
        self.wait(lambda: self.session.number > newest, "the newest is followed")

    def check_ask_now(self) -> None:
        """One key asks; a slow wire too."""
        self.live.listening.change(SELDOM_S, 1)
        self.wait(lambda: self.now("shelf_A").every_s == SELDOM_S, "it is asked seldom")
        asks = self.now("shelf_A").asks
        self.wait(lambda: self.now("shelf_A").asks > asks, "the change asks once")
        time.sleep(2.1)
        asks = self.now("shelf_A").asks
        self.press("N")
        self.wait(lambda: self.now("shelf_A").asks > asks, "it is asked at once")
        self.press("Ctrl+Z")
        self.wait(lambda: self.now("shelf_A").every_s == 2.0, "asked as often as before")

    def check_crash(self) -> None:
        """Away is said, and back; the gap is kept."""
        self.push("Crash")
        self.wait(lambda: "It is looked for" in self.window.notice.text, "the probe is missed")
        self.wait(lambda: "away" in self.live.bar.text, "the bar says so")
        self.wait(lambda: "is back" in self.window.notice.text, "the probe is back")
        count = len(self.row("shelf_A").wire)
        self.wait(lambda: len(self.row("shelf_A").wire) > count + 1, "listening goes on")

    def check_saved(self) -> None:
        """The bench gets a name while it listens, and holds all of it."""
        path = self.folder / "cave.pivet"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
            self.press("Ctrl+S")
        self.finish_jobs()
        self.assertIn("cave.pivet", self.window.windowTitle())
        count = len(self.row("shelf_A").wire)
        self.wait(lambda: len(self.row("shelf_A").wire) > count, "listening goes on")
        self.press("Ctrl+Shift+.")
        self.wait(lambda: not self.live.listening.busy, "listening has ended")
        self.wait(lambda: "stays in the bench" in self.window.notice.text, "it is said")
        wires = {wire.title: wire.end for wire in self.session.capture.wires}
        self.window.close()
        bench = BenchFile.open(path)
        self.addCleanup(bench.close)
        (capture,) = kept_captures(bench)
        self.assertEqual(set(wires), {wire.title for wire in capture.wires})
        self.assertEqual(wires, {row.name: bench.count(row.id) for row in bench.wires()})
        gaps = bench.gaps(capture.kept.id, "cave.shelf_A")
        self.assertEqual(1, len(gaps))
        self.assertGreater(gaps[0].end_ns - gaps[0].start_ns, 2_000_000_000)


class Adding(LiveWindowTest):
    """Adding wires one by one."""

    def test_add_a_wire(self) -> None:
        """Source, line, what answers there, name; then it is listened to; undo and redo."""
        self.press("Ctrl+L")
        dialog = self.live.dialog
        assert dialog is not None
        self.assertFalse(dialog.add.isEnabled())
        dialog.source.setCurrentIndex(dialog.source.count() - 1)
        QTest.mouseClick(dialog.opener, Qt.MouseButton.LeftButton)
        self.wait(lambda: dialog.line.count() == 8, "the lines are there")
        at = next(n for n in range(8) if "wheels" in dialog.line.itemText(n))
        dialog.line.setCurrentIndex(at)
        self.assertEqual("wheels", dialog.name.text())
        QTest.mouseClick(dialog.find_out, Qt.MouseButton.LeftButton)
        self.wait(lambda: "28-0000061b2c7d" in dialog.answer.text(), "the codes are named")
        self.assertEqual("onewire", dialog.sensor.currentData().id)
        self.assertIn("750 ms", dialog.asking.reason.text())
        dialog.asking.every.setValue(0.1)
        self.assertGreaterEqual(dialog.asking.every.value(), 0.9)
        dialog.name.selectAll()
        QTest.keyClicks(dialog.name, "cheese")
        self.key(dialog.name, Qt.Key.Key_Return)
        self.assertIsNone(self.live.dialog)
        self.wait(lambda: self.session.wire is not None, "the wire is there")
        self.wait(lambda: self.value("cheese") > 5, "it is read")
        self.check_undone()
        self.check_refused()

    def check_undone(self) -> None:
        """Undo takes it away, redo brings it back; the numbers go on."""
        self.window.activateWindow()
        self.settle()
        self.press("Ctrl+Z")
        self.wait(lambda: len(self.page.wires.rows) == 1, "it rests")
        count = self.session.captures[0].wires[0].end
        self.press("Ctrl+Shift+Z")
        self.wait(lambda: len(self.page.wires.rows) == 2, "it is back")
        self.wait(lambda: self.row("cheese").wire.end > count + 3, "its numbers go on")

    def check_refused(self) -> None:
        """A line that is a wire already cannot be taken again; a source that is not there."""
        self.press("Ctrl+L")
        dialog = self.live.dialog
        assert dialog is not None
        texts = [dialog.line.itemText(n) for n in range(dialog.line.count())]
        self.assertTrue(texts[-1].endswith("is a wire already"), texts)
        self.key(dialog, Qt.Key.Key_Escape)
        self.live.listen("/dev/no-such-port")
        self.wait(lambda: "no-such-port" in self.window.notice.text, "it is said")
        self.assertEqual(1, len(self.live.listening.threads))


class Sources(LiveWindowTest):
    """Other sources in the window."""

    def test_replay(self) -> None:
        """A capture comes again as if it were live, and stays in the bench."""
        path = self.folder / "night.vcd"
        night = cave_night()
        some = tuple(row for row in night.lines if row.name.split(".")[1] in SOME)
        write_capture(replace(night, lines=some), path)
        found = {wire.name: wire for wire in open_capture(path).wires}
        with (
            mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")),
            mock.patch.object(QInputDialog, "getItem", return_value=(PACES[-1][0], True)),
        ):
            self.live.choose_replay()
        self.wait(lambda: "replay is over" in self.window.notice.text, "it is over")
        self.wait(lambda: not self.live.listening.busy, "the thread has ended")
        self.assertIsNone(self.session.live_now)
        for at, wire in enumerate(self.session.captures[0].wires):
            self.session.choose_wire((0, at))
            self.press("End")
            self.assertEqual(len(found[wire.name]) - 1, self.session.number)
            self.press("Home")
            self.assertEqual(0, self.session.number)
            self.assertEqual(
                found[wire.name].report(0).readings, self.session.report.readings, wire.label
            )

    def test_it_makes_way(self) -> None:
        """It pauses while the window works; when it is to end it neither waits nor searches."""
        bench = BenchFile.create(self.folder / "b.pivet")
        self.addCleanup(bench.close)
        thread = ListeningThread("line:/nowhere", bench, [])
        given: list[bool] = []
        with mock.patch.object(WAY, "give", lambda stopped: given.append(stopped())):
            thread._go_on(0.0)
            thread.end()
            with self.assertRaises(Cancelled):
                thread._go_on(0.0)
        self.assertEqual([False, True], given)

    def test_wrong_device(self) -> None:
        """Something that is no probe: one sentence, nothing changes."""
        # Who lost a probe looks for its port again: this one has a number that was not free.
        pairs = [pty.openpty() for _ in range(8)]
        for side in sum(pairs, ()):
            self.addCleanup(os.close, side)
        self.live.listen(os.ttyname(pairs[-1][1]))
        self.wait(lambda: "probe link" in self.window.notice.text, "it is said")
        self.assertEqual([], self.session.captures)
        self.assertFalse(self.live.listening.busy)
