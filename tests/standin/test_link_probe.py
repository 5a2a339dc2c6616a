"""The stand-in's side of the probe link, message by message, on circuits that are scripted."""

import unittest
from dataclasses import dataclass, field

import numpy as np

from pivet.signal.trace import Level
from pivet.sources.ask import Ask
from pivet.sources.link import messages as msg
from pivet.sources.link.frames import FrameReader, FrameWriter
from pivet.sources.link.host import packed_steps
from pivet.standin.live.circuit import Circuit, Driven, FloatArray, own_edges
from pivet.standin.probe.device import LinkProbe

MS = 8_000
"""Ticks of 125 ns."""


@dataclass(slots=True)
class Scripted(Circuit):
    """Its edges come at moments that are known, µs; by line."""

    script: list[list[float]] = field(default_factory=lambda: [[], []])

    def poll(self, until_us: float) -> list[FloatArray]:
        """All at once; the probe keeps what is yet to come."""
        rows, self.script = self.script, [[] for _ in self.names]
        return [np.array(row, dtype=float) for row in rows]

    def driven(self, line: int, lows: Driven, level: Level) -> list[FloatArray]:
        """Only what the host does."""
        edges = own_edges(lows)
        return [edges if at == line else edges[:0] for at in range(len(self.names))]

    def power_dips(self, now_us: float) -> None:
        """Nothing happens."""


