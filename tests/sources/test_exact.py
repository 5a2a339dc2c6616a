"""How exact a probe's stamps are, what it does on its lines, and that it restarted."""

import numpy as np

from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.judge.verdict import Verdict
from pivet.keeping.recorded import recorded_wires
from pivet.listening import events as ev
from pivet.listening.listener import Listener
from pivet.person.wire_settings import WireSettings, read_wire_settings, wire_settings_text
from pivet.signal.trace import Level
from pivet.sources.link import messages as msg
from pivet.sources.link.frames import FrameWriter
from pivet.sources.probe import ProbeSource
from pivet.sources.source import About, Exactness, LineInfo, SourceError
from pivet.standin.probe.loop import Loop
from tests.listening.cave import CaveTest, wire

LATE_US = 3.0


class Late(CaveTest):
    """A probe whose interrupts are served late by up to 3 µs."""

    def judged(self, minor: int) -> list[ev.Heard]:
        """Exchanges of a healthy sensor, as such a probe tells them."""
        self.loop = Loop(list(self.cave.circuits.values()), self.clock, LATE_US, minor)
        self.source = ProbeSource("loop", None, self.loop.open_port, self.clock)
        self.addCleanup(self.source.close)
        self.events = []
        self.listen(wire("shelf_A", "dht22"))
        self.passes(44.0)
        heard = self.heard("shelf_A")
        self.assertGreater(len(heard), 20)
        return heard

    def test_a_healthy_sensor_is_not_unsound(self) -> None:
        """Since the probe says how exact it is; one of 1.0 does not, and is believed its tick."""
        told = self.judged(msg.MINOR)
        self.assertEqual({3125}, {row.shown.resolution_ns for row in told})
        words = {Verdict(row.shown.judged.verdict[row.index]) for row in told}
        self.assertNotIn(Verdict.UNSOUND, words)
        self.assertTrue(all(row.report().readings for row in told))
        old = self.judged(0)
        self.assertEqual({125}, {row.shown.resolution_ns for row in old})
        words = {Verdict(row.shown.judged.verdict[row.index]) for row in old}
        self.assertIn(Verdict.UNSOUND, words)

    def test_kept(self) -> None:
        """A bench file judges by it as it was when it was heard."""
        told = self.judged(msg.MINOR)
        path = self.folder / "late.pivet"
        bench = BenchFile.create(path)
        self.addCleanup(bench.close)
        recorder = self.new_recorder(bench)
        recorder.take(self.events)
        recorder.keep(now=True)
        (kept,) = recorded_wires(bench)
        self.assertEqual((3125, 125), (kept.resolution_ns, kept.capture.resolution_ns))
        part = kept.around(len(told) - 1)
        self.assertEqual(3125, part.resolution_ns)
        last = told[-1].shown.judged.verdict[told[-1].index]
        self.assertEqual(last, part.judged.verdict[len(told) - 1 - part.first])

    def test_settings(self) -> None:
        """What a file says of a wire comes back; what makes no sense is passed over."""
        for pull_up in (None, True, False):
            settings = WireSettings(2.0, 0, pull_up=pull_up, resolution_ns=3125)
            found = read_wire_settings(wire_settings_text(settings))
            self.assertEqual((pull_up, 3125), (found.pull_up, found.resolution_ns))
        self.assertNotIn("resolution", wire_settings_text(WireSettings()))
        for wrong in ("-5", "0", "2000000000", '"x"', "null", "1.5"):
            found = read_wire_settings(f'{{"resolution_ns": {wrong}, "pull_up": {wrong}}}')
            self.assertEqual((0, None), (found.resolution_ns, found.pull_up))

    def test_the_worst_of_the_lines(self) -> None:
        """Of a wire of two lines that which is told worse; never better than the tick."""
        lines = (
            LineInfo("a", exact=Exactness(1500, 6000, 1000)),
            LineInfo("b", exact=Exactness(3000, 6000, 6000)),
            LineInfo("fine", exact=Exactness(400, 1000, 1000)),
            LineInfo("old"),
        )
        about = About("probe", lines, 500)
        for names, wrong in (("a", 1500), ("ab", 3000), (["fine"], 500), (["old", "a"], 1500)):
            self.assertEqual(wrong, about.resolution_of(tuple(names)))


