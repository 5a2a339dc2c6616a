"""Response to a disturbance, agreement with a reference, limits: against made-up truth."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.readings.agreement import agreement, paired
from pivet.readings.limits import Crossing, Limit, LimitWatch, Side
from pivet.readings.response import Phase, model, responses
from pivet.readings.statistics import summarise
from pivet.readings.thinning import Thinner
from tests.base import PivetTest

S = 10**9


class Response(PivetTest):
    """First-order responses that are known."""

    def made(self, tau: float, dead: float, every: float = 2.0, until: float = 300.0) -> list:
        """What is found of a step of 5 from 10, in steps of 0.1, with some noise."""
        times = np.arange(-60.0, until, every)
        noise = np.random.default_rng(3).normal(0, 0.05, times.size)
        return responses(times, np.round(model(times, dead, tau, 10.0, 15.0) + noise, 1), 0.1)

    @given(st.floats(8, 60), st.floats(0, 12))
    def test_step(self, tau: float, dead: float) -> None:
        """Found within a few of its own standard errors."""
        (found,) = self.made(tau, dead, until=10 * tau)
        self.assertEqual("", found.why_not)
        for true, measure in (
            (tau, found.tau),
            (dead, found.dead),
            (10.0, found.start),
            (15.0, found.settled),
        ):
            self.assertAlmostEqual(true, measure.value, delta=5 * measure.error + 0.01 * true)
        self.assertLess(found.tau.error, 0.1 * tau)

    def test_what_comes_and_goes(self) -> None:
        """A breath: up within seconds, back more slowly."""
        times = np.arange(-60.0, 200.0, 1.0)
        values = model(times, 1.0, 4.0, 60.0, 90.0)
        peak = int(np.searchsorted(times, 20.0))
        values[peak:] = model(times[peak:] - 20.0, 0.0, 25.0, values[peak], 60.0)
        up, back = responses(times, np.round(values, 1), 0.1)
        self.assertEqual((Phase.ANSWER, Phase.RETURN), (up.phase, back.phase))
        self.assertAlmostEqual(4.0, up.tau.value, delta=0.2)
        self.assertAlmostEqual(25.0, back.tau.value, delta=0.5)
        np.testing.assert_allclose(values[peak:], back.course(times[peak:]), atol=0.3)

    def test_what_the_readings_do_not_support(self) -> None:
        """Each in its own words, and no figure that somebody could take for one."""
        times = np.arange(-60.0, 60.0, 2.0)
        flat = np.round(10 + np.random.default_rng(5).normal(0, 0.1, times.size), 1)
        self.assertIn("noise", responses(times, flat, 0.1)[0].why_not)
        self.assertIn("time constants", self.made(400.0, 0.0)[0].why_not)
        self.assertIn("faster", self.made(0.3, 0.0)[0].why_not)
        self.assertIn("before the mark", responses(times[30:], flat[30:], 0.1)[0].why_not)
        self.assertIn("after the mark", responses(times[:32], flat[:32], 0.1)[0].why_not)
        self.assertIn("before the mark", responses(times[:0], flat[:0], 0.1)[0].why_not)
        switched = np.where((times > 0) & (times % 60 < 30), 15.0, 10.0)
        few, other = responses(times, switched, 0.1)
        self.assertIn("Only 1 reading stands in it; 6 are needed", few.why_not)
        self.assertIn("not that of a first-order response", other.why_not)
        ramp = np.where(times > 0, times, 0.0)
        self.assertTrue(responses(times, 10 + ramp, 0.1)[0].why_not)

    def test_gaps_do_not_matter(self) -> None:
        """Failed reads are left out."""
        times = np.arange(-60.0, 200.0, 2.0)
        values = model(times, 3.0, 20.0, 10.0, 15.0)
        values[::5] = np.nan
        self.assertAlmostEqual(20.0, responses(times, values, 0.1)[0].tau.value, delta=0.1)


class Agreement(PivetTest):
    """A sensor and its reference."""

    def setUp(self) -> None:
        super().setUp()
        self.random = np.random.default_rng(4)
        self.times = np.arange(2000) * 5 * S
        self.truth = 12 + np.sin(self.times / (3000 * S))

    def test_offset_spread_drift(self) -> None:
        """What was put in comes out, beside outliers."""
        hours = self.times / (3600 * S)
        noise = self.random.normal(0, 0.1, 2000)
        values = self.truth + 0.7 + 0.3 * (hours - hours.mean()) + noise
        values[::100] += 20
        reference_ns = np.arange(0, 10_000, 7) * S
        reference = np.interp(reference_ns, self.times, self.truth)
        found = agreement(paired(self.times, values, reference_ns, reference), 0.1, allowed=1.0)
        assert found is not None and found.drift_per_hour is not None
        self.assertEqual(20, int(found.outlier.sum()))
        self.assertAlmostEqual(0.7, found.offset, delta=4 * found.offset_error)
        self.assertAlmostEqual(0.3, found.drift_per_hour, delta=0.02)
        self.assertTrue(found.drifts)
        self.assertIs(False, found.inside)

    def test_without_drift(self) -> None:
        """None is told, and the difference is inside."""
        values = self.truth + self.random.normal(0, 0.1, 2000)
        found = agreement(paired(self.times, values, self.times, self.truth), 0.1, allowed=0.5)
        assert found is not None
        self.assertFalse(found.drifts)
        self.assertIs(True, found.inside)
        self.assertAlmostEqual(0.1, found.spread, delta=0.01)

    def test_on_the_limit(self) -> None:
        """A difference as large as both may have together is inside."""
        for off, inside in ((0.5, True), (0.50001, False)):
            found = agreement(
                paired(self.times, self.truth * 0 + off, self.times, self.truth * 0), allowed=0.5
            )
            assert found is not None
            self.assertIs(inside, found.inside)

    def test_always_the_same(self) -> None:
        """A difference that never changes does not drift, whatever its sums are rounded to."""
        random = np.random.default_rng(2)
        for count in (60, 333):
            times = np.arange(count) * 60 * S
            for off in (0.5, 0.1, 1 / 3, -0.7):
                there = random.uniform(10, 30, count)
                found = agreement(paired(times, there + off, times, there))
                assert found is not None and found.drift_per_hour is not None
                self.assertAlmostEqual(off, found.offset)
                self.assertEqual(0.0, found.drift_per_hour)
                self.assertFalse(found.drifts or found.outlier.any())

    def test_one_pair(self) -> None:
        """There is an offset; how sure it is, nobody can say."""
        times, values = np.array([S]), np.array([20.5])
        found = agreement(paired(times, values, times, np.array([20.0])), 0.1, 0.4)
        assert found is not None
        self.assertEqual((0.5, 0.0, None), (found.offset, found.inside_share, found.drift_per_hour))
        self.assertTrue(np.isnan(found.offset_error) and np.isnan(found.spread))

    def test_minutes_tell_no_drift(self) -> None:
        """Of an hour; the offset and its error they do tell."""
        part = self.times < 1500 * S
        values = self.truth + 0.5 + self.times / (3600 * S)
        found = agreement(paired(self.times[part], values[part], self.times, self.truth), 0.1)
        assert found is not None
        self.assertIsNone(found.drift_per_hour)
        self.assertFalse(found.drifts)
        self.assertGreater(found.offset, 0.5)
        self.assertGreater(found.offset_error, 0.01)

    def test_partners(self) -> None:
        """None across a hole of the reference, beyond its ends, or for a failed read."""
        keep = (self.times < 2000 * S) | (self.times > 6000 * S)
        keep &= (self.times > 100 * S) & (self.times < 9000 * S)
        values = self.truth.copy()
        values[50] = np.nan
        found = paired(self.times, values, self.times[keep], self.truth[keep])
        self.assertEqual(set(self.times[keep]) - {self.times[50]}, set(found.times_ns))
        alone = paired(self.times, values, self.times[:1], np.array([12.0]))
        self.assertEqual(1999, len(alone))
        self.assertIsNone(agreement(paired(self.times, values, self.times[:0], values[:0])))

    def test_partners_one_by_one(self) -> None:
        """The same as somebody finds who looks for each time by itself."""
        kept = self.random.random(300) < 0.7
        times, values = np.sort(self.random.integers(0, 900, 300)) * S, self.truth[:300]
        reference_ns = np.unique(self.random.integers(0, 900, 200)[kept[:200]]) * S
        reference = self.random.normal(50, 5, reference_ns.size)
        reach_ns = 9 * S
        found = paired(times, values, reference_ns, reference, reach_ns)
        wanted = []
        for t, value in zip(times.tolist(), values.tolist(), strict=True):
            before, after = reference_ns[reference_ns <= t], reference_ns[reference_ns >= t]
            if not (before.size and after.size and t - before[-1] <= reach_ns >= after[0] - t):
                continue
            wanted.append((t, value, float(np.interp(t, reference_ns, reference))))
        self.assertGreater(len(wanted), 100)
        np.testing.assert_array_equal([row[0] for row in wanted], found.times_ns)
        np.testing.assert_array_equal([row[1] for row in wanted], found.values)
        np.testing.assert_allclose([row[2] for row in wanted], found.reference)

    def test_usual_reach(self) -> None:
        """Three intervals of the slower of both; one value alone goes by the reference's."""
        slow, fast = np.arange(0, 100, 10) * S, np.arange(0, 90) * S
        rare = np.arange(0, 100, 30) * S
        truth = np.arange(fast.size, dtype=float)
        keep = (fast < 20 * S) | (fast > 47 * S)
        every = paired(slow[:9], slow[:9] / S, fast[keep], truth[keep])
        self.assertEqual([0, 10, 20, 30, 40, 50, 60, 70, 80], (every.times_ns // S).tolist())
        few = paired(fast, truth, rare, rare / S)
        self.assertEqual(fast.size, len(few))
        for t, there in ((10, True), (30, False)):
            one = paired(np.array([t * S]), np.array([1.0]), fast[keep], truth[keep])
            self.assertEqual(there, len(one) == 1)

    @given(st.lists(st.floats(-50, 50), min_size=1, max_size=40))
    def test_summary(self, values: list[float]) -> None:
        """Figures stand in their order, with gaps or without."""
        with_gaps = np.array([*values, np.nan, np.nan])
        found = summarise(with_gaps)
        self.assertEqual((len(values), 2), (found.given, found.failed))
        order = [found.least, found.low, found.median, found.high, found.most]
        self.assertEqual(order, sorted(order))


class Limits(PivetTest):
    """Crossings: one each, however the values come."""

    def watch(self, limit: Limit, values: list[float], cuts: list[int]) -> list[Crossing]:
        """Feeds values, one a second, in pieces."""
        watch, found = LimitWatch(limit), []
        times = np.arange(len(values)) * S
        for part in np.split(np.arange(len(values)), sorted(cuts)):
            found += watch.feed(times[part], np.array(values)[part])
        return found

    def test_hysteresis_and_delay(self) -> None:
        """A short excursion is none; wavering about the line is one crossing."""
        limit = Limit(high=95.0, hysteresis=2.0, delay_s=2.0)
        values = [90, 96, 96, 90, 96, 97, 96, 94, 96, float("nan"), 94, 92, 90]
        began, ended = self.watch(limit, values, [])
        self.assertEqual(
            (Side.ABOVE, 4 * S, 6 * S, None),
            (began.side, began.since_ns, began.told_ns, began.until_ns),
        )
        self.assertEqual((11 * S, 97.0), (ended.until_ns, ended.worst))

    def test_the_other_side(self) -> None:
        """Below a line as above one: at the hysteresis itself it is back, short of it not."""
        for limit, sign in (
            (Limit(low=0.0, hysteresis=1.0), -1),
            (Limit(high=0.0, hysteresis=1.0), 1),
        ):
            values = [sign * row for row in (-2.0, 0.0, 0.01, -0.95, -0.999, 3.0, -1.0, -2.0)]
            began, ended = self.watch(limit, values, [])
            self.assertEqual((2 * S, sign * 0.01), (began.since_ns, began.worst))
            self.assertEqual((6 * S, sign * 3.0), (ended.until_ns, ended.worst))

    @given(
        st.lists(st.integers(85, 100) | st.just(float("nan")), max_size=60),
        st.lists(st.integers(0, 60), max_size=6),
        st.integers(0, 4),
        st.integers(0, 4),
    )
    def test_any_chunking(
        self, values: list[float], cuts: list[int], hysteresis: int, delay_s: int
    ) -> None:
        """Cut anywhere the same crossings come, and each ends before the next begins."""
        limit = Limit(88, 96, hysteresis, delay_s)
        whole = self.watch(limit, values, [])
        pieces = self.watch(limit, values, [min(cut, len(values)) for cut in cuts])
        self.assertEqual(sorted(map(repr, whole)), sorted(map(repr, pieces)))
        for side in Side:
            told = [row.until_ns is None for row in whole if row.side is side]
            self.assertEqual(told, [place % 2 == 0 for place in range(len(told))])


class Thinning(PivetTest):
    """What is drawn of very many values."""

    @given(st.integers(1, 40_000), st.integers(20, 300), st.integers(0, 9), st.integers(1, 10))
    def test_peaks_stay(self, count: int, columns: int, begin: int, length: int) -> None:
        """Lowest and highest in sight are drawn, with few points, in order of time."""
        random = np.random.default_rng(count)
        times = np.cumsum(random.integers(1, 3, count)) * S
        values = random.normal(0, 1, count)
        values[random.random(count) < 0.01] = np.nan
        first, last = int(times[count * begin // 10]), int(times[-1])
        until = first + (last - first) * length // 10
        found = Thinner(times, values).part(first, until, columns)
        inside = values[(times >= first) & (times <= until)]
        if np.isfinite(inside).any():
            self.assertGreaterEqual(np.nanmax(found.values), np.nanmax(inside))
            self.assertLessEqual(np.nanmin(found.values), np.nanmin(inside))
        self.assertLess(found.values.size, 7 * columns)
        self.assertTrue((np.diff(found.times_ns) >= 0).all())

    def test_nothing_joins_what_a_hole_parts(self) -> None:
        """Where nothing came for long the line is broken, thinned or not."""
        for count in (50, 50_000):
            times = np.arange(count) * S
            times[count // 2 :] += 10**6 * S
            found = Thinner(times, np.ones(count)).part(0, int(times[-1]), 200)
            self.assertEqual(1, int(np.isnan(found.values).sum()))
