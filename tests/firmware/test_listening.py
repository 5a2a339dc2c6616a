"""Pivet itself listens to the firmware on a simulated chip: commands, window, mishaps."""

import json
import os
import signal
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar
from unittest import mock

from pivet.judge.verdict import Verdict
from pivet.listening import events as ev
from pivet.listening.listener import Listener
from pivet.listening.setup import WireSetup
from pivet.sheets.load import find_sheet
from pivet.sources.probe import ProbeSource
from pivet.standin.board import ATTACHED, SAYS, WIRES, Board, built
from pivet.ui.live.session import LiveSession
from tests.base import PivetTest
from tests.patience import PATIENCE_S
from tests.ui.base import WindowTest

PIVET = (sys.executable, "-m", "pivet")
LONG = f"{PATIENCE_S:.0f}s"
GOOD = ("sound", "near")
F = TypeVar("F")
NAMED = [f"{name}={','.join(lines)}" for name, lines, _ in WIRES]


class BoardTest(PivetTest):
    """Has a board at a port."""

    options: tuple[str, ...] = ()

    def setUp(self) -> None:
        super().setUp()
        self.board = Board(options=self.options)
        self.addCleanup(self.board.close)

    def listen(self) -> Listener:
        """Listens to a wire of it whose sensor is known, on this very thread."""
        name, lines, _ = WIRES[0]
        setups = [WireSetup(name, lines, find_sheet("dht22"), 0.0)]
        source = ProbeSource(self.board.path)
        self.addCleanup(source.close)
        self.listener = Listener(source, lambda _: setups)
        self.events: list[ev.Event] = [self.listener.open()]
        return self.listener

    def passes(self, seconds: float) -> list[ev.Event]:
        """Time passes; what was told meanwhile."""
        first, until = len(self.events), time.monotonic() + seconds
        while time.monotonic() < until:
            self.events += self.listener.step(0.05)
        return self.events[first:]

    def until(self, wanted: Callable[[ev.Event], bool], most_s: float = PATIENCE_S) -> ev.Event:
        """Waits for something to be told from now on."""
        until = time.monotonic() + most_s
        while time.monotonic() < until:
            for event in self.passes(0.1):
                if wanted(event):
                    return event
        raise AssertionError(f"waited in vain: {self.events[-3:]}")

    def until_given(self) -> ev.Heard:
        """Waits for a reading."""
        found = self.until(lambda row: isinstance(row, ev.Heard) and bool(row.report().readings))
        assert isinstance(found, ev.Heard)
        return found


class Commands(BoardTest):
    """``pivet probe`` and ``pivet listen``."""

    options = ("--boot-ms", "700")

    def test_probe_and_listen(self) -> None:
        """A board whose boot loader is deaf at first: what it is; all families found out, asked,
        judged sound.
        """
        told = self.patiently(self.probed)
        for words in ("Pivet probe 328P", "probe link 1.1", "500 ns", "widths ± 0.5 µs from"):
            self.assertIn(words, told)
        heard = self.patiently(self.heard)
        for name, _, _ in WIRES:
            own = [row for row in heard if row["wire"] == name]
            good = [row for row in own if row["verdict"] in GOOD]
            # A busy computer lets the chip fall behind, and a thermometer is read too early then.
            self.assertGreaterEqual(len(good), 2, name)
            if name != "wheels":
                self.assertLessEqual(len(own) - len(good), max(1, 0.3 * len(own)), name)
        values = {
            (row["wire"], value["quantity"]): value["value"]
            for row in heard
            if row["verdict"] in GOOD
            for value in row["readings"]
        }
        self.assertEqual(92, values["shelf_A", "humidity"])
        self.assertEqual(14, values["wash_room", "temperature"])
        self.assertIn(values["wheels", "temperature"], (11.25, 11.75, 12.25))
        self.assertAlmostEqual(0.58, values["brine_vat", "distance"], delta=0.02)

    def patiently(self, command: Callable[[], tuple[int, F]]) -> F:
        """A command again until its status is 0: a busy computer simulates a board that is too
        slow to answer in time.
        """
        until = time.monotonic() + PATIENCE_S
        while True:
            status, found = command()
            if status == 0 or time.monotonic() > until:
                self.assertEqual(0, status)
                return found

    def probed(self) -> tuple[int, str]:
        """What it tells of the board."""
        words = [*PIVET, "probe", self.board.path]
        done = subprocess.run(words, check=False, capture_output=True, text=True)
        return done.returncode, done.stdout

    def heard(self, least: int = 2) -> tuple[int, list[dict[str, Any]]]:
        """The exchanges that it hears until there are so many good readings of each wire."""
        words = [*PIVET, "listen", "--source", self.board.path, "--json", "--for", LONG]
        for name in NAMED:
            words += ["--wire", name]
        found: list[dict[str, Any]] = []
        enough = False
        with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as listening:
            assert listening.stdout is not None
            for line in listening.stdout:
                row = json.loads(line)
                if row["event"] == "exchange" and not row["revised"]:
                    found.append(row)
                good = [one for one in found if one["verdict"] in GOOD and one["readings"]]
                count = Counter(one["wire"] for one in good)
                if not enough and all(count[name] >= least for name, _, _ in WIRES):
                    enough = True
                    listening.send_signal(signal.SIGTERM)
        return listening.returncode, found


