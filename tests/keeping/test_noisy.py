"""Damaged wires, recorded: wherever somebody looks, it is shown as it was told."""

import math
from contextlib import closing

import numpy as np

from pivet.files.benchfile.rows import Block
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.judge.chapter import CHAPTER
from pivet.keeping.recorded import recorded_wires
from pivet.keeping.recorder import Recorder
from pivet.listening.events import Heard
from pivet.listening.setup import WireSetup
from pivet.signal.trace import Level, Trace
from pivet.standin.probe.loop import MadeClock
from tests.base import PivetTest
from tests.listening import mutants
from tests.listening.test_told import recorded
from tests.night import demo_night, night_part

HOUR_NS = 3_600 * 10**9
REST_NS = 10**9


def hurried(trace: Trace, times: int) -> Trace:
    """The same with rests between exchanges that are so many times shorter."""
    (line,) = trace.lines
    rests = np.diff(line.edges_ns, prepend=0)
    rests = np.where(rests > REST_NS, rests // times, rests)
    edges = np.cumsum(rests)
    return replace(trace, lines=(replace(line, edges_ns=edges),), end_ns=int(edges[-1]) + HOUR_NS)


class Noisy(PivetTest):
    """Hours of the night with edges that nobody sent."""

    def test_shown_as_it_was_told(self) -> None:
        """Chapter by chapter: noise ahead of one, and the end of the recording within another."""
        like = {wire.label: wire for wire in demo_night().wires}
        for name, seed, hours, faster in (
            ("wheels", 1, 8.0, 1),
            ("shelf_A", 2, 1.6, 1),
            ("wash_room", 2, 1.5, 20),
        ):
            trace = hurried(mutants.damaged(night_part(name, hours), seed), faster)
            clock = MadeClock()
            setups = [mutants.setup_of(like[f"cave.{name}"])]
            listener = mutants.listener_of(trace, setups, math.inf, clock)
            events = mutants.listened(listener, clock, lambda: 0.05)
            with closing(BenchFile.create(self.folder / f"{name}{faster}.pivet")) as bench:
                rows = bench.exchanges(recorded(bench, listener, events), 0, 1 << 40)
                self.assertGreater(len(rows), 3 * CHAPTER)
                (wire,) = recorded_wires(bench)
                for first in range(0, len(rows), CHAPTER):
                    part = wire.around(first)
                    self.assertEqual(0, part.first % CHAPTER)
                    shown = part.judged.notices[first - part.first :][:CHAPTER].tolist()
                    told = [row.notices for row in rows[first : first + CHAPTER]]
                    self.assertEqual(told, shown, (name, first))

    def test_taken_for_another_at_first(self) -> None:
        """A wire that nobody named is shown by what it is recognised as now, not at its first."""
        plugged = 30 * 10**9
        (wash,) = night_part("wash_room", plugged / HOUR_NS).lines
        trace = night_part("shelf_A", 1 / 3)
        (shelf,) = trace.lines
        edges = np.concatenate((wash.edges_ns, shelf.edges_ns[shelf.edges_ns > plugged]))
        trace = replace(trace, lines=(replace(shelf, edges_ns=edges),))
        clock = MadeClock()
        setup = WireSetup("shelf_A", (shelf.name,), None, None)
        listener = mutants.listener_of(trace, [setup], 400.0, clock)
        events = mutants.listened(listener, clock, lambda: 0.05)
        assert listener.about is not None
        with closing(BenchFile.create(self.folder / "swapped.pivet")) as bench:
            recorder = Recorder(bench, listener.about, "replay", listener.calendar)
            half = next(at for at, row in enumerate(events) if isinstance(row, Heard)) + 1
            recorder.take(events[:half])
            recorder.keep(now=True)
            (wire,) = recorded_wires(bench)
            self.assertEqual("dht11", wire.row.sheet)
            self.assertEqual("dht11", wire.newest().sheet.id)
            recorder.take(events[half:])
            recorder.keep(now=True)
            self.assertEqual("dht22", bench.wires()[0].sheet)
            shown = wire.around(300)
            self.assertEqual(("dht22", "dht22"), (shown.sheet.id, wire.row.sheet))
            rows = bench.exchanges(wire.row.id, 0, len(wire))
            told = [row.notices for row in rows[shown.first :][: len(shown)]]
            self.assertEqual(told, shown.judged.notices.tolist())

    def test_edges_that_are_gone(self) -> None:
        """Of the first chapter most: what is left of it does, and what is behind can be seen."""
        trace = night_part("wash_room", 1.5)
        (line,) = trace.lines
        clock = MadeClock()
        (like,) = (wire for wire in demo_night().wires if wire.label == line.name)
        listener = mutants.listener_of(trace, [mutants.setup_of(like)], 4000.0, clock)
        events = mutants.listened(listener, clock, lambda: 0.01)
        with closing(BenchFile.create(self.folder / "gone.pivet")) as bench:
            rows = bench.exchanges(recorded(bench, listener, events), 0, 1 << 40)
            with bench.writing():
                bench._connection.execute("DELETE FROM block")
                for first, last in ((0, 20), (250, 260), (505, 800)):
                    begin, end = (rows[at].start_ns - 10**6 for at in (first, last))
                    edges = line.edges_ns[(line.edges_ns > begin) & (line.edges_ns < end)]
                    bench.add_block(1, Block(begin, end, Level.HIGH, edges))
            (wire,) = recorded_wires(bench)
            part = wire.around(600)
            self.assertEqual(rows[600].start_ns, part.exchanges.start_ns[600 - part.first])
