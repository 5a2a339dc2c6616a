"""What a person wants of a wire, kept as JSON and read again."""

import json

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.person.choices import WireChoices
from pivet.person.wire_settings import (
    MOST_AIR,
    WireSettings,
    read_wire_settings,
    wire_settings_text,
)
from pivet.readings.sound import COLDEST_C, WARMEST_C, Air, Vessel, fixed_air
from pivet.sheets.reach import AS_IN_SHEET, Reach
from tests.base import PivetTest

temperatures = st.floats(COLDEST_C, WARMEST_C)
vessels = st.tuples(st.floats(0.1, 50.0), st.floats(0.01, 1.0), st.floats(0.0, 9.0)).map(
    lambda row: Vessel(row[0], row[0] * row[1], row[2])
)


def read_over_time(values: list[float]) -> Air:
    """Air as a thermometer told it."""
    times = np.arange(len(values), dtype=np.int64) * 2_000_000_000
    return Air("from shelf_A", times, np.array(values))


class RoundTrip(PivetTest):
    """What is written is read."""

    @given(
        st.none() | st.floats(0.0, 9e4),
        st.integers(0, 2),
        st.none() | temperatures.map(fixed_air),
        st.none() | vessels,
        st.integers(3, 7),
    )
    def test_wishes(
        self, every_s: float | None, retries: int, air: Air | None, vessel: Vessel | None, over: int
    ) -> None:
        """Interval, retries, a given air, a vessel, the median."""
        wishes = WireSettings(every_s, retries, WireChoices(air=air, vessel=vessel, over=over))
        found = read_wire_settings(wire_settings_text(wishes))
        self.assertEqual(
            (every_s, retries, over), (found.every_s, found.retries, found.choices.over)
        )
        self.assertEqual(vessel, found.choices.vessel)
        if air is None:
            self.assertIsNone(found.choices.air)
        else:
            self.assertEqual(
                ("given", air.values[0]), (found.choices.air.label, found.choices.air.values[0])
            )

    @given(st.none() | st.floats(1, 1000), st.none() | st.floats(0.1, 50))
    def test_reach(self, timeout_ms: float | None, farthest_m: float | None) -> None:
        """Timeout and farthest distance; what no sensor has is as if it had not been said."""
        reach = Reach(timeout_ms, farthest_m)
        text = wire_settings_text(WireSettings(choices=WireChoices(reach=reach)))
        self.assertEqual(reach, read_wire_settings(text).choices.reach)
        for wrong in ('{"timeout_ms": -1}', '{"farthest_m": "x"}', "7", "null", "[]"):
            found = read_wire_settings(f'{{"reach": {wrong}}}').choices.reach
            self.assertEqual(AS_IN_SHEET, found)

    @given(st.lists(temperatures, min_size=2, max_size=40))
    def test_air_over_time(self, values: list[float]) -> None:
        """What a thermometer told, at each moment."""
        air = read_over_time(values)
        found = read_wire_settings(
            wire_settings_text(WireSettings(choices=WireChoices(air=air)))
        ).choices.air
        self.assertEqual(air.label, found.label)
        moments = np.arange(-1, 2 * len(values) + 2, dtype=np.int64) * 1_000_000_000
        np.testing.assert_array_equal(air.at(moments), found.at(moments))

    def test_much_air(self) -> None:
        """Of days of readings so many are kept as fit, from all of the time."""
        air = read_over_time([12.0 + n % 7 for n in range(5 * MOST_AIR + 3)])
        found = read_wire_settings(
            wire_settings_text(WireSettings(choices=WireChoices(air=air)))
        ).choices.air
        self.assertLessEqual(found.values.size, MOST_AIR)
        self.assertGreater(found.times_ns[-1], 0.99 * air.times_ns[-1])


class Nonsense(PivetTest):
    """Files are written by others too."""

    def test_left_out(self) -> None:
        """What makes no sense is as if it had not been said; the rest holds."""
        for text in ("", "no json", "[]", "7", '"air"', "null"):
            self.assertEqual(
                (None, 1), (read_wire_settings(text).every_s, read_wire_settings(text).retries)
            )
        whole = {"every_s": 5.0, "retries": 2}
        for key, value in (
            ("air", "warm"),
            ("air", 900.0),
            ("air", {"from": "x", "t_ns": [1, 2], "celsius": [3.0]}),
            ("air", {"t_ns": [], "celsius": []}),
            ("vessel", {"depth_m": 1.0, "full_m": 2.0}),
            ("vessel", {"depth": 1.0}),
            ("vessel", 3),
            ("median_over", "many"),
        ):
            with self.subTest(key=key, value=value):
                found = read_wire_settings(json.dumps({**whole, key: value}))
                self.assertEqual((5.0, 2), (found.every_s, found.retries))
                self.assertIsNone(found.choices.air)
                self.assertIsNone(found.choices.vessel)