class LinkTest(unittest.TestCase):
    """A probe with one line that rests high and two that rest low."""

    def setUp(self) -> None:
        self.shelf = Scripted(("shelf",), Level.HIGH, script=[[]])
        self.vat = Scripted(("trigger", "echo"), Level.LOW)
        self.probe = LinkProbe([self.shelf, self.vat], 7)
        self.writer, self.reader = FrameWriter(), FrameReader()
        self.told: list[tuple[int, msg.ProbeMessage]] = []

    def say(self, message: msg.HostMessage, now: int) -> list[msg.ProbeMessage]:
        """The host's word; gives what comes back at once."""
        self.probe.feed(self.writer.write(message.KIND, message.pack())[1], now)
        return self.look(now)

    def look(self, now: int, waiting: int = 0) -> list[msg.ProbeMessage]:
        """What the probe sends up to a tick."""
        frames = self.reader.feed(self.probe.poll(now, waiting))
        found = [msg.FROM_PROBE[frame.kind].unpack(frame.payload) for frame in frames]
        self.told += [(now, message) for message in found]
        return found

    def listen(self, lines: int = 0b111) -> None:
        """Hello at the beginning, then edges are wanted."""
        self.say(msg.Hello(1, 0), 0)
        self.say(msg.Listen(lines), 0)
        self.told.clear()

    def run_to(self, first: int, last: int) -> None:
        """Looks five times a millisecond."""
        for now in range(first, last, MS // 5):
            self.look(now)

    def of(self, kind: type[msg.ProbeMessage]) -> list[tuple[int, msg.ProbeMessage]]:
        """What was told of a kind, and when, ms."""
        return [(now // MS, one) for now, one in self.told if isinstance(one, kind)]

    def refusal(self, message: msg.HostMessage, now: int = 0) -> msg.Reason | None:
        """Why the probe does not do it."""
        found = [one for one in self.say(message, now) if isinstance(one, msg.Refused)]
        return found[0].reason if found else None


class Words(LinkTest):
    """What is answered at once."""

    def test_hello(self) -> None:
        """Who it is; then a beat with the levels of all lines, and nothing is listened to."""
        who, beat = self.say(msg.Hello(1, 0), 5)
        assert isinstance(who, msg.IAm)
        assert isinstance(beat, msg.ProbeBeat)
        self.assertEqual((7, 3), (who.boot, who.lines))
        self.assertEqual((5, 0b001, {}), (beat.tick, beat.levels, dict(beat.sent)))

    def test_lines(self) -> None:
        """Names, levels, and what may be driven: low where a sensor pulls, high at a trigger."""
        self.say(msg.Hello(1, 0), 0)
        rows = [self.say(msg.AskLine(number), 0)[0] for number in range(3)]
        self.assertEqual(["shelf", "trigger", "echo"], [row.name for row in rows])
        self.assertEqual(
            [msg.Can.PULL_LOW | msg.Can.PULL_UP, msg.Can.DRIVE_HIGH, msg.Can(0)],
            [row.can for row in rows],
        )
        self.assertEqual([Level.HIGH, Level.LOW, Level.LOW], [row.level for row in rows])

    def test_refusals(self) -> None:
        """Lines that are not there, what a line cannot, and what is no ask."""
        self.listen()
        low, high = msg.Drive.LOW, msg.Drive.HIGH
        steps = packed_steps(Ask("", (1000,)))
        self.assertEqual(msg.Reason.NO_SUCH_LINE, self.refusal(msg.Listen(0b1000)))
        self.assertEqual(msg.Reason.NO_SUCH_LINE, self.refusal(msg.AskLine(3)))
        self.assertEqual(msg.Reason.NO_SUCH_LINE, self.refusal(msg.Ask(1, 3, low, steps)))
        self.assertEqual(msg.Reason.LINE_CANNOT, self.refusal(msg.Ask(1, 0, high, steps)))
        self.assertEqual(msg.Reason.LINE_CANNOT, self.refusal(msg.Ask(1, 2, high, steps)))
        self.assertEqual(msg.Reason.TOO_LONG, self.refusal(msg.Ask(1, 0, low, bytes(481))))
        self.assertIsNone(self.refusal(msg.Listen(0b111)))
        self.assertIsNone(self.refusal(msg.Ask(1, 0, low, steps)))
        self.assertEqual(msg.Reason.BUSY, self.refusal(msg.Ask(2, 0, low, steps)))
        trigger = msg.Ask(3, 1, high, packed_steps(Ask("", (10,), Level.HIGH)))
        self.assertEqual(msg.Reason.BUSY, self.refusal(trigger))
        self.say(msg.Hello(), 0)  # which ends the ask
        self.assertIsNone(self.refusal(trigger))


class Edges(LinkTest):
    """When edges are sent, and of which lines."""

    def test_a_line_that_falls_quiet(self) -> None:
        """Two milliseconds after its last edge, the others with it; one nobody hears never."""
        self.shelf.script = [[20_000.0, 20_500.0, 21_000.0]]
        self.vat.script = [[20_000.0, 20_010.0], [22_000.0, 23_000.0]]
        self.listen(0b101)
        self.run_to(0, 30 * MS)
        (shelf_at, shelf), (echo_at, echo) = self.of(msg.Edges)
        self.assertEqual((23, 0), (shelf_at, shelf.line))
        self.assertEqual([4_000, 4_000], shelf.between.tolist())
        self.assertEqual((23, 2), (echo_at, echo.line))

    def test_a_line_that_never_rests(self) -> None:
        """Twelve milliseconds after the first that waits, and again; in order, none twice."""
        edges = np.arange(20_000.0, 70_000.0, 500.0)
        self.shelf.script = [edges.tolist()]
        self.listen(0b1)
        self.run_to(0, 80 * MS)
        found = self.of(msg.Edges)
        times = [now for now, _ in found]
        self.assertEqual(32, times[0])
        self.assertTrue(all(9 <= gap <= 12 for gap in np.diff(times[:4])), times)
        self.assertEqual(edges.size, sum(one.between.size + 1 for _, one in found))
        sent = np.cumsum([one.between.size + 1 for _, one in found])
        self.assertEqual([0, *sent[:-1]], [one.sent for _, one in found])

    def test_nothing_before_it_can_be_taken(self) -> None:
        """While the host lags behind, edges and beats wait."""
        self.shelf.script = [[10_000.0, 10_500.0]]
        self.listen()
        for now in range(0, 300 * MS, MS):
            self.assertEqual([], self.look(now, 1 << 14))
        self.assertEqual(msg.Edges, type(self.look(300 * MS)[0]))

    def test_beats(self) -> None:
        """Ten a second; soon after edges, once the line is known to be quiet."""
        self.shelf.script = [[250_000.0, 250_500.0]]
        self.listen(0b1)
        self.run_to(1, 450 * MS)
        times = [now for now, _ in self.of(msg.ProbeBeat)]
        self.assertEqual([10, 110, 210, 252, 352], times)
        sent = [dict(one.sent) for _, one in self.of(msg.ProbeBeat)]
        self.assertEqual([{0: 0}, {0: 0}, {0: 0}, {0: 2}, {0: 2}], sent)
        self.vat.script = [[460_000.0], [461_000.0]]
        self.run_to(450 * MS, 600 * MS)
        self.assertEqual([0b001] * 6 + [0b111], [one.levels for _, one in self.of(msg.ProbeBeat)])

    def test_alone(self) -> None:
        """Five seconds without a word, and it listens to nothing more."""
        self.shelf.script = [[4_990_000.0, 4_990_500.0, 5_100_000.0, 5_100_500.0]]
        self.listen(0b1)
        self.run_to(1, 5_300 * MS)
        self.assertEqual([4992], [now for now, _ in self.of(msg.Edges)])

    def test_when_to_look_again(self) -> None:
        """The next beat, an edge's rest, or the end of an ask, whichever is first."""
        self.listen(0b1)
        self.assertEqual(10 * MS, self.probe.idle_ticks(0))
        self.look(10 * MS)
        self.assertEqual(99 * MS, self.probe.idle_ticks(11 * MS))
        self.shelf.script = [[30_000.0]]
        self.look(20 * MS)
        self.assertEqual(12 * MS, self.probe.idle_ticks(20 * MS))
        self.look(31 * MS)
        self.assertEqual(MS, self.probe.idle_ticks(31 * MS))
        self.assertEqual(0, self.probe.idle_ticks(400 * MS))


class Asks(LinkTest):
    """Lines that the host drives."""

    def test_an_ask(self) -> None:
        """Its edges are there, and when it is over it is told, with the level and the times."""
        self.listen(0b1)
        now, steps = 3 * MS, packed_steps(Ask("", (1000, 50, 60)))
        self.say(msg.Ask(9, 0, msg.Drive.LOW, steps), now)
        self.run_to(now, 20 * MS)
        ((_, edges),) = self.of(msg.Edges)
        self.assertEqual([8_000, 400, 480], edges.between.tolist())
        ((at, asked),) = self.of(msg.Asked)
        self.assertEqual((9, 0, Level.HIGH, 4), (asked.ident, asked.line, asked.level, asked.sent))
        self.assertEqual(edges.first, asked.begin)
        self.assertEqual(at, asked.end // MS)
        self.assertIn(asked.end - edges.first - 8_880, range(MS // 5 + 1))
        self.assertIsNone(self.refusal(msg.Ask(10, 0, msg.Drive.LOW, steps), 20 * MS))
