"""What is kept to draw faster looks like what it stands for."""

from collections.abc import Callable
from functools import partial
from itertools import combinations, pairwise, product
from unittest import mock

import numpy as np
from PySide6.QtCore import QBuffer, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPdfWriter
from PySide6.QtWidgets import QLabel, QWidget

from pivet.judge.verdict import Verdict
from pivet.ui.answer.panel import Line, ValueLines
from pivet.ui.app import make_app
from pivet.ui.drawing import painting
from pivet.ui.drawing.painting import CENTER, draw_panel, draw_signs, draw_text, font_of, signs_of
from pivet.ui.drawing.theme import ThemeChoice, apply_theme
from pivet.ui.drawing.widgets import MOST_HEIGHTS, WrappedLabel, wrapped_label
from tests.base import PivetTest

INK = QColor("#203040")
RATIOS = (1.0, 1.25, 2.0)


def picture(paint: Callable[[QPainter], object], ratio: float = 1.0, width: int = 90) -> QImage:
    """What something paints, on white."""
    image = QImage(round(width * ratio), round(60 * ratio), QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    paint(painter)
    painter.end()
    return image


def apart(one: QImage, other: QImage) -> int:
    """How much two pictures differ where they do so most, 0 to 255."""
    pixels = [np.frombuffer(row.constBits(), np.uint8).astype(int) for row in (one, other)]
    return int(np.abs(pixels[0] - pixels[1]).max())


class DrawingTest(PivetTest):
    """With the light theme."""

    def setUp(self) -> None:
        super().setUp()
        apply_theme(make_app(), ThemeChoice.LIGHT)


class Signs(DrawingTest):
    """Bits of a transaction."""

    def test_as_texts(self) -> None:
        """Each sign as if it were a text, at its own place."""
        font = font_of(QWidget(), 1.3, bold=True)
        signs = signs_of("01", font)
        which, tops = (
            [1, 0, 0, 1],
            [QPointF(5, 4), QPointF(22.5, 9), QPointF(40, 30), QPointF(71, 2)],
        )
        size = painting.laid_out("0", font)

        def one_by_one(painter: QPainter) -> None:
            for number, top in zip(which, tops, strict=True):
                # A text stands in the middle of its box.
                box = QRectF(top.x(), top.y() - 10, 30, size.height + 20)
                draw_text(painter, box, "01"[number], font, INK)

        for ratio in RATIOS:
            with self.subTest(ratio):
                drawn = picture(lambda p: draw_signs(p, signs, which, tops, INK), ratio)
                self.assertEqual(picture(one_by_one, ratio), drawn)
                self.assertNotEqual(picture(lambda _: None, ratio), drawn)
        self.assertEqual((size.width, size.height), (signs.width, signs.height))
        box = QRectF(9, 7, 30, 40)
        drawn = picture(lambda p: draw_signs(p, signs, [1], [signs.amid(box)], INK))
        self.assertEqual(picture(lambda p: draw_text(p, box, "1", font, INK, CENTER)), drawn)

    def test_each_font_has_its_own(self) -> None:
        """A larger font has wider signs."""
        widget = QWidget()
        small, large = (signs_of("01", font_of(widget, scale)) for scale in (1.0, 2.0))
        self.assertGreater(large.width, 1.5 * small.width)
        self.assertGreater(large.down, 1.5 * small.down)


class Marks(DrawingTest):
    """The shapes of verdicts."""

    def test_kept_as_painted(self) -> None:
        """Each in its own shape, on fine screens too."""
        for ratio in (1.0, 2.0):
            seen = []
            for verdict in Verdict:
                given = {"verdict": verdict, "centre": QPointF(30, 20), "size": 12.0}
                made = picture(partial(painting._paint_mark, **given), ratio)
                kept = picture(partial(painting.draw_mark, **given), ratio)
                # Edges are mixed with the ground in two steps.
                self.assertLessEqual(apart(made, kept), 3)
                seen.append(made)
            self.assertTrue(all(apart(one, other) > 50 for one, other in combinations(seen, 2)))


class Texts(DrawingTest):
    """Words in a box."""

    def test_so_many_px(self) -> None:
        """A font is as high as it is asked for, and never too small to read."""
        asked = ((14.4, True), (30.0, False), (2.0, False))
        fonts = [painting.font_of_px(QWidget(), size, bold) for size, bold in asked]
        self.assertEqual([14, 30, painting.LEAST_PX], [font.pixelSize() for font in fonts])
        self.assertEqual([True, False, False], [font.bold() for font in fonts])

    def test_shortened(self) -> None:
        """Where they do not fit, and only there."""
        font = font_of(QWidget(), 1.0)
        width = painting.width_of("host speaks", font)

        def drawn(room: float) -> float:
            found = []
            picture(
                lambda p: found.append(
                    draw_text(p, QRectF(0, 0, room, 20), "host speaks", font, INK)
                )
            )
            return found[0]

        self.assertEqual([width, width], [drawn(width), drawn(3 * width)])
        self.assertLess(drawn(width - 1), width - 0.5)
        self.assertLess(drawn(width / 2), width / 2 + 0.5)
        self.assertGreater(drawn(width / 2), width / 4)


class Panels(DrawingTest):
    """The sheet of paper a view stands on."""

    def setUp(self) -> None:
        super().setUp()
        painting._panels.clear()

    def test_kept_as_painted(self) -> None:
        """In each size and theme, with and without focus, on fine screens too."""
        seen = []
        boxes = (QRectF(0, 0, 88, 60), QRectF(0, 0, 60, 32))
        themes = (ThemeChoice.LIGHT, ThemeChoice.DARK)
        for choice, ratio, box, focused in product(themes, RATIOS, boxes, (False, True)):
            apply_theme(make_app(), choice)
            made = picture(partial(painting._paint_panel, box=box, focused=focused), ratio)
            for _ in range(2):
                kept = picture(partial(draw_panel, box=box, focused=focused), ratio)
                self.assertEqual(made, kept, (choice, ratio, box, focused))
            seen.append(made)
        self.assertTrue(all(one != other for one, other in pairwise(seen)))
        self.assertLessEqual(len(painting._panels), painting.MOST_PANELS)

    def test_the_painter_is_as_it_was(self) -> None:
        """Whoever paints smoothly goes on so, whether the panel comes from a picture or not."""
        seen = []

        def paint(painter: QPainter, scale: float, smooth: bool) -> None:
            painter.scale(scale, scale)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, smooth)
            draw_panel(painter, QRectF(0, 0, 50, 40), True)
            hint = painter.testRenderHint(QPainter.RenderHint.Antialiasing)
            seen.append((hint == smooth, painter.pen().widthF(), painter.brush().style()))

        for scale, smooth in product((1.0, 1.5), (False, True)):
            picture(partial(paint, scale=scale, smooth=smooth))
        self.assertEqual([(True, 1.0, Qt.BrushStyle.NoBrush)] * 4, seen)

    def test_made_once(self) -> None:
        """What was painted before is not painted again."""
        with mock.patch.object(painting, "_paint_panel") as painted:
            for _ in range(3):
                picture(lambda p: draw_panel(p, QRectF(0, 0, 50, 40), False))
            painted.assert_called_once()

    def test_never_a_picture_on_paper(self) -> None:
        """A printer, and a painter that enlarges, get lines."""

        def larger(painter: QPainter) -> None:
            painter.scale(1.5, 1.5)
            draw_panel(painter, QRectF(0, 0, 50, 40), False)

        with mock.patch.object(painting, "_paint_panel") as painted:
            sheet = QBuffer()
            sheet.open(QBuffer.OpenModeFlag.WriteOnly)
            writer = QPdfWriter(sheet)
            painter = QPainter(writer)
            draw_panel(painter, QRectF(0, 0, 50, 40), False)
            painter.end()
            picture(larger)
            self.assertEqual(2, painted.call_count)
        self.assertEqual({}, painting._panels)


