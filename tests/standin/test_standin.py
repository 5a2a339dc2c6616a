"""The stand-in: what is put in comes out, faults are where they were asked for."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.errors import InputError
from pivet.judge.verdict import Verdict
from pivet.sheets.load import find_sheet
from pivet.standin.encode import encode
from pivet.standin.faults import Fault, parse_fault, spread
from pivet.standin.humidity import Conditions
from pivet.standin.scene import Scene, scenes_trace, spread_faults
from tests.base import HUMIDITY, PivetTest, decode_line, humidity_wire


def scene(sensor: str, humidity, temperature, **options) -> Scene:
    """A scene with the sheet's interval."""
    sheet = find_sheet(sensor)
    return Scene(
        "d",
        sheet,
        np.array(humidity, float),
        np.array(temperature, float),
        sheet.interval_s * 1.05,
        **options,
    )


def wire_of(made: Scene, seed: int = 1):
    """Decoded and judged as its own type."""
    trace = scenes_trace((made,), seed)
    return humidity_wire(trace.lines[0], trace, decode_line(trace.lines[0], trace), made.sheet)


class ThereAndBack(PivetTest):
    """Values survive the wire."""

    @given(st.sampled_from(HUMIDITY), st.data())
    def test_any_value(self, sensor: str, data: st.DataObject) -> None:
        """Any value of any type, with clock error, jitter, rise and a step of the capture."""
        sheet = find_sheet(sensor)
        sent = []
        for rule in sheet.values:
            steps = data.draw(
                st.lists(
                    st.integers(round(rule.least / rule.step), round(rule.most / rule.step)),
                    min_size=6,
                    max_size=6,
                )
            )
            sent.append([round(step * rule.step, 3) for step in steps])
        conditions = Conditions(
            clock=data.draw(st.floats(0.86, 1.14)),
            jitter_us=data.draw(st.floats(0, 1.0)),
            rise_us=data.draw(st.floats(0, 4)),
            step_ns=data.draw(st.sampled_from([1, 100, 1000])),
        )
        wire = wire_of(scene(sensor, *sent, conditions=conditions), data.draw(st.integers(0, 99)))
        self.assertEqual(6, len(wire))
        for row, wanted in zip(wire.judged.quantities, sent, strict=True):
            np.testing.assert_allclose(row.values, wanted, atol=1e-9)
        self.assertTrue((wire.judged.check == 1).all())

    def test_same_seed_same_edges(self) -> None:
        """The seed alone decides."""
        made = scene("dht22", [60, 61], [9, 10], faults={1: (Fault.SUM_WRONG,)})
        one, same, other = (scenes_trace((made,), seed).lines[0].edges_ns for seed in (4, 4, 5))
        np.testing.assert_array_equal(one, same)
        self.assertFalse(np.array_equal(one, other))

    def test_coarse_capture_cannot_tell(self) -> None:
        """At 10 µs the reading is right, but nobody can tell about the windows."""
        made = scene("dht22", [60.5], [9.5], conditions=Conditions(step_ns=10_000))
        report = wire_of(made).report(0)
        self.assertIs(Verdict.UNKNOWN, report.verdict)
        self.assertEqual("too-coarse", report.findings[0].code)
        self.assertEqual("60.5", report.readings[0].text)


class FaultsAsked(PivetTest):
    """Faults by name and place."""

    def test_parse(self) -> None:
        """A name, or a name and the only exchange it befalls."""
        self.assertEqual((Fault.SPIKE, None), parse_fault("spike", Fault))
        self.assertEqual((Fault.SPIKE, 3), parse_fault("spike@3", Fault))
        for text, part in (("fire", "there is no fault 'fire'"), ("spike@x", "names no exchange")):
            with self.assertRaises(InputError) as caught:
                parse_fault(text, Fault)
            self.assertIn(part, str(caught.exception))

    def test_spread(self) -> None:
        """Everywhere, or at one exchange; a place behind the last is nowhere."""
        rows = spread([("a", None), ("b", 2), ("c", 3), ("d", 0)], 3)
        self.assertEqual({0: ("a", "d"), 1: ("a",), 2: ("a", "b")}, rows)

    def test_place(self) -> None:
        """Only the named exchange is hit."""
        rows, whole = spread_faults([(Fault.NO_ANSWER, 2), (Fault.CAPTURE_ENDED, None)], 4)
        self.assertEqual({2: (Fault.NO_ANSWER,)}, rows)
        self.assertEqual({Fault.CAPTURE_ENDED}, whole)
        wire = wire_of(scene("dht22", [60] * 4, [9] * 4, faults=rows))
        self.assertEqual([0, 0, Verdict.UNSOUND, 0], wire.verdicts.tolist())

    def test_values_that_cannot_be_sent(self) -> None:
        """The range is named."""
        with self.assertRaises(InputError) as caught:
            encode(
                find_sheet("dht22"), {"humidity": np.array([130.0]), "temperature": np.array([1.0])}
            )
        self.assertIn(
            "cannot send humidity 130 %RH: take a value from 0 to 100", str(caught.exception)
        )

    def test_not_a_number_cannot_be_sent(self) -> None:
        """NaN is refused like any other impossible value."""
        with self.assertRaises(InputError):
            encode(
                find_sheet("dht11"),
                {"humidity": np.array([np.nan]), "temperature": np.array([1.0])},
            )
