"""Judging whole exchanges: each fault is found, named, and gives or refuses the reading."""

from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from pivet.captures.wire import Wire
from pivet.decode.humidity import HumidityExchanges, layout
from pivet.decode.humidity.columns import join
from pivet.judge.humidity import JudgedFrames, judge
from pivet.judge.humidity.judged import BLOCK
from pivet.judge.humidity.recognise import LOOKED_AT, rank_sheets
from pivet.judge.humidity.tell_bytes import doubtful_bit
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level, Line, Trace
from pivet.standin.faults import OF_THE_CAPTURE, Fault
from pivet.standin.humidity import Conditions
from pivet.standin.scene import Scene, scenes_trace, spread_faults
from tests.base import HUMIDITY, PivetTest, decode, decode_line, humidity_wire
from tests.decode.frames import edges_from, frame_widths, with_sum


def scene_wire(
    sensor: str, *faults: Fault, count: int = 2, judged_as: str | None = "", **conditions: Any
) -> Wire:
    """A stand-in with faults in every exchange, judged as its own type by default."""
    rows, whole = spread_faults([(fault, None) for fault in faults], count)
    sheet = find_sheet(sensor)
    scene = Scene(
        "cave.data",
        sheet,
        np.full(count, 64.0),
        np.full(count, 12.0),
        sheet.interval_s * 1.05,
        Conditions(**conditions),
        rows,
        whole,
    )
    trace = scenes_trace((scene,), 1)
    chosen = sensor if judged_as == "" else judged_as
    line = trace.lines[0]
    return humidity_wire(
        line, trace, decode_line(line, trace), find_sheet(chosen) if chosen else None
    )


def report_of(widths_us: list[float], sensor: str = "dht22") -> Report:
    """One exchange with these pulses, at a resolution of 100 ns."""
    edges = edges_from(widths_us, 20_000.0)
    trace = Trace((Line("d", Level.HIGH, edges),), 0, int(edges[-1]) + 10**9, 100)
    wire = humidity_wire(
        trace.lines[0], trace, decode_line(trace.lines[0], trace), find_sheet(sensor)
    )
    return wire.report(0)


def codes(report: Report) -> list[str]:
    """Codes of the findings."""
    return [finding.code for finding in report.findings]


EXPECTED = {
    Fault.NO_ANSWER: ("no-answer", Verdict.UNSOUND, False),
    Fault.LINE_HELD_LOW: ("line-held-low", Verdict.UNSOUND, False),
    Fault.CUT_SHORT: ("cut-short", Verdict.UNSOUND, False),
    Fault.EXTRA_PULSES: ("extra-pulses", Verdict.UNSOUND, False),
    Fault.SUM_WRONG: ("sum-wrong", Verdict.UNSOUND, False),
    Fault.ALL_ZEROS: ("all-zeros", Verdict.UNSOUND, False),
    Fault.IMPOSSIBLE_VALUE: ("impossible-value", Verdict.UNSOUND, False),
    Fault.SCALE_EDGE: ("scale-edge", Verdict.NEAR, True),
    Fault.ASK_TOO_SHORT: ("ask-too-short", Verdict.UNSOUND, False),
    Fault.LATE_ANSWER: ("late-answer", Verdict.UNSOUND, True),
    Fault.PULSE_OUTSIDE: ("pulse-outside", Verdict.UNSOUND, True),
    Fault.PULSE_NEAR: ("pulse-near", Verdict.NEAR, True),
    Fault.SPIKE: ("spike-removed", Verdict.SOUND, True),
    Fault.TOO_SOON: ("too-soon", Verdict.NEAR, True),
    Fault.SLOW_CLOCK: ("clock-off", Verdict.UNSOUND, True),
    Fault.FAST_CLOCK: ("clock-off", Verdict.UNSOUND, True),
    Fault.WEAK_PULL_UP: ("slow-rise", Verdict.UNSOUND, True),
    Fault.CAPTURE_ENDED: ("capture-ended", Verdict.UNKNOWN, False),
}
"""What each fault of the stand-in must lead to: finding, verdict, a reading or none."""


OF_PULSES = (Fault.PULSE_OUTSIDE, Fault.WEAK_PULL_UP)
"""Windows that are only assumed, as those of the early sheet, make nothing unsound."""


