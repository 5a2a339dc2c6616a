"""Echo measurements: distances there and back, air, faults, jumps, level."""

import unittest
from typing import Any
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.captures.decoding import decode_lines
from pivet.captures.wire import Wire, make_wire
from pivet.errors import InputError
from pivet.families import FAMILIES
from pivet.judge.echo.notices import HEADLINES
from pivet.judge.echo.shots import compare
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.person.choices import WireChoices
from pivet.readings.sound import Air, Vessel, distance_m, fixed_air, round_area, speed_of_sound
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Trace
from pivet.standin.echo import EchoFault, EchoScene, echo_lines
from tests.base import PivetTest, shots_of

SENSORS = ("hc-sr04", "ping3")


def echo_wire(
    distance: np.ndarray,
    sensor: str = "hc-sr04",
    air_c: float = 12.0,
    faults: dict[int, tuple[EchoFault, ...]] | None = None,
    **choices: Any,
) -> Wire:
    """A stand-in's measurements, judged with the air that they were made in."""
    scene = EchoScene(
        "cave.vat",
        find_sheet(sensor),
        distance,
        np.full(distance.size, air_c),
        0.07,
        jitter_us=0.0,
        step_ns=10,
        faults=faults or {},
    )
    lines = echo_lines(scene, 1)
    trace = Trace(lines, 0, int(lines[-1].edges_ns[-1]) + 10**8, 10)
    family = FAMILIES["echo-pulse"]
    chosen = WireChoices(**{"air": fixed_air(air_c), **choices})
    return make_wire(family, lines, trace, decode_lines(family, lines, trace), chosen)


def codes(report: Report) -> list[str]:
    """Codes of the findings."""
    return [finding.code for finding in report.findings]


class ThereAndBack(PivetTest):
    """What the stand-in measured is what comes out."""

    def test_every_distance_of_the_range(self) -> None:
        """In steps of a millimetre, on both kinds of sensor."""
        for sensor in SENSORS:
            rule = find_sheet(sensor).echo
            distance = np.arange(rule.nearest_m, rule.farthest_m + 1e-9, 0.001)
            wire = echo_wire(distance, sensor)
            self.assertEqual(sensor, wire.sheet.id)
            self.assertTrue(shots_of(wire).given.all())
            np.testing.assert_allclose(distance, shots_of(wire).distance, atol=5e-6)

    @given(st.floats(-40, 60), st.floats(0.02, 3.0))
    def test_any_air(self, air_c: float, distance: float) -> None:
        """The same distance whatever the air."""
        wire = echo_wire(np.array([distance]), air_c=air_c)
        self.assertAlmostEqual(distance, wire.report(0).readings[0].value, delta=2e-5)

    def test_speed_of_sound(self) -> None:
        """343.2 m/s at 20 °C, 331.3 at 0."""
        np.testing.assert_allclose([343.2, 331.3], speed_of_sound(np.array([20.0, 0.0])), atol=0.05)
        self.assertAlmostEqual(
            0.0199, float(distance_m(np.array([116_000]), np.array([343.2]))[0]), 4
        )

    def test_air_over_time(self) -> None:
        """The last reading before each shot counts, before the first the first."""
        air = Air("from shelf", np.array([10, 20]), np.array([5.0, 15.0]))
        self.assertEqual([5, 5, 5, 15, 15], air.at(np.array([0, 10, 19, 20, 99])).tolist())

    def test_air_that_is_none(self) -> None:
        """Absolute zero and the like."""
        for air_c in (-300.0, 400.0, float("nan")):
            with self.assertRaises(InputError):
                fixed_air(air_c)


EXPECTED = {
    EchoFault.NO_ECHO: ("no-echo", Verdict.UNSOUND, False),
    EchoFault.NOTHING_IN_RANGE: ("nothing-in-range", Verdict.UNSOUND, False),
    EchoFault.TRIGGER_SHORT: ("trigger-short", Verdict.UNSOUND, True),
    EchoFault.RETRIGGERED: ("retriggered", Verdict.UNSOUND, False),
    EchoFault.TOO_SOON: ("too-soon", Verdict.NEAR, True),
    EchoFault.TOO_NEAR: ("too-near", Verdict.UNSOUND, False),
    EchoFault.TOO_FAR: ("too-far", Verdict.UNSOUND, False),
    EchoFault.LATE_RISE: ("late-rise", Verdict.NEAR, True),
    EchoFault.SOFT_TARGET: ("jumped", Verdict.NEAR, True),
}
"""What each fault must lead to: finding, verdict, a reading or none."""


