"""Told exactly once: however often, and however late, anybody looks."""

import math

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from pivet.bench.demo import demo_capture
from pivet.bench.live.feeds import Begins, Feeds, Goes
from pivet.bench.wire import Wire
from pivet.sources.source import Gap, Piece
from pivet.signal.trace import Level
from pivet.standin.probe.loop import MadeClock
from tests.base import PivetTest
from tests.live import mutants

CASES = 312


class Files(PivetTest):
    """A capture says the same opened and played, whatever the damage and the pace."""

    wires: tuple[Wire, ...]

    @classmethod
    def setUpClass(cls) -> None:
        cls.wires = demo_capture().wires

    def check(self, seed: int) -> int:
        """One damaged capture, played at some pace."""
        rng = np.random.default_rng(seed)
        wire = self.wires[seed % len(self.wires)]
        count = int(rng.integers(3, 14))
        part = mutants.part_of(wire, int(rng.integers(0, len(wire) - count)), count)
        trace = mutants.damaged(part, seed)
        opened = mutants.opened(trace, wire)
        clock = MadeClock()
        pace = float(rng.choice([1.0, 30.0, 4000.0, math.inf]))
        length_s = (trace.end_ns - trace.start_ns) / 1e9 / min(pace, 1e6)
        slowest = length_s / float(rng.choice([0.5, 5.0, 60.0]))
        listener = mutants.listener_of(trace, [mutants.setup_of(opened)], pace, clock)
        events = mutants.listened(listener, clock, lambda: rng.uniform(0.0, slowest) + 1e-6)
        wanted, found = mutants.of_file([opened], trace.start_ns), mutants.told(events)
        self.assertEqual(list(wanted), sorted(found), (seed, wire.name))
        for key, row in wanted.items():
            self.assertEqual(row, found[key], (seed, key))
        return len(wanted)

    def test_damaged_captures(self) -> None:
        """Every word on every exchange, findings included."""
        total = sum(self.check(seed) for seed in range(CASES))
        self.assertGreater(total, 5 * CASES)
