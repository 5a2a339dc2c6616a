"""1-Wire slots that are asked, and what is read out of the answers; devices by the standard."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.listening.asking.conversation import Answer
from pivet.listening.asking.slots import Program, Spoken, spoken, triplets
from pivet.signal.trace import Level
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