class Faults(PivetTest):
    """Every fault that a stand-in can have is found on every type of sensor."""

    def test_each_fault_on_each_sensor(self) -> None:
        """The finding, the verdict, and whether there is a reading."""
        for sensor in HUMIDITY:
            for fault, (code, verdict, given_) in EXPECTED.items():
                with self.subTest(sensor=sensor, fault=fault):
                    report = scene_wire(sensor, fault).report(1)
                    outside = code == "pulse-outside" and sensor == "dht11-early"
                    self.assertIn("pulse-near" if outside else code, codes(report))
                    if sensor == "dht11-early" and fault in OF_PULSES:
                        self.assertIs(Verdict.NEAR, report.verdict)
                    elif not (sensor == "dht11-early" and "clock" in fault):
                        self.assertIs(verdict, report.verdict)
                    self.assertEqual(given_, bool(report.readings))
                    self.assertFalse(report.readings and report.refused)

    def test_clean_stand_ins_are_sound(self) -> None:
        """Without faults every exchange is sound and nothing is noticed."""
        for sensor in HUMIDITY:
            wire = scene_wire(sensor, count=40)
            self.assertEqual(40, wire.count(Verdict.SOUND), sensor)
            self.assertEqual([], codes(wire.report(7)))

    def test_out_of_range(self) -> None:
        """An 11-type below 20 %RH: given, with care."""
        report = scene_wire("dht11", Fault.OUT_OF_RANGE).report(0)
        self.assertEqual((["out-of-range"], Verdict.NEAR), (codes(report), report.verdict))
        self.assertEqual("12.0", report.readings[0].text)

    def test_every_fault_is_covered(self) -> None:
        """No fault of the stand-in is left out of this test."""
        elsewhere = {Fault.OUT_OF_RANGE} | OF_THE_CAPTURE
        self.assertEqual(set(Fault), set(EXPECTED) | elsewhere)


class WrongType(PivetTest):
    """A wrongly chosen type is said, with the type that fits."""

    def test_each_pair(self) -> None:
        """Any type judged as any other."""
        for true in HUMIDITY:
            for chosen in HUMIDITY:
                with self.subTest(true=true, chosen=chosen):
                    wire = scene_wire(true, judged_as=chosen)
                    report = wire.report(0)
                    self.assertEqual(true != chosen, "wrong-type" in codes(report))
                    if true != chosen:
                        self.assertIn(f"({true})", report.findings[0].says)
                        self.assertIs(Verdict.UNSOUND, report.verdict)

    def test_recognised(self) -> None:
        """Each type is recognised, also off its clock, from a few frames, and from bad ones."""
        for sensor in HUMIDITY:
            for clock in (0.92, 1.0, 1.08):
                wire = scene_wire(sensor, judged_as=None, clock=clock)
                self.assertEqual(sensor, wire.sheet.id, clock)
        self.assertEqual("dht22", scene_wire("dht22", Fault.SUM_WRONG, judged_as=None).sheet.id)

    def test_unanswered_asks_tell_the_type_by_their_length(self) -> None:
        """1 ms is for a 22-type, 20 ms for an 11-type."""
        for sensor in ("dht22", "dht11"):
            wire = scene_wire(sensor, Fault.NO_ANSWER, judged_as=None)
            self.assertEqual(sensor, wire.sheet.id)

    def test_first_exchanges_settle_it(self) -> None:
        """Another sensor on the wire after many whole frames changes nothing."""
        one, other = (
            scene_wire(sensor, count=LOOKED_AT).columns(HumidityExchanges, JudgedFrames)[0]
            for sensor in ("dht11", "dht22")
        )
        silent = scene_wire("dht22", Fault.NO_ANSWER, count=LOOKED_AT)
        asked, _ = silent.columns(HumidityExchanges, JudgedFrames)
        for first, second in ((one, other), (other, one)):
            seen = join((asked.rows(9, LOOKED_AT), first.rows(0, 9)))
            both = join((seen, second))
            self.assertEqual(rank_sheets(seen).fits, rank_sheets(both).fits)
        self.assertFalse(rank_sheets(asked).settled)
        late = rank_sheets(join((asked, one)))
        self.assertEqual((True, "dht11"), (late.settled, late.best.id))

    def test_ranking_of_nothing(self) -> None:
        """No exchange, no preference, no exception."""
        empty = decode(np.empty(0, np.int64), 10)
        self.assertEqual({0.0}, {fit.score for fit in rank_sheets(empty).fits})


