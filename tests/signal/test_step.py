"""The step in which a capture was sampled, found from its stamps."""

import unittest

import numpy as np

from pivet.signal import uncertainty
from pivet.signal.step import step_of
from pivet.signal.trace import Level, Line, Trace
from tests.base import PivetTest
from tests.physics import humidity, onewire
from tests.physics.line import joined, sampled, traced


class Steps(PivetTest):
    """The step in which a capture was sampled."""

    def test_found_from_the_stamps(self) -> None:
        """Whatever the unit of the stamps; fine ones are left as they are."""
        for step in (5, 10, 12.5, 16, 20, 25, 100 / 3, 50):
            random = np.random.default_rng(round(step))
            frames = humidity.random_frames(random, 5)
            rows = [humidity.exchange(d, 2.1e6 * n + 7) for n, d in enumerate(frames)]
            bus = onewire.Bus().convert().scratchpad(onewire.pad_28(21.5)).edges()
            for line in (joined(rows), bus):
                trace = traced({"d": (sampled(random, line, step), True)}, step_ns=1)
                self.assertAlmostEqual(step * 1000, step_of(trace), delta=1)

    def test_a_simulator_has_no_step(self) -> None:
        """Pulses that are exactly alike, however round, were not sampled."""
        rows = [humidity.exchange(humidity.frame_22(50, 20), 2.1e6 * n) for n in range(4)]
        self.assertEqual(1, step_of(traced({"d": (joined(rows), True)}, step_ns=1)))
        few = traced({"d": (np.array([10.0, 20.0, 30.0]), True)}, step_ns=1)
        self.assertEqual(1, step_of(few))


class Limits(unittest.TestCase):
    """When widths are enough to tell a step."""

    def found(self, counts: list[int], step_ns: float, stamp_ns: int = 1) -> int:
        """Of pulses that last so many steps each, stamped by a clock that is finer."""
        times = np.cumsum([0, *counts]) * step_ns / stamp_ns
        edges = (np.rint(times) * stamp_ns).astype(np.int64)
        line = Line("d", Level.HIGH, edges)
        return step_of(Trace((line,), 0, int(edges[-1]) + 1, stamp_ns))

    def test_number_of_widths(self) -> None:
        """24 of them."""
        counts = [1, 2, 3, 4] * 6
        self.assertEqual(2000, self.found(counts, 2000))
        self.assertEqual(1, self.found(counts[:-1], 2000))

    def test_shortest(self) -> None:
        """It lasts 64 steps at most: of longer ones a fine step cannot be told."""
        for shortest, wanted in ((1, 33_333), (63, 33_333), (64, 33_333), (65, 1)):
            counts = [shortest, *(shortest + more for more in (1, 2, 5, 11, 23))] * 6
            with self.subTest(shortest=shortest):
                self.assertEqual(wanted, self.found(counts, 100_000 / 3))

    def test_neighbours(self) -> None:
        """Pulses that come out as neighbours: 3 of either at least, and one in twenty."""
        for near, of, wanted in ((2, 40, 1), (3, 40, 2000), (4, 100, 1), (5, 100, 2000)):
            with self.subTest(near=near, of=of):
                self.assertEqual(wanted, self.found([2] * (of - near) + [3] * near, 2000))

    def test_widths_that_come_again(self) -> None:
        """Two kinds of widths are no step, however often each comes."""
        widths = np.array([10_001, 20_000] * 40)
        edges = np.cumsum(widths).astype(np.int64)
        trace = Trace((Line("d", Level.HIGH, edges),), 0, int(edges[-1]) + 10**6, 1)
        self.assertEqual(1, step_of(trace))

    def test_many_kinds(self) -> None:
        """Twelve widths are not whole numbers of 5 µs by chance; of finer steps they may be."""
        apart = [2 + 3 * n for n in range(12)] * 2
        self.assertEqual(5000, self.found(apart, 5000))
        self.assertEqual(1, self.found(apart, 4999))
        self.assertEqual(1, self.found([2 + 3 * n for n in range(11)] * 3, 5000))

    def test_two_stamps(self) -> None:
        """A step of one stamp is none; of two it is."""
        counts = [10, 11, 12, 13] * 6
        for step, wanted, stamp in ((200, 200, 100), (100, 100, 100), (2, 2, 1), (1, 1, 1)):
            self.assertEqual(wanted, self.found(counts, step, stamp))

    def test_how_well_it_fits(self) -> None:
        """A stamp and a half, and a thousandth of the step: 21.5 ns of 20 µs."""
        for off, fits in ((21, True), (22, False)):
            widths = np.array([0, 20_000, 20_000, *[40_000 - off, 59_974, 79_965] * 8])
            line = Line("d", Level.HIGH, np.cumsum(widths).astype(np.int64))
            found = step_of(Trace((line,), 0, int(widths.sum()) + 1, 1))
            self.assertEqual(fits, abs(found - 19_991) < 3, (off, found))

    def test_no_whole_number_of_stamps(self) -> None:
        """From six stamps on, of four widths that differ; long pulses tell nothing."""
        counts = [3, 4, 5, 7] * 6
        for step, wanted in ((6.6, 7), (5.3, 1), (31.3, 31)):
            with self.subTest(step):
                self.assertEqual(wanted, self.found(counts, step))
        self.assertEqual(31, self.found([*counts, 401 * 3], 31.3))


class Uncertain(PivetTest):
    """One number for all widths, or one for each exchange."""

    def test_one_or_many(self) -> None:
        """Whatever is asked of it."""
        many = np.array([10, 40, 20])
        self.assertEqual([10, 7], [uncertainty.at(many, 0), uncertainty.at(7, 2)])
        self.assertEqual([40, 20], uncertainty.part(many, 1, 3).tolist())
        self.assertEqual(7, uncertainty.part(7, 1, 3))
        self.assertEqual([20, 10], uncertainty.pick(many, np.array([2, 0])).tolist())
        self.assertEqual(7, uncertainty.pick(7, np.array([2, 0])))
        self.assertEqual([40, 7, 0], [uncertainty.worst(row) for row in (many, 7, many[:0])])

    def test_of_edges(self) -> None:
        """An exchange is as uncertain as its worst edge, twice; of several lines the worst."""
        edges = np.array([100, 200, 300, 400, 500])
        line = Line("a", Level.HIGH, edges, uncertain_ns=np.array([1, 9, 2, 3, 4]))
        plain = Line("b", Level.HIGH, edges)
        starts, ends = np.array([100, 300, 420]), np.array([250, 400, 450])
        for lines, expected in (
            ((line,), [18, 6, 0]),
            ((line, plain), [18, 10, 10]),
            ((line, line), [18, 6, 0]),
        ):
            found = uncertainty.of_exchanges(lines, starts, ends, 10)
            self.assertEqual(expected, found.tolist())
        self.assertEqual(10, uncertainty.of_exchanges((plain,), starts, ends, 10))
        self.assertEqual(10, uncertainty.of_exchanges((line,), starts[:0], ends[:0], 10))

    def test_turned_over(self) -> None:
        """High for low, and back."""
        line = Line("a", Level.HIGH, np.array([100, 200]))
        over = line.turned_over()
        self.assertEqual((Level.LOW, True), (over.initial, over.turned))
        self.assertEqual(
            (Level.HIGH, False), (over.turned_over().initial, over.turned_over().turned)
        )
