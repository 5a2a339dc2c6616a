"""A recording that is killed: its bench file opens."""

import json
import signal
import subprocess
import sys
import time
from datetime import datetime
from pathlib import Path

from pivet.files.benchfile.store import BenchFile
from tests.base import PivetTest
from tests.patience import PATIENCE_S

CLOSING = """
import sys, threading, time
from pathlib import Path
from pivet.errors import OutputError
from pivet.files.benchfile.store import BenchFile

def write(bench, over):
    while not over.is_set():
        try:
            with bench.writing():
                bench.add_capture("cave", "made up", 0, 1)
        except OutputError:
            return

for turn in range(60):
    bench, over = BenchFile.create(Path(sys.argv[1]) / f"{turn}.pivet"), threading.Event()
    thread = threading.Thread(target=write, args=(bench, over))
    thread.start()
    time.sleep(turn % 8 / 1000)
    bench.close()
    bench.close()
    over.set()
    thread.join()
"""


class Closing(PivetTest):
    """A bench that is closed while another thread writes into it."""

    def test_nobody_dies(self) -> None:
        """What is being written stands in the file; who writes next is refused."""
        done = subprocess.run(
            [sys.executable, "-c", CLOSING, str(self.folder)], capture_output=True, check=False
        )
        self.assertEqual((0, b""), (done.returncode, done.stderr))
        for path in self.folder.glob("*.pivet"):
            bench = BenchFile.open(path)
            bench.captures()
            bench.close()


class Kills(PivetTest):
    """kill -9 while it records."""

    def test_killed_at_any_moment(self) -> None:
        """The file opens, and no more than the last second is lost."""
        for turn in range(2):
            path = self.folder / f"killed{turn}.pivet"
            self.killed(path, 0.8 + 0.5 * turn)
            bench = BenchFile.open(path)
            try:
                (capture,) = bench.captures()
                end = max(row.end_ns for row in bench.blocks(capture.id, "flood.0", 0, 2**62))
                # Against what was heard and told, not the clock: a busy machine hears later.
                heard_ns = self.last_told_ns(path.with_suffix(".jsonl")) - capture.began_ns
                self.assertGreater(heard_ns, 10**8)
                self.assertLess(heard_ns - end, 10**9)
            finally:
                bench.close()

    def last_told_ns(self, out: Path) -> int:
        """When the last exchange began that was printed whole, ns since 1970."""
        whole = out.read_text(encoding="utf-8").rpartition("\n")[0].splitlines()
        rows = [row for row in map(json.loads, whole) if row["event"] == "exchange"]
        return round(datetime.fromisoformat(rows[-1]["at"]).timestamp() * 1e9)

    def killed(self, path: Path, after_s: float) -> None:
        """Records floods of edges, and kills the recording process."""
        link = str(self.folder / "cave")
        pivet = [sys.executable, "-m", "pivet"]
        standin = subprocess.Popen(
            [*pivet, "standin", "serve", "--link", link, "--flood", "20000"],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
        )
        try:
            assert standin.stdout is not None
            standin.stdout.readline()
            command = ["listen", "--source", link, "--wire", "flood.0", "--json"]
            command += ["--sensor", "onewire", "--only-listen"]
            out = path.with_suffix(".jsonl")
            with out.open("w") as stream:
                recording = subprocess.Popen(
                    [*pivet, *command, "--bench", str(path)], stdout=stream
                )
            until = time.monotonic() + PATIENCE_S
            while '"exchange"' not in out.read_text() and time.monotonic() < until:
                time.sleep(0.05)
            time.sleep(after_s)
            recording.send_signal(signal.SIGKILL)
            recording.wait()
        finally:
            standin.send_signal(signal.SIGINT)
            standin.wait(PATIENCE_S)
            if standin.stdout is not None:
                standin.stdout.close()
