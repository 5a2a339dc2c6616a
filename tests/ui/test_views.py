"""The linked views: what lights up where, the wire strip, the needles."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from pivet.decode.humidity import layout
from pivet.insight.drawn.humidity import FrameLayout
from pivet.insight.drawn.place import Rect
from pivet.judge.humidity.pulses import ASK
from pivet.sheets.load import find_sheet
from pivet.ui.answer.findings import FindingCard
from pivet.ui.answer.needles import ROW, needle_place
from pivet.ui.strip.scale import TimeScale, outline, snapped
from tests.ui.base import WindowTest

SHIFT = Qt.KeyboardModifier.ShiftModifier


class Linked(WindowTest):
    """Whatever is pointed at lights the same pulses everywhere."""

    def setUp(self) -> None:
        super().setUp()
        self.show_demo()
        self.session.choose_exchange(158)
        self.settle()
        self.report = self.session.report
        self.stack, self.strip = self.page.stack, self.page.strip
        self.place = self.stack.rows.geometry(self.stack.shown)

    def cell_point(self, bit: int, t_us: float) -> tuple[float, float]:
        """A point in a bit's cell."""
        return self.place.x_of(bit, t_us), self.place.waves[bit].middle

    def test_lit(self) -> None:
        """Bits, bytes and pulses, in the stack and everywhere else."""
        # Left of the rising edge the low lights up, right of it the high.
        self.move(self.stack, *self.cell_point(17, 10))
        self.assertEqual({layout.high_column(17)}, self.session.lit)
        self.move(self.stack, *self.cell_point(17, -10))
        self.assertEqual({layout.low_column(17)}, self.session.lit)
        self.move(self.page.ribbon, 5, 5)
        QApplication.sendEvent(self.stack, leave())
        self.assertEqual(frozenset(), self.session.lit)
        # A click chooses; Escape takes the choice away.
        self.click(self.stack, *self.cell_point(3, 10))
        QApplication.sendEvent(self.stack, leave())
        self.assertEqual({layout.high_column(3)}, self.session.lit)
        self.press("Esc")
        self.assertEqual(frozenset(), self.session.lit)
        # A byte's label lights its sixteen pulses, a chip its own.
        self.move(self.stack, *self.place.label(2).centre)
        self.assertEqual(set(range(layout.low_column(16), layout.low_column(24))), self.session.lit)
        chip = self.place.preamble
        self.move(self.stack, chip.left + 20, chip.middle)
        self.assertEqual({ASK}, self.session.lit)

    def test_pulse_and_label_in_the_strip(self) -> None:
        """A pulse on the wire, and a bracket under it."""
        pulse = next(p for p in self.report.pulses if p.column == layout.high_column(17))
        x = self.strip.scale.x_of((pulse.start_ns + pulse.end_ns) / 2)
        middle = self.strip._box().center().y()
        self.move(self.strip, x, middle)
        self.assertEqual({pulse.column}, self.session.lit)
        self.click(self.strip, x, middle)
        self.assertEqual({pulse.column}, self.session.chosen)
        self.move(self.strip, x, self.strip._box().bottom() + 20)
        self.assertEqual(32, len(self.session.lit))

    def test_walked(self) -> None:
        """By keys; needles and findings light what they are about."""
        # Arrow keys walk over the pulses; the ends hold.
        self.key(self.stack, Qt.Key.Key_Right)
        self.assertEqual({ASK}, self.session.lit)
        for _ in range(4):
            self.key(self.stack, Qt.Key.Key_Right)
        self.assertEqual({layout.low_column(0)}, self.session.lit)
        self.key(self.stack, Qt.Key.Key_Down)
        self.assertEqual({layout.low_column(8)}, self.session.lit)
        self.key(self.stack, Qt.Key.Key_Up)
        self.key(self.stack, Qt.Key.Key_Left)
        self.assertEqual({layout.ANSWER_HIGH}, self.session.lit)
        # A window's needle lights all its pulses, also by keys.
        needles = self.page.answer._needles
        number = list(self.report.windows).index("one_high")
        ones = {p.column for p in self.report.pulses if p.window.key == "one_high"}
        self.move(needles, 40, ROW * (number + 0.5))
        self.assertEqual(ones, self.session.lit)
        self.session.hover(frozenset())
        for _ in range(number + 1):
            self.key(needles, Qt.Key.Key_Down)
        self.assertEqual(ones, self.session.lit)
        # A finding lights the pulse that it blames; Space keeps it.
        cards = self.page.answer.findChildren(FindingCard)
        card = next(c for c in cards if c.finding.code == "sum-wrong" and c.isVisible())
        self.move(card, 40, 10)
        self.assertEqual(set(card.finding.columns), self.session.lit)
        QApplication.sendEvent(card, leave())
        self.key(card, Qt.Key.Key_Space)
        self.assertEqual(set(card.finding.columns), self.session.lit)
        asked = []
        card.asked.connect(asked.append)
        QTest.keyClicks(card, "?")
        self.assertEqual(["sum-wrong"], asked)

    def test_light_is_painted_everywhere(self) -> None:
        """Stack, strip and answer look different with a lit pulse."""
        views = (self.stack, self.strip, self.page.answer._needles)
        self.session.choose_pulses(frozenset())
        before = [view.grab().toImage() for view in views]
        self.session.choose_pulses(frozenset({layout.high_column(17)}))
        for view, image in zip(views, before, strict=True):
            self.assertNotEqual(image, view.grab().toImage(), type(view).__name__)


