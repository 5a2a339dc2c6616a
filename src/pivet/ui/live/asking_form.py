"""How a wire is asked: interval with its reason, retries, and how the sensor is wired."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QWidget,
)

from pivet.listening.setup import (
    least_interval_s,
    reason_of_interval,
    usual_interval_s,
)
from pivet.person.wire_settings import MOST_RETRIES
from pivet.sheets.model import Sheet
from pivet.ui.drawing.numbers import NumberBox
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import ink, plain_label

LONGEST_S = 86_400.0
UNKNOWN = "As the sensor allows, once it is known."


class AskingForm(QWidget):
    """Asks for interval and retries.

    Args:
        can_ask: the source can ask at all.
        parent: where it stands.
    """

    def __init__(self, can_ask: bool = True, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._sheet: Sheet | None = None
        self.asks = QCheckBox("Ask it from here")
        self.asks.setChecked(can_ask)
        self.asks.setEnabled(can_ask)
        self.asks.setToolTip("Otherwise Pivet only listens to what other firmware asks")
        self.every = NumberBox()
        self.every.setDecimals(2)
        self.every.setSuffix(" s")
        self.every.setAccessibleName("Interval")
        self.reason = plain_label(UNKNOWN)
        self.reason.setWordWrap(True)
        self.retries = QComboBox()
        self.retries.addItems(["none", *(str(n) for n in range(1, MOST_RETRIES + 1))])
        self.retries.setCurrentIndex(1)
        self.wiring = plain_label()
        self.wiring.setWordWrap(True)
        form = QFormLayout(self)
        form.setContentsMargins(0, 0, 0, 0)
        form.addRow("", self.asks)
        form.addRow("Every", self.every)
        form.addRow("", self.reason)
        form.addRow("Retries", self.retries)
        form.addRow("Wiring", self.wiring)
        self.asks.toggled.connect(self._renew)
        for label, lines in ((self.reason, 2), (self.wiring, 4)):
            ink(label, theme().faint)
            label.setAlignment(Qt.AlignmentFlag.AlignTop)
            label.setMinimumHeight(lines * label.fontMetrics().lineSpacing() + 2)
        self.show_sheet(None)

    def show_sheet(self, sheet: Sheet | None) -> None:
        """Takes the limits of a sensor."""
        self._sheet = sheet
        if sheet is not None:
            self.every.setSpecialValueText("")
            self.every.setRange(least_interval_s(sheet), LONGEST_S)
            self.every.setValue(usual_interval_s(sheet))
            self.reason.setText(reason_of_interval(sheet))
            self.wiring.setText(sheet.wiring.text if sheet.wiring is not None else "not known")
        else:
            self.every.setRange(0.0, 0.0)
            self.every.setSpecialValueText("–")
            self.reason.setText(UNKNOWN)
            self.wiring.setText("–")
        self._renew()

    def _renew(self) -> None:
        asks = self.asks.isChecked()
        self.every.setEnabled(asks and self._sheet is not None)
        self.retries.setEnabled(asks)

    def show_pace(self, every_s: float | None, retries: int) -> None:
        """Shows how a wire is asked now."""
        self.asks.setChecked(every_s is not None)
        if every_s:
            self.every.setValue(every_s)
        self.retries.setCurrentIndex(retries)

    @property
    def every_s(self) -> float | None:
        """The interval, s; 0 for the usual; None only listens."""
        if not self.asks.isChecked():
            return None
        if self._sheet is None:
            return 0.0
        usual = abs(self.every.value() - usual_interval_s(self._sheet)) < 0.005
        return 0.0 if usual else self.every.value()

    @property
    def tries(self) -> int:
        """How many retries."""
        return self.retries.currentIndex()
