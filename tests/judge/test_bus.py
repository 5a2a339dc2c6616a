"""The small parts that follow a 1-Wire line: rounds of a search, devices, windows, scratchpads."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.decode.checks import crc8_of
from pivet.families import FAMILIES
from pivet.judge.onewire.bus import EVERY, NOBODY, Bus
from pivet.judge.onewire.classes import FAST, KEYS, ONE, SLOT, ZERO
from pivet.judge.onewire.detail import Step
from pivet.judge.onewire.judged import COARSE_NS, MISSED, _blind
from pivet.judge.onewire.pulses import MOST_SHOWN, place_of, shown_slots
from pivet.judge.onewire.rounds import Rounds, search_key
from pivet.judge.verdict import Verdict
from pivet.readings.thermometer import byte_words, explain, looks_half_degrees
from pivet.sheets.onewire import (
    CONVERSION_US,
    code_bytes,
    code_text,
)
from pivet.signal.trace import Level, Line
from pivet.standin.onewire import make_code
from tests.base import PivetTest, wire_of
from tests.decode import slots
from tests.decode.slots import FAST_RESET, RESET, edges_of, read, written

CODES = st.integers(0, 2**64 - 1)


class Searching(unittest.TestCase):
    """Passes become rounds."""

    @given(CODES, CODES)
    def test_order_is_that_of_the_first_bit(self, one: int, other: int) -> None:
        """The first bit on the wire in which two codes differ decides."""
        if one == other:
            return
        bit = (one ^ other) & -(one ^ other)
        self.assertEqual(bool(other & bit), search_key(one) < search_key(other))

    def test_a_round(self) -> None:
        """Found codes grow; the pass that took 1 at every fork is the last."""
        rounds = Rounds()
        first = rounds.add(0, 0b00, 0b11)
        second = rounds.add(1, 0b10, 0b11)
        third = rounds.add(2, 0b11, 0b11)
        self.assertEqual([1, 2, 3], [len(row.found) for row in (first, second, third)])
        self.assertEqual([False, False, True], [row.last for row in (first, second, third)])
        self.assertEqual((None, (0b00, 0b10, 0b11)), rounds.whole())

    def test_a_new_round_begins(self) -> None:
        """After the last pass, and at a code that does not come after the one before."""
        rounds = Rounds()
        rounds.add(0, 0b10, 0b10)
        again = rounds.add(1, 0b00, 0b10)
        self.assertEqual((0b00,), again.found)
        rounds = Rounds()
        rounds.add(0, 0b00, 0b10)
        rounds.add(1, 0b00, 0b10)
        self.assertEqual((0b00,), rounds.broken())

    def test_a_broken_pass_outside_a_round(self) -> None:
        """It has found nothing."""
        self.assertEqual((), Rounds().broken())

    def test_a_triplet(self) -> None:
        """Two zeros are a fork, two ones nobody, and one of each is a bit that all share."""
        told = [
            (step.fork, step.nobody)
            for step in (Step(bit, other, None) for bit in (0, 1) for other in (0, 1))
        ]
        self.assertEqual([(True, False), (False, False), (False, False), (False, True)], told)


class Devices(unittest.TestCase):
    """Who is meant."""

    def test_numbers_follow_codes(self) -> None:
        """The same code is the same device."""
        bus = Bus()
        self.assertEqual([0, 1, 0], [bus.number_of(code) for code in (5, 9, 5)])
        self.assertEqual([5, 9], [device.code for device in bus.devices])

    def test_met_late_knows_what_all_were_told(self) -> None:
        """A conversion of all devices holds for those met later too."""
        bus = Bus()
        for device in bus.meant(EVERY):
            device.start(1000, None)
        self.assertEqual(1000, bus.devices[bus.number_of(7)].converted_ns)

    def test_meant(self) -> None:
        """All, one, none."""
        bus = Bus()
        bus.number_of(5)
        bus.number_of(9)
        self.assertEqual(3, len(bus.meant(EVERY)))
        self.assertEqual([9], [row.code for row in bus.meant(1)])
        self.assertEqual([], bus.meant(NOBODY))
        self.assertIs(bus.anyone, bus.one(EVERY))
        self.assertIsNone(bus.one(NOBODY))

    @given(st.sets(CODES, min_size=1, max_size=6), st.integers(0, 63))
    def test_near(self, codes: set[int], bit: int) -> None:
        """A code with one wrong bit is that device's, if it can be no other's."""
        bus = Bus()
        numbers = {code: bus.number_of(code) for code in sorted(codes)}
        code = min(codes)
        wrong = code ^ 1 << bit
        fits = [other for other in codes if (other ^ wrong).bit_count() == 1]
        self.assertEqual(numbers[code] if fits == [code] else None, bus.near(wrong))

    def test_due(self) -> None:
        """As long as the resolution takes; the longest while it is not known."""
        bus = Bus()
        device = bus.devices[bus.number_of(5)]
        self.assertEqual(750_000_000, device.due_ns)
        for resolution, us in CONVERSION_US.items():
            device.resolution = resolution
            self.assertEqual(us * 1000, device.due_ns)


class Windows(PivetTest):
    """Pulses by window."""

    def wire(self, lows: list):
        """A wire with some lows."""
        return wire_of(FAMILIES["one-wire"], (Line("dq", Level.HIGH, edges_of(lows)),))

    def judged(self, lows: list):
        """What is judged of some lows."""
        return self.wire(lows).judged

    def test_each_in_its_window(self) -> None:
        """Shortest, longest and number, by hand."""
        classes = self.judged(RESET + written(b"\xcc\x44")).classes
        found = {
            key: (int(classes.least_ns[row, 0]), int(classes.count[row, 0]))
            for row, key in enumerate(KEYS)
            if classes.count[row, 0]
        }
        wanted = {
            "reset": (500_000, 1),
            "presence_wait": (30_000, 1),
            "presence": (120_000, 1),
            "phase": (500_000, 1),
            "one": (6_000, 6),
            "zero": (65_000, 10),
            "slot": (72_000, 15),
            "recovery": (7_000, 15),
        }
        self.assertEqual(wanted, found)

    def test_coarse_steps(self) -> None:
        """From so coarse a step on, short lows may fall between two looks."""
        judged = self.judged(RESET + written(b"\xcc\x44"))
        missed = np.full(1, int(MISSED))
        for step, blind in ((COARSE_NS - 1, False), (COARSE_NS, False), (6000, True)):
            self.assertEqual([blind], _blind(judged.classes, step, missed).tolist(), step)
            self.assertEqual([False], _blind(judged.classes, step, 0 * missed).tolist())
        judged.classes.least_ns[ONE] = COARSE_NS
        self.assertEqual([True], _blind(judged.classes, COARSE_NS, missed).tolist())

    def test_both_speeds_in_one_transaction(self) -> None:
        """The command that turns is slow, what follows fast."""
        wire = self.wire(RESET + written(b"\x3c") + slots.fast(b"\x44") + FAST_RESET)
        pulses = [row for row in wire.report(0).pulses if row.place and row.window]
        at = next(at for at, row in enumerate(pulses) if row.place == "byte 2, bit 1")
        keys = [row.window.key for row in pulses[at - 2 : at + 2] if row.window]
        self.assertEqual(["zero", "recovery", "fast_zero", "fast_recovery"], keys)
        judged = wire.judged
        count = judged.classes.count[:, 0]
        self.assertEqual((4, 2), (count[ONE], count[len(KEYS) // 2 + ONE]))
        self.assertEqual((4, 6), (count[ZERO], count[len(KEYS) // 2 + ZERO]))
        self.assertEqual(1, judged.classes.count[KEYS.index("fast_reset"), 1])
        self.assertEqual(0, judged.window_verdict[[KEYS.index(key) for key in FAST]].max())

    def test_each_window_can_be_broken(self) -> None:
        """A pulse or span outside is found in its own window, and told with its place."""
        cases = {
            "one": RESET + written(b"\xcc\xff", one=18.0),
            "zero": RESET + written(b"\xcc\x44", zero=130.0, slot=140.0),
            "hold": RESET + written(b"\xcc\xbe") + read(b"\x00", hold=68.0, slot=80.0),
            "slot": RESET + written(b"\xcc\xff", zero=48.0, slot=50.0),
            "recovery": RESET + written(b"\xcc\x44", zero=71.5, slot=72.0),
            "presence": [(500.0, 30.0), (310.0, 300.0), *written(b"\xcc")],
            "presence_wait": [(500.0, 90.0), (120.0, 350.0), *written(b"\xcc")],
            "phase": [(500.0, 30.0), (120.0, 100.0), *written(b"\xcc")],
            "reset": [(1200.0, 30.0), (120.0, 500.0), *written(b"\xcc")],
        }
        for key, lows in cases.items():
            with self.subTest(key):
                wire = self.wire(lows)
                self.assertEqual(Verdict.UNSOUND, wire.judged.window_verdict[KEYS.index(key), 0])
                said = [row.says for row in wire.report(0).findings if row.code == "pulse-outside"]
                label = wire.sheet.windows[key].label
                self.assertEqual(1, sum(f"“{label}”" in says for says in said), said)

    def test_worst_span_is_named(self) -> None:
        """Of slots that come too soon the shortest, with where it stands."""
        lows = RESET + written(b"\xcc") + [*written(b"\x44")]
        lows[12] = (lows[12][0], 48.0 - lows[12][0])
        finding = self.wire(lows).report(0).findings[0]
        self.assertEqual(("pulse-outside", (20,)), (finding.code, finding.columns))
        self.assertIn("Byte 2, bit 3: “slot” lasts 48", finding.says)

    def test_unlisted_pulse_is_told(self) -> None:
        """Of thousands of polled bits one in the middle is outside."""
        lows = RESET + written(b"\xcc\x44") + 400 * read(b"\x00") + read(b"\x01")
        lows[2000] = (68.0, lows[2000][1])
        report = self.wire(lows).report(0)
        finding = next(row for row in report.findings if row.code == "pulse-outside")
        self.assertNotIn(finding.columns[0], [pulse.column for pulse in report.pulses])
        self.assertEqual(2 * 1998, finding.columns[0])
        self.assertIn("“read 0, low” lasts 68", finding.says)

    def test_idle_between_slots_is_legal(self) -> None:
        """A host may rest as long as it likes."""
        lows = RESET + written(b"\xcc")
        lows[-1] = (lows[-1][0], 90_000.0)
        judged = self.judged(lows + written(b"\x44"))
        self.assertEqual(Verdict.SOUND, judged.window_verdict[SLOT, 0])

    def test_places(self) -> None:
        """Bytes and bits are counted from 1, a search's bits apart from them."""
        self.assertEqual("byte 1, bit 1", place_of(0, False))
        self.assertEqual("byte 10, bit 8", place_of(79, False))
        self.assertEqual("search bit 1, bit", place_of(8, True))
        self.assertEqual("search bit 64, direction", place_of(199, True))
        self.assertEqual("byte 2, bit 1", place_of(200, True))

    @given(st.integers(0, 5000))
    def test_shown_slots(self, count: int) -> None:
        """All of few, the first and the last of many."""
        found = shown_slots(count)
        self.assertEqual(min(count, MOST_SHOWN), len(found))
        self.assertEqual(sorted(set(found)), found)
        if count:
            self.assertEqual((0, count - 1), (found[0], found[-1]))


