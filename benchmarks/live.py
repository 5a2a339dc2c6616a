"""Figures of listening: floods, latency, kills, a made-up day.

python benchmarks/live.py flood [SECONDS]     200,000 edges a second through a pseudo-terminal
python benchmarks/live.py latency [SECONDS]   from the last edge to the exchange being told
python benchmarks/live.py kills [NUMBER]      kill -9 at random moments while recording
python benchmarks/live.py day [HOURS [FILE]]  five wires at their fastest, as fast as it goes
"""

import contextlib
import random
import resource
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np

from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.keeping.recorded import recorded_wires
from pivet.keeping.recorder import Recorder
from pivet.listening import events as ev
from pivet.listening.listener import Listener
from pivet.listening.setup import WireSetup, least_interval_s
from pivet.sheets.load import find_sheet
from pivet.sources.probe import ProbeSource
from pivet.sources.source import (
    About,
    Batch,
    LineInfo,
    Piece,
    Source,
    SourceEnded,
)
from pivet.standin.live.cave import make_cave
from pivet.standin.probe.loop import Loop, MadeClock

PIVET = [sys.executable, "-m", "pivet"]
RATE = 200_000

FIVE = (
    ("shelf_A", ("shelf_A",), "dht22"),
    ("wash_room", ("wash_room",), "dht11"),
    ("wheels", ("wheels",), "onewire"),
    ("brine_vat", ("brine_vat.trigger", "brine_vat.echo"), "hc-sr04"),
    ("blast_chiller", ("blast_chiller",), "dht22"),
)


@contextlib.contextmanager
def standin(folder: Path, *words: str) -> Iterator[str]:
    """The stand-in in a process of its own; gives the path of its port."""
    link = str(folder / "cave")
    process = subprocess.Popen(
        [*PIVET, "standin", "serve", "--link", link, *words],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
    )
    assert process.stdout is not None
    process.stdout.readline()
    try:
        yield link
    finally:
        process.send_signal(signal.SIGINT)
        process.wait(10)


def flood(seconds: float) -> None:
    """Decoded, judged and stored: what is lost, and what is left of the processor."""
    with tempfile.TemporaryDirectory() as name, standin(Path(name), "--flood", str(RATE)) as link:
        bench = BenchFile.create(Path(name) / "flood.pivet")

        def wanted(about: About) -> list[WireSetup]:
            names = [row.name for row in about.lines if row.name.startswith("flood")]
            return [WireSetup(row, (row,), find_sheet("onewire"), None) for row in names]

        source = ProbeSource(link)
        listener = Listener(source, wanted)
        opened = listener.open()
        recorder = Recorder(bench, opened.about, "flood", listener.calendar)
        began, used, longest = time.monotonic(), time.process_time(), 0.0
        exchanges = missed = notes = lost = 0
        while time.monotonic() - began < seconds:
            step = time.monotonic()
            events = list(listener.step(0.02))
            recorder.take(events)
            exchanges += sum(isinstance(event, ev.Heard) for event in events)
            gaps = [event.gap for event in events if isinstance(event, ev.Missed)]
            missed, lost = missed + len(gaps), lost + sum(gap.lost or 0 for gap in gaps)
            notes += sum(isinstance(event, ev.Note) for event in events)
            recorder.keep()
            longest = max(longest, time.monotonic() - step)
        passed = time.monotonic() - began
        used = time.process_time() - used
        recorder.keep(now=True)
        edges = bench.edge_count()
        print(f"{edges / passed:,.0f} edges/s heard and stored for {passed:.0f} s")
        print(f"lost {lost} edges in {missed} gaps, {notes} notes; {exchanges} exchanges told")
        print(f"processor {used / passed:.0%} of a core, longest step {1000 * longest:.0f} ms")
        source.close()
        bench.close()
        size = (Path(name) / "flood.pivet").stat().st_size
        print(f"bench file {size / edges:.2f} bytes an edge")


