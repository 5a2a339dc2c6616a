"""The pane of the simulated cave: every part of it says something that the cave obeys."""

import json
import os
import signal
from functools import partial
from pathlib import Path
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QPushButton

from pivet.standin.live.cave import Cave, make_cave
from pivet.standin.probe.orders import Mishaps, carry_out
from pivet.ui.standin.pane import StandinPane
from pivet.ui.standin.process import StandinProcess
from tests.ui.base import WindowTest


class Obeyed(StandinProcess):
    """Carries out orders in a cave of its own, at once."""

    def __init__(self) -> None:
        super().__init__()
        self.cave: Cave = make_cave()
        self.mishaps = Mishaps()
        self.now_s = 1.0
        self.orders: list[str] = []

    def order(self, line: str) -> None:
        """Does what a line says."""
        self.orders.append(line)
        assert carry_out(line, self.cave, self.mishaps, self.now_s) == "ok", line
        self.ask_state()

    def ask_state(self) -> None:
        """Tells the truth."""
        state = carry_out("state", self.cave, self.mishaps, self.now_s)
        self.state.emit(json.loads(state))


class Process(WindowTest):
    """The cave itself, beside the window."""

    def test_its_end(self) -> None:
        """Nobody waits for it but who ends with it; nothing of it stays."""
        live = self.window.live
        for waits in (False, True):
            live.listen_to_cave(whole=False)
            cave = live.cave
            assert cave is not None
            self.wait_for(lambda: live.listens, "the cave is listened to")
            live.end_cave()
            self.wait_for(lambda: not live.listens, "listening has ended")
            self.assertEqual([cave], live._going)
            self.assertTrue(cave._runs)
            if waits:
                cave.wait()
            else:
                self.wait_for(lambda: not live._going, "the cave has ended")
            self.assertEqual([], live._going)
            self.assertFalse(Path(cave.path).parent.exists())

    def test_one_that_hangs(self) -> None:
        """It is waited for a while, and killed; nothing of it stays either."""
        live = self.window.live
        with mock.patch("pivet.ui.standin.process.END_MS", 200):
            for waits in (False, True):
                live.listen_to_cave(whole=False)
                cave = live.cave
                assert cave is not None
                self.wait_for(lambda: live.listens, "the cave is listened to")
                number = cave._process.processId()
                live.listening.stop()
                os.kill(number, signal.SIGSTOP)
                cave.close()
                if waits:
                    cave.wait()
                    self.assertFalse(cave._runs)
                self.wait_for(lambda cave=cave: not cave._runs, "the cave was killed")
                self.assertFalse(Path(f"/proc/{number}").exists())
                self.assertFalse(Path(cave.path).parent.exists())
                live.end_cave()
                self.settle()


class Pane(WindowTest):
    """What a person does in it, and what becomes of the cave."""

    def setUp(self) -> None:
        super().setUp()
        self.process = Obeyed()
        self.addCleanup(self.process.close)
        self.pane = StandinPane(self.process)
        self.addCleanup(self.pane.close)
        self.pane.show()
        self.process.ask_state()

    def push(self, text: str) -> None:
        """Clicks a button."""
        buttons = self.pane.findChildren(QPushButton)
        self.tick(next(row for row in buttons if row.text() == text))

    def tick(self, button: QAbstractButton) -> None:
        """Clicks a button or a box, at its beginning."""
        where = button.rect().center()
        where.setX(8)
        QTest.mouseClick(button, Qt.MouseButton.LeftButton, pos=where)
        self.settle()

    def test_every_order(self) -> None:
        """Each button and box gives its order, for what is chosen."""
        pane, cave = self.pane, self.process.cave
        pane.place.setCurrentText("wash_room")
        pane.wire.setCurrentText("blast_chiller")
        pane.sensor.setCurrentText("wheel_3")
        for text in ("Breathe", "Warm hand", "Cold", "Pull off", "Brown-out", "Swap"):
            self.push(text)
        for box in (pane.weak, pane.noisy, pane.slow):
            self.tick(box)
        for text in ("Put back", "Drop bytes", "Crash"):
            self.push(text)
        self.assertEqual(
            [
                "breathe wash_room",
                "hand wash_room",
                "cold wash_room",
                "unplug wheel_3",
                "brown-out blast_chiller",
                "swap wheel_1 wheel_2",
                "pull-up blast_chiller weak",
                "noise blast_chiller on",
                "clock blast_chiller 8",
                "plug wheel_3",
                "drop 40",
                "crash 3",
            ],
            self.process.orders,
        )
        troubles = cave.circuits["blast_chiller"].troubles
        self.assertTrue(troubles.weak and troubles.noisy)
        for box in (pane.weak, pane.noisy, pane.slow):
            self.assertTrue(box.isChecked())
            self.tick(box)
        self.assertFalse(troubles.weak or troubles.noisy)
        self.assertEqual(1.0, troubles.clock)

    def test_climate(self) -> None:
        """Typed values move the place that is chosen, and the brine; the truth stands there."""
        pane, cave = self.pane, self.process.cave
        pane.place.setCurrentText("brine_vat")
        for key, value in (("temperature", 21.5), ("humidity", 80.0), ("level", 0.45)):
            spin = pane.spins[key]
            self.assertTrue(spin.isVisible(), key)
            spin.setFocus()
            spin.selectAll()
            QTest.keyClicks(spin, f"{value:g}")
            QTest.keyClick(spin, Qt.Key.Key_Return)
            self.settle()
        self.assertEqual(0.45, cave.level_m)
        place = cave.places["brine_vat"]
        self.assertEqual((21.5, 80.0), (place.temperature, place.humidity))
        pane.place.setCurrentText("shelf_A")
        self.assertFalse(pane.spins["level"].isVisible())
        truth = partial(cave.places["shelf_A"].humidity_at, self.process.now_s)
        self.assertAlmostEqual(truth(), pane.spins["humidity"].value(), delta=0.1)

    def test_end(self) -> None:
        """It can be ended from here."""
        ended: list[bool] = []
        self.pane.closed.connect(lambda: ended.append(True))
        self.push("End")
        self.assertEqual([True], ended)