def leave():
    """The pointer leaves a widget."""
    from PySide6.QtCore import QEvent

    return QEvent(QEvent.Type.Leave)


class Strip(WindowTest):
    """The exchange on the wire: zoom, pan, cursors."""

    def setUp(self) -> None:
        super().setUp()
        self.show_demo()
        self.strip = self.page.strip
        self.report = self.session.report
        self.middle = self.strip._box().center().y()

    def test_zoomed_and_panned(self) -> None:
        """By wheel, drag and keys; a resized window keeps the stretch."""
        # Zooming in and out around a point.
        x = self.strip.width() * 0.7
        before, span = self.strip.scale.t_of(x), self.strip.scale.span_ns
        self.wheel(self.strip, x, self.middle, 4)
        self.assertAlmostEqual(before, self.strip.scale.t_of(x), delta=2)
        self.assertAlmostEqual(span / 1.25**4, self.strip.scale.span_ns, delta=2)
        self.wheel(self.strip, x, self.middle, -4)
        self.assertAlmostEqual(span, self.strip.scale.span_ns, delta=4)
        # The picture follows the pointer, and chooses nothing.
        self.wheel(self.strip, 300, self.middle, 5)
        before = self.strip.scale.t_of(300)
        self.drag(self.strip, (300, self.middle), (420, self.middle))
        self.assertAlmostEqual(before, self.strip.scale.t_of(420), delta=5000)
        self.assertEqual(frozenset(), self.session.chosen)
        # Fit, whole capture, zoom, arrows.
        self.press("F")
        fitted = self.strip.scale
        self.press("A")
        self.assertEqual(self.session.wire.end_ns, self.strip.scale.end_ns)
        self.press("F")
        self.assertEqual(fitted, self.strip.scale)
        self.press("+")
        self.assertLess(self.strip.scale.span_ns, fitted.span_ns)
        for key in (Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left):
            before = self.strip.scale
            self.key(self.strip, key)
            self.assertNotEqual(before, self.strip.scale)
        # Another width shows the same time.
        before = self.strip.scale
        self.window.resize(1500, 900)
        self.settle()
        after = self.strip.scale
        self.assertEqual((before.start_ns, before.end_ns), (after.start_ns, after.end_ns))
        self.assertGreater(after.width, before.width)

    def test_measured(self) -> None:
        """Cursors snap to edges, can be moved, measure a pulse."""
        # Shift and drag near two edges gives the time between these edges.
        pulse = self.report.pulses[3]
        left, right = (self.strip.scale.x_of(t) for t in (pulse.start_ns, pulse.end_ns))
        self.drag(self.strip, (left + 2, self.middle), (right - 2, self.middle), SHIFT)
        self.assertEqual([pulse.start_ns, pulse.end_ns], self.strip.cursors)
        # A cursor follows its grip; away from edges it stands where it is put.
        self.strip.measure(self.report.start_ns, self.report.pulses[10].end_ns)
        x = self.strip.scale.x_of(self.report.pulses[10].end_ns)
        end = self.report.pulses[20].end_ns
        self.drag(self.strip, (x, self.middle), (self.strip.scale.x_of(end), self.middle))
        self.assertEqual([self.report.start_ns, end], self.strip.cursors)
        # A double click, or M on a lit pulse, measures it; Escape clears.
        pulse = self.report.pulses[5]
        x = self.strip.scale.x_of((pulse.start_ns + pulse.end_ns) / 2)
        point = QPoint(round(x), round(self.middle))
        QTest.mouseDClick(
            self.strip, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, point
        )
        self.assertEqual([pulse.start_ns, pulse.end_ns], self.strip.cursors)
        self.press("Esc")
        self.assertEqual([], self.strip.cursors)
        self.session.choose_pulses(frozenset({layout.ANSWER_LOW}))
        self.press("M")
        self.assertEqual(2, len(self.strip.cursors))
        self.press("Esc")
        self.press("Esc")
        self.press("M")
        self.assertIn("Choose a pulse first", self.window.notice.text)
        # Zoomed out, a click chooses the exchange that stands there.
        self.session.choose_exchange(5)
        start, end = (int(self.session.wire.exchanges.start_ns[n]) for n in (4, 7))
        self.strip._scale = self.strip.scale.shown(start, end)
        at = int(self.session.wire.exchanges.start_ns[6])
        width = self.strip.scale.span_ns / self.strip.scale.width
        self.assertGreater(width, 1e6)
        x = self.strip.scale.x_of(at) + 1
        self.click(self.strip, round(x), self.middle)
        self.assertIn(self.session.index, (5, 6))


