"""Asks of a 1-Wire host: resets and slots as steps, and the bits read out of the answer."""

from collections.abc import Iterable, Sequence

import numpy as np

from pivet.decode.onewire import layout
from pivet.decode.pairs import Pairs
from pivet.frozen import FrozenValue
from pivet.listening.asking.conversation import Answer, Say
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level
from pivet.sources.ask import Ask

RESET_SHARE = 1.02
"""A host pulls a little longer than it must."""


def _typical() -> dict[str, int]:
    windows = find_sheet("onewire").windows
    keys = ("reset", "phase", "slot", "one", "zero", "recovery")
    return {key: round(windows[key].typ_us) for key in keys}


class Program(FrozenValue):
    """Steps of one ask, and what each slot of it is.

    Attributes:
        steps: low, high, low, high ..., µs.
        resets: it begins with a reset.
        reads: for each slot, whether the device's bit is read.
    """

    steps: tuple[int, ...] = ()
    resets: bool = False
    reads: tuple[bool, ...] = ()

    def reset(self) -> "Program":
        """Then a reset; only at the beginning."""
        typ = _typical()
        low = round(typ["reset"] * RESET_SHARE)
        return Program((*self.steps, low, typ["phase"]), True, self.reads)

    def bits(self, bits: Iterable[int]) -> "Program":
        """Then bits that the host writes.

        Args:
            bits: 0 or 1 each, in order.
        """
        typ = _typical()
        steps: list[int] = []
        count = 0
        for bit in bits:
            low = typ["one"] if bit else typ["zero"]
            steps += (low, max(typ["slot"] - low, typ["recovery"]))
            count += 1
        return Program((*self.steps, *steps), self.resets, self.reads + (False,) * count)

    def data(self, data: bytes) -> "Program":
        """Then bytes that the host writes, least significant bit first.

        Args:
            data: what the host writes.
        """
        return self.bits(byte >> place & 1 for byte in data for place in range(8))

    def read(self, count: int) -> "Program":
        """Then slots in which devices send.

        Args:
            count: how many.
        """
        typ = _typical()
        steps = (typ["one"], typ["slot"] - typ["one"]) * count
        return Program((*self.steps, *steps), self.resets, self.reads + (True,) * count)

    def then(self, other: "Program") -> "Program":
        """Then another program without a reset.

        Args:
            other: what follows it.
        """
        return Program(self.steps + other.steps, self.resets, self.reads + other.reads)

    def say(self, line: str, attempt: int = 1) -> Say:
        """As an ask of a line.

        Args:
            line: its name at the source.
            attempt: 1 for the first.
        """
        return Say(Ask(line, self.steps), (line,), attempt=attempt)


class Spoken(FrozenValue):
    """What came of a program.

    Attributes:
        present: somebody answered the reset; True where there was none.
        bits: those read, in order; empty when the answer does not fit the program.
        fits: there are as many slots as the program has.
        stuck: the line stayed at a level.
    """

    present: bool
    bits: tuple[int, ...]
    fits: bool
    stuck: Level | None = None

    @property
    def value(self) -> int:
        """The bits as a number, the first lowest."""
        return sum(bit << place for place, bit in enumerate(self.bits))


def spoken(program: Program, answer: Answer, line: str) -> Spoken:
    """Reads the bits out of an answer.

    Args:
        program: what was said.
        answer: what was heard.
        line: its name.
    """
    edges = answer.edges[line]
    if not edges.size or answer.refused:
        return Spoken(False, (), False, answer.levels[line])
    lows = Pairs(Level.LOW, answer.levels[line], answer.begin_ns).feed(edges)
    starts, widths, ends = lows.start_ns, lows.width_ns, lows.end_ns
    ahead = int(program.resets)
    present = True
    if program.resets:
        present = lows.size > 1 and bool(
            starts[1] - ends[0] < layout.PRESENCE_LATEST_NS
            and widths[1] >= layout.PRESENCE_LEAST_NS
        )
        ahead += int(present)
    if lows.size - ahead != len(program.reads) or answer.broken:
        return Spoken(present, (), False)
    read = widths[ahead:][np.array(program.reads, dtype=bool)] < layout.READ_SPLIT_NS
    return Spoken(present, tuple(int(bit) for bit in read), True)


def triplets(path: Sequence[int]) -> Program:
    """Search slots along a known path: bit and complement are read, the direction written.

    Args:
        path: the directions, 0 or 1 each.
    """
    program = Program()
    for direction in path:
        program = program.read(2).bits((direction,))
    return program
