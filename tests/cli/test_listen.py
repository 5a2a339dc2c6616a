"""Listening from the command line: real processes, a real pseudo-terminal."""

import json
import os
import queue
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from tests.base import CAPTURES, PivetTest
from tests.cli.running import pivet
from tests.patience import PATIENCE_S


class Program:
    """A running `pivet`, its lines as they come."""

    def __init__(self, *words: str, home: Path) -> None:
        environment = os.environ | {"XDG_CONFIG_HOME": str(home), "PYTHONUNBUFFERED": "1"}
        self.process = subprocess.Popen(
            [sys.executable, "-m", "pivet", *words],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            env=environment,
        )
        self.lines: list[str] = []
        self._queue: queue.Queue[str | None] = queue.Queue()
        self._reader = threading.Thread(target=self._read, daemon=True)
        self._reader.start()

    def _read(self) -> None:
        assert self.process.stdout is not None
        for line in self.process.stdout:
            self._queue.put(line.rstrip("\n"))
        self._queue.put(None)

    def say(self, text: str) -> None:
        """Types a line."""
        assert self.process.stdin is not None
        self.process.stdin.write(text + "\n")
        self.process.stdin.flush()

    def until(self, wanted: Callable[[str], bool], what: str) -> str:
        """Reads until a line is as wanted."""
        end = time.monotonic() + PATIENCE_S
        while time.monotonic() < end:
            try:
                line = self._queue.get(timeout=0.2)
            except queue.Empty:
                continue
            if line is None:
                break
            self.lines.append(line)
            if wanted(line):
                return line
        raise AssertionError(
            f"waited in vain for {what}:\n" + "\n".join(line[:110] for line in self.lines[-12:])
        )

    def event(self, wanted: Callable[[dict[str, Any]], bool], what: str) -> dict[str, Any]:
        """Reads until a JSON line is as wanted."""
        found: dict[str, Any] = {}

        def fits(line: str) -> bool:
            nonlocal found
            found = json.loads(line) if line.startswith("{") else {}
            return bool(found) and wanted(found)

        self.until(fits, what)
        return found

    def end(self, number: int = signal.SIGINT) -> int:
        """Ends it as Ctrl-C does; gives its status."""
        if self.process.poll() is None:
            self.process.send_signal(number)
        try:
            status = self.process.wait(PATIENCE_S)
        finally:
            self.process.kill()
        self._reader.join(PATIENCE_S)
        for stream in (self.process.stdin, self.process.stdout):
            if stream is not None:
                stream.close()
        return status