def latency(seconds: float) -> None:
    """At the demo's rate: from the last edge of an exchange to its being told."""
    with tempfile.TemporaryDirectory() as name, standin(Path(name)) as link:
        source = ProbeSource(link)
        setups = [WireSetup(row[0], row[1], find_sheet(row[2]), 0.0) for row in FIVE]
        listener = Listener(source, lambda _: setups)
        listener.open()
        began = time.monotonic()
        late: list[float] = []
        by_wire: dict[str, list[float]] = {}
        while time.monotonic() - began < seconds:
            for event in listener.step(0.05):
                if isinstance(event, ev.Heard) and not event.revised:
                    told = (source.now_ns() - int(event.shown.exchanges.end_ns[event.index])) / 1e6
                    answered = event.report().due and bool(event.report().readings)
                    if answered:
                        late.append(told)
                        by_wire.setdefault(event.wire, []).append(late[-1])
        source.close()
        for name_, rows in by_wire.items():
            print(f"  {name_}: median {np.median(rows):.1f} ms, latest {max(rows):.1f} ms")
        found = np.percentile(late, (50, 99, 100))
        print(
            f"{len(late)} readings: median {found[0]:.1f} ms, 99 % {found[1]:.1f} ms, "
            f"latest {found[2]:.1f} ms"
        )


def kills(number: int) -> None:
    """Each file must open; how much of the end is missing."""
    worst, opened = 0.0, 0
    with tempfile.TemporaryDirectory() as name, standin(Path(name), "--flood", "20000") as link:
        for turn in range(number):
            path = Path(name) / f"{turn}.pivet"
            words = ["--wire", "flood.0", "--sensor", "onewire", "--only-listen"]
            process = subprocess.Popen(
                [*PIVET, "listen", "--source", link, *words, "--json", "--bench", str(path)],
                stdout=subprocess.DEVNULL,
            )
            while not path.exists():  # A busy machine takes its time to begin.
                time.sleep(0.02)
            time.sleep(random.uniform(0.0, 2.7))
            process.kill()
            killed = time.time_ns()
            process.wait()
            bench = BenchFile.open(path)
            rows = bench.captures()
            ends = [
                row.end_ns
                for capture in rows
                for row in bench.blocks(capture.id, "flood.0", 0, 2**62)
            ]
            bench.close()
            opened += 1
            if ends:
                worst = max(worst, (killed - rows[0].began_ns - max(ends)) / 1e9)
            for left in path.parent.glob(f"*{turn}.pivet*"):
                left.unlink()
    print(f"{opened} of {number} files opened; most lost {worst:.2f} s")


class DaySource(Source):
    """A piece of cave played again and again, as fast as it is read."""

    def __init__(
        self, pieces: dict[str, np.ndarray], first: Sequence[Piece], period_ns: int, turns: int
    ) -> None:
        self._edges, self._first = pieces, first
        self._period_ns, self._turns, self._turn = period_ns, turns, 0

    @property
    def name(self) -> str:
        return "day"

    def open(self) -> About:
        return About("day", tuple(LineInfo(name) for name in self._edges), 125)

    def listen(self, lines: Sequence[str]) -> None:
        pass

    def now_ns(self) -> int:
        return self._turn * self._period_ns

    def read(self, timeout_s: float) -> Batch:
        if self._turn >= self._turns:
            raise SourceEnded("the day is over", "")
        shift = self._turn * self._period_ns
        self._turn += 1
        pieces = [
            Piece(name, edges + shift, shift + self._period_ns)
            for name, edges in self._edges.items()
        ]
        return Batch((*(self._first if not shift else ()), *pieces))

    def close(self) -> None:
        pass


