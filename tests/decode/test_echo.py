"""The echo decoder: each echo to its trigger, on two lines and on one; any chunking the same."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from pivet.decode.echo import DecodeMark, EchoExchanges
from pivet.decode.echo.columns import NAMES
from pivet.families import FAMILIES
from pivet.signal.trace import Int64Array, Level
from tests.base import PivetTest, feed_in_pieces
from tests.decode.slots import slot_trains

MS = 1_000_000


def highs(*pulses: tuple[float, float]) -> Int64Array:
    """Edges of highs, each by start and length, µs."""
    times = [t for start, length in pulses for t in (start, start + length)]
    return np.round(np.array(times) * 1000).astype(np.int64)


def decode(
    *lines: Int64Array,
    cuts: tuple[int, ...] = (),
    end_ns: int | None = None,
    initial: Level = Level.LOW,
) -> EchoExchanges:
    """Measurements of one or two lines."""
    last = max((int(line[-1]) for line in lines if line.size), default=0)
    end = last + 100 * MS if end_ns is None else end_ns
    return feed_in_pieces(FAMILIES["echo-pulse"], lines, end, cuts, initial)


class TwoLines(PivetTest):
    """Trigger and echo."""

    def test_each_echo_to_its_trigger(self) -> None:
        """Start, trigger, wait and flight."""
        found = decode(highs((100, 10), (60_100, 12)), highs((560, 1000), (60_600, 2000)))
        self.assertEqual([100_000, 60_100_000], found.start_ns.tolist())
        self.assertEqual([10_000, 12_000], found.trigger_ns.tolist())
        self.assertEqual([450_000, 488_000], found.wait_ns.tolist())
        self.assertEqual([1_000_000, 2_000_000], found.flight_ns.tolist())

    def test_no_echo(self) -> None:
        """A trigger whose echo never comes, in the middle and at the end."""
        found = decode(highs((0, 10), (60_000, 10), (120_000, 10)), highs((60_500, 900)))
        self.assertEqual([-1, 900_000, -1], found.flight_ns.tolist())
        self.assertEqual([0, 0, 0], found.marks.tolist())

    def test_capture_ends(self) -> None:
        """Before the echo could come, and inside it."""
        soon = decode(highs((0, 10)), highs(), end_ns=MS)
        self.assertEqual([DecodeMark.CAPTURE_ENDED], soon.marks.tolist())
        inside = decode(highs((0, 10)), highs((500, 9000))[:1], end_ns=2 * MS)
        self.assertEqual(([DecodeMark.CAPTURE_ENDED], [1_500_000]), self.cut(inside))

    def test_ends_at_its_last_edge(self) -> None:
        """The fall of an echo at the very end counts, whether it could be a spike's or not."""
        triggers, echoes = highs((100, 10), (60_100, 12)), highs((560, 1000), (60_600, 2000))
        for behind in (1, 100, 999, 5_000):
            found = decode(triggers, echoes, end_ns=int(echoes[-1]) + behind)
            self.assertEqual([1_000_000, 2_000_000], found.flight_ns.tolist(), behind)
        shared = np.concatenate([highs((0, 5), (750, 1000)), highs((60_000, 5), (60_750, 2000))])
        found = decode(shared, end_ns=int(shared[-1]) + 1)
        self.assertEqual([1_000_000, 2_000_000], found.flight_ns.tolist())

    def cut(self, found: EchoExchanges) -> tuple[list[int], list[int]]:
        """Marks and flights."""
        return found.marks.tolist(), found.flight_ns.tolist()

    def test_triggered_while_up(self) -> None:
        """The second trigger falls into the first echo and has none of its own."""
        found = decode(highs((0, 10), (2000, 10), (80_000, 10)), highs((500, 5000), (80_500, 700)))
        self.assertEqual([0, DecodeMark.ECHO_UP, 0], found.marks.tolist())
        self.assertEqual([5_000_000, -1, 700_000], found.flight_ns.tolist())

    def test_one_trigger_has_one_answer(self) -> None:
        """Short gaps are closed, short pulses passed over, or the shot says why nobody can tell."""
        for what, echoes, marks, flight in (
            ("closed", ((500, 3000), (3515, 2000)), DecodeMark.BROKEN, 5_015_000),
            ("too wide a gap", ((500, 3000), (3800, 2000)), DecodeMark.SEVERAL, 3_000_000),
            ("far stray", ((100, 60), (600, 900)), DecodeMark.STRAYS, 900_000),
            ("near stray", ((500, 60), (600, 900)), DecodeMark.RAGGED, 900_000),
            ("touching stray", ((500, 60), (580, 900)), DecodeMark.RAGGED, 980_000),
            ("touching splinter", ((500, 5), (510, 900)), DecodeMark.BROKEN, 910_000),
            ("like it", ((500, 900), (20_000, 700)), DecodeMark.SEVERAL, 900_000),
        ):
            with self.subTest(what=what):
                found = decode(highs((0, 10)), highs(*echoes))
                self.assertEqual([marks], found.marks.tolist())
                self.assertEqual([flight], found.flight_ns.tolist())

    def test_echo_long_after_a_trigger_stands_alone(self) -> None:
        """Nothing is lost: it is a measurement without trigger."""
        found = decode(highs((0, 10)), highs((500, 900), (80_000, 700)))
        self.assertEqual([0, DecodeMark.TRIGGER_UNSEEN], found.marks.tolist())

    def test_clipped_highs_are_left_over(self) -> None:
        """A line that begins high says nothing of a pulse's length."""
        trigger = highs((0, 5), (60_000, 10))[1:]
        found = decode(trigger, highs((0, 3), (60_500, 800))[1:], initial=Level.HIGH)
        self.assertEqual((1, [1, 1]), (len(found), found.stray_edges.tolist()))


class OneLine(PivetTest):
    """Both on one line, or the echo alone."""

    def test_short_triggers_long_echoes(self) -> None:
        """5 µs trigger, 750 µs hold-off, echo."""
        found = decode(highs((0, 5), (755, 1200), (40_000, 2), (40_752, 18_000)))
        self.assertEqual([5000, 2000], found.trigger_ns.tolist())
        self.assertEqual([750_000, 750_000], found.wait_ns.tolist())
        self.assertEqual([1_200_000, 18_000_000], found.flight_ns.tolist())

    def test_echo_alone(self) -> None:
        """No trigger at all."""
        found = decode(highs((0, 1200), (60_000, 300)))
        self.assertEqual([DecodeMark.TRIGGER_UNSEEN] * 2, found.marks.tolist())
        self.assertEqual([0, 60_000_000], found.start_ns.tolist())


class Pieces(PivetTest):
    """Any way of cutting gives the same; nothing raises."""

    @settings(max_examples=40)
    @given(slot_trains(60), slot_trains(60), st.data(), st.booleans(), st.sampled_from(Level))
    def test_any_edges(
        self, one: Int64Array, other: Int64Array, data: st.DataObject, both: bool, level: Level
    ) -> None:
        """Arbitrary edges on one or two lines in arbitrary pieces."""
        lines = (one, other + 1) if both else (one,)
        size = sum(line.size for line in lines)
        cuts = tuple(data.draw(st.lists(st.integers(0, size), max_size=6)))
        last = max((int(line[-1]) for line in lines if line.size), default=0)
        end = last + data.draw(st.integers(0, 9 * MS))
        whole = decode(*lines, end_ns=end, initial=level)
        pieces = decode(*lines, end_ns=end, initial=level, cuts=cuts)
        for name in NAMES:
            np.testing.assert_array_equal(getattr(whole, name), getattr(pieces, name), name)
