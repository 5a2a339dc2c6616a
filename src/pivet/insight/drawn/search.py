"""Where everything of a search stands: the triplets bit by bit, and the tree of codes so far."""

from collections.abc import Iterator, Mapping

from pivet.insight.drawn.picture import Points
from pivet.insight.drawn.place import Rect
from pivet.judge.onewire.detail import Step, Walk
from pivet.sheets.onewire import ROM_BITS, code_text

NAMES = 190.0
WORDS = 84.0
LINE = 13.0
MOST_LEAF, LEAST_LEAF = 26.0, 3.0
NAMED_LEAF = 11.0
SCALE_HEIGHT = 20.0
FIRST_SLOT = 8
PARTS = ((0, 8, "family"), (8, 56, "serial number"), (56, 64, "CRC"))
LINES = ("bit", "complement", "direction")


class SearchLayout:
    """The places of one pass of a search.

    Args:
        box: where it stands.
        walk: the pass.

    Attributes:
        lines: the codes found so far in its round, this pass last.
        open: the forks of which the other branch is still to be walked.
        parts: of each line, the first bit in which it differs from the line above.
    """

    def __init__(self, box: Rect, walk: Walk) -> None:
        self.box, self._walk = box, walk
        left = box.left + WORDS
        self.pitch = (box.width - WORDS - NAMES) / ROM_BITS
        self.steps = Rect(left, box.top + SCALE_HEIGHT, ROM_BITS * self.pitch, 3 * LINE)
        self.tree_top = self.steps.bottom + 14
        self.lines = list(walk.found)
        if walk.code is None:
            self.lines.append(walked(walk))
        self.parts = [0] + [
            shared_bits(one, other) for one, other in zip(self.lines, self.lines[1:], strict=False)
        ]
        self.open = [
            place for place, step in enumerate(walk.steps) if step.fork and step.direction == 0
        ]
        rows = max(len(self.lines) + (1 if self.open else 0), 1)
        self.leaf = min(max((box.bottom - self.tree_top) / rows, LEAST_LEAF), MOST_LEAF)

    @property
    def named(self) -> bool:
        """Whether there is room for a name beside each line."""
        return self.leaf >= NAMED_LEAF

    def x_of(self, bit: float) -> float:
        """Where a bit stands.

        Args:
            bit: its number in the code, from 0; halves stand in its middle.
        """
        return self.steps.left + bit * self.pitch

    def y_of(self, leaf: int) -> float:
        """Where the line of a code stands.

        Args:
            leaf: its number.
        """
        return self.tree_top + (leaf + 0.5) * self.leaf

    def scale(self) -> Iterator[tuple[Rect, str]]:
        """The parts of a code, and what they are."""
        for first, last, text in PARTS:
            yield Rect(self.x_of(first), self.box.top, (last - first) * self.pitch, 16), text

    def captions(self) -> Iterator[tuple[Rect, str]]:
        """What the three lines of triplets are."""
        for line, text in enumerate(LINES):
            yield Rect(self.box.left, self.steps.top + line * LINE, WORDS - 8, LINE), text

    def light(self, place: int) -> Rect:
        """All of a triplet.

        Args:
            place: its number.
        """
        return Rect(self.x_of(place), self.steps.top - 2, self.pitch, 3 * LINE + 4)

    def squares(self, place: int, step: Step) -> Iterator[tuple[Rect, int, bool]]:
        """The bits of a triplet that came: where, its value, and whether it is the direction.

        Args:
            place: its number.
            step: the triplet.
        """
        size = min(self.pitch - 2, LINE - 4)
        for line, value in enumerate((step.bit, step.complement, step.direction)):
            if value is not None:
                x = self.x_of(place + 0.5) - size / 2
                y = self.steps.top + (line + 0.5) * LINE - size / 2
                yield Rect(x, y, size, size), value, line == 2

    def branches(self) -> Iterator[tuple[Points, bool]]:
        """Each code a line from where it parts from the line above; whether it is this pass."""
        last = len(self.lines) - 1
        for leaf, start in enumerate(self.parts):
            y, own = self.y_of(leaf), leaf == last
            reach = len(self._walk.steps) if own and self._walk.code is None else ROM_BITS
            begin = self.x_of(start + 0.5 * (leaf > 0))
            line: Points = ((begin, y), (self.x_of(reach), y))
            if leaf:
                line = ((begin, self.y_of(line_above(self.parts, leaf))), *line)
            yield line, own

    def own_path(self) -> Iterator[Points]:
        """The way of this pass along the lines above, from the first bit on."""
        leaf = len(self.lines) - 1
        while leaf > 0:
            above = line_above(self.parts, leaf)
            begin = self.x_of(self.parts[above] + (0.5 if above else 0.0))
            y = self.y_of(above)
            yield ((begin, y), (self.x_of(self.parts[leaf] + 0.5), y))
            leaf = above

    def dead_end(self) -> tuple[float, float] | None:
        """Where nobody answered this pass; None when somebody always did."""
        nobody = next((at for at, step in enumerate(self._walk.steps) if step.nobody), None)
        return None if nobody is None else (self.x_of(nobody + 0.5), self.y_of(len(self.lines) - 1))

    def open_ends(self) -> Iterator[Points]:
        """Forks of which the other branch is still to be walked: from the line down to an end."""
        last = len(self.lines) - 1
        for place in self.open:
            x = self.x_of(place + 0.5)
            yield ((x, self.y_of(last)), (x, self.y_of(last + 1)))

    def names(self, known: Mapping[str, str]) -> Iterator[tuple[Rect, str, bool]]:
        """What stands beside the lines, and whether it is this pass; beside many only how many.

        Args:
            known: the person's names of devices, by code.
        """
        left, width = self.x_of(ROM_BITS) + 8, NAMES - 8
        if not self.named:
            yield (
                Rect(left, self.tree_top, width, 18),
                f"{len(self._walk.found)} codes so far",
                False,
            )
            return
        for leaf, code in enumerate(self.lines):
            own = leaf == len(self.lines) - 1
            text = "no code" if own and self._walk.code is None else code_text(code)
            words = f"{leaf} · {known.get(text, '') or text}"
            yield Rect(left, self.y_of(leaf) - 9, width, 18), words, own

    def still_to_walk(self) -> Rect:
        """Where it says so, beside the open ends."""
        return Rect(self.x_of(ROM_BITS) + 8, self.y_of(len(self.lines)) - 9, NAMES - 8, 18)

    def step_at(self, x: float, y: float) -> int | None:
        """The triplet under a point.

        Args:
            x: how far to the right, px.
            y: how far down, px.
        """
        if not self.steps.inside(0, -2, 0, -2).holds(x, y):
            return None
        place = int((x - self.steps.left) // self.pitch)
        return place if 0 <= place < len(self._walk.steps) else None


def step_words(place: int, step: Step) -> str:
    """A triplet in words.

    Args:
        place: its number.
        step: the triplet.
    """
    said = f"search bit {place + 1} · bit {step.bit}, complement {step.complement}"
    if step.nobody:
        return f"{said}: nobody answered"
    if step.fork:
        taken = "and the host stops" if step.direction is None else f"host takes {step.direction}"
        return f"{said}: devices differ, {taken}"
    return f"{said}: all that listen have {step.bit}"


def step_columns(place: int) -> frozenset[int]:
    """Columns of a triplet's lows.

    Args:
        place: its number.
    """
    slot = FIRST_SLOT + 3 * place
    return frozenset({2 * slot, 2 * slot + 2, 2 * slot + 4})


def walked(walk: Walk) -> int:
    """The bits that were walked, as the beginning of a code.

    Args:
        walk: a pass that found no whole code.
    """
    code = 0
    for place, step in enumerate(walk.steps):
        direction = step.direction if step.direction is not None else step.bit
        code |= direction << place
    return code


def shared_bits(one: int, other: int) -> int:
    """How many bits, from the first on the wire, two codes have in common.

    Args:
        one: a code.
        other: another.
    """
    differ = one ^ other
    return (differ & -differ).bit_length() - 1 if differ else ROM_BITS - 1


def line_above(parts: list[int], leaf: int) -> int:
    """The line from which a code's line parts.

    Args:
        parts: of each line, the bit at which it parts from the line above.
        leaf: its number.
    """
    above = leaf - 1
    while above and parts[above] > parts[leaf]:
        above -= 1
    return above
