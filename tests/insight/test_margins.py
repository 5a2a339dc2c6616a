"""Margins: every pulse is in them once, as the report of its exchange has it."""

from collections import defaultdict

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.insight.follows import what_follows
from pivet.insight.margins import margins_of
from pivet.insight.material import study
from pivet.insight.registry import insight_of
from pivet.insight.spread import COUNTED_NS, spread_of
from pivet.judge.verdict import Verdict
from tests.base import CAPTURES, PivetTest
from tests.insight.signals import cave_frames, humidity_wire, thermometer_wire, widths_of
from tests.physics.humidity import AM


class Spreads(PivetTest):
    """Widths as those that occur."""

    @given(st.lists(st.integers(1, 10**6), min_size=1, max_size=60), st.booleans())
    def test_as_all_of_them(self, ns: list[int], far: bool) -> None:
        """Quantiles and counts are those of the single widths, near each other or far."""
        values = np.array([*ns, 3 * COUNTED_NS] if far else ns)
        spread = spread_of(values)
        self.assertEqual(values.size, spread.total)
        np.testing.assert_array_equal(np.sort(values), np.repeat(spread.ns, spread.counts))
        for share in (0.0, 0.01, 0.3, 0.5, 0.99, 1.0):
            wanted = float(np.quantile(values, share)) / 1000
            self.assertAlmostEqual(wanted, spread.quantile_us(share), places=6)
        taper = spread.taper()
        self.assertEqual(int((values == values.min()).sum()), taper[0])
        self.assertEqual(int((values == values.max()).sum()), taper[-1])
        for width, height in zip(spread.ns.tolist(), taper.tolist(), strict=True):
            self.assertEqual(min((values <= width).sum(), (values >= width).sum()), height)

    def test_of_nothing(self) -> None:
        """Nobody's widths have no middle."""
        spread = spread_of(np.empty(0, dtype=np.int64))
        self.assertTrue(np.isnan(spread.quantile_us(0.5)))
        self.assertEqual(0, spread.taper().size)


class AllPulses(PivetTest):
    """What margins hold is what the reports of the exchanges hold."""

    def test_captures(self) -> None:
        """Of every capture and wire: number, ends and worst margin of each window's pulses."""
        for path in sorted(CAPTURES.glob("*.vcd")):
            for one in study(path):
                with self.subTest(path.name, wire=one.name):
                    self.assert_as_reported(one.wire)

    def test_cut_frames(self) -> None:
        """Frames of which some end early."""
        frames = cave_frames(12)
        widths = [widths_of(data, AM)[: 84 - 9 * (at % 3)] for at, data in enumerate(frames)]
        self.assert_as_reported(humidity_wire(frames, widths=widths))

    def assert_as_reported(self, wire) -> None:  # type: ignore[no-untyped-def]
        """Each window's pulses by the reports, and by the margins."""
        number, least, most = defaultdict[str, int](int), {}, {}
        worst: dict[str, float] = {}
        for index in range(len(wire)):
            for key, use in wire.report(index).windows.items():
                number[key] += use.number
                least[key] = min(use.min_us, least.get(key, np.inf))
                most[key] = max(use.max_us, most.get(key, 0.0))
                worst[key] = min(use.worst_margin_us, worst.get(key, np.inf))
        found = {row.window.key: row for row in margins_of(wire).rows}
        self.assertEqual(dict(number), {key: row.spread.total for key, row in found.items()})
        for key, row in found.items():
            self.assertAlmostEqual(least[key], row.spread.ns[0] / 1000, places=3)
            self.assertAlmostEqual(most[key], row.spread.ns[-1] / 1000, places=3)
            if key != "echo":  # its limits follow the air, shot by shot
                self.assertAlmostEqual(worst[key], row.least_us, places=3)
            self.assertEqual(row.spread.total, sum(row.count(verdict) for verdict in Verdict))
            stray = row.strays[0]
            pulses = wire.report(stray.exchange).windows[key]
            self.assertIn(stray.width_ns / 1000, (pulses.min_us, pulses.max_us))

    def test_one_stray_among_many(self) -> None:
        """A single pulse that is too long is counted, named, and shown where it is."""
        frames = cave_frames(200)
        widths = [widths_of(data, AM) for data in frames]
        widths[123][3 + 2 * 17] = 58.5  # the low of bit 17
        margins = margins_of(humidity_wire(frames, widths=widths))
        row = margins.row("bit_low")
        assert row is not None
        self.assertEqual((1, 7999), (row.count(Verdict.NEAR), row.count(Verdict.SOUND)))
        stray = row.strays[0]
        self.assertEqual((123, 17, 58_500), (stray.exchange, stray.position, stray.width_ns))
        self.assertAlmostEqual(-3.5, row.least_us)
        self.assertEqual(1.0, row.spread.taper()[-1])

    def test_some_exchanges(self) -> None:
        """Only those that were chosen count, in 1-Wire too."""
        for wire in (humidity_wire(cave_frames(9)), thermometer_wire([[11.5, 4.0]] * 3)):
            chosen = np.arange(len(wire)) % 3 == 1
            some, every = margins_of(wire, chosen), margins_of(wire)
            other = margins_of(wire, ~chosen)
            for row in every.rows:
                parts = [one.row(row.window.key) for one in (some, other)]
                self.assertEqual(row.spread.total, sum(part.spread.total for part in parts if part))
            self.assertEqual(int(chosen.sum()), some.exchanges)
            stray = some.rows[0].strays[0]
            self.assertTrue(chosen[stray.exchange])

    def test_of_a_time(self) -> None:
        """From a moment on, before another; the first counts, the last does not."""
        (studied,) = study(CAPTURES / "av_dht22.vcd")
        starts = studied.wire.exchanges.start_ns.tolist()
        number = len(starts)
        for first in range(number):
            for last in range(first, number):
                found = studied.between(starts[first], starts[last])
                self.assertEqual(list(range(first, last)), np.flatnonzero(found).tolist())
            self.assertEqual(number - first, studied.between(starts[first], None).sum())
            self.assertEqual(first, studied.between(None, starts[first]).sum())
        self.assertEqual(number, studied.between(None, None).sum())

    def test_between(self) -> None:
        """What lies between 0 and 1."""
        wire = humidity_wire(cave_frames(50), random=np.random.default_rng(5), jitter=0.5)
        (between,) = margins_of(wire).between
        highs = wire.exchanges.highs_ns  # type: ignore[attr-defined]
        bits = np.unpackbits(wire.exchanges.packed, axis=0)  # type: ignore[attr-defined]
        self.assertEqual(highs[bits == 0].max() / 1000, between.low_us)
        self.assertEqual(highs[bits == 1].min() / 1000, between.high_us)
        self.assertGreater(between.free_us, 38)


