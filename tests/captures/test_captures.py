"""Captures of other programs give what their list says; wires and exports."""

from pathlib import Path
from typing import Any

import numpy as np

from pivet.bench.demo import demo_capture
from pivet.bench.export import export_capture, export_readings, reports
from pivet.captures.capture import capture_of, named_lines, open_capture
from pivet.captures.text import exchange_text, pulse_text, short_names, summary_lines
from pivet.errors import Cancelled, InputError, OutputError
from pivet.files.captures import read_capture
from pivet.files.jsonl import exchange_object
from pivet.judge.verdict import Verdict
from pivet.readings.sound import fixed_air
from pivet.signal.trace import Level, Line, Trace
from tests.base import CAPTURES, PivetTest, expected_captures, frames_of
from tests.decode.frames import edges_from, frame_widths, with_sum
from tests.night import demo_night

SAME_FAMILY = {"dht11": ("dht11", "dht11-early"), "dht22": ("dht22",)}


class Listed(PivetTest):
    """The collection of captures, exchange by exchange."""

    def check(self, row: dict, **options: Any) -> None:
        """One capture against its list."""
        air_c = row["params"].get("air_temperature_c")
        air = None if air_c is None else fixed_air(air_c)
        capture = open_capture(CAPTURES / row["file"], **options, air=air)
        self.assertEqual([",".join(row["lines"].values())], [wire.name for wire in capture.wires])
        wire = capture.wires[0]
        self.assertEqual(len(row["transactions"]), len(wire))
        for number, wanted in enumerate(row["transactions"]):
            self.check_exchange(wanted, exchange_object(wire.report(number)))

    def check_exchange(self, wanted: dict, found: dict) -> None:
        """One exchange as JSON against its entry in the list."""
        self.assertAlmostEqual(wanted["start_s"], found["start_s"], delta=wanted["start_tol_s"])
        self.assertEqual(wanted["bytes"], found["bytes"])
        self.assertIs(wanted["check"], found["check"]["ok"])
        for key in ("presence", "rom"):
            if key in wanted:
                self.assertEqual(wanted[key], found[key])
        if "echo_width_us" in wanted:
            self.assertAlmostEqual(wanted["echo_width_us"], found["flight_us"], delta=0.13)
        self.assertEqual(len(wanted["readings"]), len(found["readings"]))
        for value, given in zip(wanted["readings"], found["readings"], strict=True):
            self.assertEqual((value["quantity"], value["unit"]), (given["quantity"], given["unit"]))
            self.assertAlmostEqual(value["value"], given["value"], delta=value["tol"])
            self.assertEqual(wanted.get("rom"), given.get("rom"))

    def test_recognised(self) -> None:
        """Without being told the sensor or the line."""
        for row in expected_captures(""):
            with self.subTest(row["id"]):
                self.check(row)
                wire = open_capture(CAPTURES / row["file"]).wires[0]
                same = SAME_FAMILY.get(row["sensor"], (row["sensor"],))
                self.assertIn(wire.sheet.id, same)

    def test_told_sensor_and_line(self) -> None:
        """With the sensor, and the last part of the line's name."""
        for row in expected_captures(""):
            with self.subTest(row["id"]):
                names = ",".join(name.split(".")[-1] for name in row["lines"].values())
                self.check(row, sensor=row["sensor"], wire=names)

    def test_told_sensor_only(self) -> None:
        """With the sensor, without the line."""
        for row in expected_captures(""):
            with self.subTest(row["id"]):
                self.check(row, sensor=row["sensor"])

    def test_search_of_four(self) -> None:
        """The codes that the search found so far, pass by pass."""
        row = next(row for row in expected_captures("onewire") if row["id"] == "av_ow_search")
        codes = [step["rom"] for step in row["transactions"][:4]]
        wire = open_capture(CAPTURES / row["file"]).wires[0]
        for number in range(4):
            found = exchange_object(wire.report(number))
            self.assertEqual(codes[: number + 1], found["found"])
            self.assertEqual(("f0", None), (found["rom_command"], found["function"]))

    def test_echo_line_alone(self) -> None:
        """Without the trigger the same distances come out."""
        row = next(row for row in expected_captures("hc-sr04") if row["id"] == "av_echo")
        capture = open_capture(CAPTURES / row["file"], "hc-sr04", "ECHO", air=fixed_air(12.0))
        distances = [capture.wires[0].report(n).readings[0].value for n in range(6)]
        wanted = [step["readings"][0]["value"] for step in row["transactions"]]
        np.testing.assert_allclose(wanted, distances, atol=5e-4)

    def test_several_kinds_at_once(self) -> None:
        """A capture with lines of all three families."""
        lines = [
            line
            for name in ("av_ow_read", "av_echo", "av_dht22", "iv_ping3")
            for line in read_capture(CAPTURES / f"{name}.vcd").lines
        ]
        trace = Trace(tuple(lines), 0, 7 * 10**9, 10)
        capture = capture_of(Path("mixed.vcd"), trace)
        kinds = {wire.name: wire.sheet.id for wire in capture.wires}
        self.assertEqual(
            {
                "logic.DQ": "onewire",
                "logic.TRIG,logic.ECHO": "hc-sr04",
                "logic.DHT": "dht22",
                "tb.sig": "ping3",
            },
            kinds,
        )


