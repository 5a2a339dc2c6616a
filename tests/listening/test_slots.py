"""1-Wire slots that are asked, and what is read out of the answers; devices by the standard."""

import unittest
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.listening.asking.conversation import Answer, Rest, Talk
from pivet.listening.asking.onewire import Bus, bus_round, search
from pivet.listening.asking.slots import Program, Spoken, spoken, triplets
from pivet.signal.trace import Level
from tests.physics import onewire
from tests.physics.line import pulled_low

PRESENCE, HOLD = (30.0, 120.0), 30.0


def answered(program: Program, bits: list[int], there: bool = True) -> Answer:
    """What is heard when devices answer the reset, and send these bits in the slots for reading."""
    spans, at, left = [], 0.0, iter(bits)
    reads = iter(program.reads)
    for number, (low, high) in enumerate(zip(*[iter(program.steps)] * 2, strict=True)):
        held = float(low)
        if program.resets and number == 0:
            if there:
                spans.append((at + low + PRESENCE[0], at + low + sum(PRESENCE)))
        elif next(reads) and there and not next(left):
            held = max(held, HOLD)
        spans.append((at, at + held))
        at += low + high
    edges = np.round(1000 * pulled_low(np.array(spans))).astype(np.int64)
    return Answer(0, round(at * 1000), round(at * 1000), {"q": edges}, {"q": Level.HIGH})


class Slots(unittest.TestCase):
    """What is asked, and read back."""

    @given(st.booleans(), st.lists(st.tuples(st.booleans(), st.integers(0, 1)), min_size=1))
    def test_bits_come_back(self, resets: bool, slots: list[tuple[bool, int]]) -> None:
        """Whatever is written and read by turns."""
        program = Program().reset() if resets else Program()
        for reads, bit in slots:
            program = program.read(1) if reads else program.bits([bit])
        bits = [bit for reads, bit in slots if reads]
        found = spoken(program, answered(program, bits), "q")
        self.assertEqual(Spoken(True, tuple(bits), True), found)
        self.assertEqual(sum(bit << at for at, bit in enumerate(bits)), found.value)

    def test_nobody_there(self) -> None:
        """No presence, and all bits read as ones; a line at rest says where it rests."""
        program = Program().reset().data(b"\x33").read(8)
        answer = answered(program, [], there=False)
        self.assertEqual(Spoken(False, (1,) * 8, True), spoken(program, answer, "q"))
        for level in Level:
            still = Answer(0, 1, 2, {"q": np.empty(0, dtype=np.int64)}, {"q": level})
            self.assertEqual(Spoken(False, (), False, level), spoken(program, still, "q"))

    def test_presence(self) -> None:
        """Soon enough behind the reset, and long enough: to the nanosecond."""
        for wait, low, there in (
            (199_999, 30_000, True),
            (200_000, 120_000, False),
            (30_000, 29_999, False),
        ):
            edges = np.cumsum([10, 500_000, wait, low])
            answer = Answer(0, 1, 2, {"q": edges}, {"q": Level.HIGH})
            found = spoken(Program().reset(), answer, "q")
            self.assertEqual((there, there), (found.present, found.fits), (wait, low))

    def test_what_does_not_fit(self) -> None:
        """Another number of slots, lost edges, an ask that was refused: no bits."""
        program = Program().reset().read(3)
        answer = answered(program, [0, 1, 0])
        edges = answer.edges["q"]
        for other in (
            (Answer(0, 1, 2, {"q": edges[:-2]}, answer.levels), True, None),
            (Answer(0, 1, 2, answer.edges, answer.levels, broken=True), True, None),
            (Answer(0, 1, 2, answer.edges, answer.levels, refused="busy"), False, Level.HIGH),
        ):
            heard, present, stuck = other
            self.assertEqual(Spoken(present, (), False, stuck), spoken(program, heard, "q"))

    def test_as_the_sheet_has_them(self) -> None:
        """Steps of each kind, µs; of a search two bits are read and the way is written."""
        self.assertEqual((510, 500), Program().reset().steps)
        one, zero = (6, 64), (65, 5)
        self.assertEqual((*one, *zero, *one), Program().bits([1, 0, 1]).steps)
        self.assertEqual((*one, *one, *zero * 6), Program().data(b"\x03").steps)
        walk = triplets([1, 0])
        self.assertEqual((*one * 2, *one, *one * 2, *zero), walk.steps)
        self.assertEqual((True, True, False) * 2, walk.reads)
        self.assertFalse(walk.resets)
        self.assertEqual(walk, triplets([1]).then(triplets([0])))


