"""What a probe says that cannot be: refused in the link, counted as lost."""

import itertools
import unittest

import numpy as np

from pivet.frozen import replace
from pivet.signal.trace import Level
from pivet.sources.link import messages as msg
from pivet.sources.link.frames import FrameReader, frame_bytes
from pivet.sources.link.host import BACK_NS, MOST_NS, Heard, LinkHost, ProbeMessage, Why
from pivet.sources.link.words import MOST_TICK
from pivet.sources.probe import NOTE_EVERY_S, ProbeSource, _told_apart
from pivet.sources.source import LineInfo, Piece, SourceLost
from pivet.standin.live.cave import make_cave
from pivet.standin.probe.loop import Loop, MadeClock
from tests.base import PivetTest

I_AM = msg.IAm(1, 0, 7, 125_000, 2, 256, 512, 256, "made up")
NOTHING = np.empty(0, dtype=np.int64)


class Refused(unittest.TestCase):
    """Messages whose content cannot be."""

    def setUp(self) -> None:
        self.host = LinkHost()
        self.host.believe(I_AM)
        number, _ = self.host.pack(msg.Listen(1))
        self.sent = 0
        self.says(msg.Done(number))
        self.says(msg.ProbeBeat(1000, 1, {0: 0}))

    def says(self, message: msg.ProbeMessage) -> list[ProbeMessage]:
        """What the host makes of a message."""
        data = frame_bytes(message.KIND, self.sent % 256, message.pack())
        self.sent += 1
        return list(self.host.feed(data))

    def refuses(self, message: msg.ProbeMessage) -> None:
        """Nothing is told of it, and it is counted."""
        before = self.host.malformed
        self.assertEqual([], self.says(message))
        self.assertEqual(before + 1, self.host.malformed)

    def test_edges_that_do_not_rise(self) -> None:
        """Behind what is known; what they would have told is missed by the next count."""
        first = msg.Edges(0, Level.LOW, 0, 2000, 5, np.array([10]))
        self.assertEqual(1, len(self.says(first)))
        for tick in (2015, 2010, 1500):
            self.refuses(msg.Edges(0, Level.LOW, 2, tick, 0, np.array([3])))
        (heard, _) = self.says(msg.ProbeBeat(3000, 1, {0: 4}))
        assert isinstance(heard, Heard) and heard.gap is not None
        self.assertEqual((2, Why.LINK), (heard.gap.count, heard.gap.why))
        later = msg.Edges(0, Level.LOW, 4, 3001, 0, NOTHING)
        (heard,) = self.says(later)
        assert isinstance(heard, Heard)
        self.assertEqual([3001], heard.ticks.tolist())

    def test_knowledge_that_goes_back(self) -> None:
        """A beat far behind is refused; one a moment behind is a moment behind."""
        second = BACK_NS * 1000 // I_AM.tick_ps
        self.says(msg.ProbeBeat(5 * second, 1, {0: 0}))
        self.refuses(msg.ProbeBeat(4 * second - 1, 1, {0: 0}))
        self.assertEqual(5 * second, self.host.tick)
        self.assertEqual(1, len(self.says(msg.ProbeBeat(4 * second, 1, {0: 0}))))
        lost = msg.Lost(0, Level.LOW, 0, 4 * second - 1, 3)
        self.refuses(lost)
        heard = self.says(replace(lost, until=4 * second))
        self.assertEqual(5 * second, heard[0].known_until)  # type: ignore[union-attr]

    def test_a_probe_that_restarted(self) -> None:
        """It does not listen any more, so its clock may stand anywhere."""
        self.says(msg.ProbeBeat(10**9, 1, {0: 0}))
        (beat,) = self.says(msg.ProbeBeat(5, 1, {}))
        self.assertIsInstance(beat, msg.ProbeBeat)

    def test_beyond_all_clocks(self) -> None:
        """Ticks whose time could not be counted on, by their length."""
        for tick_ps in (1, 125_000, 2**32 - 1):
            self.host.believe(replace(I_AM, tick_ps=tick_ps))
            most = self.host.most_tick
            self.assertLessEqual(most, MOST_TICK)
            self.assertLessEqual(most * tick_ps // 1000, MOST_NS)
            self.assertEqual(1, len(self.says(msg.ProbeBeat(most, 1, {}))))
            if most < MOST_TICK:
                self.refuses(msg.ProbeBeat(most + 1, 1, {}))
                between = np.array([2**34] * 9)
                self.refuses(msg.Edges(0, Level.LOW, 0, most & 0xFFFF_FFFF, 2**34, between))

    def test_before_it_was_carried_out(self) -> None:
        """Lines begin when the probe says that it listens to them."""
        number, _ = self.host.pack(msg.Listen(3))
        edges = msg.Edges(1, Level.LOW, 40, 1500, 0, np.array([9]))
        self.assertEqual([], self.says(edges))
        heard = self.says(msg.ProbeBeat(1600, 1, {0: 0, 1: 42}))
        self.assertEqual([0], [row.line for row in heard if isinstance(row, Heard)])
        self.says(msg.Done(number))
        heard = self.says(msg.ProbeBeat(1700, 1, {0: 0, 1: 0}))
        gaps = [row.gap for row in heard if isinstance(row, Heard) and row.line == 1]
        self.assertEqual([Why.BEGIN], [gap.why for gap in gaps if gap is not None])


class Probe(PivetTest):
    """The probe as a source."""

    def setUp(self) -> None:
        super().setUp()
        self.clock = MadeClock()
        self.loop = Loop(list(make_cave().circuits.values()), self.clock)
        self.source = ProbeSource("loop", None, self.loop.open_port, self.clock)
        self.addCleanup(self.source.close)

    def passes(self, seconds: float) -> tuple[list[Piece], list[str]]:
        """What is told in a while."""
        pieces, notes = [], []
        until = self.clock.seconds() + seconds
        while self.clock.seconds() < until:
            batch = self.source.read(0.05)
            pieces += batch.pieces
            notes += batch.notes
        return pieces, notes

    def test_long_times(self) -> None:
        """Ticks times their length leave int64 after a hundred days; time does not."""
        self.source.open()
        for tick_ps in (62_500, 125_000, 1, 999):
            self.source._i_am = replace(I_AM, tick_ps=tick_ps)
            self.source._origin = (17, 23)
            for ticks in (0, 1, 999, 10**15, 2**52 + 1):
                wanted = ticks * tick_ps // 1000 + 23
                self.assertEqual(wanted, self.source._ns(ticks + 17))
                array = np.array([ticks + 17], dtype=np.int64)
                self.assertEqual([wanted], self.source._ns(array).tolist())

    def test_lost_bytes_are_said_together(self) -> None:
        """One note for all that was lost in a while, and none for what was before the hello."""
        self.source.open()
        self.source.listen(["shelf_A"])
        self.assertEqual([], self.passes(2.0)[1])
        turns = itertools.count()
        self.loop.spoil = lambda data: data[:-3] if next(turns) % 3 == 0 else data
        notes = self.passes(NOTE_EVERY_S + 1)[1]
        self.assertLessEqual(len(notes), 2)
        self.assertIn("were lost or damaged", notes[0])
        self.loop.spoil = None
        notes = self.passes(2 * NOTE_EVERY_S + 1)[1]
        self.assertLessEqual(len(notes), 1)

    def test_times_that_cannot_be(self) -> None:
        """Whole frames that make no sense are not laid to the cable."""
        self.source.open()
        self.source.listen(["shelf_A"])
        self.passes(2.0)
        reader = FrameReader()

        def long_ago(data: bytes) -> bytes:
            """Every beat is of the probe's first moment."""
            out = b""
            for frame in reader.feed(data):
                payload = frame.payload
                if frame.kind == msg.ProbeBeat.KIND:
                    payload = replace(msg.ProbeBeat.unpack(payload), tick=0).pack()
                out += frame_bytes(frame.kind, frame.number, payload)
            return out

        self.loop.spoil = long_ago
        notes = self.passes(1.0)[1]
        self.assertRegex(notes[0], r"cannot be \(\d+ messages?, passed over\): its firmware")
        self.assertEqual(1, len(notes))

    def test_noise_before_the_hello(self) -> None:
        """What was half sent to an earlier listener is nobody's loss."""
        noise = [b"\x01\x02half a frame\0\x05\x05\0"]
        self.loop.spoil = lambda data: (noise.pop() if noise else b"") + data
        self.source.open()
        self.source.listen(["shelf_A"])
        self.assertEqual([], self.passes(2.0)[1])

    def test_an_earlier_listener(self) -> None:
        """Opening after somebody else loses nothing, whatever was counted before."""
        earlier = ProbeSource("loop", None, self.loop.open_port, self.clock)
        earlier.open()
        earlier.listen(["wheels", "shelf_A"])
        for _ in range(20):
            earlier.read(0.05)
        self.source.open()
        self.source.listen(["shelf_A", "wheels"])
        pieces, notes = self.passes(2.0)
        self.assertEqual([], notes)
        gaps = [piece.gap for piece in pieces if piece.gap is not None]
        self.assertEqual({""}, {gap.why for gap in gaps})
        self.assertEqual(2, len(gaps))

    def test_another_probe_answers(self) -> None:
        """Who says another name in the middle has restarted, or is somebody else."""
        self.source.open()
        self.source.listen(["shelf_A"])
        i_am = self.source._i_am
        assert i_am is not None
        data = frame_bytes(msg.IAm.KIND, 0, replace(i_am, tick_ps=7).pack())
        self.loop.spoil = lambda _: data
        with self.assertRaisesRegex(SourceLost, "has restarted"):
            self.passes(2.0)

    def test_lines_of_one_name(self) -> None:
        """They are told apart by their numbers."""
        rows = _told_apart([LineInfo("data"), LineInfo("x"), LineInfo("data")])
        self.assertEqual(["data (line 0)", "x", "data (line 2)"], [row.name for row in rows])
