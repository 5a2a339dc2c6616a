"""How commands end, what goes to the terminal, and what is not written over."""

import array
import csv
import fcntl
import io
import os
import pty
import shutil
import signal
import subprocess
import sys
import termios
import threading
import time
import unittest
from pathlib import Path

from pivet.cli.terminal import escaped
from pivet.files.targets import is_same
from tests.base import CAPTURES, PivetTest
from tests.cli.running import pivet
from tests.patience import PATIENCE_S

SEARCH = str(CAPTURES / "av_ow_search.vcd")
PIVET = (sys.executable, "-m", "pivet")
EVIL = "\x1b]0;owned\x07\x9b2J\u202e"


def _unread(pipe: int) -> int:
    """So many bytes nobody has read yet."""
    found = array.array("i", [0])
    fcntl.ioctl(pipe, termios.FIONREAD, found)
    return found[0]


class Ends(PivetTest):
    """Exit codes: 0 done, 1 unsound with --strict, 2 unusable, 130 interrupted."""

    def test_interrupted(self) -> None:
        """Ctrl-C while it waits for a pipe."""
        path = self.folder / "pipe"
        os.mkfifo(path)
        keep = os.open(path, os.O_RDWR)
        self.addCleanup(os.close, keep)
        process = subprocess.Popen([*PIVET, "decode", str(path)], stderr=subprocess.PIPE)
        os.write(keep, b"$date\n")
        until = time.monotonic() + PATIENCE_S
        while _unread(keep) and time.monotonic() < until:
            time.sleep(0.02)
        process.send_signal(signal.SIGINT)
        said = process.communicate(timeout=PATIENCE_S)[1]
        self.assertEqual((130, b""), (process.returncode, said.strip()))

    def test_nobody_reads(self) -> None:
        """A reader that has seen enough is no trouble."""
        for words in (
            ("decode", SEARCH),
            ("decode", SEARCH, "--json"),
            ("readings", SEARCH),
            ("listen", "--source", f"replay:{SEARCH}", "--pace", "max", "--json"),
        ):
            process = subprocess.Popen(
                [*PIVET, *words], stdout=subprocess.PIPE, stderr=subprocess.PIPE
            )
            assert process.stdout is not None and process.stderr is not None
            process.stdout.close()
            said = process.stderr.read()
            process.stderr.close()
            self.assertEqual((0, b""), (process.wait(PATIENCE_S), said), words)

    @unittest.skipUnless(Path("/dev/full").exists(), "no such device here")
    def test_nowhere_to_print(self) -> None:
        """A full disk on standard output is one sentence."""
        for words in (
            ("decode", SEARCH, "--json"),
            ("readings", SEARCH),
            ("listen", "--source", f"replay:{SEARCH}", "--pace", "max"),
        ):
            with Path("/dev/full").open("w") as full:
                done = subprocess.run(
                    [*PIVET, *words],
                    stdout=full,
                    stderr=subprocess.PIPE,
                    check=False,
                    timeout=PATIENCE_S,
                )
            self.assertEqual(2, done.returncode, words)
            self.assertEqual(1, len(done.stderr.splitlines()), done.stderr)
            self.assertIn(b"the output cannot be written", done.stderr)

    def test_recording_ends_in_order(self) -> None:
        """A closed terminal and a polite kill end it as Ctrl-C does: all stands in the file."""
        for kind in (signal.SIGHUP, signal.SIGTERM, signal.SIGINT):
            file = self.folder / f"{kind.name}.pivet"
            words = ("--source", f"replay:{CAPTURES / 'av_dht22.vcd'}", "--bench", str(file))
            process = subprocess.Popen(
                [*PIVET, "listen", *words], stdout=subprocess.PIPE, text=True
            )
            assert process.stdout is not None
            heard = [next(line for line in process.stdout if "●" in line)]
            process.send_signal(kind)
            heard += [line for line in process.stdout if "●" in line]
            self.assertEqual(0, process.wait(PATIENCE_S))
            process.stdout.close()
            info = pivet("bench", "info", file).stdout
            self.assertIn(f"{len(heard)} exchange", info)
            self.assertFalse(file.with_name(f"{file.name}-wal").exists())


