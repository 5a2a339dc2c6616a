"""Whatever is on the lines: every exchange can be judged, told, written and explained."""

import json

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from pivet.captures.decoding import decode_lines
from pivet.captures.devices import devices_of, shift_of
from pivet.captures.text import exchange_text, pulse_text, wire_line
from pivet.captures.wire import Wire, make_wire
from pivet.families import FAMILIES
from pivet.files.jsonl import exchange_object
from pivet.judge.echo import notices as echo
from pivet.judge.humidity import notices as humidity
from pivet.judge.onewire import notices as onewire
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.person.choices import WireChoices
from pivet.person.roles import Roles
from pivet.readings.sound import Vessel, fixed_air
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Int64Array, Level, Line, Trace
from pivet.standin.onewire import Host, Thermometer, make_code
from tests.base import HUMIDITY, PivetTest
from tests.decode.frames import edge_trains
from tests.decode.slots import slot_trains

NOTICES = {"one-wire": onewire.Notice, "echo-pulse": echo.Notice, "humidity-frame": humidity.Notice}
STEPS = st.sampled_from([1, 100, 1000, 50_000])


def wire_of_edges(
    family: str, lines: tuple[Int64Array, ...], level: Level, step_ns: int, choices: WireChoices
) -> Wire:
    """A wire on which just these edges are."""
    made = tuple(Line(f"l{at}", level, edges) for at, edges in enumerate(lines))
    last = max((int(edges[-1]) for edges in lines if edges.size), default=0)
    trace = Trace(made, 0, last + 2_000_000, step_ns)
    own = FAMILIES[family]
    return make_wire(own, made, trace, decode_lines(own, made, trace), choices)


class Anything(PivetTest):
    """Nothing raises, and what is said holds together."""

    def check(self, wire: Wire) -> None:
        """Each exchange, all its pulses, all its words."""
        wire_line(wire)
        wire.leftovers()
        for index in range(len(wire)):
            report = wire.report(index)
            json.dumps(exchange_object(report))
            exchange_text(report)
            pulse_text(report, frozenset(pulse.column for pulse in report.pulses))
            self.assertIs(Verdict(int(wire.verdicts[index])), report.verdict)
            self.assertLessEqual(report.start_ns, report.end_ns)
            self.assertFalse(
                report.readings and report.verdict is Verdict.UNKNOWN and not report.due
            )
            self.check_causes(wire, report)
            columns = [pulse.column for pulse in report.pulses]
            self.assertEqual(len(columns), len(set(columns)))
            for finding in report.findings:
                self.assertTrue(finding.says.endswith("."), finding.says)
            for stretch in report.stretches:
                self.assertLessEqual(stretch.start_ns, stretch.end_ns)
        for track in wire.tracks:
            self.assertEqual(track.at.size, track.values.size)
            self.assertEqual(track.at.size, track.given.size)

    def check_causes(self, wire: Wire, report: Report) -> None:
        """Everything that was noticed is told, and nothing else; the verdict is the worst."""
        noticed = NOTICES[wire.family.key](int(wire.judged.notices[report.number]))
        told = {finding.code for finding in report.findings}
        self.assertEqual({notice.code for notice in noticed}, told)
        weights = [finding.weight for finding in report.findings]
        self.assertEqual(report.verdict, max(weights, default=Verdict.SOUND))

    @settings(max_examples=40)
    @given(edge_trains(), st.sampled_from(Level), STEPS, st.sampled_from([None, *HUMIDITY]))
    def test_humidity(
        self, edges: Int64Array, level: Level, step_ns: int, sensor: str | None
    ) -> None:
        """A humidity line of any edges, recognised or of a chosen type."""
        choices = WireChoices(sheet=find_sheet(sensor) if sensor else None)
        self.check(wire_of_edges("humidity-frame", (edges,), level, step_ns, choices))

    @settings(max_examples=40)
    @given(slot_trains(120), st.sampled_from(Level), STEPS)
    def test_onewire(self, edges: Int64Array, level: Level, step_ns: int) -> None:
        """A 1-Wire line of any edges."""
        wire = wire_of_edges("one-wire", (edges,), level, step_ns, WireChoices())
        self.check(wire)
        devices_of(wire, Roles())
        shift_of(wire)

    @settings(max_examples=40)
    @given(slot_trains(60), slot_trains(60), st.sampled_from(Level), STEPS, st.booleans())
    def test_echo(
        self, one: Int64Array, other: Int64Array, level: Level, step_ns: int, both: bool
    ) -> None:
        """One line or two of any edges, with air and vessel."""
        lines = (one, other) if both else (one,)
        choices = WireChoices(air=fixed_air(5.0), vessel=Vessel(1.0, 0.8, 0.5))
        self.check(wire_of_edges("echo-pulse", lines, level, step_ns, choices))

    @given(st.lists(st.integers(0, 3000), min_size=1, max_size=12, unique=True), st.booleans())
    def test_spoiled_session(self, drops: list[int], resets: bool) -> None:
        """A real session of which some lows are missing, or grown to resets."""
        edges = _session().reshape(-1, 2).copy()
        places = np.array([drop % len(edges) for drop in drops])
        if resets:
            edges[places, 1] = edges[places, 0] + 50_000
            spoiled = edges.ravel()
        else:
            spoiled = np.delete(edges, places, axis=0).ravel()
        spoiled = spoiled[np.concatenate(([True], np.diff(np.maximum.accumulate(spoiled)) > 0))]
        wire = wire_of_edges("one-wire", (spoiled,), Level.HIGH, 100, WireChoices())
        self.check(wire)
        devices_of(wire, Roles())


_made: list[Int64Array] = []


def _session() -> Int64Array:
    if not _made:
        codes = [make_code(0x28, 7), make_code(0x10, 99), make_code(0x1D, 3)]
        host = Host([Thermometer(code, lambda t: 10 + t) for code in codes])
        for _ in range(2):
            host.search()
            host.skip()
            host.convert()
            for code in codes:
                host.match(code)
                host.read_scratchpad()
        host.search(alarm=True)
        host.match(codes[0])
        host.write_scratchpad(b"\x10\x05\x1f")
        host.skip(fast=True)
        host.power()
        host.match(codes[0], fast=True)
        host.convert(polled=True)
        host.slow_down()
        host.read_rom()
        _made.append(host.line("dq").edges_ns)
    return _made[0]
