"""Rehearsal against firmware that is played step by step, a frame at a time."""

import math
from bisect import bisect_right
from importlib import import_module
from itertools import pairwise
from typing import Any
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.captures.wire import Wire
from pivet.decode.humidity import HumidityExchanges
from pivet.errors import Cancelled, InputError
from pivet.frozen import replace
from pivet.insight.humidity import loop_map, reading
from pivet.insight.humidity.frames import BIT_HIGH, BIT_LOW, Frames, frames_in, whole_frames
from pivet.insight.humidity.reading import number_of, read, taken_bits, turns_of
from pivet.insight.outcomes import Outcome, Outcomes
from pivet.insight.readers import Reader, microseconds, stall_of
from pivet.insight.registry import insight_of
from pivet.insight.rehearsal import rehearse, suggest
from pivet.insight.side import Side
from pivet.insight.stalls import Stall, draw, own_time
from pivet.insight.suggestion import Constant, Suggestion
from pivet.insight.tell import header_lines
from pivet.signal.trace import Int64Array
from tests.base import PivetTest
from tests.insight.signals import cave_frames, echo_wire, humidity_wire, thermometer_wire, widths_of
from tests.physics.humidity import AM


class Line:
    """A line with edges, as a processor looks at it."""

    def __init__(self, edges: list[float], stalls: list[tuple[float, float]]) -> None:
        self.edges, self.stalls = edges, stalls

    def level(self, t: float) -> bool:
        """High at first, from edge to edge the other; at an edge as behind it."""
        return bisect_right(self.edges, t) % 2 == 1

    def awake(self, t: float) -> float:
        """The next time at which the processor looks."""
        for begin, end in self.stalls:
            if begin <= t < end:
                t = end
        return t

    def seen(self, t: float, level: bool) -> float:
        """When a processor that looks without a pause sees a level; infinite if never."""
        t = self.awake(t)
        while self.level(t) is not level:
            at = bisect_right(self.edges, t)
            if at >= len(self.edges):
                return math.inf
            t = self.awake(self.edges[at])
        return t

    def after(self, t: float, work: float) -> float:
        """When so much work is done that begins at a time."""
        for begin, end in self.stalls:
            if begin < t + work and end > t:
                if begin >= t:
                    work += end - begin
                else:
                    t = max(t, end)
        return t + work


def played_width(line: Line, threshold: float, timeout: float) -> bytes | None:
    """A timer: waits for each level, gives up after a time; None then."""
    t, bits = line.edges[0], []
    for level in (False, True, False):
        seen = line.seen(t, level)
        if seen - t > timeout or math.isinf(seen):
            return None
        t = seen
    for _ in range(40):
        rise = line.seen(t, True)
        if rise - t > timeout or math.isinf(rise):
            return None
        fall = line.seen(rise, False)
        if fall - rise > timeout or math.isinf(fall):
            return None
        bits.append(fall - rise > threshold)
        t = fall
    return np.packbits(bits).tobytes()


def played_sample(line: Line, threshold: float) -> bytes | None:
    """Looks once after each rise; then waits for low."""
    t, bits = line.edges[0], []
    for level in (False, True, False):
        t = line.seen(t, level)
    for _ in range(40):
        t = line.seen(t, True)
        if math.isinf(t):
            return None
        t = line.after(t, threshold)
        bits.append(line.level(t))
        t = line.seen(t, False)
        if math.isinf(t) and len(bits) < 40:
            return None
    return np.packbits(bits).tobytes()


def outcome_of(taken: bytes | None, sent: bytes) -> Outcome:
    """What became of a frame."""
    if taken is None:
        return Outcome.TIMEOUT
    if taken == sent:
        return Outcome.RIGHT
    return Outcome.WRONG if sum(taken[:4]) & 255 == taken[4] else Outcome.REFUSED


def exchanges_of(wire) -> HumidityExchanges:  # type: ignore[no-untyped-def]
    """Of a humidity wire."""
    assert isinstance(wire.exchanges, HumidityExchanges)
    return wire.exchanges