class Scale(unittest.TestCase):
    """The time scale by itself."""

    @given(st.floats(0, 9e8), st.floats(1e3, 1e8), st.floats(-30, 30), st.floats(0, 1))
    def test_zoom_and_pan_stay_inside(
        self, start: float, span: float, notches: float, share: float
    ) -> None:
        """Whatever is done, the stretch lies inside the capture and has a length."""
        scale = TimeScale(0, 1e9, 0, 1e9, 10, 700).shown(start, start + span)
        for other in (scale.zoomed(1.25**-notches, 10 + 700 * share), scale.moved(notches * 50)):
            self.assertGreaterEqual(other.start_ns, -1e-6)
            self.assertLessEqual(other.end_ns, 1e9 + 1e-3)
            self.assertGreaterEqual(other.span_ns, 199)
            ticks, step = other.ticks()
            self.assertLess(len(ticks), 12)
            self.assertTrue(all(t % step == 0 for t in ticks))

    @given(st.lists(st.integers(1, 4000), min_size=0, max_size=3000), st.booleans())
    def test_outline_matches_the_line(self, widths: list[int], dense: bool) -> None:
        """At the middle of every level piece the line has that level; edges are in columns."""
        edges = np.cumsum(np.array(widths, dtype=np.int64))
        width = 40 if dense else 4000
        end = float(edges[-1] + 100 if edges.size else 1000)
        scale = TimeScale(0, end, 0, end, 10.0, width)
        course = outline(edges, 1, scale)
        for left, right, high in course.levels.tolist():
            t_ns = scale.t_of((left + right) / 2)
            if right - left > 1e-6:
                level = (1 + int(np.searchsorted(edges, t_ns, side="right"))) % 2
                self.assertEqual(level, high)
        self.assertLessEqual(course.steps.size, max(2 * width, 1))
        if edges.size:
            self.assertTrue(course.steps.size)

    def test_snap(self) -> None:
        """The nearest edge within reach."""
        edges = np.array([1000, 2000, 5000])
        self.assertEqual(
            [2000, 2600, 5000, 1000], [snapped(edges, t, 500) for t in (2400, 2600, 5500, 600)]
        )
        self.assertEqual(7, snapped(edges[:0], 7.2, 500))

    def test_needle_place(self) -> None:
        """Typical in the middle, limits symmetric, far outside at the ends."""
        window = find_sheet("dht22").windows["ask"]
        places = [needle_place(t, window) for t in (1.0, 800.0, 1000.0, 20_000.0, 9e9)]
        self.assertEqual(sorted(places), places)
        self.assertAlmostEqual(0.5, places[2])
        self.assertAlmostEqual(places[1] + places[3], 1.0)
        self.assertEqual((0.02, 0.98), (places[0], places[4]))


class Points(unittest.TestCase):
    """Hit testing needs no window."""

    def test_outside_every_cell(self) -> None:
        """Beside the cells nothing lights up."""
        place = FrameLayout(Rect(14, 30, 712, 422), find_sheet("dht22"))
        self.assertEqual(frozenset(), place.columns_at(735, 300))
        for bit, cell in enumerate(place.cells):
            self.assertGreaterEqual(cell.left, place.label(bit // 8).right)
            self.assertLessEqual(cell.right, place.sum(bit // 8).left + 1)
