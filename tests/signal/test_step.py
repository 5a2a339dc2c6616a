"""The step in which a capture was sampled, found from its stamps."""

import unittest

import numpy as np

from pivet.signal import uncertainty
from pivet.signal.step import step_of
from pivet.signal.trace import Level, Line
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


if __name__ == "__main__":
    unittest.main()