class Lines(PivetTest):
    """Which lines become wires."""

    def test_one_net_under_several_names(self) -> None:
        """Lines with the same edges are one wire, which answers to all their names."""
        capture = open_capture(CAPTURES / "iv_dht22_cave.vcd")
        self.assertEqual(["tb.data"], [wire.name for wire in capture.wires])
        self.assertIn("tb.hall.shelf3.probe", capture.wires[0].lines[0].aliases)

    def test_names_that_lead_nowhere(self) -> None:
        """Unknown, ambiguous and silent lines."""
        edges = np.array([10**6, 2 * 10**6])
        lines = tuple(Line(n, Level.HIGH, edges) for n in ("a.d", "b.d"))
        trace = Trace((*lines, Line("a.q", Level.HIGH, edges[:0])), 0, 10**9, 1)
        for name, part in (
            ("x", "t.vcd has no line 'x': choose one of a.d, b.d"),
            ("d", "several lines"),
            ("q", "never changes"),
        ):
            with self.assertRaises(InputError) as caught:
                capture_of(Path("t.vcd"), trace, None, name)
            self.assertIn(part, str(caught.exception))

    def test_a_line_before_what_two_share(self) -> None:
        """A name that a line has as a whole is that line, though two others share it."""
        edges = np.array([10**6, 2 * 10**6])
        names = ("vat", "vat.trig", "vat.echo")
        trace = Trace(tuple(Line(n, Level.LOW, edges) for n in names), 0, 10**9, 1)
        self.assertEqual(["vat"], [line.name for line in named_lines(trace, "vat", "t.vcd")])

    def test_driver_of_the_sensor_is_no_wire(self) -> None:
        """A line that shows only the sensor's share of a wire is not told twice."""
        frame = frame_widths(with_sum(b"\2\x8c\1\x5f"))
        edges = np.concatenate([edges_from(frame, start) for start in (50_000.0, 2_300_000.0)])
        drive = np.concatenate([edges[2:86], edges[88:]])
        lines = (Line("tb.s.drive", Level.HIGH, drive), Line("tb.dq", Level.HIGH, edges))
        capture = capture_of(Path("t.vcd"), Trace(lines, 0, 3 * 10**9, 100))
        self.assertEqual(["tb.dq"], [wire.name for wire in capture.wires])
        self.assertEqual(("tb.s.drive",), capture.others)
        alone = capture_of(Path("t.vcd"), Trace(lines[:1], 0, 3 * 10**9, 100))
        self.assertEqual("65.2", alone.wires[0].report(0).readings[0].text)

    def test_asks_without_any_answer(self) -> None:
        """A line of asks is a wire when no line of the capture answers."""
        edges = np.sort(np.concatenate([(np.arange(5) + 1) * 2 * 10**9 + k for k in (0, 10**6)]))
        clock = Line("clk", Level.LOW, np.arange(1, 2000) * 5_000_000)
        trace = Trace((Line("d", Level.HIGH, edges), clock), 0, 11 * 10**9, 1000)
        capture = capture_of(Path("t.vcd"), trace)
        self.assertEqual((["d"], ("clk",)), ([w.name for w in capture.wires], capture.others))
        self.assertEqual(5, capture.wires[0].count(Verdict.UNSOUND))

    def test_columns_are_those_of_its_family(self) -> None:
        """Asked for those of another, a wire says what it is."""
        echo = open_capture(CAPTURES / "av_echo.vcd").wires[0]
        frame = open_capture(CAPTURES / "av_dht22.vcd").wires[0]
        exchanges, judged = type(echo.exchanges), type(echo.judged)
        self.assertEqual((echo.exchanges, echo.judged), echo.columns(exchanges, judged))
        for kinds in ((exchanges, type(frame.judged)), (type(frame.exchanges), judged)):
            for wire in (echo, frame):
                with self.assertRaisesRegex(TypeError, f"family {wire.family.key}"):
                    wire.columns(*kinds)

    def test_cancel(self) -> None:
        """Opening stops when progress says so, also while decoding."""
        seen = []

        def stop(share: float) -> None:
            seen.append(share)
            if share > 0.75:
                raise Cancelled

        with self.assertRaises(Cancelled):
            open_capture(CAPTURES / "av_dht22.vcd", progress=stop)
        self.assertEqual(sorted(seen), seen)