class Live(PivetTest):
    """`standin serve`, `probe` and `listen` together."""

    def setUp(self) -> None:
        super().setUp()
        self.link = str(self.folder / "cave")
        self.standin = Program("standin", "serve", "--link", self.link, home=self.folder)
        self.addCleanup(self.standin.end)
        self.standin.until(lambda line: self.link in line, "the stand-in")

    def listen(self, *words: str) -> Program:
        """Listens with JSON."""
        command = ("listen", "--source", self.link, "--json", *words)
        found = Program(*command, home=self.folder)
        self.addCleanup(found.end)
        return found

    def test_probe(self) -> None:
        """Hello and capabilities."""
        done = pivet("probe", self.link)
        self.assertEqual(0, done.exit_code, done.output)
        for word in ("stand-in cave", "probe link 1.1", "125 ns", "cave.wheels", "pulls low"):
            self.assertIn(word, done.output)

    def test_a_day_in_the_cave(self) -> None:
        """Breathe, pull a probe off, crash the probe; all is seen, and Ctrl-C ends cleanly."""
        program = self.listen("--wire", "shelf_A", "--wire", "wheels")
        found = set()
        while found != {"dht22", "onewire"}:
            found.add(program.event(lambda row: row["event"] == "known", "both wires")["sensor"])
        self.standin.say("set shelf_A humidity 50")
        self.standin.say("breathe shelf_A")
        program.event(
            lambda row: row["event"] == "exchange" and row["wire"] == "shelf_A", "a reading"
        )
        self.standin.say("unplug wheel_3")
        silent = program.event(lambda row: row["event"] == "silent", "who fell silent")
        self.assertEqual("28-01193cf2e5d0", silent["device"])
        self.standin.say("plug wheel_3")
        program.event(lambda row: row["event"] == "sensor-back", "who is back")
        self.standin.say("crash 1")
        away = program.event(lambda row: row["event"] == "away", "the crash")
        self.assertIn("gone", away["says"])
        program.event(lambda row: row["event"] == "back", "the return")
        program.event(lambda row: row["event"] == "gap" and row["seconds"] > 0.8, "the gap")
        program.event(
            lambda row: row["event"] == "exchange" and bool(row["readings"]), "readings again"
        )
        self.standin.say("drop 300")
        program.event(lambda row: row["event"] == "note", "lost bytes")
        self.assertEqual(0, program.end())

    def test_for_people(self) -> None:
        """Lines with clock, name and reading; a summary at the end; --for ends it."""
        words = ("--wire", "door=cellar_door", "--sensor", "dht11-early", "--only-listen")
        program = Program("listen", "--source", self.link, *words, "--for", "8s", home=self.folder)
        self.addCleanup(program.end)
        line = program.until(lambda row: "door" in row and "%RH" in row, "a reading")
        self.assertRegex(line, r"^\d\d:\d\d:\d\d\.\d{3} door +● ")
        program.until(lambda row: row.startswith("door: "), "the summary")
        self.assertEqual(0, program.process.wait(PATIENCE_S))

    def test_orders(self) -> None:
        """The stand-in answers each order; what makes no sense gets a sentence."""
        for order, answer in (
            ("noise shelf_A on", "ok"),
            ("breathe moon", "no place 'moon'"),
            ("set shelf_A humidity", "is not whole"),
            ("set brine_vat level 9", "beyond the cave"),
            ("dance", "no order 'dance'"),
        ):
            self.standin.say(order)
            self.standin.until(lambda line, text=answer: text in line, order)
        self.standin.say("state")
        state = json.loads(self.standin.until(lambda line: line.startswith("{"), "state"))
        self.assertTrue(state["wires"]["shelf_A"]["noisy"])
        self.assertEqual(0, self.standin.end())
        self.assertFalse(Path(self.link).is_symlink())


class Files(PivetTest):
    """Sources that need no probe."""

    def run_listen(self, *words: str) -> list[dict[str, Any]]:
        """Runs `listen --json` to its end."""
        done = pivet("listen", "--json", *words)
        self.assertEqual(0, done.exit_code, done.output)
        return [json.loads(line) for line in done.output.splitlines()]

    def test_replay_of_each_capture(self) -> None:
        """Played as fast as it goes, each capture says what it says when it is opened."""
        for path in sorted(CAPTURES.glob("*.vcd")):
            with self.subTest(path.name):
                rows = self.run_listen("--source", f"replay:{path}", "--pace", "max")
                found = {
                    (row["wire"], row["exchange"]): row
                    for row in rows
                    if row["event"] == "exchange"
                }
                done = pivet("decode", path, "--json")
                wanted = [json.loads(line) for line in done.output.splitlines()]
                self.assertEqual(len(wanted), len(found))
                for row in wanted:
                    last = found[row["wire"], row["exchange"]]
                    for key in row.keys() - {"start_s", "end_s", "findings"}:
                        self.assertEqual(row[key], last[key], key)
                    self.assertAlmostEqual(
                        row["end_s"] - row["start_s"], last["end_s"] - last["start_s"]
                    )

    def test_recording(self) -> None:
        """A replay recorded: the bench file holds it, and says so; damage can be rescued."""
        path, target = self.folder / "night.pivet", self.folder / "rescued.pivet"
        source = f"replay:{CAPTURES / 'iv_ow_basic.vcd'}"
        rows = self.run_listen("--source", source, "--pace", "max", "--bench", str(path))
        found = [row for row in rows if row["event"] == "exchange"]
        done = pivet("bench", "info", str(path))
        self.assertIn(f"{len(found)} exchanges", done.output)
        done = pivet("bench", "rescue", str(path), str(target))
        self.assertIn(f"{len(found)} exchanges", done.output)
        done = pivet("bench", "info", str(target))
        self.assertIn(f"{len(found)} exchanges", done.output)
        done = pivet("bench", "info", str(CAPTURES / "README.md"))
        self.assertEqual(2, done.exit_code)
        self.assertIn("is no bench file", done.output)
