"""How far an echo sensor reaches, and how it says that nothing was there."""

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QVBoxLayout, QWidget

from pivet.readings.units import AS_KEPT, UnitChoice
from pivet.sheets.model import EchoRule
from pivet.sheets.reach import LEAST_M, LEAST_TIMEOUT_MS, MOST_M, MOST_TIMEOUT_MS, Reach
from pivet.ui.drawing.numbers import NumberBox
from pivet.ui.drawing.widgets import plain_label


class ReachDialog(QDialog):
    """Timeout and farthest distance; 0 leaves either to the sheet.

    Args:
        reach: what was given before.
        rule: the rule of the sheet.
        parent: the window it stands over.
        units: the units in which distances are shown.
    """

    def __init__(
        self,
        reach: Reach,
        rule: EchoRule,
        parent: QWidget | None = None,
        units: UnitChoice = AS_KEPT,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Reach of the sensor")
        self._units = units
        self.timeout_box, self.farthest_box = NumberBox(), NumberBox()
        far = units.shown("distance", rule.farthest_m)
        symbol = units.of("distance").symbol
        for box, most, decimals, suffix, usual in (
            (self.timeout_box, MOST_TIMEOUT_MS, 1, "ms", f"{rule.timeout_us / 1000:g} ms"),
            (self.farthest_box, units.shown("distance", MOST_M), 2, symbol, f"{far:g} {symbol}"),
        ):
            box.setDecimals(decimals)
            box.setRange(0.0, most)
            box.setSuffix(f" {suffix}")
            box.setSpecialValueText(f"as in the sheet: {usual}")
        self.timeout_box.setValue(reach.timeout_ms or 0.0)
        self.farthest_box.setValue(units.shown("distance", reach.farthest_m or 0.0))
        self.timeout_box.setAccessibleName("Timeout when nothing is in range")
        self.farthest_box.setAccessibleName("Farthest distance")
        form = QFormLayout()
        form.addRow("An echo means “nothing in range” from", self.timeout_box)
        form.addRow("Farthest distance", self.farthest_box)
        kinds = QDialogButtonBox.StandardButton
        buttons = QDialogButtonBox(kinds.Ok | kinds.Cancel | kinds.RestoreDefaults)
        buttons.button(kinds.RestoreDefaults).setText("As in the sheet")
        buttons.button(kinds.RestoreDefaults).clicked.connect(self._clear)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(plain_label("Boards differ: timeouts of 18 to 200 ms are met."))
        column.addLayout(form)
        column.addWidget(buttons)

    def _clear(self) -> None:
        self.timeout_box.setValue(0.0)
        self.farthest_box.setValue(0.0)

    @property
    def reach(self) -> Reach:
        """What was given."""
        timeout = self.timeout_box.value()
        farthest = round(self._units.kept("distance", self.farthest_box.value()), 4)
        return Reach(
            max(timeout, LEAST_TIMEOUT_MS) if timeout else None,
            min(max(farthest, LEAST_M), MOST_M) if farthest else None,
        )