class Blame(PivetTest):
    """The pulse that spoiled a frame is named, and hints stay hints."""

    def test_stretched_bit_is_blamed(self) -> None:
        """A 0 of 58 µs, taken as 1: the finding points at this bit, no value is given."""
        widths = frame_widths(with_sum(bytes.fromhex("039c0076")))
        bit = 28
        widths[5 + 2 * bit] = 58.0
        report = report_of(widths)
        wrong = report.findings[0]
        self.assertEqual("sum-wrong", wrong.code)
        self.assertIn("Bit 29 is doubtful (58.0 µs, taken as 1): were it 0", wrong.says)
        self.assertEqual((layout.high_column(bit),), wrong.columns)
        self.assertEqual((), report.readings)
        self.assertEqual("the sum is wrong", report.refused[0].reason)
        outside = [row for row in report.findings if row.code == "pulse-outside"]
        self.assertEqual([(layout.high_column(bit),)], [row.columns for row in outside])

    @given(st.binary(min_size=4, max_size=4), st.integers(0, 39), st.sampled_from([44.0, 52.0]))
    @settings(max_examples=40)
    def test_hint_makes_the_sum_hold(self, payload: bytes, bit: int, width_us: float) -> None:
        """Whatever bit strays: if a bit is named, flipping it makes the sum hold."""
        widths = frame_widths(with_sum(payload))
        widths[5 + 2 * bit] = width_us
        edges = edges_from(widths, 20_000.0)
        found = decode(edges, int(edges[-1]) + 10**9)
        packed = found.packed[:, 0]
        if packed[:4].sum(dtype=np.uint8) == packed[4]:
            return
        named = doubtful_bit(found, 0)
        if named is not None:
            bits = np.unpackbits(packed)
            bits[named] ^= 1
            again = np.packbits(bits)
            self.assertEqual(again[:4].sum(dtype=np.uint8), again[4])

    def test_doubtful_bit_that_is_not_to_blame(self) -> None:
        """A stray bit whose other value would not mend the sum is no hint for it."""
        widths = frame_widths(bytes.fromhex("039c007617"))
        widths[5 + 2 * 15] = 45.0
        report = report_of(widths)
        self.assertIn("No single doubtful bit explains it", report.findings[0].says)

    def test_cut_short_names_the_bit(self) -> None:
        """Seventeen whole bits: cut at bit 18, two whole bytes."""
        widths = frame_widths(with_sum(bytes.fromhex("039c0076")))[: 4 + 2 * 17 + 1]
        report = report_of(widths)
        self.assertIn("cut short at bit 18: 17 bits came whole", report.findings[0].says)
        self.assertEqual((bytes.fromhex("039c"), None), (report.data, report.check.ok))
        self.assertEqual(["humidity"], [row.quantity for row in report.refused])


class Columns(PivetTest):
    """Many exchanges at once are judged like each alone."""

    def test_blocks_and_rows(self) -> None:
        """More than a block: the same as judged in two halves with the start before."""
        count = BLOCK + 5
        sheet = find_sheet("dht22")
        rows, _ = spread_faults([(Fault.SUM_WRONG, 3), (Fault.TOO_SOON, BLOCK)], count)
        scene = Scene("d", sheet, np.full(count, 60.0), np.full(count, 9.0), 2.1, faults=rows)
        trace = scenes_trace((scene,), 2)
        found = decode_line(trace.lines[0], trace)
        whole = judge(found, sheet, 100)
        cut = BLOCK - 7
        head = judge(found.rows(0, cut), sheet, 100)
        tail = judge(found.rows(cut, count), sheet, 100, None, int(found.start_ns[cut - 1]))
        for name in ("verdict", "notices", "check", "given", "since_last_ns", "window_verdict"):
            joined = np.concatenate((getattr(head, name), getattr(tail, name)), axis=-1)
            np.testing.assert_array_equal(getattr(whole, name), joined, name)
        self.assertEqual([3, BLOCK], np.flatnonzero(whole.verdict).tolist())

    def test_rejudged_wire_keeps_its_exchanges(self) -> None:
        """Another sheet changes what is said, not what was measured."""
        wire = scene_wire("dht22")
        other = wire.judged_as(find_sheet("dht11"))
        self.assertIs(wire.exchanges, other.exchanges)
        self.assertEqual("dht22", other.judged_as(None).sheet.id)

    def test_steps_to_what_is_not_sound(self) -> None:
        """Next and previous exchange that is not sound, and none beyond."""
        rows, _ = spread_faults([(Fault.NO_ANSWER, 2), (Fault.NO_ANSWER, 6)], 9)
        scene = Scene("d", find_sheet("dht22"), np.full(9, 60.0), np.full(9, 9.0), 2.1, faults=rows)
        trace = scenes_trace((scene,), 2)
        wire = humidity_wire(trace.lines[0], trace, decode_line(trace.lines[0], trace), None)
        self.assertEqual([2, 6, None], [wire.next_not_sound(at, 1) for at in (0, 2, 6)])
        self.assertEqual([6, 2, None], [wire.next_not_sound(at, -1) for at in (8, 6, 2)])
        middle = int(wire.exchanges.start_ns[4]) + 1000
        self.assertEqual([0, 4, 8], [wire.nearest(t) for t in (0, middle, 10**12)])