class Terminal(PivetTest):
    """Names cannot steer a terminal."""

    def test_escaped(self) -> None:
        """Control characters of both sets, directions of writing, line ends."""
        self.assertEqual(r"\x1b[2J", escaped("\x1b[2J"))
        self.assertEqual(r"a\nb\tc\rd\x00\x9b\u202e", escaped("a\nb\tc\rd\0\x9b\u202e"))
        self.assertEqual("°C µs ● – ü", escaped("°C µs ● – ü"))

    def test_names_from_files(self) -> None:
        """Of lines, in tables, JSON and messages; JSON stays JSON."""
        rows = (CAPTURES / "csv_edges_dht22.csv").read_text(encoding="utf-8").split("\n", 1)
        path = self.folder / "evil.csv"
        path.write_text(f"time_s,{EVIL}\n{rows[1]}", encoding="utf-8")
        for words in (
            ("decode", path),
            ("decode", path, "--json"),
            ("stats", path),
            ("stats", path, "--json"),
            ("decode", path, "--wire", EVIL + "x"),
            ("listen", "--source", f"replay:{path}", "--pace", "max"),
            ("listen", "--source", f"replay:{path}", "--pace", "max", "--json"),
            ("decode", self.folder / EVIL.replace("/", "_")),
            (f"--{EVIL}",),
            (EVIL,),
        ):
            said = pivet(*words).output
            self.assertTrue(said)
            found = [char for char in said if char in EVIL and not char.isprintable()]
            self.assertEqual([], found, words)

    def test_a_table_on_a_terminal(self) -> None:
        """`pivet readings` writes names as they are into files, but not to a terminal."""
        rows = (CAPTURES / "csv_edges_dht22.csv").read_text(encoding="utf-8").split("\n", 1)
        path = self.folder / "evil.csv"
        path.write_text(f"time_s,{EVIL}\n{rows[1]}", encoding="utf-8")
        ours, theirs = pty.openpty()
        process = subprocess.Popen([*PIVET, "readings", str(path)], stdout=theirs)
        said: list[bytes] = []

        def read() -> None:
            while True:
                try:
                    data = os.read(ours, 4096)
                except OSError:
                    return
                said.append(data)

        reader = threading.Thread(target=read)
        reader.start()
        self.assertEqual(0, process.wait(PATIENCE_S))
        os.close(theirs)
        reader.join()
        os.close(ours)
        self.assertIn(b"humidity", b"".join(said))
        self.assertNotIn(b"\x1b", b"".join(said))


class Spreadsheets(PivetTest):
    """Text that would run as a formula does not; numbers stay numbers."""

    def test_exports(self) -> None:
        """Names of lines in readings, figures and captures; a capture keeps them."""
        rows = (CAPTURES / "csv_edges_dht22.csv").read_text(encoding="utf-8").split("\n", 1)
        path = self.folder / "evil.csv"
        path.write_text(f"time_s,=cmd|calc\n{rows[1]}", encoding="utf-8")
        table = list(csv.DictReader(io.StringIO(pivet("readings", path).stdout)))
        self.assertEqual({"'=cmd|calc"}, {row["wire"] for row in table})
        self.assertTrue(all(float(row["temperature_°C"]) for row in table))
        self.assertIn("'=cmd|calc,", pivet("stats", path, "--csv").stdout)
        target = self.folder / "copy.csv"
        self.assertEqual(0, pivet("convert", path, target).exit_code)
        self.assertTrue(target.read_text(encoding="utf-8").startswith("time_s,'=cmd|calc\n"))
        self.assertIn("=cmd|calc", pivet("decode", target, "--json").stdout)
        self.assertNotIn("'=cmd", pivet("decode", target, "--json").stdout)


class Targets(PivetTest):
    """Nothing is overwritten by accident."""

    def setUp(self) -> None:
        super().setUp()
        self.source = self.folder / "a.vcd"
        shutil.copy(CAPTURES / "av_dht22.vcd", self.source)
        self.before = self.source.read_bytes()

    def test_the_input_itself(self) -> None:
        """Also by links, and also with --force."""
        link, hard = self.folder / "link.vcd", self.folder / "hard.vcd"
        link.symlink_to(self.source)
        hard.hardlink_to(self.source)
        for target in (self.source, link, hard):
            for words in (("readings", self.source, "-o"), ("convert", self.source)):
                done = pivet(*words, target, "--force")
                self.assertEqual(2, done.exit_code)
                self.assertIn("very file that is read", done.stderr)
            self.assertEqual(2, pivet("standin", target, "--sensor", "dht22").exit_code)
        self.assertEqual(self.before, self.source.read_bytes())
        self.assertTrue(is_same(link, hard))

    def test_what_is_there(self) -> None:
        """Another file only with --force, one of ours again and again."""
        target = self.folder / "precious.csv"
        for words in (("readings", self.source, "-o"), ("convert", self.source)):
            target.write_text("my own\n", encoding="utf-8")
            done = pivet(*words, target)
            self.assertEqual(2, done.exit_code)
            self.assertIn("--force", done.stderr)
            self.assertEqual("my own\n", target.read_text(encoding="utf-8"))
            self.assertEqual(0, pivet(*words, target, "--force").exit_code)
            self.assertEqual(0, pivet(*words, target).exit_code)
        done = pivet("readings", self.source, "-o", target)
        self.assertEqual(2, done.exit_code, "a capture is no table of readings")

    def test_no_file(self) -> None:
        """A device is never replaced by a file."""
        done = pivet("readings", self.source, "-o", "/dev/null")
        self.assertEqual(2, done.exit_code)
        self.assertTrue(Path("/dev/null").is_char_device())