class Searches(unittest.TestCase):
    """Which codes are on a line."""

    def found(self, code: int) -> list[int] | None:
        """What a search finds where one device alone answers."""
        sent: list[int] = []

        def begin(_line: str, program: Program, _attempt: int = 1) -> Talk[Spoken]:
            yield from ()
            if program.resets:
                sent[:] = [bit for at in range(65) for bit in (code >> at & 1, ~code >> at & 1)]
            count = sum(program.reads)
            bits, sent[:count] = tuple(sent[:count]), ()
            return Spoken(True, bits, True)

        with mock.patch("pivet.listening.asking.onewire.begin", begin):
            talk = search("q")
            try:
                next(talk)
            except StopIteration as end:
                return end.value  # type: ignore[no-any-return]
        raise AssertionError("nothing is waited for")

    def test_checked(self) -> None:
        """A code whose sum is wrong is none, nor is one of zeros, whose sum holds."""
        code = int.from_bytes(ROMS[0], "little")
        for one, found in ((code, [code]), (code ^ 1 << 60, None), (0, None)):
            self.assertEqual(found, self.found(one))


ROMS = [onewire.code(family, 7) for family in (0x28, 0x10, 0x22)]


class Rounds(unittest.TestCase):
    """All convert, each is read."""

    def round(self, bus: Bus, pads: dict[int, bytes | None]) -> float:
        """A round in which each device sends such a pad, or nothing; how long was waited, s."""

        def begin(_line: str, program: Program, _attempt: int = 1) -> Talk[Spoken]:
            yield from ()
            said = program.steps[2:]
            bits = [int(low < 30) for low in said[:144:2]]
            sent = sum(bit << at for at, bit in enumerate(bits[8:72]))
            pad = pads.get(sent) if any(program.reads) else None
            sends = np.unpackbits(pad_of(pad), bitorder="little")
            return Spoken(True, tuple(sends.tolist()), True)

        def pad_of(pad: bytes | None) -> np.ndarray:
            return np.frombuffer(pad or b"\xff" * 9, dtype=np.uint8)

        with mock.patch("pivet.listening.asking.onewire.begin", begin):
            talk = bus_round("q", bus, 1)
            rest = next(talk)
            assert isinstance(rest, Rest)
            self.assertEqual([], list(talk), "nothing else is waited for")
            return rest.seconds

    def test_resolution(self) -> None:
        """The finest of those that were read says how long the next conversion takes."""
        codes = [int.from_bytes(rom, "little") for rom in ROMS]
        bus = Bus(list(codes), rounds=1)
        for bits, other, took, resolution in (
            (9, None, 0.75, 9),
            (10, None, 0.09375, 10),
            (11, 12, 0.1875, 12),
            (9, None, 0.75, 9),
        ):
            first = onewire.pad_28(21.5, bits)
            last = None if other is None else onewire.pad_28(21.5, other)
            seconds = self.round(bus, {codes[0]: first, codes[2]: last})
            self.assertAlmostEqual(1.01 * took, seconds)
            self.assertEqual(resolution, bus.resolution)
            self.assertEqual({codes[1], *([] if other else [codes[2]])}, bus.silent)
        # Where nobody answers it stays.
        self.round(bus, {})
        self.assertEqual(9, bus.resolution)
        # Those of family 10 always take as long as the finest.
        self.round(bus, dict(zip(codes, (first, onewire.pad_10(21.5), first), strict=True)))
        self.assertEqual((12, set(), 7), (bus.resolution, bus.silent, bus.rounds))
