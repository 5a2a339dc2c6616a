"""The 1-Wire decoder: resets, presence, speakers, speeds, searches; any chunking the same."""

import unittest
from itertools import product
from typing import Any
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from pivet.decode.checks import CRC_TABLE, crc8, crc8_of
from pivet.decode.onewire import DecodeMark, OneWireExchanges, Speaker, layout
from pivet.decode.onewire.columns import KINDS
from pivet.families import FAMILIES
from pivet.sheets.onewire import Function, Rom, code_bytes, code_text
from pivet.signal.trace import Level
from pivet.standin.onewire import Host, Thermometer, make_code
from tests.base import PivetTest, feed_in_pieces
from tests.decode import slots
from tests.decode.slots import FAST_RESET, RESET, RESET_ALONE, edges_of, read, written

CODE = make_code(0x28, 0x51B2C7D)
ROM = code_bytes(CODE)


def decode(
    edges: np.ndarray, end_ns: int | None = None, cuts: tuple[int, ...] = (), **options: Any
) -> OneWireExchanges:
    """Decodes edges of a line, cut into pieces."""
    end = (int(edges[-1]) if edges.size else 0) + 10**9 if end_ns is None else end_ns
    return feed_in_pieces(FAMILIES["one-wire"], (edges,), end, cuts, **options)


def bits_of(found: OneWireExchanges, index: int) -> bytes:
    """A transaction's bits as bytes."""
    return np.packbits(found.bit[found.slots_of(index)], bitorder="little").tobytes()


