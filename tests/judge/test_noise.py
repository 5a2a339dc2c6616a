"""Noise is never called sound, whatever sensor is said to be there."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from pivet.judge.verdict import Verdict
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level, Line, Trace
from tests.base import PivetTest, decode, decode_line, humidity_wire
from tests.decode.frames import edge_trains


class Noise(PivetTest):
    """Noise is never called sound."""

    @given(edge_trains(), st.sampled_from(list(Level)), st.sampled_from([1, 1000, 20_000, 10**11]))
    @settings(max_examples=40)
    def test_no_sound_verdict(self, edges, initial: Level, resolution_ns: int) -> None:
        """Any edges, judged as any sensor and reported: never sound, never an exception."""
        end = int(edges[-1]) + 10**9 if edges.size else 10**9
        line = Line("a", initial, edges)
        trace = Trace((line,), 0, end, resolution_ns)
        for sensor in (None, "dht22", "dht11", "dht11-early"):
            self.judge_all(trace, sensor)

    def judge_all(self, trace: Trace, sensor: str | None) -> None:
        """Every exchange of the line, as one sensor."""
        line = trace.lines[0]
        found = decode(line.edges_ns, trace.end_ns, (), line.initial)
        wire = humidity_wire(line, trace, found, None if sensor is None else find_sheet(sensor))
        for number in range(len(wire)):
            report = wire.report(number)
            self.assertIsNot(report.verdict, Verdict.SOUND)
            self.assertTrue(report.findings)

    def test_random_pulses_of_a_frame(self) -> None:
        """Ten thousand frames of random pulse lengths: none is sound."""
        random = np.random.default_rng(11)
        widths = random.uniform(20, 90, (10_000, 86))
        widths[:, 0] = 2_100_000
        widths[:, 1] = 1000
        edges = np.round(np.cumsum(widths.ravel()) * 1000).astype(np.int64)
        trace = Trace((Line("a", Level.HIGH, edges),), 0, int(edges[-1]) + 10**9, 100)

        wire = humidity_wire(trace.lines[0], trace, decode_line(trace.lines[0], trace), None)
        self.assertEqual(0, wire.count(Verdict.SOUND))
