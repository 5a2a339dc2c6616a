"""How the views of many exchanges are painted, stroke by stroke, as it was looked at."""

from collections.abc import Callable, Iterator
from contextlib import ExitStack
from typing import Any, ClassVar
from unittest import mock

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPainterPath, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from pivet.insight.drawn.lanes import lanes_of
from pivet.insight.drawn.picture import Box, Cross, Kind, Picture, Stroke, Words
from pivet.insight.grid import Grid
from pivet.insight.margins import margins_of
from pivet.ui.drawing.theme import ThemeChoice, apply_theme
from pivet.ui.many import lanes, picture, shapes
from pivet.ui.rehearsal import handle
from pivet.ui.rehearsal import map as map_module
from tests.insight.signals import cave_frames, humidity_wire, widths_of
from tests.pages import Page
from tests.physics.humidity import AM
from tests.ui.base import WindowTest

PAGE = Page(__file__)
LETTER_PX = 6


def said(value: object) -> str:
    """An argument as text, so that it is the same on every machine."""
    if isinstance(value, QPointF):
        return f"{value.x():.1f},{value.y():.1f}"
    if isinstance(value, QRectF):
        return f"[{value.x():.1f},{value.y():.1f} {value.width():.1f} x {value.height():.1f}]"
    if isinstance(value, QColor):
        return f"{value.name()}/{value.alpha()}"
    if isinstance(value, QPen):
        return f"pen {value.color().name()} {value.widthF():.1f} {value.style().name}"
    if isinstance(value, QPolygonF):
        return " ".join(said(point) for point in value.toList())[:300]
    if isinstance(value, QPainterPath):
        return said(value.boundingRect())
    if isinstance(value, QImage):
        spots = [(x, y) for y in range(0, value.height(), 13) for x in range(0, value.width(), 13)]
        return " ".join(value.pixelColor(x, y).name() for x, y in spots)
    if isinstance(value, QFont):
        return f"font{' bold' * value.bold()}"
    return f"{value:.2f}" if isinstance(value, float) else str(value)


class Recorder:
    """A painter that notes what it is asked for."""

    RenderHint = QPainter.RenderHint
    rows: ClassVar[list[str]] = []

    def __init__(self, _widget: QWidget | None = None) -> None:
        pass

    def fontMetrics(self) -> "Recorder":
        """Letters of one width."""
        return self

    def horizontalAdvance(self, text: str) -> float:
        """So wide is a text."""
        return float(LETTER_PX * len(text))

    def __getattr__(self, name: str) -> Callable[..., None]:
        def note(*values: Any) -> None:
            self.rows.append(f"  {name} {' | '.join(said(value) for value in values)}")

        return note


def painted(widget: QWidget) -> Iterator[str]:
    """What a widget asks of its painter."""
    Recorder.rows = []
    with ExitStack() as stack:
        for module in (lanes, picture, handle, map_module):
            stack.enter_context(mock.patch.object(module, "QPainter", Recorder))
            stack.enter_context(mock.patch.object(module, "draw_panel", lambda *_: None))
        width = lambda text, _font: float(LETTER_PX * len(text))  # noqa: E731
        stack.enter_context(mock.patch.object(shapes, "width_of", width))
        widget.paintEvent(None)  # type: ignore[arg-type]
    yield from Recorder.rows


GRID = Grid(
    "threshold_us",
    "stall_us",
    "threshold, µs",
    "stall, µs",
    np.linspace(10.0, 90.0, 64),
    np.linspace(0.0, 80.0, 64),
    np.clip(1.6 - np.abs(np.linspace(-2, 2, 64))[None, :] - np.linspace(0, 0.9, 64)[:, None], 0, 1),
    20_000,
    "one stall in each exchange",
)
EVERY_SHAPE = Picture(
    100,
    80,
    (
        Box(1, 2, 30, 20, Kind.BAND),
        Box(1, 2, 30, 20, Kind.BAD, 0.35),
        Stroke([(0, 0), (10, 5), (20, 0)], Kind.AFTER, 1.4, True),
        Stroke([(0, 0), (10, 5)], Kind.MINE),
        Words(50, 20, "left", Kind.INK),
        Words(50, 30, "middle", Kind.QUIET, "middle", 11),
        Words(50, 40, "end", Kind.GOOD, "end", 13, True),
        Cross(70, 50, Kind.NEAR, 3, 4, "a stray"),
    ),
    "every shape",
)


class Painted(WindowTest):
    """Against the page."""

    def lines(self) -> Iterator[str]:
        """The page."""
        for choice in (ThemeChoice.LIGHT, ThemeChoice.DARK):
            apply_theme(self.app, choice)
            yield f"# {choice}"
            yield from (f"  {kind}: {shapes.colour_of(kind).name()}" for kind in Kind)
            yield from self.map_lines()
        yield from self.handle_lines()
        view = picture.PictureView("one")
        for size in ((320, 200), (90, 60)):
            view.resize(*size)
            view.put(EVERY_SHAPE)
            yield f"# picture {size}"
            yield from painted(view)
        yield from self.lane_lines()

    def map_lines(self) -> Iterator[str]:
        """The map with the firmware here and there, and without one."""
        view = map_module.MapView()
        view.resize(400, 300)
        for at in ((30.0, 0.0), (85.0, 79.0), (200.0, 40.0), None):
            view.put(GRID, at)
            yield f"# map {at}: {view.accessibleDescription()}"
            yield from painted(view)
        view.put(None, None, "nothing")
        yield f"# {view._value(QPointF(9, 9))}"
        view.put(GRID, None)
        for x, y in ((56, 34), (220, 145), (383, 255)):
            yield f"  {view._value(QPointF(x, y))}"

    def handle_lines(self) -> Iterator[str]:
        """The handle at a rise, near the edge, and at a fall."""
        view = handle.PulseHandle()
        view.resize(260, 112)
        for values in (
            (50.0, 26.0, 70.0, True),
            (98.0, 26.0, 70.0, True),
            (14.0, 6.0, 30.0, False),
        ):
            view.put(*values)
            yield f"# handle {values}"
            yield from painted(view)

    def lane_lines(self) -> Iterator[str]:
        """Lanes with strays; one is lit."""
        frames = cave_frames(40)
        widths = [widths_of(data, AM) for data in frames]
        widths[7][9], widths[8][11], widths[9][13] = 58.0, 44.0, 71.0
        view = lanes.LaneView()
        view.resize(640, 700)
        view.put(lanes_of(margins_of(humidity_wire(frames, widths=widths))), [("mine", 40.0)])
        yield "# lanes"
        yield from painted(view)
        for number, (cross, at) in enumerate(view.crosses):
            yield f"  {number} {cross.says} {said(at)} under {view._under(at + QPointF(3, 3))}"
        view._light(1)
        yield from list(painted(view))[-6:]

    def test_stroke_by_stroke(self) -> None:
        PAGE.same(self, self.lines())
