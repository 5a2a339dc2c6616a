"""Faults while recording: is every edge that was heard in a file, or in a said gap?

python benchmarks/chaos.py disks [NUMBER]       a disk that is full for a while (needs root: a small
                                                file system is mounted for each)
python benchmarks/chaos.py deletions [NUMBER]   the bench file deleted or replaced while recorded
python benchmarks/chaos.py restarts [NUMBER]    the probe restarts under a flood of edges
python benchmarks/chaos.py hours [HOURS]        memory and open files over hours, a crash a minute
"""

import gc
import math
import random
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

import numpy as np  # noqa: E402

from benchmarks.live import FIVE, rss_mb  # noqa: E402
from pivet.files.benchfile.store import BenchFile  # noqa: E402
from pivet.keeping.recorder import Recorder  # noqa: E402
from pivet.listening import events as ev  # noqa: E402
from pivet.listening.listener import Listener  # noqa: E402
from pivet.listening.memory import keep_little  # noqa: E402
from pivet.listening.runner import Runner  # noqa: E402
from pivet.listening.setup import WireSetup, least_interval_s  # noqa: E402
from pivet.listening.taker import Taker  # noqa: E402
from pivet.sheets.load import find_sheet  # noqa: E402
from pivet.sources.probe import ProbeSource  # noqa: E402
from pivet.standin.live.cave import make_cave  # noqa: E402
from pivet.standin.live.flood import flood_circuits  # noqa: E402
from pivet.standin.probe.loop import Loop, MadeClock  # noqa: E402

FLOOD_EDGES = 20_000


class Witness(Taker):
    """Sees what the recorder is given."""

    what = "the witness"
    waits = False

    def __init__(self) -> None:
        self.edges: dict[str, list[np.ndarray]] = {}
        self.numbers: dict[str, set[int]] = {}
        self.notes: list[str] = []

    def take(self, events: Sequence[ev.Event]) -> None:
        for event in events:
            if isinstance(event, ev.Edges):
                for piece in event.pieces:
                    self.edges.setdefault(piece.line, []).append(piece.edges_ns)
            elif isinstance(event, ev.Heard):
                self.numbers.setdefault(event.wire, set()).add(event.number - 1)
            elif isinstance(event, ev.Withdrawn):
                self.numbers[event.wire].discard(event.number - 1)
            elif isinstance(event, ev.Note):
                self.notes.append(event.says)


class Bench:
    """A cave on a made clock, recorded."""

    def __init__(self, path: Path, flood: int = 0, seed: int = 1) -> None:
        self.clock = MadeClock()
        self.cave = make_cave(seed)
        circuits = [*self.cave.circuits.values(), *(flood_circuits(flood, seed) if flood else [])]
        self.loop = Loop(circuits, self.clock)
        source = ProbeSource("loop", None, self.loop.open_port, self.clock)
        setups = [WireSetup(name, lines, find_sheet(sheet), 0.0) for name, lines, sheet in FIVE]
        if flood:
            setups.append(WireSetup("flood", ("flood.0",), find_sheet("onewire"), None))
        self.listener = Listener(source, lambda _: setups, self.clock.seconds, self.clock.sleep)
        opened = self.listener.open()
        self.file = BenchFile.create(path)
        self.recorder = Recorder(
            self.file, opened.about, "chaos", self.listener.calendar, self.clock.seconds
        )
        self.recorder.waits = False
        keep_little()
        self.runner, self.witness = Runner(self.listener), Witness()
        self.runner.add(self.recorder)
        self.runner.add(self.witness)

    def passes(self, seconds: float, seldom_s: float = 0.0) -> None:
        """Time passes; between two looks at least so long, s."""
        until = self.clock.seconds() + seconds
        while self.clock.seconds() < until:
            self.clock.sleep(seldom_s)
            self.runner.step(0.05)

    def close(self) -> None:
        """Ends listening and recording."""
        self.runner.close()

    def missing(self) -> tuple[int, int]:
        """Edges and exchanges that were heard, and are neither in the file nor in a said gap."""
        edges = exchanges = 0
        for line, parts in self.witness.edges.items():
            heard = np.concatenate(parts)
            blocks = list(self.file.blocks(1, line, -(1 << 60), 1 << 60))
            kept = np.concatenate([row.edges_ns for row in blocks] or [heard[:0]])
            absent = heard[~np.isin(heard, kept)]
            for gap in self.file.gaps(1, line):
                absent = absent[(absent <= gap.start_ns) | (absent > gap.end_ns)]
            edges += absent.size + max(kept.size - np.unique(kept).size, 0)
        for wire in self.file.wires():
            rows = self.file.exchanges(wire.id, 0, 1 << 40)
            exchanges += len(self.witness.numbers[wire.name] ^ {row.number for row in rows})
        return edges, exchanges


@contextmanager
def small_disk(folder: Path, size_kb: int) -> Iterator[Path]:
    """A file system of its own."""
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={size_kb}k", "tmpfs", folder], check=True)
    try:
        yield folder
    finally:
        subprocess.run(["umount", "-l", folder], check=True)


