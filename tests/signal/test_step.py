"""The step in which a capture was sampled, found from its stamps."""

import unittest

import numpy as np

from pivet.signal.step import step_of
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


if __name__ == "__main__":
    unittest.main()