class OnItsLines(CaveTest):
    """Pull-ups, pulses without a width, restarts."""

    def states(self) -> dict[str, bool]:
        """Where the probe's pull-ups are on."""
        return {name: row.troubles.helped for name, row in self.cave.circuits.items()}

    def test_pull_up(self) -> None:
        """Switched on when a wire is listened to, and again when the probe has come back."""
        self.listen(replace(wire("shelf_A", "dht22"), pull_up=True), wire("wash_room", "dht11"))
        self.passes(1.0)
        self.assertEqual(["shelf_A"], [name for name, on in self.states().items() if on])
        self.cave.circuits["shelf_A"].troubles.helped = False
        self.loop.crash()
        self.passes(1.0)
        self.loop.plugged = True
        self.passes(6.0)
        self.assertTrue(self.states()["shelf_A"])
        self.source.pull_up("shelf_A", False)
        self.assertFalse(self.states()["shelf_A"])
        self.listener.add(replace(wire("blast_chiller", "dht22"), pull_up=True))
        self.assertEqual(["blast_chiller"], [name for name, on in self.states().items() if on])

    def test_none_there(self) -> None:
        """A trigger line has none: said, and nothing is begun."""
        setup = replace(wire("brine_vat", "hc-sr04"), pull_up=True)
        listener = Listener(self.source, lambda _: [setup], self.clock.seconds, self.clock.sleep)
        with self.assertRaisesRegex(SourceError, "no pull-up of its own for cave.brine_vat.trig"):
            listener.open()

    def test_only_listening_keeps_the_probe(self) -> None:
        """Nothing is asked for long: beats alone tell the probe that somebody is there."""
        self.listen(wire("cellar_door", "dht11-early", None))
        told = self.passes(15.0)
        self.assertEqual([], [row for row in told if isinstance(row, ev.Away)])
        self.assertGreaterEqual(len(self.heard("cellar_door", self.passes(6.0))), 2)

    def test_it_had_restarted(self) -> None:
        """What is missing is laid to that; where the same start goes on it is not."""
        self.listen(wire("shelf_A", "dht22"))
        for starts, why in ((True, "the probe had restarted"), (False, "nobody listened")):
            self.passes(5.0)
            self.loop.plugged = False
            self.passes(4.0)
            if starts:
                self.loop.crash()
            self.loop.plugged = True
            told = self.passes(10.0)
            pieces = [piece for row in told if isinstance(row, ev.Edges) for piece in row.pieces]
            gaps = [piece.gap.why for piece in pieces if piece.gap is not None and piece.gap.why]
            self.assertEqual([why], list(dict.fromkeys(gaps)))

    def test_pulses_without_a_width(self) -> None:
        """They are heard as pulses, and it is said that nobody knows how long they were."""
        self.listen(wire("shelf_A", "dht22", None))
        self.passes(1.0)
        sent = int(self.source._host._lines[0].sent)
        tick = self.source._host.tick + 8000
        edges = msg.Edges(
            0, Level.LOW, sent, tick & 0xFFFF_FFFF, 9, np.array([12]), np.array([True])
        )
        frame = FrameWriter().write(edges.KIND, edges.pack())[1]
        self.loop.spoil = lambda data: frame + data
        told = self.passes(0.06)
        self.loop.spoil = None
        told = [*told, *self.passes(12.0)]
        notes = [row.says for row in told if isinstance(row, ev.Note)]
        self.assertTrue(
            any("1 pulse under 0.2 µs told without their width" in n for n in notes), notes
        )
        widths = [
            int(piece.edges_ns[1] - piece.edges_ns[0])
            for row in told
            if isinstance(row, ev.Edges)
            for piece in row.pieces
            if piece.line.endswith("shelf_A") and piece.edges_ns.size == 2
        ]
        self.assertIn(6 * 125, widths)
