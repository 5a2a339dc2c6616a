"""How the stack of each family is painted, stroke by stroke, as it was looked at."""

import sys
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from typing import Any
from unittest import mock
from zlib import crc32

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF
from PySide6.QtGui import QFont, QPaintEngine

from pivet.bench.demo import DEMO_ROLES
from pivet.judge.verdict import Verdict
from pivet.ui.stack import view as view_module
from tests.pages import Page, one_of_each
from tests.ui.base import WindowTest
from tests.ui.test_painted import LETTER_PX, Recorder, said

PAGE = Page(__file__)
MOST = 8
"""So many lines or boxes of one call are told one by one; of more there is a sum."""


FIRST = 3
"""So many strokes of a kind are written out."""


class Widths:
    """A font in which every letter is as wide, and every line as high."""

    def __init__(self, *_font: object) -> None:
        pass

    def horizontalAdvance(self, text: str) -> float:
        """So wide is a text."""
        return float(LETTER_PX * len(text))

    def height(self) -> float:
        """So high is a line."""
        return 14.0


class Engine:
    """Of a printer: nothing is kept as a picture."""

    def type(self) -> QPaintEngine.Type:
        """Its kind."""
        return QPaintEngine.Type.Pdf


class StackRecorder(Recorder):
    """A painter that notes what it is asked for, many lines as a sum."""

    def paintEngine(self) -> Engine:
        """What it paints on."""
        return Engine()

    def drawLines(self, lines: list[QLineF]) -> None:
        """Lines of one kind."""
        self._many("lines", [(row.x1(), row.y1(), row.x2(), row.y2()) for row in lines])

    def drawRects(self, boxes: list[QRectF]) -> None:
        """Boxes of one kind."""
        self._many("boxes", [row.getRect() for row in boxes])

    def drawPolyline(self, points: list[QPointF]) -> None:
        """A line from point to point."""
        self._many("along", [row.toTuple() for row in points])

    def _many(self, kind: str, rows: list[Any]) -> None:
        numbers = np.array(rows, dtype=float)
        if len(rows) <= MOST:
            text = " ".join(",".join(f"{value:.1f}" for value in row) for row in rows)
        else:
            weights = np.arange(numbers.size).reshape(numbers.shape) % 97 + 1
            text = f"sum {(numbers * weights).sum():.0f}"
        self.rows.append(f"  {kind} {len(rows)}: {text}")


def _text(painter: Any, box: QRectF, word: str, font: QFont, *rest: Any) -> float:
    colour, *align = rest
    side = "".join(f" {int(row)}" for row in align)
    painter.rows.append(f"  text {said(box)} {word} {said(font)} {said(colour)}{side}")
    return float(LETTER_PX * len(word))


def _signs(painter: Any, signs: Any, which: list[int], tops: list[QPointF], colour: Any) -> None:
    for number, top in zip(which, tops, strict=True):
        painter.rows.append(f"  digit {signs.text[number]} {said(top)} {signs.font} {said(colour)}")


def _mark(painter: Any, verdict: Verdict, centre: QPointF, size: float) -> None:
    painter.rows.append(f"  mark {verdict.word} {said(centre)} {size}")


@contextmanager
def recording() -> Iterator[None]:
    """Whatever the stack paints is noted, with fonts that are the same on every machine."""
    others = {
        "draw_text": _text,
        "draw_mark": _mark,
        "QFontMetricsF": Widths,
        "draw_panel": lambda *_: None,
        "draw_signs": _signs,
        "signs_of": lambda text, font: mock.Mock(width=7.0, text=text, font=said(font)),
    }
    modules = [row for name, row in list(sys.modules.items()) if name.startswith("pivet.ui.stack")]
    with ExitStack() as stack:
        stack.enter_context(mock.patch.object(view_module, "QPainter", StackRecorder))
        for module in modules:
            for name in others.keys() & vars(module).keys():
                stack.enter_context(mock.patch.object(module, name, others[name]))
        yield


def digest(rows: list[str]) -> Iterator[str]:
    """Of each kind of stroke the first ones, how many, and the sum over all."""
    yield f"  in this order {crc32(chr(10).join(rows).encode()):08x}"
    kinds: dict[str, list[str]] = {}
    for row in rows:
        kinds.setdefault(row.split()[0], []).append(row)
    for kind, own in kinds.items():
        yield from own[:FIRST]
        if len(own) > FIRST:
            yield f"  {kind} x {len(own)} {crc32(chr(10).join(own).encode()):08x}"


class Stacked(WindowTest):
    """Against the page."""

    def lines(self) -> Iterator[str]:
        """The page: of each wire each cause, once with a pulse lit."""
        self.session.put_roles(DEMO_ROLES)
        self.show_demo()
        stack = self.page.stack
        for number, wire in enumerate(self.session.captures[0].wires):
            self.session.choose_wire((0, number))
            for at in one_of_each(wire):
                self.session.choose_exchange(at)
                report = self.session.report
                assert report is not None
                for lit in (frozenset(), frozenset(row.column for row in report.pulses[5:8])):
                    self.session.choose_pulses(lit)
                    self.settle()
                    # In a size of its own: places are kept, and those on screen have real fonts.
                    before = stack.size()
                    stack.resize(900, 560)
                    yield f"# {wire.label}, {at}, {len(lit)} lit"
                    StackRecorder.rows = Recorder.rows = []
                    with recording():
                        stack.paintEvent(None)  # type: ignore[arg-type]
                    stack.resize(before)
                    yield from digest(Recorder.rows)

    def test_stroke_by_stroke(self) -> None:
        PAGE.same(self, self.lines())
