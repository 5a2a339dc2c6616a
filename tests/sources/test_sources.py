"""Replay and watched folder: sources beside the probe."""

import math
import shutil

import numpy as np

from pivet.files.captures import write_capture
from pivet.signal.trace import Level, Line, Trace
from pivet.sources.folder import FolderSource
from pivet.sources.replay import ReplaySource
from pivet.sources.source import About, Batch, LineInfo, SourceEnded, SourceError, SourceLost
from pivet.standin.probe.loop import MadeClock
from tests.base import CAPTURES, PivetTest
from tests.night import demo_night
from tests.sources.heard import edges_of


class Replay(PivetTest):
    """A capture played again."""

    def test_as_fast_as_it_goes(self) -> None:
        """Every edge comes once, in order, and then it is over."""
        trace = demo_night().trace
        source = ReplaySource("night", trace, math.inf)
        source.open()
        names = [line.name for line in trace.lines]
        source.listen(names)
        batches = []
        with self.assertRaises(SourceEnded):
            while True:
                batches.append(source.read(0.0))
        for line in trace.lines:
            np.testing.assert_array_equal(
                line.edges_ns - trace.start_ns, edges_of(batches, line.name)
            )

    def test_at_a_pace(self) -> None:
        """Four times as fast: after a second, four seconds of it."""
        clock = MadeClock()
        line = Line("a", Level.HIGH, np.arange(1, 11, dtype=np.int64) * 10**9)
        source = ReplaySource("a", Trace((line,), 0, 11 * 10**9, 100), 4.0, clock.seconds)
        source.open()
        source.listen(["a"])
        batches = [source.read(0.0)]
        clock.now_ns += 10**9
        batches.append(source.read(0.0))
        self.assertEqual(4, edges_of(batches, "a").size)
        self.assertEqual(4 * 10**9, source.now_ns())

    def test_wrong_wishes(self) -> None:
        """A pace of nothing, a line that is not there."""
        trace = demo_night().trace
        with self.assertRaisesRegex(SourceError, "pace"):
            ReplaySource("night", trace, 0)
        with self.assertRaisesRegex(SourceError, "no line 'x'"):
            ReplaySource("night", trace).listen(["x"])

    def test_lines_by_name(self) -> None:
        """Whole, or a last part that only one has; else all are named."""
        lines = tuple(LineInfo(name) for name in ("tb.a.data", "tb.b.data", "clk", "x.clk"))
        about = About("the bench", lines, 10)
        self.assertIs(lines[2], about.line("clk"))
        self.assertIs(lines[0], about.line("a.data"))
        for name in ("data", "b", "tb"):
            with self.assertRaisesRegex(SourceError, f"the bench has no line '{name}'") as raised:
                about.line(name)
            self.assertIn("its lines are: tb.a.data, tb.b.data, clk, x.clk", str(raised.exception))
        with self.assertRaisesRegex(SourceError, "its lines are: none"):
            About("nothing", (), 10).line("x")

    def test_wires_by_name(self) -> None:
        """A line as it is; both lines of a pair by what they share; no line is in the way."""
        names = ("tb.a.data", "vat.trigger", "vat.echo", "top.trig", "top.echo")
        about = About("the bench", tuple(map(LineInfo, names)), 10)
        for written, lines in {
            ("data",): names[:1],
            ("vat",): names[1:3],
            ("top.trig+echo",): names[3:],
            ("vat.trigger", "vat.echo"): names[1:3],
            ("trig", "data"): (names[3], names[0]),
        }.items():
            self.assertEqual(lines, about.wire_lines(written), written)
        shadowed = About("b", tuple(map(LineInfo, ("s.vat", "vat.trigger", "vat.echo"))), 10)
        self.assertEqual(("s.vat",), shadowed.wire_lines(["vat"]))
        for wrong in (["cave"], ["vat", "data"], ["echo"]):
            with self.assertRaisesRegex(SourceError, f"no line '{wrong[0]}'"):
                about.wire_lines(wrong)


class Folder(PivetTest):
    """A folder into which an instrument drops captures."""

    def setUp(self) -> None:
        super().setUp()
        self.clock = MadeClock()
        self.source = FolderSource(self.folder, self.clock.seconds)

    def later(self) -> Batch:
        """A look, a second later."""
        self.source.read(0.0)
        self.clock.now_ns += 10**9
        return self.source.read(0.0)

    def test_only_finished_files(self) -> None:
        """What lies there is taken in; hidden and growing files are not; each once."""
        shutil.copy(CAPTURES / "av_dht22.vcd", self.folder / "old.vcd")
        shutil.copy(CAPTURES / "av_dht22.vcd", self.folder / ".hidden.vcd")
        self.source.open()
        self.assertEqual(("old.vcd was taken in.",), self.later().notes)
        self.assertTrue(self.later().empty)
        growing = self.folder / "new.vcd"
        text = (CAPTURES / "av_dht22.vcd").read_text()
        growing.write_text(text[:500])
        self.source.read(0.0)
        self.clock.now_ns += 5 * 10**8
        growing.write_text(text)
        self.assertTrue(self.source.read(0.0).empty)
        self.clock.now_ns += 5 * 10**8
        self.assertTrue(self.source.read(0.0).empty)
        self.clock.now_ns += 5 * 10**8
        batch = self.source.read(0.0)
        self.assertTrue(batch.pieces)
        self.assertEqual(("new.vcd was taken in.",), batch.notes)
        self.assertTrue(self.later().empty)

    def test_second_capture_stands_behind_the_first(self) -> None:
        """With a gap between; a line keeps its name."""
        self.source.open()
        self.source.listen(["data"])
        trace = Trace((Line("top.data", Level.HIGH, np.array([5, 9])),), 0, 10**9, 1)
        write_capture(trace, self.folder / "a.vcd")
        first = self.later().pieces[0]
        write_capture(trace, self.folder / "b.vcd")
        second = self.later().pieces[0]
        self.assertEqual(("data", "data"), (first.line, second.line))
        assert second.gap is not None
        self.assertEqual(first.known_until_ns, second.gap.start_ns)
        self.assertGreater(int(second.edges_ns[0]), first.known_until_ns)

    def test_unreadable(self) -> None:
        """One sentence, and watching goes on."""
        self.source.open()
        (self.folder / "bad.csv").write_text("nothing at all\n")
        self.assertIn("bad.csv", self.later().notes[0])
        shutil.copy(CAPTURES / "av_dht22.vcd", self.folder / "good.vcd")
        self.assertTrue(self.later().pieces)

    def test_gone(self) -> None:
        """A folder that is not there, or goes away."""
        with self.assertRaisesRegex(SourceError, "no folder"):
            FolderSource(self.folder / "none").open()
        inner = self.folder / "in"
        inner.mkdir()
        source = FolderSource(inner)
        source.open()
        inner.rmdir()
        with self.assertRaises(SourceLost):
            source.read(0.0)
