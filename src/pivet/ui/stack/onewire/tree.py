"""Painting a search: the tree of codes that it walks, and its triplets step by step."""

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QWidget

from pivet.judge.onewire.detail import Step, Walk
from pivet.sheets.onewire import ROM_BITS, code_text
from pivet.ui.drawing.painting import LEFT, RIGHT, draw_text, font_of, with_alpha
from pivet.ui.drawing.theme import theme

NAMES = 190.0
WORDS = 84.0
LINE = 13.0
MOST_LEAF, LEAST_LEAF = 26.0, 3.0
NAMED_LEAF = 11.0
SCALE_HEIGHT = 20.0
FIRST_SLOT = 8


class Tree:
    """Lays out and paints one pass of a search.

    Args:
        box: where it stands.
        walk: the pass.
    """

    def __init__(self, box: QRectF, walk: Walk) -> None:
        self._box, self._walk = box, walk
        self._left = box.left() + WORDS
        self._pitch = (box.width() - WORDS - NAMES) / ROM_BITS
        self._steps = QRectF(self._left, box.top() + SCALE_HEIGHT, ROM_BITS * self._pitch, 3 * LINE)
        self._tree_top = self._steps.bottom() + 14
        self._lines = list(walk.found)
        if walk.code is None:
            self._lines.append(_walked(walk))
        self._open = [
            place for place, step in enumerate(walk.steps) if step.fork and step.direction == 0
        ]
        rows = max(len(self._lines) + (1 if self._open else 0), 1)
        room = box.bottom() - self._tree_top
        self._leaf = min(max(room / rows, LEAST_LEAF), MOST_LEAF)

    def x_of(self, bit: float) -> float:
        """Where a bit stands."""
        return self._left + bit * self._pitch

    def _y_of(self, leaf: int) -> float:
        return self._tree_top + (leaf + 0.5) * self._leaf

    def paint(
        self, painter: QPainter, names: Mapping[str, str], lit: frozenset[int], widget: QWidget
    ) -> None:
        """Scale, triplets, branches, codes."""
        self._paint_scale(painter, widget)
        for place, step in enumerate(self._walk.steps):
            self._paint_step(painter, place, step, lit)
        self._paint_branches(painter)
        self._paint_codes(painter, names, widget)

    def _paint_scale(self, painter: QPainter, widget: QWidget) -> None:
        colours, font = theme(), font_of(widget, 0.8)
        for first, last, text in ((0, 8, "family"), (8, 56, "serial number"), (56, 64, "CRC")):
            box = QRectF(self.x_of(first), self._box.top(), (last - first) * self._pitch, 16)
            painter.setPen(QPen(with_alpha(colours.edge, 200), 1))
            painter.drawLine(
                QPointF(box.left(), box.top() + 2), QPointF(box.left(), self._box.bottom())
            )
            draw_text(painter, box.adjusted(4, 0, 0, 0), text, font, colours.faint)
        for line, text in enumerate(("bit", "complement", "direction")):
            box = QRectF(self._box.left(), self._steps.top() + line * LINE, WORDS - 8, LINE)
            draw_text(painter, box, text, font, colours.faint, RIGHT)

    def _paint_step(self, painter: QPainter, place: int, step: Step, lit: frozenset[int]) -> None:
        """Three squares: filled for 1, open for 0; forks and dead ends stand out."""
        colours = theme()
        slot = FIRST_SLOT + 3 * place
        if lit & {2 * slot, 2 * slot + 2, 2 * slot + 4}:
            light = QRectF(self.x_of(place), self._steps.top() - 2, self._pitch, 3 * LINE + 4)
            painter.fillRect(light, colours.live)
        colour = colours.trace
        if step.fork:
            colour = colours.near
        elif step.nobody:
            colour = colours.unsound
        size = min(self._pitch - 2, LINE - 4)
        for line, value in enumerate((step.bit, step.complement, step.direction)):
            if value is None:
                continue
            x = self.x_of(place + 0.5) - size / 2
            y = self._steps.top() + (line + 0.5) * LINE - size / 2
            box = QRectF(x, y, size, size)
            ink = colours.accent if line == 2 else colour
            if value:
                painter.fillRect(box, ink)
            else:
                painter.setPen(QPen(ink, 1))
                painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))

    def _paint_branches(self, painter: QPainter) -> None:
        """Each code a line from where it parts from the line above; this pass stands out."""
        colours = theme()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        parts = [0] + [
            _shared_bits(one, other)
            for one, other in zip(self._lines, self._lines[1:], strict=False)
        ]
        last = len(self._lines) - 1
        for leaf in range(len(self._lines)):
            own = leaf == last
            painter.setPen(QPen(colours.accent if own else colours.trace, 2.4 if own else 1.3))
            self._paint_branch(painter, leaf, parts)
        self._paint_open(painter, last)
        self._paint_own_path(painter, parts, last)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _paint_branch(self, painter: QPainter, leaf: int, parts: list[int]) -> None:
        start, y = parts[leaf], self._y_of(leaf)
        reach = ROM_BITS
        if leaf == len(self._lines) - 1 and self._walk.code is None:
            reach = len(self._walk.steps)
        painter.drawLine(
            QPointF(self.x_of(start + 0.5 * (leaf > 0)), y), QPointF(self.x_of(reach), y)
        )
        if leaf:
            above = _line_above(parts, leaf)
            x = self.x_of(start + 0.5)
            painter.drawLine(QPointF(x, self._y_of(above)), QPointF(x, y))

    def _paint_own_path(self, painter: QPainter, parts: list[int], last: int) -> None:
        """The way of this pass along the lines above, from the first bit on."""
        painter.setPen(QPen(theme().accent, 2.4))
        leaf = last
        while leaf > 0:
            above = _line_above(parts, leaf)
            from_bit = parts[above] + (0.5 if above else 0.0)
            y = self._y_of(above)
            to_x = self.x_of(parts[leaf] + 0.5)
            painter.drawLine(QPointF(self.x_of(from_bit), y), QPointF(to_x, y))
            leaf = above
        nobody = next((at for at, step in enumerate(self._walk.steps) if step.nobody), None)
        if nobody is not None:
            painter.setPen(QPen(theme().unsound, 2.4))
            x, y = self.x_of(nobody + 0.5), self._y_of(last)
            painter.drawLine(QPointF(x - 5, y - 5), QPointF(x + 5, y + 5))
            painter.drawLine(QPointF(x - 5, y + 5), QPointF(x + 5, y - 5))

    def _paint_open(self, painter: QPainter, last: int) -> None:
        """Forks of which the other branch is still to be walked."""
        pen = QPen(theme().near, 1.4, Qt.PenStyle.DashLine)
        for place in self._open:
            painter.setPen(pen)
            x, top = self.x_of(place + 0.5), self._y_of(last)
            bottom = self._y_of(last + 1)
            painter.drawLine(QPointF(x, top), QPointF(x, bottom))
            painter.setPen(QPen(theme().near, 1.4))
            painter.setBrush(theme().panel)
            painter.drawEllipse(QPointF(x, bottom), 3.5, 3.5)

    def _paint_codes(self, painter: QPainter, names: Mapping[str, str], widget: QWidget) -> None:
        colours = theme()
        if self._leaf < NAMED_LEAF:
            text = f"{len(self._walk.found)} codes so far"
            box = QRectF(self.x_of(ROM_BITS) + 8, self._tree_top, NAMES - 8, 18)
            draw_text(painter, box, text, font_of(widget, 0.9), colours.ink)
            return
        for leaf, code in enumerate(self._lines):
            own = leaf == len(self._lines) - 1
            text = code_text(code)
            if own and self._walk.code is None:
                text = "no code"
            name = names.get(text, "")
            y = self._y_of(leaf)
            box = QRectF(self.x_of(ROM_BITS) + 8, y - 9, NAMES - 8, 18)
            words = f"{leaf} · {name or text}"
            colour = colours.accent if own else colours.ink
            draw_text(painter, box, words, font_of(widget, 0.88, bold=own), colour, LEFT)
        if self._open and self._leaf >= NAMED_LEAF:
            y = self._y_of(len(self._lines))
            box = QRectF(self.x_of(ROM_BITS) + 8, y - 9, NAMES - 8, 18)
            draw_text(painter, box, "still to walk", font_of(widget, 0.85), colours.near)

    def step_at(self, point: QPointF) -> int | None:
        """The triplet under a point."""
        if not self._steps.adjusted(0, -2, 0, 2).contains(point):
            return None
        place = int((point.x() - self._left) // self._pitch)
        return place if 0 <= place < len(self._walk.steps) else None


def step_words(place: int, step: Step) -> str:
    """A triplet in words."""
    said = f"search bit {place + 1} · bit {step.bit}, complement {step.complement}"
    if step.nobody:
        return f"{said}: nobody answered"
    if step.fork:
        taken = "and the host stops" if step.direction is None else f"host takes {step.direction}"
        return f"{said}: devices differ, {taken}"
    return f"{said}: all that listen have {step.bit}"


def step_columns(place: int) -> frozenset[int]:
    """Columns of a triplet's lows."""
    slot = FIRST_SLOT + 3 * place
    return frozenset({2 * slot, 2 * slot + 2, 2 * slot + 4})


def _walked(walk: Walk) -> int:
    """The bits that were walked, as the beginning of a code."""
    code = 0
    for place, step in enumerate(walk.steps):
        direction = step.direction if step.direction is not None else step.bit
        code |= direction << place
    return code


def _shared_bits(one: int, other: int) -> int:
    """How many bits, from the first on the wire, two codes have in common."""
    differ = one ^ other
    return (differ & -differ).bit_length() - 1 if differ else ROM_BITS - 1


def _line_above(parts: list[int], leaf: int) -> int:
    """The line from which a code's line parts."""
    above = leaf - 1
    while above and parts[above] > parts[leaf]:
        above -= 1
    return above