def template(seconds: float) -> tuple[dict[str, np.ndarray], list[Piece], int]:
    """Edges of the five wires, each asked as often as it may be."""
    cave, clock = make_cave(), MadeClock()
    loop = Loop(list(cave.circuits.values()), clock)
    source = ProbeSource("loop", None, loop.open_port, clock)
    setups = [
        WireSetup(name, lines, find_sheet(sheet), least_interval_s(find_sheet(sheet)))
        for name, lines, sheet in FIVE
    ]
    listener = Listener(source, lambda _: setups, clock.seconds, clock.sleep)
    heard: dict[str, list[np.ndarray]] = {}
    first: dict[str, Piece] = {}

    listener.open()
    begin = clock.seconds()
    while clock.seconds() - begin < seconds:
        for event in listener.step(0.05):
            for piece in event.pieces if isinstance(event, ev.Edges) else ():
                if piece.gap is not None:
                    first.setdefault(piece.line, piece)
                heard.setdefault(piece.line, []).append(piece.edges_ns)
    edges = {name: np.concatenate(rows) for name, rows in heard.items()}
    period = round((seconds + 5) * 1e9)
    even = {name: row[: row.size // 2 * 2] for name, row in edges.items()}
    begins = [
        replace(
            piece,
            edges_ns=piece.edges_ns[:0],
            known_until_ns=0,
            gap=replace(piece.gap, start_ns=0, end_ns=0) if piece.gap else None,
        )
        for piece in first.values()
    ]
    return even, begins, period


def day(hours: float, kept: Path | None = None) -> None:
    """Memory, size, opening, any exchange; the file is left at ``kept``."""
    edges, first, period = template(55.0)
    turns = round(hours * 3600e9 / period)
    setups = [WireSetup(name, lines, find_sheet(sheet), None) for name, lines, sheet in FIVE]
    names = {
        name: next(row for row in edges if row.endswith(name))
        for _, lines, _ in FIVE
        for name in lines
    }
    setups = [replace(row, lines=tuple(names[name] for name in row.lines)) for row in setups]
    with tempfile.TemporaryDirectory() as folder:
        path = kept or Path(folder) / "day.pivet"
        bench = BenchFile.create(path)
        source = DaySource(edges, first, period, turns)
        listener = Listener(source, lambda _: setups)
        opened = listener.open()
        recorder = Recorder(bench, opened.about, "day", listener.calendar)
        began, hour = time.monotonic(), 0
        memory: list[float] = []
        while not listener.over:
            recorder.take([*listener.step(0.0), *listener._tell()])
            recorder.keep()
            if source.now_ns() / 3600e9 >= hour:
                memory.append(rss_mb())
                hour += 1
        recorder.keep(now=True)
        passed = time.monotonic() - began
        count = bench.edge_count()
        bench.close()
        print(f"{hours:g} h in {passed:.0f} s: {count:,} edges")
        some = memory[1 :: max(len(memory) // 6, 1)]
        print("memory after 1 h and on: " + ", ".join(f"{row:.0f}" for row in some) + " MB")
        print(f"bench file {path.stat().st_size / count:.2f} bytes an edge")
        start = time.monotonic()
        bench = BenchFile.open(path)
        wires = recorded_wires(bench)
        sizes = [len(row) for row in wires]
        print(f"opens in {1000 * (time.monotonic() - start):.0f} ms: {sum(sizes)} exchanges")
        wires[0].around(0)
        times: list[float] = []
        for row, size in zip(wires, sizes, strict=True):
            for _ in range(40):
                number = random.randrange(size)
                start = time.monotonic()
                part = row.around(number)
                part.report(number - part.first)
                times.append(1000 * (time.monotonic() - start))
            print(f"  {row.row.name}: any exchange in {max(times[-40:]):.0f} ms at most")
        print(f"any exchange in {max(times):.0f} ms at most, median {np.median(times):.0f} ms")
        bench.close()


def rss_mb() -> float:
    """Memory of this process now, MB."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 1e6


if __name__ == "__main__":
    chosen, *words = sys.argv[1:] or ["flood"]
    usual = {"flood": 60.0, "latency": 60.0, "kills": 200.0, "day": 24.0}
    value = float(words[0]) if words else usual[chosen]
    if chosen == "kills":
        kills(round(value))
    elif chosen == "day":
        day(value, Path(words[1]) if words[1:] else None)
    else:
        {"flood": flood, "latency": latency}[chosen](value)