class Played(PivetTest):
    """What the arrays say is what the played firmware does."""

    @given(
        st.integers(0, 10_000),
        st.floats(18, 78),
        st.floats(60, 200),
        st.one_of(st.none(), st.tuples(st.floats(2, 150), st.floats(20, 800))),
    )
    def test_width(
        self, seed: int, threshold: float, timeout: float, away: tuple[float, float] | None
    ) -> None:
        """Any threshold, any timeout, any stalls that do not run into each other."""
        stall = None if away is None else Stall(*away)
        reader = Reader("width", round(threshold, 2), timeout_us=round(timeout, 2), stall=stall)
        self.assert_played(reader.with_(seed=seed), seed)

    @given(
        st.integers(0, 10_000),
        st.floats(5, 150),
        st.one_of(st.none(), st.tuples(st.floats(2, 60), st.floats(20, 500))),
    )
    def test_sample(self, seed: int, threshold: float, away: tuple[float, float] | None) -> None:
        """The same for a reader that looks once."""
        stall = None if away is None else Stall(*away)
        self.assert_played(Reader("sample", round(threshold, 2), stall=stall, seed=seed), seed)

    def assert_played(self, reader: Reader, seed: int) -> None:
        """Frame by frame."""
        wire = humidity_wire(cave_frames(12, seed), random=np.random.default_rng(seed), jitter=1.5)
        exchanges = exchanges_of(wire)
        at = np.arange(len(wire))
        found, starts = self.read_with_stalls(exchanges, at, reader)
        (frames,) = frames_in(exchanges, whole_frames(exchanges))
        length = 0.0 if reader.stall is None else reader.stall.length_ns
        for place, index in enumerate(frames.at.tolist()):
            own = starts.get(index, [])
            if any(later - early < length for early, later in pairwise(own)):
                continue
            line = Line(frames.edges_ns[:, place].tolist(), [(s, s + length) for s in own])
            if any(begin <= line.edges[0] < end for begin, end in line.stalls):
                continue  # the firmware begins its own exchange when it is there
            threshold = round((reader.threshold_us or 0) * 1000, 6)
            if reader.kind == "width":
                timeout = round((reader.timeout_us or 0) * 1000, 6)
                taken = played_width(line, threshold, timeout)
            else:
                taken = played_sample(line, threshold)
            wanted = outcome_of(taken, frames.sent[:, place].tobytes())
            self.assertIs(wanted, Outcome(found.outcome[index]), (index, reader))

    @staticmethod
    def read_with_stalls(
        exchanges: HumidityExchanges, at: Int64Array, reader: Reader
    ) -> tuple[Outcomes, dict[int, list[float]]]:
        """What is made of exchanges, and the stalls that were drawn for each, by its index."""
        drawn: dict[int, list[float]] = {}
        rows: list[list[int]] = []

        def taken(frames: Frames, *more: Any) -> Any:
            rows.append(frames.at.tolist())
            return taken_bits(frames, *more)

        def noted(*what: Any) -> Any:
            starts = draw(*what)
            for place, index in enumerate(rows[-1]):
                drawn[index] = starts[np.isfinite(starts[:, place]), place].tolist()
            return starts

        with (
            mock.patch.object(reading, "taken_bits", taken),
            mock.patch.object(reading, "draw", noted),
        ):
            return read(exchanges, at, reader), drawn

    def test_stalls_are_as_many_as_said(self) -> None:
        """Drawn for all at once, whatever share of them is read another way."""
        wire = humidity_wire(cave_frames(400), random=np.random.default_rng(1), jitter=1.0)
        exchanges, at = exchanges_of(wire), np.arange(400)
        spans = (exchanges.end_ns - exchanges.body_ns) / 1e9
        for kind in ("width", "sample", "poll"):
            for per_s in (5.0, 60.0, 400.0):
                stall = Stall(20.0, per_s)
                _, drawn = self.read_with_stalls(exchanges, at, Reader(kind, stall=stall))
                wanted = float(((spans + 20e-6) * per_s).sum())
                number = sum(len(starts) for starts in drawn.values())
                self.assertAlmostEqual(wanted, number, delta=4 * wanted**0.5 + 1)
                inside = [
                    (-20_000 <= start < (spans[index] * 1e9 + 1))
                    for index, starts in drawn.items()
                    for start in starts
                ]
                self.assertTrue(all(inside))

    def test_nobody_waits_for_the_end_of_the_last_bit(self) -> None:
        """A reader that looks once has looked by then; one that measures gives up."""
        exchanges = exchanges_of(humidity_wire(cave_frames(5)))
        exchanges.widths_ns[82, 3] = 150_000
        for kind, ended in (("width", [3]), ("sample", [])):
            found = read(exchanges, np.arange(5), Reader(kind, 50.0, timeout_us=100.0))
            given_up = np.flatnonzero(found.outcome == Outcome.TIMEOUT).tolist()
            self.assertEqual(ended, given_up, kind)

    def test_ticks_are_those_of_edges(self) -> None:
        """By widths in ticks, or by edges as with spikes and stalls: the same bits are taken.

        A step may be so long that two edges fall into one tick.
        """
        wire = humidity_wire(cave_frames(300), random=np.random.default_rng(2), jitter=3.0)
        exchanges, at = exchanges_of(wire), np.arange(300)
        (frames,) = frames_in(exchanges, at)
        outcomes = set()
        for step in (1.0, 8.0, 20.0, 30.0, 60.0, 200.0):
            for threshold, timeout in ((30.0, None), (50.0, None), (60.0, 80.0)):
                reader = Reader(
                    "width", threshold, resolution_us=step, timeout_us=timeout, seed=int(step)
                )
                by_ticks = read(exchanges, at, reader)
                bits, gave_up = taken_bits(frames, reader, np.random.default_rng(reader.seed))
                ended = gave_up.any(axis=0)
                self.assertEqual(
                    ended.tolist(), (by_ticks.outcome == Outcome.TIMEOUT).tolist(), reader
                )
                np.testing.assert_array_equal(
                    np.packbits(bits, axis=0)[:, ~ended], by_ticks.taken[:, ~ended]
                )
                outcomes |= set(by_ticks.outcome.tolist())
        self.assertEqual({0, 1, 3}, outcomes - {2})

    def test_polled(self) -> None:
        """A loop that counts its turns, from wherever it begins: as often right as when played."""
        wire = humidity_wire(cave_frames(150), random=np.random.default_rng(1), jitter=1.0)
        exchanges = exchanges_of(wire)
        for period in (4.0, 11.0, 13.0, 22.0):
            found = read(exchanges, np.arange(150), Reader("poll", period_us=period))
            rng, right = np.random.default_rng(9), 0
            (frames,) = frames_in(exchanges, np.arange(150))
            for place in range(150):
                line = Line(frames.edges_ns[:, place].tolist(), [])
                right += (
                    self.polled(line, period * 1000, rng.random())
                    == frames.sent[:, place].tobytes()
                )
            share = found.count(Outcome.RIGHT) / 150
            self.assertAlmostEqual(right / 150, share, delta=0.17)

    @staticmethod
    def polled(line: Line, period: float, phase: float) -> bytes | None:
        """Counts turns while the level stays, and compares each high with the low before it."""
        t, bits, low = line.edges[0] + phase * period, [], 0
        for level in (False, True, False):
            while line.level(t) is not level:
                t += period
                if t > line.edges[-1] + 1e6:
                    return None
        while len(bits) < 40:
            counts = []
            for level in (False, True):
                turns = 0
                while line.level(t) is level:
                    t, turns = t + period, turns + 1
                    if t > line.edges[-1] + 1e6:
                        return None
                counts.append(turns)
            low, high = counts
            bits.append(high > low)
        return np.packbits(bits).tobytes()