class Crc(unittest.TestCase):
    """The check of codes and scratchpads."""

    def test_worked(self) -> None:
        """The figures of the domain page."""
        self.assertEqual(0xA2, crc8_of(bytes.fromhex("021cb801000000")))
        self.assertEqual(0, crc8_of(bytes(9)))
        self.assertNotEqual(0, crc8_of(b"\xff" * 9))
        self.assertEqual(256, len(set(CRC_TABLE.tolist())))

    @given(st.binary(min_size=1, max_size=20), st.integers(0, 159))
    def test_own_crc_gives_zero_and_a_flipped_bit_does_not(self, data: bytes, at: int) -> None:
        """Bytes followed by their CRC give 0; one wrong bit is always noticed."""
        whole = bytearray([*data, crc8_of(data)])
        self.assertEqual(0, crc8_of(bytes(whole)))
        at %= 8 * len(whole)
        whole[at // 8] ^= 1 << at % 8
        self.assertNotEqual(0, crc8_of(bytes(whole)))

    def test_columns(self) -> None:
        """Many at once are as many single ones."""
        data = np.random.default_rng(1).integers(0, 256, (9, 50), dtype=np.uint8)
        single = [crc8_of(data[:, at].tobytes()) for at in range(50)]
        self.assertEqual(single, crc8(data).tolist())


class Commands(PivetTest):
    """What a transaction holds, and who speaks."""

    def test_read_scratchpad_by_match(self) -> None:
        """Command, code, function, data; the host speaks up to the data."""
        pad = bytes.fromhex("a2004b467fff0c1074")
        found = decode(edges_of(RESET + written(b"\x55" + ROM + b"\xbe") + read(pad)))
        self.assertEqual((1, Rom.MATCH, Function.READ_SCRATCHPAD), self.of(found))
        self.assertEqual("28-0000051b2c7d", code_text(int(found.rom[0])))
        self.assertEqual(b"\x55" + ROM + b"\xbe" + pad, bits_of(found, 0))
        self.assertEqual([0] * 80 + [1] * 72, found.speaker.tolist())
        self.assertEqual((500_000, 30_000, 120_000), self.head(found))

    def of(self, found: OneWireExchanges) -> tuple[int, int, int]:
        """Number of transactions, and the commands of the first."""
        return len(found), int(found.command[0]), int(found.function[0])

    def head(self, found: OneWireExchanges) -> tuple[int, int, int]:
        """Reset, wait and presence of the first."""
        return int(found.reset_ns[0]), int(found.wait_ns[0]), int(found.presence_ns[0])

    def test_every_rom_command(self) -> None:
        """Where the function begins behind each, and whose bits the code is."""
        code = Speaker.DEVICE
        cases = {
            Rom.SKIP: ([], Speaker.HOST),
            Rom.RESUME: ([], Speaker.HOST),
            Rom.MATCH: (written(ROM), Speaker.HOST),
            Rom.READ: (read(ROM), code),
        }
        for command, (middle, speaker) in cases.items():
            with self.subTest(command):
                lows = RESET + written(bytes([command])) + middle + written(b"\x44")
                found = decode(edges_of(lows))
                self.assertEqual((1, command, Function.CONVERT), self.of(found))
                if middle:
                    self.assertEqual({int(speaker)}, set(found.speaker[8:72].tolist()))
                    self.assertEqual(CODE, int(found.rom[0]))

    def test_unknown_command(self) -> None:
        """Nothing is known of what follows, but its zeros tell who holds them."""
        lows = RESET + written(b"\x11") + written(b"\x0f") + read(b"\xf0") + read(b"\xff")
        found = decode(edges_of(lows))
        self.assertEqual((1, 0x11, -1), self.of(found))
        told = [int(found.speaker[at]) for at in (0, 8, 16, 24)]
        self.assertEqual([0, 0, 1, 1], told)
        # Of two zeros one is as short as a device's: half of them are enough for a host.
        mixed = written(b"\xfe")[:1] + read(b"\xfe")[:1] + written(b"\xff")[:6]
        found = decode(edges_of(RESET + written(b"\x11") + mixed))
        self.assertEqual(0, int(found.speaker[8]))

    def test_other_family(self) -> None:
        """BE to a counter is its own affair: told by the zeros."""
        rom = code_bytes(make_code(0x1D, 7))
        lows = RESET + written(b"\x55" + rom + b"\xbe") + written(b"\x00") + read(b"\x12")
        found = decode(edges_of(lows))
        self.assertEqual([0, 1], [int(found.speaker[at]) for at in (80, 88)])

    def test_no_presence_and_lone_resets(self) -> None:
        """A reset that nobody answers is a transaction too."""
        found = decode(edges_of(RESET_ALONE + RESET_ALONE + written(b"\xcc")))
        self.assertEqual((2, [-1, -1]), (len(found), found.presence_ns.tolist()))
        self.assertEqual([-1, Rom.SKIP], found.command.tolist())

    def test_before_the_first_reset(self) -> None:
        """Slots without a beginning are left over, not guessed at."""
        found = decode(edges_of(written(b"\x44\x44") + RESET + written(b"\xcc")))
        self.assertEqual((1, [32]), (len(found), found.stray_edges.tolist()))

    def test_starts_low(self) -> None:
        """A capture that begins inside the reset says so."""
        edges = edges_of(RESET + written(b"\xcc"), 0.0)[1:]
        found = decode(edges, initial=Level.LOW)
        self.assertEqual((1, DecodeMark.RESET_CLIPPED), (len(found), int(found.marks[0])))

    def test_slow_rise_still_reads(self) -> None:
        """A written 1 of 20 µs is still a 1 to the device, a read one no more to the host."""
        lows = RESET + written(b"\xcc\xbe", one=20.0) + read(b"\xff", one=20.0)
        found = decode(edges_of(lows))
        self.assertEqual(bytes.fromhex("ccbe00"), bits_of(found, 0))

    def test_spikes_go(self) -> None:
        """A notch of 300 ns is taken out and counted."""
        edges = edges_of(RESET + written(b"\xcc\x44"))
        at = int(edges[10]) + 20_000
        noisy = np.sort(np.concatenate((edges, [at, at + 300])))
        found = decode(noisy)
        self.assertEqual((b"\xcc\x44", 1), (bits_of(found, 0), found.spike_start_ns.size))


class TooManySlots(PivetTest):
    """More slots than a transaction can have: they are counted as nobody's, and it says so."""

    def test_at_the_limit(self) -> None:
        """As many as can be are whole; what is beyond belongs to nobody, wherever it is cut."""
        bits = written(bytes(12))
        for first, second in ((95, 96), (96, 96), (97, 96), (96, 97), (99, 98)):
            edges = edges_of([*RESET, *(bits * 2)[:first], *RESET, *(bits * 2)[:second]])
            with mock.patch.object(layout, "MOST_SLOTS", 96):
                for cuts in ((), (120,), (150, 300)):
                    found = decode(edges, cuts=cuts)
                    beyond = [max(number - 96, 0) for number in (first, second)]
                    self.assertEqual(
                        [bool(number) for number in beyond],
                        ((found.marks & DecodeMark.CUT) != 0).tolist(),
                    )
                    self.assertEqual(2 * sum(beyond), int(found.stray_edges.sum()))
                    self.assertTrue((found.slot_count <= 96).all())


class Overdrive(PivetTest):
    """Speed is recognised, and followed through the commands that turn to it."""

    def test_skip_turns_and_stays(self) -> None:
        """Overdrive skip, then fast transactions, until a standard reset."""
        lows = RESET + written(b"\x3c") + slots.fast(b"\x44")
        lows += FAST_RESET + slots.fast(b"\xcc\xbe") + FAST_RESET
        lows += slots.fast(b"\xcc\x44") + RESET + written(b"\xcc\x44")
        found = decode(edges_of(lows))
        self.assertEqual([False, True, True, False], found.fast.tolist())
        self.assertEqual([True, False, False, False], found.turns_fast.tolist())
        self.assertEqual([0x3C, 0xCC, 0xCC, 0xCC], found.command.tolist())
        self.assertEqual([0x44, 0xBE, 0x44, 0x44], found.function.tolist())
        self.assertTrue((found.presence_ns > 0).all())

    def test_match_turns(self) -> None:
        """The code behind overdrive match is fast already."""
        lows = RESET + written(b"\x69") + slots.fast(ROM + b"\x44")
        found = decode(edges_of(lows))
        self.assertEqual((CODE, 0x44), (int(found.rom[0]), int(found.function[0])))

    def test_capture_of_overdrive_only(self) -> None:
        """Recognised without having seen the turn."""
        lows = 3 * (FAST_RESET + slots.fast(b"\xcc\x44"))
        found = decode(edges_of(lows))
        self.assertEqual([True] * 3, found.fast.tolist())
        self.assertEqual([0x44] * 3, found.function.tolist())

    def test_capture_of_overdrive_where_some_do_not_answer(self) -> None:
        """Of half the resets presence and a command tell the speed, wherever the others stand."""
        asked, alone = FAST_RESET + slots.fast(b"\xcc\x44"), [(60.0, 48.0)]
        long = [(36.0, 3.0), *slots.fast(b"\xff\xff")]
        for lows, resets in (
            (alone + 2 * asked, 3),
            (asked + alone + asked, 3),
            (2 * asked + alone + slots.fast(b"\xcc\xbe"), 3),
            (asked + alone, 2),
            (alone + asked, 2),
            (2 * alone + asked, 0),
            (asked + 2 * alone + slots.fast(b"\xcc"), 0),
            (alone + asked + alone, 3),
            (alone + asked + FAST_RESET + slots.fast(b"\x00\x44"), 0),
            (alone + asked + FAST_RESET + slots.fast(b"\x55")[:7], 3),
            (FAST_RESET + slots.fast(b"\x55"), 1),
            (alone + 2 * asked + FAST_RESET + slots.fast(b"\x00")[:4] + long, 5),
            (2 * (FAST_RESET + written(b"\xcc\x44", 4.0, 8.0, 11.0)), 0),
        ):
            found = decode(edges_of(lows))
            self.assertEqual([True] * resets, found.fast.tolist(), lows[:3])

    def test_standard_speed_without_its_reset(self) -> None:
        """Zeros of 60 µs with short ones behind them, seen from any low on, begin no overdrive."""
        pad = b"\x50\x05\x4b\x46\x7f\xff\x0c\x10\x1c"
        for one, said in product((1.5, 3.0, 5.0, 9.0, 14.0), (pad, b"\xff" * 9, bytes(9))):
            lows = written(b"\x55" + ROM + b"\xbe" + said, one, 60.0, 61.5)
            for start in range(0, len(lows), 3):
                found = decode(edges_of(lows[start:] + RESET + written(b"\xcc", one)))
                self.assertEqual([False], found.fast.tolist(), (one, said, start))

    def test_standard_zeros_are_no_fast_resets(self) -> None:
        """Without the turn, lows of 65 µs are zeros."""
        found = decode(edges_of(RESET + written(b"\xcc\x44\x00\x00")))
        self.assertEqual(1, len(found))


class Searches(PivetTest):
    """Triplets, forks, dead ends."""

    def test_forks_and_directions(self) -> None:
        """00 is a fork, 11 a dead end; triplets that did not come whole are none."""
        triplets = [(0, 0, 1), (0, 1, 0), (1, 0, 1), (1, 1)]
        lows = RESET + written(b"\xf0")
        for step in triplets:
            for place, bit in enumerate(step):
                low = (65.0 if place == 2 else 30.0) if not bit else 5.0
                lows = [*lows, (low, 72.0 - low)]
        found = decode(edges_of(lows))
        self.assertEqual((3, 1, 3), (found.steps[0], found.forks[0], found.nobody_at[0]))
        self.assertEqual(0b101, int(found.rom[0]))
        self.assertFalse(found.has_rom[0])
        told = found.speaker[8:].tolist()
        self.assertEqual([1, 1, 0] * 3 + [1, 1], told)
        stopped = decode(edges_of(RESET + written(b"\xf0") + 2 * [(30.0, 42.0)]))
        self.assertEqual((0, 1), (stopped.steps[0], stopped.forks[0]))

    @settings(max_examples=12)
    @given(st.sets(st.integers(0, 2**48 - 1), min_size=1, max_size=64), st.data())
    def test_any_set_of_codes(self, serials: set[int], data: st.DataObject) -> None:
        """The stand-in's search is decoded to just the codes that were put in, in order."""
        families = st.sampled_from([0x28, 0x22, 0x10, 0x3B, 0x42, 0x1D])
        codes = {make_code(data.draw(families), serial) for serial in serials}
        devices = [Thermometer(code, lambda _: 12.0) for code in codes]
        host = Host(devices)
        host.search()
        found = decode(host.line("dq").edges_ns)
        ordered = sorted(codes, key=lambda code: f"{code:064b}"[::-1])
        self.assertEqual(ordered, found.rom.tolist())
        self.assertTrue(found.has_rom.all())


class Pieces(PivetTest):
    """Any way of cutting gives the same; nothing raises."""

    def same(self, one: OneWireExchanges, other: OneWireExchanges) -> None:
        """Every column of both is the same."""
        for name in KINDS:
            np.testing.assert_array_equal(getattr(one, name), getattr(other, name), err_msg=name)

    @settings(max_examples=40)
    @given(slots.slot_trains(), st.data(), st.sampled_from(Level))
    def test_any_edges(self, edges: np.ndarray, data: st.DataObject, initial: Level) -> None:
        """Arbitrary edges in arbitrary pieces."""
        cuts = tuple(data.draw(st.lists(st.integers(0, edges.size), max_size=6)))
        end = (int(edges[-1]) if edges.size else 0) + data.draw(st.integers(0, 3 * 10**6))
        self.same(decode(edges, end, initial=initial), decode(edges, end, cuts, initial=initial))

    def test_cut_everywhere(self) -> None:
        """Edge by edge, and in even pieces, at both speeds."""
        edges = _session()
        whole = decode(edges)
        self.assertIn(True, whole.fast.tolist())
        for stride in (1, 7, 50):
            self.same(whole, decode(edges, None, tuple(range(0, edges.size, stride))))

    @given(slots.slot_trains(), st.data(), st.booleans())
    def test_long_runs(self, edges: np.ndarray, data: st.DataObject, reset: bool) -> None:
        """Runs longer than a transaction may be, and long heads, in pieces."""
        if reset:
            edges = np.concatenate(([0, 500_000], edges + 600_000))
        cuts = tuple(data.draw(st.lists(st.integers(0, edges.size), max_size=6)))
        with mock.patch.multiple(layout, MOST_SLOTS=12, HEAD_LOWS=9):
            self.same(decode(edges), decode(edges, None, cuts))


def _session() -> np.ndarray:
    if not _made:
        codes = [make_code(0x28, 7), make_code(0x10, 99)]
        host = Host([Thermometer(code, lambda t: 10 + t) for code in codes])
        host.search()
        host.skip()
        host.convert(polled=True)
        host.match(codes[1])
        host.read_scratchpad()
        host.skip(fast=True)
        host.convert(wait_s=0.01)
        host.match(codes[0], fast=True)
        host.read_scratchpad(5)
        host.slow_down()
        host.read_rom()
        _made.append(host.line("dq").edges_ns)
    return _made[0]


_made: list[np.ndarray] = []