class Follows(PivetTest):
    """What widths follow is told when it is there, and only then."""

    def test_nothing(self) -> None:
        """Widths that only vary follow nothing, whatever the seed."""
        for seed in range(8):
            wire = humidity_wire(
                cave_frames(150, seed), random=np.random.default_rng(seed), jitter=0.6
            )
            self.assertEqual((), what_follows(wire), seed)

    def test_all_the_same(self) -> None:
        """Widths that do not vary follow nothing, however their mean is rounded."""
        frames = cave_frames(130)
        for number in range(40, 130, 9):
            for scale in (0.937, 1.0, 1.013, 1.0507):
                widths = [np.round(widths_of(data, AM) * scale, 3) for data in frames[:number]]
                wire = humidity_wire(frames[:number], widths=widths)
                self.assertEqual((), what_follows(wire), (number, scale))

    def test_temperature(self) -> None:
        """A clock that slows with its own temperature, with its slope."""
        frames = cave_frames(300)
        wire = humidity_wire(frames)
        (track,) = (row for row in wire.tracks if row.quantity == "temperature")
        random = np.random.default_rng(2)
        widths = [
            np.r_[30.0, (widths_of(data, AM) * (1 + 0.0008 * warm))[1:]]
            for data, warm in zip(frames, track.values.tolist(), strict=True)
        ]
        found = what_follows(humidity_wire(frames, random=random, jitter=0.3, widths=widths))
        slopes = {one.key: one for one in found}
        self.assertEqual({"temperature"}, {one.what for one in found})
        for key, width in (("zero_high", 26), ("one_high", 70), ("bit_low", 50)):
            one = slopes[key]
            self.assertLess(abs(one.slope - 0.0008 * width), 2 * one.error + 1e-3)
            self.assertIn("°C", one.says)
        self.assertNotIn("release", slopes)

    def test_time(self) -> None:
        """Lows that grow over the hours."""
        frames = [frames for frames in cave_frames(8) for _ in range(40)]
        widths = [widths_of(data, AM) for data in frames]
        for number, row in enumerate(widths):
            row[3:83:2] += 2.0 * number / len(frames)
        hours = len(frames) * 2.5 / 3600
        found = what_follows(
            humidity_wire(frames, random=np.random.default_rng(1), jitter=0.4, widths=widths)
        )
        (one,) = (row for row in found if row.key == "bit_low")
        self.assertEqual("time", one.what)
        self.assertLess(abs(one.slope - 2.0 / hours), 3 * one.error)

    def test_position(self) -> None:
        """The first low of each byte is longer."""
        frames = cave_frames(60)
        widths = [widths_of(data, AM) for data in frames]
        for row in widths:
            row[3:83:16] += 3.0
        wire = humidity_wire(frames, random=np.random.default_rng(1), jitter=0.4, widths=widths)
        (one,) = (row for row in what_follows(wire) if row.what == "position")
        self.assertEqual("bit_low", one.key)
        self.assertAlmostEqual(3.0, one.slope, delta=0.3)
        self.assertIn("bits", one.says)

    def test_words_of_positions(self) -> None:
        """Each family calls its positions by its own word."""
        self.assertEqual("slot", insight_of(thermometer_wire([[1.0]])).position)