def disks(number: int) -> None:
    """Fills the disk at a random moment, for a random time."""
    lost = [0, 0]
    notes = 0
    for turn in range(number):
        random.seed(turn)
        with tempfile.TemporaryDirectory() as name, small_disk(Path(name), 6000) as disk:
            bench = Bench(disk / "night.pivet", seed=turn + 1)
            bench.passes(random.uniform(0.0, 4.0))
            fill(disk / "ballast")
            bench.passes(random.uniform(1.0, 12.0))
            (disk / "ballast").unlink()
            bench.passes(random.uniform(0.5, 13.0))
            bench.close()
            edges, exchanges = bench.missing()
            lost = [lost[0] + edges, lost[1] + exchanges]
            notes = max(notes, sum("cannot be written" in row for row in bench.witness.notes))
            bench.file.close()
    print(f"{number} full disks: {lost[0]} edges and {lost[1]} exchanges missing without a word")
    print(f"  a full disk was said {notes} times at most")


def fill(path: Path) -> None:
    """Takes all room that there is."""
    with path.open("wb", buffering=0) as stream:
        for size in (1 << 16, 1 << 12, 1):
            try:
                while stream.write(bytes(size)):
                    pass
            except OSError:
                continue


def deletions(number: int) -> None:
    """Takes the file away, or puts another in its place."""
    lost = [0, 0]
    for turn in range(number):
        random.seed(turn)
        with tempfile.TemporaryDirectory() as name:
            path = Path(name) / "night.pivet"
            bench = Bench(path, seed=turn + 1)
            for _ in range(random.randrange(1, 3)):
                bench.passes(random.uniform(0.1, 3.0))
                gone = bench.file.path
                if random.random() < 0.3:
                    other = Path(name) / "other"
                    other.write_bytes(b"another")
                    other.replace(gone)
                elif random.random() < 0.5:
                    gone.rename(Path(name) / f"moved{random.random()}")
                else:
                    for ending in ("", "-wal", "-shm"):
                        gone.with_name(gone.name + ending).unlink(missing_ok=True)
                bench.passes(random.uniform(0.5, 3.0))
            bench.close()
            edges, exchanges = bench.missing()
            lost = [lost[0] + edges, lost[1] + exchanges]
            assert bench.file.path.exists()
            bench.file.close()
    print(f"{number} deletions: {lost[0]} edges and {lost[1]} exchanges missing without a word")


def restarts(number: int) -> None:
    """The probe crashes and comes back, under load."""
    lost = [0, 0]
    gaps = 0
    for turn in range(number):
        random.seed(turn)
        with tempfile.TemporaryDirectory() as name:
            bench = Bench(Path(name) / "night.pivet", FLOOD_EDGES, turn + 1)
            bench.passes(random.uniform(0.5, 2.0))
            bench.loop.crash()
            bench.passes(random.uniform(0.2, 3.0))
            bench.loop.plugged = True
            bench.passes(random.uniform(2.0, 4.0))
            bench.close()
            edges, exchanges = bench.missing()
            lost = [lost[0] + edges, lost[1] + exchanges]
            gaps += len(bench.file.gaps(1, "flood.0"))
            bench.file.close()
    print(f"{number} restarts: {lost[0]} edges and {lost[1]} exchanges missing, {gaps} gaps said")


def hours(value: float) -> None:
    """Five wires at their fastest, a crash each minute."""
    with tempfile.TemporaryDirectory() as name:
        bench = Bench(Path(name) / "night.pivet")
        for wire in bench.listener.wires:
            sheet = wire.sheet
            assert sheet is not None
            bench.listener.change(wire.name, math.ceil(least_interval_s(sheet) * 100) / 100, 1)
        bench.witness.take = lambda _events: None  # type: ignore[method-assign, assignment]
        seen: list[tuple[float, int]] = []
        for minute in range(round(value * 60)):
            bench.passes(57.0, seldom_s=0.2)
            bench.loop.crash()
            bench.passes(1.5)
            bench.loop.plugged = True
            bench.passes(1.5)
            if minute % 10 == 9:
                gc.collect()
                seen.append((rss_mb(), len(list(Path("/proc/self/fd").iterdir()))))
                print(f"{(minute + 1) / 60:5.2f} h: {seen[-1][0]:.1f} MB, {seen[-1][1]} files open")
        began = time.monotonic()
        bench.close()
        base = seen[len(seen) // 6]
        most = max(row[0] for row in seen[len(seen) // 6 :])
        files = seen[-1][1] - base[1]
        print(f"memory {most / base[0] - 1:+.1%} after the first half hour, files {files:+d}")
        print(f"closed in {time.monotonic() - began:.1f} s, {bench.file.edge_count():,} edges")
        bench.file.close()


if __name__ == "__main__":
    usual = {"disks": 100.0, "deletions": 100.0, "restarts": 20.0, "hours": 3.0}
    chosen = sys.argv[1] if len(sys.argv) > 1 else ""
    if chosen not in usual:
        sys.exit(__doc__)
    amount = float(sys.argv[2]) if len(sys.argv) > 2 else usual[chosen]
    if chosen == "hours":
        hours(amount)
    else:
        {"disks": disks, "deletions": deletions, "restarts": restarts}[chosen](round(amount))
