"""Before and after: moved, same, too few; intervals hold what is true as often as they say."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.errors import InputError
from pivet.insight.compare import Better, Moved, compare
from pivet.insight.resample import difference_interval, share_interval
from pivet.insight.side import Side
from tests.base import PivetTest
from tests.insight.signals import cave_frames, echo_wire, humidity_wire, widths_of
from tests.physics.humidity import AM, Part


def side(count: int, seed: int, part: Part = AM, jitter: float = 0.5, step_ns: int = 10) -> Side:
    """Exchanges of a sensor."""
    random = np.random.default_rng(seed)
    return Side(humidity_wire(cave_frames(count, seed), part, random, jitter, step_ns))


class Shifts(PivetTest):
    """How kinds of pulses moved."""

    def test_moved(self) -> None:
        """Shorter lows are found, in fine captures and in coarse ones; the rest is the same."""
        after = Part(low=52.3)
        for step_ns in (10, 1000):
            found = compare(
                side(80, 1, Part(low=50.0), 0.6, step_ns), side(70, 2, after, 0.6, step_ns)
            )
            for shift in found.shifts:
                with self.subTest(shift.window.key, step=step_ns):
                    wanted = Moved.MOVED if shift.window.key == "bit_low" else Moved.SAME
                    self.assertEqual(wanted, shift.verdict)
                    true = 2.3 if shift.window.key == "bit_low" else 0.0
                    self.assertLessEqual(shift.low_us, true)
                    self.assertGreaterEqual(shift.high_us, true)

    def test_too_few(self) -> None:
        """A few exchanges tell nothing, however far apart they are."""
        found = compare(side(5, 1), side(60, 2, Part(low=53)))
        self.assertEqual({Moved.TOO_FEW}, {shift.verdict for shift in found.shifts})
        self.assertEqual(Better.TOO_FEW, found.verdict)

    def test_often_enough(self) -> None:
        """Of pairs that do not differ hardly any moves; of those that do the truth is inside."""
        wrong = outside = 0
        for seed in range(5):
            same = compare(side(25, seed), side(25, 500 + seed))
            wrong += any(shift.verdict is Moved.MOVED for shift in same.shifts)
            moved = compare(side(25, seed), side(25, 900 + seed, Part(zero=26.2)))
            (shift,) = (row for row in moved.shifts if row.window.key == "zero_high")
            outside += not shift.low_us <= 0.2 <= shift.high_us
        self.assertLessEqual(wrong, 1)
        self.assertLessEqual(outside, 1)

    def test_only_on_one_side(self) -> None:
        """A kind of pulse that the other side has not stands there with nothing."""
        frames = cave_frames(20)
        cut = [widths_of(data, AM)[:0] for data in frames]
        found = compare(Side(humidity_wire(frames)), Side(humidity_wire(frames, widths=cut)))
        (zero,) = (shift for shift in found.shifts if shift.window.key == "zero_high")
        self.assertIsNone(zero.after)
        self.assertEqual(Moved.TOO_FEW, zero.verdict)
        self.assertEqual(Better.WORSE, found.verdict)
        self.assertEqual([("no-answer", 0, 20)], list(found.reasons))

    def test_families(self) -> None:
        """What cannot be compared is refused in a sentence."""
        with self.assertRaisesRegex(InputError, "compare wires of one kind"):
            compare(side(10, 1), Side(echo_wire(np.full(10, 1.0))))


class Shares(PivetTest):
    """Shares of sound exchanges."""

    def test_better_and_worse(self) -> None:
        """Frames with a wrong sum are reasons; fewer of them is better."""
        frames = cave_frames(120)
        broken = [
            bytes([*data[:4], data[4] ^ 4]) if at % 5 == 0 else data
            for at, data in enumerate(frames)
        ]
        good, bad = Side(humidity_wire(frames)), Side(humidity_wire(broken))
        found = compare(bad, good)
        self.assertEqual(Better.BETTER, found.verdict)
        self.assertEqual((96, 120), (found.before.sound, found.before.total))
        self.assertEqual([("sum-wrong", 24, 0)], list(found.reasons))
        self.assertEqual(Better.WORSE, compare(good, bad).verdict)
        self.assertEqual(Better.SAME, compare(good, good).verdict)

    @given(st.integers(1, 400), st.floats(0, 1))
    def test_intervals(self, total: int, share: float) -> None:
        """They hold what was seen, stay a share, and shrink with more of the same."""
        hits = round(total * share)
        low, high = share_interval(hits, total)
        self.assertTrue(0 <= low <= hits / total <= high <= 1)
        more = share_interval(10 * hits, 10 * total)
        self.assertLess(more[1] - more[0], high - low)
        down, up = difference_interval((hits, total), (hits, total))
        self.assertTrue(down <= 0 <= up)
        self.assertAlmostEqual(-down, up)

    def test_wilson(self) -> None:
        """8 of 10: 0.490 to 0.943, as the textbooks have it; none of none tells nothing."""
        low, high = share_interval(8, 10)
        self.assertAlmostEqual(0.490, low, places=3)
        self.assertAlmostEqual(0.943, high, places=3)
        self.assertEqual((0.0, 1.0), share_interval(0, 0))
        self.assertEqual(0.0, share_interval(0, 10)[0])
        self.assertEqual(1.0, share_interval(10, 10)[1])
