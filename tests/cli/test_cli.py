"""The command line, as a person or a script calls it."""

import contextlib
import io
import json
import subprocess
import sys
from unittest import mock

from pivet.cli.progress_line import progress_line
from tests.base import CAPTURES, PivetTest
from tests.cli.running import Done, pivet


class Cli(PivetTest):
    """Runs commands in this process; the window is a note in a list."""

    def setUp(self) -> None:
        super().setUp()
        self.opened: list[tuple] = []

    def open_window(self, files, demo: bool = False) -> int:
        """Stands in for the window."""
        self.opened.append((tuple(files), demo))
        return 0

    def show_demo(self, folder) -> int:
        """Stands in for the window with the demo."""
        self.opened.append(("demo", folder))
        return 0

    def run_cli(self, *words: object) -> Done:
        """Runs ``pivet`` with some words."""
        return pivet(*words, window=self.open_window, demo=self.show_demo)

    def objects(self, *words: object) -> list[dict]:
        """The JSON objects that a call prints."""
        done = self.run_cli(*words)
        self.assertEqual(0, done.exit_code, done.output)
        return [json.loads(line) for line in done.stdout.splitlines()]


class Others(Cli):
    """The other commands."""

    def test_window(self) -> None:
        """No command, open and demo lead to the window."""
        self.assertEqual(0, self.run_cli().exit_code)
        self.run_cli("open", "a.vcd", "b.csv")
        self.assertEqual(((), False), self.opened[0])
        self.assertEqual(["a.vcd", "b.csv"], [path.name for path in self.opened[1][0]])
        self.assertEqual(3, pivet("open", "a.vcd", window=lambda _: 3).exit_code)
        for display, status in ((":7", 4), ("", 4)):
            shown = {"DISPLAY": display, "WAYLAND_DISPLAY": "", "QT_QPA_PLATFORM": ""}
            with mock.patch.dict("os.environ", shown), contextlib.chdir(self.folder):
                self.assertEqual(status, pivet("demo", demo=lambda _: 4).exit_code)

    def test_demo(self) -> None:
        """With a display the window; without, what it holds, pictures and the capture."""
        with mock.patch.dict("os.environ", {"DISPLAY": ":7"}):
            self.run_cli("demo")
        self.assertEqual(("demo", None), self.opened[0])
        bare = {"DISPLAY": "", "WAYLAND_DISPLAY": "", "QT_QPA_PLATFORM": ""}
        with mock.patch.dict("os.environ", bare), contextlib.chdir(self.folder):
            done = self.run_cli("demo")
        self.assertIn("the sum is wrong", done.stdout)
        self.assertIn(str(self.folder / "pivet-demo"), done.stdout)
        self.assertLess(len(done.stdout.splitlines()), 50)
        self.assertEqual("pivet-demo", self.opened[1][1].name)
        self.assertTrue((self.folder / "pivet-demo" / "cave-night.vcd").exists())

    def test_progress_on_a_terminal_only(self) -> None:
        """A long job writes a line on a terminal, and takes it away; elsewhere nothing."""
        for terminal in (True, False):
            with mock.patch("sys.stderr", io.StringIO()) as written:
                written.isatty = lambda terminal=terminal: terminal
                clock = mock.patch("time.monotonic", side_effect=[0.0, 0.1, 0.7, 0.75, 0.9])
                with clock, progress_line("Opening") as progress:
                    for share in (0.1, 0.5, 0.6, 0.7):
                        progress(share)
            shown = written.getvalue()
            self.assertEqual(2 if terminal else 0, shown.count("Opening"))
            self.assertEqual(terminal, shown.endswith(" \r"))

    def test_as_a_program(self) -> None:
        """The installed module answers, whatever the locale."""
        done = subprocess.run(
            [sys.executable, "-m", "pivet", "decode", str(CAPTURES / "av_dht22.vcd"), "--strict"],
            capture_output=True,
            env={"LC_ALL": "C", "PATH": ""},
            check=False,
        )
        self.assertEqual(1, done.returncode)
        self.assertIn("11.8 °C", done.stdout.decode("utf-8"))