class Suggested(PivetTest):
    """Between the suggested limits everything is read right, beyond them something is not."""

    @given(st.integers(0, 1000), st.sampled_from(["width", "sample"]), st.floats(0, 1))
    def test_limits(self, seed: int, kind: str, where: float) -> None:
        """Of any frames, for any threshold between; a hair outside one is misread."""
        wire = humidity_wire(cave_frames(30, seed), random=np.random.default_rng(seed), jitter=1.2)
        side = Side(wire)
        found = suggest([side], Reader(kind))
        assert found.low_us is not None and found.high_us is not None
        inside = found.low_us + where * (found.high_us - 0.001 - found.low_us)
        for threshold, all_right in (
            (inside, True),
            (found.low_us - 0.001, False),
            (found.high_us, False),
        ):
            right = rehearse(side, Reader(kind, round(threshold, 4))).count(Outcome.RIGHT)
            self.assertEqual(all_right, right == 30, threshold)
        value = found.value
        assert value is not None
        self.assertAlmostEqual((found.low_us + found.high_us) / 2, value)

    def test_with_a_coarse_timer(self) -> None:
        """A timer of steps makes the limits narrower: they hold from wherever it begins."""
        wire = humidity_wire(cave_frames(40), random=np.random.default_rng(3), jitter=1.0)
        fine, coarse = (suggest([Side(wire)], Reader("width", resolution_us=q)) for q in (0.0, 4.0))
        assert fine.low_us and coarse.low_us and fine.high_us and coarse.high_us
        self.assertGreaterEqual(coarse.low_us, fine.low_us)
        self.assertLessEqual(coarse.high_us, fine.high_us)
        for threshold in (coarse.low_us, coarse.high_us - 0.001):
            reader = Reader("width", threshold, resolution_us=4.0)
            for seed in range(5):
                self.assertEqual(40, rehearse(Side(wire), reader.with_(seed=seed)).count(0))

    def test_two_files(self) -> None:
        """What works for both together."""
        slow = humidity_wire(cave_frames(10), AM)
        widths = [
            np.where(widths_of(data, AM) == 26, 34.0, widths_of(data, AM))
            for data in cave_frames(10)
        ]
        other = humidity_wire(cave_frames(10), widths=widths)
        found = suggest([Side(slow), Side(other)], Reader("width"))
        self.assertEqual((34.0, 70.0, 52.0), (found.low_us, found.high_us, found.value))
        self.assertEqual(20, found.exchanges)
        self.assertAlmostEqual(0.15, found.beyond)

    def test_header_between_narrow_limits(self) -> None:
        """A whole number that would misread stands as a fraction; others stay whole."""
        # 49 is still below what must be above it; 49 itself would be read as the other.
        cases = (
            (28.6, 28.9, "28.75f"),
            (26.0, 70.0, "48u"),
            (48.0, 49.1, "49u"),
            (48.1, 49.0, "48.55f"),
        )
        for low, high, text in cases:
            threshold = Constant("threshold_us", "threshold", (low + high) / 2, "so it is")
            speed = Constant("speed_m_s", "speed of sound", 338.44, "by the air")
            found = Suggestion(20, (threshold, speed), low, high)
            header = "\n".join(header_lines(found, "width", "frames"))
            self.assertIn("#define SENSOR_SPEED_M_S 338.44f", header)
            self.assertIn(f"#define SENSOR_THRESHOLD_US {text}\n", header)

    def test_overlap(self) -> None:
        """Where zeros and ones overlap no limits are given, and the best threshold is."""
        frames = cave_frames(40)
        widths = [widths_of(data, AM) for data in frames]
        for row in widths[:4]:
            highs = row[4:84:2]
            highs[np.flatnonzero(highs == 26)[:1]] = 60
        for row in widths[4:6]:
            highs = row[4:84:2]
            highs[np.flatnonzero(highs == 70)[:1]] = 40
        # The decoder splits each frame by itself: what it cannot part is no frame for this test.
        wire = humidity_wire(frames, widths=widths)
        found = suggest([Side(wire)], Reader("width"))
        result = rehearse(Side(wire), Reader("width", found.value))
        best = max(
            rehearse(Side(wire), Reader("width", float(t))).count(Outcome.RIGHT)
            for t in range(20, 80)
        )
        self.assertGreaterEqual(result.count(Outcome.RIGHT), best)

    def test_polled_period(self) -> None:
        """A loop with the suggested period reads all, from wherever it begins."""
        wire = humidity_wire(cave_frames(25), random=np.random.default_rng(2), jitter=0.8)
        found = suggest([Side(wire)], Reader("poll"))
        self.assertTrue(found.high_us and 5 < found.high_us < 24)
        for seed in range(5):
            reader = Reader("poll", period_us=found.value, seed=seed)
            self.assertEqual(25, rehearse(Side(wire), reader).count(Outcome.RIGHT))

    def test_the_tightest_frame_counts(self) -> None:
        """Up to the longest period all are read right, also those that were not tried at first."""
        frames, module = cave_frames(12), import_module("pivet.insight.humidity.suggest")
        tight = replace(AM, zero=36.0, one=64.0)
        highs = []
        for odd in (None, 4, 7):
            widths = [widths_of(data, tight if at == odd else AM) for at, data in enumerate(frames)]
            wire = humidity_wire(frames, widths=widths)
            for looked_at in (4, 100):
                with mock.patch.object(module, "LOOKED_AT", looked_at):
                    high = suggest([Side(wire)], Reader("poll")).high_us
                assert high is not None
                highs.append(high)
                for period in np.arange(0.25, 0.95 * high, 0.25).tolist():
                    reader = Reader("poll", period_us=period)
                    found = read(exchanges_of(wire), np.arange(12), reader)
                    self.assertEqual(12, found.count(Outcome.RIGHT), (odd, looked_at, period))
        np.testing.assert_allclose(highs[::2], highs[1::2], atol=0.5)
        self.assertLess(max(highs[2:]), highs[0] - 2)

    def test_polled_number(self) -> None:
        """A loop that compares with a number, or with a time: right between the limits."""
        wire = humidity_wire(cave_frames(40), random=np.random.default_rng(6), jitter=0.8)
        side = Side(wire)
        found = suggest([side], Reader("poll", number=10))
        assert found.value is not None and found.low_us is not None and found.high_us is not None
        self.assertTrue(found.low_us < found.value < found.high_us)
        for number, right in ((round(found.value), 40), (20, 0), (75, 0)):
            for reader in (
                Reader("poll", number=number),
                Reader("poll", threshold_us=float(number)),
                Reader("poll", number=number // 5, period_us=5.0),
            ):
                self.assertEqual(right, rehearse(side, reader).count(Outcome.RIGHT), reader)
        for limit in ({"limit": 60}, {"timeout_us": 60.0}):
            reader = Reader("poll", number=48).with_(**limit)
            self.assertEqual(40, rehearse(side, reader).count(Outcome.TIMEOUT), limit)

    def test_nothing_to_suggest(self) -> None:
        """Without a whole frame, and without a 1, nothing is suggested, and it is said why."""
        frames = cave_frames(4)
        cut = humidity_wire(frames, widths=[widths_of(data, AM)[:0] for data in frames])
        found = suggest([Side(cut)], Reader("width"))
        self.assertEqual(((), "no exchange has all its bits"), (found.constants, found.why_not))
        self.assertEqual(4, rehearse(Side(cut), Reader("width")).count(Outcome.TIMEOUT))
        zeros = humidity_wire([bytes(5)] * 4)
        self.assertEqual("no exchange holds a 1", suggest([Side(zeros)], Reader("width")).why_not)


class Loops(PivetTest):
    """The map of a loop says what counting each of its turns says."""

    def turned(
        self, frames: Frames, reader: Reader, stall_ns: float, where: Any, phase: Any
    ) -> int:
        """How many frames are read right, turn by turn."""
        period = reader.period_us * 1000  # type: ignore[operator]
        edges = (frames.edges_ns[: loop_map.LAST + 1] - frames.edges_ns[0]).astype(np.float32)
        starts = (where * edges[-1])[None].astype(np.float64)
        length = np.rint(stall_ns / period * loop_map.PARTS) / loop_map.PARTS * period
        own = own_time(edges, starts, length)
        turns, lost = turns_of(own, period, reader.work_us * 1000, phase, np.zeros(own.shape))
        number = number_of(reader)
        highs, beside = turns[BIT_HIGH], turns[BIT_LOW] if number is None else number
        good = ((highs > beside) == np.unpackbits(frames.sent, axis=0)).all(axis=0)
        good &= ~lost.any(axis=0) & (turns.max(axis=0) < (reader.limit or np.inf))
        if reader.timeout_us is not None:
            good &= (turns * period <= reader.timeout_us * 1000).all(axis=0)
        return int(np.count_nonzero(good))

    def test_turn_by_turn(self) -> None:
        """For every kind of loop, short and long turns, and stalls of any length."""
        wire = humidity_wire(cave_frames(150), random=np.random.default_rng(4), jitter=1.0)
        frames = next(frames_in(exchanges_of(wire), np.arange(150)))
        stalls = np.array([0.0, 0.7, 5.0, 12.0, 26.0, 45.0, 60.0, 80.0, 200.0])
        x = np.array([0.25, 1.0, 3.0, 7.7, 9.0, 12.0, 16.0, 27.0])
        kinds: tuple[dict[str, Any], ...] = (
            {},
            {"work_us": 2.0},
            {"number": 12},
            {"threshold_us": 45.0},
            {"limit": 60},
            {"timeout_us": 90.0},
            {"work_us": 3.0, "number": 20, "limit": 100},
        )
        for more in kinds:
            where, phase = np.random.default_rng(9).random((2, 150), dtype=np.float32)
            rng = np.random.default_rng(9)
            reader = Reader("poll").with_(**more)
            found = loop_map.count_right(frames, reader, x, stalls, rng)
            for column, period_us in enumerate(x.tolist()):
                own = reader.with_(period_us=period_us)
                rows = [self.turned(frames, own, one * 1000, where, phase) for one in stalls]
                self.assertEqual(rows, found[:, column].tolist(), (more, period_us))
            self.assertTrue(found.any())


class Maps(PivetTest):
    """The map says what rehearsing at each of its points says."""

    def test_points(self) -> None:
        """Without stalls exactly; with one in each exchange as often as when drawn otherwise."""
        wire = humidity_wire(cave_frames(80), random=np.random.default_rng(4), jitter=1.0)
        at = np.arange(80)
        for kind in ("width", "sample"):
            grid = insight_of(wire).map_of(wire, at, Reader(kind), 4000)
            assert grid is not None
            self.assertEqual((64, 64), grid.right.shape)
            for column in (0, 10, 30, 50, 63):
                threshold = round(float(grid.x[column]), 6)
                alone = read(exchanges_of(wire), at, Reader(kind, threshold)).count(Outcome.RIGHT)
                self.assertAlmostEqual(alone / 80, grid.right[0, column], delta=0.03)
            # A stall as long as everything that is waited for makes every frame fail.
            self.assertLess(grid.right[-1, 32], grid.right[0, 32])
            self.assertTrue((np.diff(grid.right[:, 32]) <= 0.05).all())

    def test_all_that_are_drawn_count(self) -> None:
        """Also those that come late: the constants across reach as far as their pulses."""
        frames = cave_frames(80)
        widths = [
            widths_of(data, replace(AM, one=91.0 if at > 70 else 70.0))
            for at, data in enumerate(frames)
        ]
        wire = humidity_wire(frames, widths=widths)
        grid = insight_of(wire).map_of(wire, np.arange(80), Reader("width"), 6000)
        assert grid is not None
        self.assertAlmostEqual(1.3 * 91.0, grid.x[-1], delta=2.0)
        self.assertEqual(6000, grid.drawn)

    def test_goes_on_between_its_parts(self) -> None:
        """Frames and thresholds of a map take a while: it tells of each before the map begins."""
        wire = humidity_wire(cave_frames(80))
        shares: list[float] = []
        insight_of(wire).map_of(wire, np.arange(80), Reader("width"), 300, shares.append)
        self.assertEqual([0.0] * 3, shares[:3])
        self.assertLess(0.0, shares[3])

    def test_stops(self) -> None:
        """Maps and suggestions stop when nobody wants them any more: at the first, at any later."""
        self.draw_few()
        wire, shots = humidity_wire(cave_frames(80)), echo_wire(np.linspace(0.3, 2.0, 20))
        calls: list[float] = []

        def told(share: float) -> None:
            calls.append(share)
            if len(calls) in ends:
                raise Cancelled

        def all_of(wire: Wire, kind: str) -> None:
            rehearse(Side(wire), Reader(kind), told, with_map=True)

        for own, kind in ((wire, "width"), (wire, "poll"), (shots, "timer")):
            ends = []
            calls.clear()
            all_of(own, kind)
            self.assertTrue(len(calls) > 60 and 0 <= min(calls) <= max(calls) <= 1, kind)
            for end in (1, len(calls) // 2, len(calls)):
                ends = [end]
                calls.clear()
                with self.assertRaises(Cancelled):
                    all_of(own, kind)

    def test_other_families(self) -> None:
        """A 1-Wire host's point by its rise; an echo reader's speed by its timeout."""
        wire = thermometer_wire([[11.5, 4.0]] * 4)
        grid = insight_of(wire).map_of(wire, np.arange(len(wire)), Reader("host"), 500)
        assert grid is not None
        good = grid.right == 1
        self.assertTrue(good.any() and not good.all())
        x, y = grid.x[None, :], grid.y[:, None]
        np.testing.assert_array_equal(good, (x - y >= 6.0) & (x - y < 30.0))
        shots = echo_wire(np.linspace(0.3, 2.0, 20))
        grid = insight_of(shots).map_of(shots, np.arange(20), Reader("timer"), 500)
        assert grid is not None
        best = np.unravel_index(int(grid.right.argmax()), grid.right.shape)
        self.assertAlmostEqual(343.2, float(grid.x[best[1]]), delta=2.5)
        self.assertEqual(1.0, grid.right.max())


class Hosts(PivetTest):
    """1-Wire hosts and echo readers."""

    def test_sample_points(self) -> None:
        """Too soon every 1 is a 0, too late every held 0 a 1; a later rise moves both."""
        wire = thermometer_wire([[11.5, 4.0]] * 5)
        reads = 10
        for at, rise, right in (
            (14, 0, True),
            (5.9, 0, False),
            (30, 0, False),
            (29.9, 0, True),
            (14, 9, False),
            (17, 9, True),
            (38.9, 9, True),
        ):
            result = rehearse(Side(wire), Reader("host", float(at), rise_us=float(rise)))
            failed = 0 if right else reads
            self.assertEqual(len(wire) - failed, result.count(Outcome.RIGHT), (at, rise))

    def test_check_of_misread_bits(self) -> None:
        """Bits that are all read as 0 have a CRC that holds: taken although wrong."""
        wire = thermometer_wire([[11.5]] * 4)
        low = rehearse(Side(wire), Reader("host", 2.0))
        self.assertEqual((4, 0), (low.count(Outcome.WRONG), low.count(Outcome.REFUSED)))
        high = rehearse(Side(wire), Reader("host", 100.0))
        self.assertEqual((0, 4), (high.count(Outcome.WRONG), high.count(Outcome.REFUSED)))

    def test_presence_slots_and_suggestion(self) -> None:
        """Presence is looked for while it is there; slots leave room for the longest low."""
        wire = thermometer_wire([[11.5]] * 4)
        found = {one.name: one.value for one in suggest([Side(wire)], Reader("host")).constants}
        ok = rehearse(
            Side(wire),
            Reader(
                "host",
                found["threshold_us"],
                slot_us=found["slot_us"],
                presence_us=found["presence_us"],
            ),
        )
        self.assertEqual(len(wire), ok.count(Outcome.RIGHT))
        late = rehearse(Side(wire), Reader("host", presence_us=400.0))
        self.assertEqual(len(wire), late.count(Outcome.TIMEOUT))
        short = rehearse(Side(wire), Reader("host", slot_us=55.0))
        self.assertEqual(len(wire), short.count(Outcome.REFUSED))
        self.assertLess(found["threshold_us"], 15.01)

    def test_echoes(self) -> None:
        """A fixed speed is wrong in the cold; a short timeout gives up what is far."""
        cold = Side(echo_wire(np.linspace(0.5, 2.0, 16), 20.0))
        self.assertEqual(16, rehearse(cold, Reader("timer")).count(Outcome.RIGHT))
        fast = rehearse(cold, Reader("timer", speed_m_s=331.0))
        self.assertEqual(16, fast.count(Outcome.WRONG))
        near = rehearse(cold, Reader("timer", timeout_us=6000.0))
        self.assertEqual(6, near.count(Outcome.RIGHT))
        self.assertEqual(10, near.count(Outcome.TIMEOUT))
        coarse = rehearse(cold, Reader("poll", period_us=100.0))
        self.assertGreater(coarse.count(Outcome.WRONG), 0)
        soon = rehearse(cold, Reader("timer", pause_us=5000.0))
        self.assertGreater(soon.count(Outcome.TIMEOUT), 0)


class Said(PivetTest):
    """What a person writes."""

    def test_durations(self) -> None:
        """Any unit; and what is none is refused."""
        for text, us in (("30us", 30), ("0.5 ms", 500), ("30", 30), ("250ns", 0.25), ("30µs", 30)):
            self.assertEqual(us, microseconds(text))
        self.assertEqual(Stall(40, 5), stall_of("40us@5/s"))
        self.assertEqual(Stall(1000, 2.5), stall_of("1ms @ 2.5"))
        for wrong in ("", "us", "-3us", "3 parsecs"):
            with self.assertRaises(InputError):
                microseconds(wrong)
        with self.assertRaisesRegex(InputError, "40us@5/s"):
            stall_of("40us")

    def test_constants_of_another_kind(self) -> None:
        """A constant that a reader has not is refused, and one of nothing."""
        side = Side(humidity_wire(cave_frames(3)))
        with self.assertRaisesRegex(InputError, "a width reader has no period"):
            rehearse(side, Reader("width", period_us=3.0))
        with self.assertRaisesRegex(InputError, "more than 0"):
            rehearse(side, Reader("width", 0.0))
        with self.assertRaisesRegex(InputError, "no reader 'host'"):
            rehearse(side, Reader("host"))
