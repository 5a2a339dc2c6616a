"""Fields for numbers: typed in any language, never a thousandfold."""

import unittest

from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QLocale, Qt
from PySide6.QtGui import QValidator
from PySide6.QtTest import QTest

from pivet.ui.app import make_app
from pivet.ui.drawing.numbers import NumberBox, NumberDialog, parsed
from tests.base import PivetTest
from tests.ui.base import WindowTest

LOCALES = ("C", "de_DE", "tr_TR", "fa_IR", "fr_FR", "en_IN", "ar_EG")
PERSIAN = str.maketrans("0123456789.", "۰۱۲۳۴۵۶۷۸۹٫")


class Parsing(unittest.TestCase):
    """What a text means."""

    @given(st.decimals(-9999, 9999, places=3), st.sampled_from(".,٫"), st.sampled_from("-\u2212"))
    def test_every_mark(self, number, mark: str, minus: str) -> None:
        """A point, a comma, that of Arabic script: always the decimals."""
        text = f"{number:.3f}".replace("-", minus).replace(".", mark)
        self.assertEqual(float(number), parsed(text))
        self.assertEqual(float(number), parsed(f" {text.translate(PERSIAN)}\u200f"))

    def test_no_number(self) -> None:
        """Two marks, marks in whole numbers, words: nothing is guessed."""
        for text in (
            "1.234,5",
            "1,234.5",
            "1,2,3",
            "",
            "-",
            ".",
            "1e5",
            "nan",
            "12x",
            "1 234",
            "--1",
        ):
            self.assertIsNone(parsed(text), text)
        self.assertEqual(1.234, parsed("1,234"))
        self.assertIsNone(parsed("1.000", 0))
        self.assertEqual(1000, parsed("1000", 0))


class Fields(PivetTest):
    """Typed by keys, in every language."""

    def setUp(self) -> None:
        super().setUp()
        make_app()
        before = QLocale()
        self.addCleanup(QLocale.setDefault, before)

    def typed(self, text: str, suffix: str = " m", decimals: int = 2) -> NumberBox:
        """A field into which somebody has typed."""
        box = NumberBox()
        box.setDecimals(decimals)
        box.setRange(-1000.0, 1000.0)
        box.setSuffix(suffix)
        box.setValue(3.0)
        box.selectAll()
        if text.isascii():
            QTest.keyClicks(box, text)
        else:  # The test library knows no other keys: as an input method gives it.
            box.lineEdit().insert(text)
        QTest.keyClick(box, Qt.Key.Key_Return)
        return box

    def test_in_every_language(self) -> None:
        """12.5 stays 12.5, and 0,85 stays 0.85."""
        for name in LOCALES:
            QLocale.setDefault(QLocale(name))
            for text, value in (("12.5", 12.5), ("12,5", 12.5), ("0.85", 0.85), ("0,85", 0.85),
                                ("-7,25", -7.25), ("۱۲٫۵", 12.5), ("999", 999.0)):  # fmt: skip
                with self.subTest(name, text=text):
                    box = self.typed(text)
                    self.assertEqual(value, box.value())
                    self.assertEqual(f"{value:.2f} m", box.text())
            self.assertEqual(3.0, self.typed("1.5", decimals=0).value() // 5 + 0.0)

    def test_beyond_the_range(self) -> None:
        """What is no number of the range does not become another one."""
        box = self.typed("5000")
        self.assertIn(box.value(), (3.0, 500.0, 1000.0))
        state = box.validate("1.234,5 m", 0)[0]
        self.assertIs(QValidator.State.Invalid, state)

    def test_steps(self) -> None:
        """Keys step it, as in any field."""
        box = self.typed("2,5")
        QTest.keyClick(box, Qt.Key.Key_Up)
        self.assertEqual(3.5, box.value())


class Asked(WindowTest):
    """A dialog for one number."""

    def test_asked_and_given(self) -> None:
        """Typed and confirmed with Return; its name is read aloud."""
        box = NumberBox()
        box.setRange(0.0, 90.0)
        dialog = NumberDialog("Air", "In °C:", box, self.window)
        dialog.show()
        self.settle()
        QTest.keyClicks(box, "21,5")
        QTest.keyClick(box, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(21.5, box.value())
        self.assertEqual("In °C:", box.accessibleName())