class Demo(PivetTest):
    """``pivet demo --board`` without a display."""

    def test_as_text(self) -> None:
        """Says what is simulated, and listens to the wires of the cave."""
        hidden = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
        with subprocess.Popen(
            [*PIVET, "demo", "--board", "--for", LONG],
            stdout=subprocess.PIPE,
            text=True,
            env={key: value for key, value in os.environ.items() if key not in hidden},
        ) as shown:
            assert shown.stdout is not None
            told = ""
            for line in shown.stdout:
                told += line
                if "shelf_A: A 22-type humidity sensor answers on D2" in line:
                    break
            else:
                self.fail(f"the sensor did not answer: {told}")
            shown.send_signal(signal.SIGTERM)
            shown.stdout.read()
        self.assertEqual(0, shown.returncode)
        self.assertIn("Building the firmware", told)
        self.assertIn(SAYS, told)


class Mishaps(BoardTest):
    """What befalls a probe."""

    def test_befallen(self) -> None:
        """A sensor is pulled off and put back; a restart, a freeze and lost bytes are said."""
        # Silent, and back; other values are read when they are others.
        self.listen()
        first = self.until_given()
        self.assertIn(Verdict(first.report().verdict), (Verdict.SOUND, Verdict.NEAR))
        self.board.order("unplug D2")
        self.until(lambda row: isinstance(row, ev.Silent))
        self.board.order("plug D2")
        self.board.order("set D2 55.5,-3.4")

        def changed(row: ev.Event) -> bool:
            there = row.report().readings if isinstance(row, ev.Heard) else ()
            return [value.value for value in there] == [55.5, -3.4]

        self.until(changed)
        # It is noticed, said, and listening goes on by itself.
        for mishap in ("crash 200", "freeze 3600"):
            self.board.order(mishap)
            away = self.until(lambda row: isinstance(row, ev.Away))
            assert isinstance(away, ev.Away)
            self.assertRegex(away.says, "restarted|not spoken")
            self.until_given()
        self.board.order("drop 300")
        self.passes(1.5)
        self.until_given()
        gaps = [
            piece.gap.why
            for row in self.events
            if isinstance(row, ev.Edges)
            for piece in row.pieces
            if piece.gap is not None and piece.gap.why
        ]
        self.assertIn("the probe had restarted", gaps)

    def test_host_killed(self) -> None:
        """The next host finds it free."""
        words = [*PIVET, "listen", "--source", self.board.path, "--wire", NAMED[0]]
        first = subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.STDOUT)
        self.addCleanup(first.wait)
        assert first.stdout is not None
        self.addCleanup(first.stdout.close)
        first.stdout.readline()
        time.sleep(1.0)
        first.send_signal(signal.SIGKILL)
        first.wait()
        self.listen()
        self.until_given()


class Window(WindowTest):
    """The window listens to the board of the demo."""

    def test_listens(self) -> None:
        """What is simulated is said; the first wire's readings come."""
        board = Board(ATTACHED)
        self.addCleanup(board.close)
        self.window.live.keeper.throwaway = True
        self.window.live.listen_to_board(board.path)
        self.assertEqual(SAYS, self.window.notice.text)
        self.wait_for(lambda: bool(self.session.captures), "the board is opened")
        self.wait_for(
            lambda: any(len(wire) for one in self.session.captures for wire in one.wires),
            "an exchange is shown",
        )
        self.add_with_pull_up()
        self.window.live.stop()
        self.wait_for(lambda: not self.window.live.listening.busy, "listening has ended")

    def add_with_pull_up(self) -> None:
        """A free line can be had with the board's own pull-up; how exact it is stands beside it."""
        self.window.live.add_wire()
        dialog = self.window.live.dialog
        assert dialog is not None
        at = next(n for n in range(dialog.line.count()) if "D3 ·" in dialog.line.itemText(n))
        self.assertIn("± 1.0 µs", dialog.line.itemText(at))
        dialog.line.setCurrentIndex(at)
        dialog.sensor.setCurrentIndex(1)
        dialog.pull_up.click()
        with mock.patch.object(LiveSession, "add") as add:
            dialog.add.click()
        setup = add.call_args.args[1]
        self.assertEqual((("D3",), True), (setup.lines, setup.pull_up))


def setUpModule() -> None:
    """Everything is built before a test waits for it."""
    program, elf = built()
    assert Path(program).exists() and Path(elf).exists()