class Exports(PivetTest):
    """What is written can be read by others."""

    def setUp(self) -> None:
        super().setUp()
        self.capture = open_capture(CAPTURES / "av_dht22.vcd")

    def test_capture_again(self) -> None:
        """A saved capture gives the same exchanges."""
        for name in ("c.vcd", "c.csv"):
            path = self.folder / name
            export_capture(self.capture, path)
            again = open_capture(path)
            self.assert_same_exchanges(self.capture.wires[0].exchanges, again.wires[0].exchanges)

    def test_unknown_ending(self) -> None:
        """An ending that names no format."""
        with self.assertRaises(OutputError):
            export_readings(self.capture, self.folder / "r.xls")


class Texts(PivetTest):
    """Plain text for terminal, clipboard and readout."""

    def test_two_pictures_of_one_wire(self) -> None:
        """Lines that carry the same echoes with other triggers are one wire."""
        edges = np.array([0, 5, 755, 1955, 40_000, 40_005, 40_755, 42_000]) * 1000
        other = edges.copy()
        other[[1, 5]] += 2000
        lines = tuple(Line(name, Level.LOW, row) for name, row in (("a", edges), ("b", other)))
        capture = capture_of(Path("t.vcd"), Trace(lines, 0, 10**8, 100))
        self.assertEqual(["a"], [wire.name for wire in capture.wires])

    def test_leftovers_are_told(self) -> None:
        """Edges and spikes that belong to no exchange are counted in the summary."""
        edges = edges_from(frame_widths(with_sum(b"\2\x8c\1\x5f")), 50_000.0)
        strays = np.array([5_000_000, 5_004_000, 9_000_000, 9_001_000])
        line = Line("d", Level.HIGH, np.concatenate((strays, edges)))
        trace = Trace((line,), 0, 10**9, 100)
        text = "\n".join(summary_lines(capture_of(Path("t.vcd"), trace)))
        self.assertIn(
            "2 edges before or between the exchanges left out, first at 0:00:00.005", text
        )
        self.assertIn("1 spike outside the exchanges removed", text)

    def test_short_names(self) -> None:
        """What all names share at either end goes; nothing becomes empty or alike."""
        cases = {
            ("cave.a", "cave.b"): ["a", "b"],
            ("t.s1.dq", "t.s2.dq"): ["s1", "s2"],
            ("tb.data",): ["tb.data"],
            ("a", "a.b"): ["a", "a.b"],
            ("x.a.b", "x.b"): ["a.b", "b"],
            ("D0", "D1"): ["D0", "D1"],
        }
        for names, expected in cases.items():
            found = short_names(names)
            self.assertEqual(len(names), len(set(found)))
            self.assertEqual(expected, found)

    def test_exchange_text(self) -> None:
        """All windows with their limits."""
        text = exchange_text(open_capture(CAPTURES / "iv_dht11_old.vcd").wires[0].report(0))
        self.assertIn("72 to 88 µs (assumed)", text)
        self.assertIn("at least 18.00 ms", text)

    def test_pulse_text(self) -> None:
        """One pulse, a window's pulses, a byte, nothing."""
        report = open_capture(CAPTURES / "av_dht22.vcd").wires[0].report(0)
        self.assertEqual("", pulse_text(report, frozenset()))
        one = pulse_text(report, frozenset({4}))
        self.assertEqual(
            "bit 1 · 0, high · 26.0 µs · 4.0 µs inside 22 to 30 µs; in copies 18 to 30 µs", one
        )
        self.assertIn("2 pulses “bit, low”", pulse_text(report, frozenset({3, 5})))
        self.assertIn("16 pulses, ", pulse_text(report, frozenset(range(3, 19))))


class Demo(PivetTest):
    """The demo night shows the faults that people meet."""

    def test_what_it_holds(self) -> None:
        """Seven wires; each fault of the story is there; twice the same."""
        capture = demo_night()
        self.assertEqual(7, len(capture.wires))
        seen = {finding.code for report in reports(capture) for finding in report.findings}
        story = {
            "sum-wrong",
            "slow-rise",
            "spike-removed",
            "no-answer",
            "cut-short",
            "too-soon",
            "wrong-type",
            "late-answer",
            "all-zeros",
            "out-of-range",
            "device-left",
            "device-joined",
            "order-shifted",
            "power-on-value",
            "read-too-early",
            "crc-wrong",
            "jumped",
            "nothing-in-range",
            "no-echo",
            "retriggered",
            "trigger-short",
            "late-rise",
        }
        self.assertLessEqual(story, seen)
        again = demo_capture()
        for wire, other in zip(capture.wires, again.wires, strict=True):
            np.testing.assert_array_equal(wire.lines[0].edges_ns, other.lines[0].edges_ns)

    def test_cold_and_wet(self) -> None:
        """Shelf and chiller have the climate of the story."""
        shelf, _, _, _, chiller, door, _ = demo_night().wires
        self.assertAlmostEqual(
            92.4, float(np.median(frames_of(shelf).quantities[0].values)), delta=2
        )
        self.assertAlmostEqual(
            -18, float(np.median(frames_of(chiller).quantities[1].values)), delta=1
        )
        self.assertEqual("dht11-early", frames_of(door).better.id)
