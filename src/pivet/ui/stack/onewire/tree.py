"""Painting a search: the tree of codes that it walks, and its triplets step by step."""

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QWidget

from pivet.insight.drawn.picture import Points
from pivet.insight.drawn.search import SearchLayout, step_columns
from pivet.judge.onewire.detail import Step, Walk
from pivet.ui.drawing.painting import RIGHT, draw_text, font_of, with_alpha
from pivet.ui.drawing.theme import theme

OWN_PX, OTHER_PX = 2.4, 1.3


def paint_search(
    painter: QPainter,
    tree: SearchLayout,
    walk: Walk,
    names: Mapping[str, str],
    lit: frozenset[int],
    widget: QWidget,
) -> None:
    """Scale, triplets, branches, codes."""
    _paint_scale(painter, tree, widget)
    for place, step in enumerate(walk.steps):
        _paint_step(painter, tree, place, step, bool(lit & step_columns(place)))
    _paint_branches(painter, tree)
    _paint_names(painter, tree, names, widget)


def _paint_scale(painter: QPainter, tree: SearchLayout, widget: QWidget) -> None:
    colours, font = theme(), font_of(widget, 0.8)
    for box, text in tree.scale():
        painter.setPen(QPen(with_alpha(colours.edge, 200), 1))
        _line(painter, ((box.left, box.top + 2), (box.left, tree.box.bottom)))
        draw_text(painter, QRectF(*box.inside(4, 0, 0, 0)), text, font, colours.faint)
    for box, text in tree.captions():
        draw_text(painter, QRectF(*box), text, font, colours.faint, RIGHT)


def _paint_step(painter: QPainter, tree: SearchLayout, place: int, step: Step, lit: bool) -> None:
    """Three squares: filled for 1, open for 0; forks and dead ends stand out."""
    colours = theme()
    if lit:
        painter.fillRect(QRectF(*tree.light(place)), colours.live)
    colour = colours.trace
    if step.fork:
        colour = colours.near
    elif step.nobody:
        colour = colours.unsound
    for box, value, is_direction in tree.squares(place, step):
        ink = colours.accent if is_direction else colour
        if value:
            painter.fillRect(QRectF(*box), ink)
        else:
            painter.setPen(QPen(ink, 1))
            painter.drawRect(QRectF(*box.inside(0.5, 0.5, 0.5, 0.5)))


def _paint_branches(painter: QPainter, tree: SearchLayout) -> None:
    """Each code a line from where it parts from the line above; this pass stands out."""
    colours = theme()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for points, own in tree.branches():
        painter.setPen(QPen(colours.accent if own else colours.trace, OWN_PX if own else OTHER_PX))
        _line(painter, points)
    for points in tree.open_ends():
        painter.setPen(QPen(colours.near, 1.4, Qt.PenStyle.DashLine))
        _line(painter, points)
        painter.setPen(QPen(colours.near, 1.4))
        painter.setBrush(colours.panel)
        painter.drawEllipse(QPointF(*points[-1]), 3.5, 3.5)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colours.accent, OWN_PX))
    for points in tree.own_path():
        _line(painter, points)
    dead_end = tree.dead_end()
    if dead_end is not None:
        painter.setPen(QPen(colours.unsound, OWN_PX))
        x, y = dead_end
        _line(painter, ((x - 5, y - 5), (x + 5, y + 5)))
        _line(painter, ((x - 5, y + 5), (x + 5, y - 5)))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)


def _line(painter: QPainter, points: Points) -> None:
    painter.drawPolyline([QPointF(x, y) for x, y in points])


def _paint_names(
    painter: QPainter, tree: SearchLayout, names: Mapping[str, str], widget: QWidget
) -> None:
    colours = theme()
    for box, text, own in tree.names(names):
        colour = colours.accent if own else colours.ink
        scale = 0.88 if tree.named else 0.9
        draw_text(painter, QRectF(*box), text, font_of(widget, scale, bold=own), colour)
    if tree.open and tree.named:
        box = tree.still_to_walk()
        draw_text(painter, QRectF(*box), "still to walk", font_of(widget, 0.85), colours.near)
