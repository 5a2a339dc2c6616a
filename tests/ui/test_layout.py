"""Where things stand in the stacks of 1-Wire and echo; no painting."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.insight.drawn.echo import EchoScale
from pivet.insight.drawn.place import Rect
from pivet.insight.drawn.search import SearchLayout, line_above, shared_bits, step_words
from pivet.judge.onewire.detail import Step, Walk
from pivet.readings.units import AS_KEPT
from pivet.sheets.load import find_sheet
from pivet.sheets.onewire import ROM_BITS
from pivet.ui.drawing.painting import polygon_of
from pivet.ui.strip.scale import TimeScale, outline
from pivet.ui.trend.axis import LABEL_PX, TimeAxis
from tests.ui.base import WindowTest

SHEET = find_sheet("hc-sr04")


class Times(WindowTest):
    """The axis at the foot of the plots."""

    def test_as_many_labels_as_there_is_room_for(self) -> None:
        """Whole steps of the clock, the shortest that leaves each label its room."""
        axis = TimeAxis()
        axis.use(0, False)
        for seconds, labels, step in ((600, 10, 60), (601, 10, 120), (10, 10, 1), (10, 5, 2)):
            ((found, ticks),) = axis.tickValues(0.0, float(seconds), labels * LABEL_PX)
            self.assertEqual(step, found)
            self.assertEqual(list(range(0, seconds + 1, step)), ticks)
        axis.use(90 * 10**9, False)
        ((_, ticks),) = axis.tickValues(0.0, 600.0, 10 * LABEL_PX)
        self.assertEqual(list(range(30, 600, 60)), ticks)


class EchoScales(unittest.TestCase):
    """Time and centimetres on one axis."""

    @given(st.floats(100, 40_000), st.floats(0, 1))
    def test_there_and_back(self, longest: float, share: float) -> None:
        """A time's pixel gives the time again; the longest echo fits."""
        scale = EchoScale(100.0, 500.0, longest, SHEET)
        t_us = share * scale.span_us
        self.assertAlmostEqual(t_us, scale.t_of(scale.x_of(t_us)), places=3)
        self.assertLess(scale.x_of(longest), scale.right)

    @given(st.floats(100, 40_000))
    def test_ticks_stand_apart(self, longest: float) -> None:
        """Round values with room between them, both from 0."""
        scale = EchoScale(100.0, 500.0, longest, SHEET)
        for ticks in (scale.time_ticks(), scale.distance_ticks(343.2)):
            x = np.array([scale.x_of(value) for value, _ in ticks])
            self.assertEqual(0.0, ticks[0][0])
            self.assertTrue((np.diff(x)[:-1] >= 55).all())

    @given(st.floats(500, 40_000), st.sampled_from(["m", "cm", "mm", "in"]))
    def test_distances_in_any_unit(self, longest: float, symbol: str) -> None:
        """A tick stands where the echo of its distance ends."""
        units = AS_KEPT.with_unit(symbol)
        for t_us, text in EchoScale(0.0, 500.0, longest, SHEET).distance_ticks(340.0, units):
            value, unit = text.split()
            metres = AS_KEPT.with_unit(unit).kept("distance", float(value))
            self.assertAlmostEqual(340e-6 * t_us / 2, metres, delta=1e-4 * max(metres, 1))


class Trees(unittest.TestCase):
    """The tree of a search."""

    def test_shared_bits(self) -> None:
        """Counted from the first on the wire."""
        self.assertEqual(3, shared_bits(0b1000, 0b0000))
        self.assertEqual(0, shared_bits(1, 0))
        self.assertEqual(ROM_BITS - 1, shared_bits(7, 7))

    @given(st.lists(st.integers(0, 63), min_size=1, max_size=20))
    def test_line_above(self, parts: list[int]) -> None:
        """The line from which another parts begins before it does."""
        parts = [0, *parts]
        for leaf in range(1, len(parts)):
            above = line_above(parts, leaf)
            self.assertLess(above, leaf)
            self.assertTrue(parts[above] <= parts[leaf] or above == 0)

    def test_steps_under_the_pointer(self) -> None:
        """Each triplet can be pointed at; none beside them."""
        walk = Walk(tuple(Step(0, 1, 0) for _ in range(64)), (0,), 0)
        tree = SearchLayout(Rect(0, 0, 700, 300), walk)
        for place in (0, 31, 63):
            box = tree.light(place)
            self.assertEqual(place, tree.step_at(box.left + box.width / 2, box.middle))
        self.assertIsNone(tree.step_at(5, 5))

    def test_words(self) -> None:
        """A fork, a dead end, agreement, a stop."""
        cases = {
            Step(0, 0, 1): "devices differ, host takes 1",
            Step(0, 0, None): "devices differ, and the host stops",
            Step(1, 1, None): "nobody answered",
            Step(1, 0, 1): "all that listen have 1",
        }
        for step, part in cases.items():
            self.assertIn(part, step_words(4, step))


class Runs(WindowTest):
    """Lines as one run of points."""

    def test_polygon(self) -> None:
        """The points that were given; none for none."""
        points = np.array([[1.0, 2.0], [3.5, -4.0]])
        polygon = polygon_of(points)
        self.assertEqual([(1.0, 2.0), (3.5, -4.0)], [(p.x(), p.y()) for p in polygon.toList()])
        self.assertEqual(0, polygon_of(np.empty((0, 2))).size())

    def test_points_of_an_outline(self) -> None:
        """Left to right, each step at one place, levels as on the line."""
        edges = np.array([100, 200, 300], dtype=np.int64) * 1000
        scale = TimeScale(0.0, 400_000.0, 0.0, 400_000.0, 10.0, 400.0)
        course = outline(edges, 1, scale)
        points = course.points(0.0, 50.0)
        self.assertTrue(course.whole)
        self.assertEqual([0.5, 50.5, 0.5, 50.5], points[::2, 1].tolist())
        self.assertEqual([110.5, 110.5], points[1:3, 0].tolist())
        self.assertTrue((np.diff(points[:, 0]) >= 0).all())