class Labels(DrawingTest):
    """A text in a column."""

    def test_as_high_as_qt_makes_it(self) -> None:
        """At each width, after another text, another font and other marks."""
        own, plain = WrappedLabel(), QLabel()
        long = "the sum does not hold: 02 + 54 + 80 + ae = 184, sent 80. "
        for label in (own, plain):
            label.setWordWrap(True)
        for text, scale, kind in (
            (long, 1.0, Qt.TextFormat.PlainText),
            (long * 3, 1.0, Qt.TextFormat.PlainText),
            (long * 3, 1.6, Qt.TextFormat.PlainText),
            (f"<b>{long}</b>", 1.6, Qt.TextFormat.PlainText),
            (f"<b>{long}</b>", 1.6, Qt.TextFormat.RichText),
            (f"<b>{long}</b>", 2.2, Qt.TextFormat.RichText),
        ):
            for label in (own, plain):
                label.setTextFormat(kind)
                label.setText(text)
                label.setFont(font_of(QWidget(), scale))
            for width in (90, 200, 140, 90, 700, 650, 300, 250, 91):
                self.assertEqual(plain.heightForWidth(width), own.heightForWidth(width))

    def test_lines_wrap_as_told(self) -> None:
        """The same label, first for a line that does not, then for one that does, and back."""
        lines = ValueLines()
        for wraps in (False, True, False):
            lines.put([Line("95.9 %", wraps=wraps)])
            item = lines.itemAt(0)
            label = None if item is None else item.widget()
            assert isinstance(label, QLabel)
            self.assertEqual(("95.9 %", wraps), (label.text(), label.wordWrap()))
            label.deleteLater()

    def test_not_for_ever(self) -> None:
        """Of many texts only the last heights are kept."""
        label = wrapped_label()
        for number in range(3 * MOST_HEIGHTS):
            label.setText(f"read 0, low {number} µs")
            label.heightForWidth(90)
        self.assertLessEqual(len(label._heights), MOST_HEIGHTS + 1)

    def test_marks_stay_text(self) -> None:
        """What comes from files and people is shown as it is."""
        label = wrapped_label()
        self.assertEqual((Qt.TextFormat.PlainText, True), (label.textFormat(), label.wordWrap()))

    def test_asks_for_no_width(self) -> None:
        """Unless it does not wrap."""
        label = WrappedLabel()
        label.setText("the sum holds")
        self.assertEqual(QLabel("the sum holds").sizeHint(), label.sizeHint())
        self.assertEqual(QLabel("the sum holds").minimumSizeHint(), label.minimumSizeHint())
        label.setWordWrap(True)
        self.assertEqual((0, 0), label.sizeHint().toTuple())
        self.assertEqual((0, 0), label.minimumSizeHint().toTuple())