class Faults(PivetTest):
    """Every fault of the stand-in is found and named."""

    def test_each_fault(self) -> None:
        """The finding, the verdict, and whether there is a reading."""
        self.assertEqual(set(EchoFault), set(EXPECTED))
        for fault, (code, verdict, given_) in EXPECTED.items():
            with self.subTest(fault):
                report = echo_wire(np.full(15, 1.0), faults={7: (fault,)}).report(7)
                self.assertIn(code, codes(report))
                self.assertIs(verdict, report.verdict)
                self.assertEqual(given_, bool(report.readings))
                self.assertIn(HEADLINES[code], report.headline)

    def test_blocks_make_no_difference(self) -> None:
        """Judged a few at a time or all at once."""
        distance = np.linspace(0.3, 2.0, 9)
        whole = shots_of(echo_wire(distance, "ping3"))
        with mock.patch("pivet.judge.echo.judged.BLOCK", 2):
            blocks = shots_of(echo_wire(distance, "ping3"))
        np.testing.assert_array_equal(whole.classes.least_ns, blocks.classes.least_ns)
        np.testing.assert_array_equal(whole.notices, blocks.notices)

    def test_clean_shots_are_sound(self) -> None:
        """A target that moves slowly gives nothing but sound shots."""
        for sensor in SENSORS:
            wire = echo_wire(np.linspace(0.5, 2.5, 200), sensor, air_c=20.0)
            self.assertEqual(200, wire.count(Verdict.SOUND))


class Shots(unittest.TestCase):
    """Medians, spreads and jumps."""

    def test_median_and_spread(self) -> None:
        """Over the last five, over fewer at the beginning."""
        found = compare(np.array([1.0, 1.2, 1.1, 5.0, 1.3, 1.4]))
        np.testing.assert_allclose([1.0, 1.1, 1.1, 1.15, 1.2, 1.3], found.median)
        np.testing.assert_allclose([0.0, 0.2, 0.2, 4.0, 4.0, 3.9], found.spread)

    def test_a_movement_is_no_jump(self) -> None:
        """A step that stays is a movement; a single far shot is none."""
        step = np.array([1.0] * 10 + [2.0] * 10)
        self.assertFalse(compare(step).jumped.any())
        step[5] = 2.0
        self.assertEqual([5], np.flatnonzero(compare(step).jumped).tolist())

    @given(st.lists(st.floats(0.02, 4.0), max_size=30), st.sampled_from([3, 5, 7]))
    def test_any_shots(self, rows: list[float], over: int) -> None:
        """The median lies within the spread; nothing raises."""
        found = compare(np.array(rows), over)
        self.assertEqual(len(rows), found.median.size)
        self.assertTrue((found.spread >= 0).all())


class Level(PivetTest):
    """A vessel below the sensor."""

    def test_level_share_volume(self) -> None:
        """Depth minus distance, by the median, so a jump changes nothing."""
        vessel = Vessel(1.4, 1.0, round_area(0.8))
        faults = {7: (EchoFault.SOFT_TARGET,)}
        wire = echo_wire(np.full(15, 0.9), faults=faults, vessel=vessel)
        values = {row.quantity: row for row in wire.report(7).readings}
        self.assertAlmostEqual(2.6, values["distance"].value, delta=0.05)
        self.assertAlmostEqual(0.5, values["level"].value, delta=1e-4)
        self.assertAlmostEqual(50.0, values["fill"].value, delta=0.01)
        self.assertAlmostEqual(251.3, values["volume"].value, delta=0.1)
        self.assertTrue(values["level"].derived)
        self.assertEqual(["single shots", "level"], [track.name for track in wire.tracks])

    def test_vessel_that_is_none(self) -> None:
        """Full above the sensor."""
        with self.assertRaises(InputError):
            Vessel(1.0, 1.2)