class Scratchpads(unittest.TestCase):
    """Bytes of a scratchpad in words."""

    def test_undefined_bits(self) -> None:
        """So many low bits say nothing, and do not count."""
        for config, undefined, value in ((0x1F, 3, 10.0), (0x3F, 2, 10.25), (0x5F, 1, 10.375)):
            pad = explain(bytes([0xA7, 0x00, 0, 0, config]), 0x28)
            self.assertEqual((undefined, value), (pad.undefined, pad.value))

    @given(st.binary(max_size=9), st.sampled_from([None, 0x28, 0x10]))
    def test_any_beginning(self, data: bytes, family: int | None) -> None:
        """A scratchpad may be cut short anywhere."""
        pad = explain(data, family)
        self.assertEqual(len(data), len(byte_words(pad)))
        self.assertEqual(len(data) < 2, pad.raw is None)
        self.assertEqual(len(data) < 4, pad.limits is None)

    def test_families_apart(self) -> None:
        """Without a code the bytes tell family 10 from the others."""
        pads = [bytes.fromhex(text) for text in ("a2004b467fff0c1074", "feff4b46ffff0b10e7")]
        rows = np.frombuffer(b"".join(pads), dtype=np.uint8).reshape(-1, 9).T
        self.assertEqual([False, True], looks_half_degrees(rows).tolist())


class Names(unittest.TestCase):
    """Commands, families and codes in words."""

    @given(st.integers(0, 255), st.integers(0, 2**48 - 1))
    def test_codes(self, family: int, serial: int) -> None:
        """Kernel form, bytes on the wire, CRC."""
        code = make_code(family, serial)
        self.assertEqual(f"{family:02x}-{serial:012x}", code_text(code))
        self.assertEqual(0, crc8_of(code_bytes(code)))
        self.assertEqual(family, code_bytes(code)[0])
