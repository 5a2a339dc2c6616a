"""Adding a wire on which no sensor was recognised: the person says what it is."""

from collections.abc import Sequence

from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QVBoxLayout,
    QWidget,
)

from pivet.captures.capture import Capture
from pivet.captures.offers import Offer
from pivet.sheets.load import all_sheets
from pivet.sheets.model import Sheet
from pivet.ui.drawing.widgets import plain_label
from pivet.ui.window.choosing import ChoiceBox

FIND_OUT = "find out"


def offers_of(capture: Capture) -> tuple[Offer, ...]:
    """Those offers of a capture whose lines are no wire yet."""
    free = set(capture.others)
    return tuple(offer for offer in capture.offers if free.issuperset(offer.names.split(",")))


def words_of(offer: Offer) -> str:
    """What pressing an offer does, in a few words."""
    if offer.inverted:
        return "Decode it turned over"
    return f"Decode it as {offer.sheet.name}" if offer.sheet is not None else "Say what it is…"


class AddWireDialog(QDialog):
    """Asks for a line, what sensor is on it, and whether it was recorded inverted.

    Args:
        lines: names of lines that are no wires.
        offers: what they may be.
        name: the name of the line that is chosen at first.
        parent: the window it stands over.
    """

    def __init__(
        self,
        lines: Sequence[str],
        offers: Sequence[Offer],
        name: str = "",
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Add a wire")
        self._offers = {offer.names: offer for offer in offers}
        self.line_box = ChoiceBox()
        self.line_box.setEditable(True)
        self.line_box.addItems([*lines, *(offer for offer in self._offers if offer not in lines)])
        self.line_box.setAccessibleName("Line, or trigger,echo")
        self.sensor_box = ChoiceBox()
        self.sensor_box.setAccessibleName("Sensor")
        self.sensor_box.addItem(FIND_OUT, None)
        for sheet in all_sheets().values():
            self.sensor_box.addItem(f"{sheet.name} ({sheet.id})", sheet)
        self.turned_box = QCheckBox("The line was recorded inverted: turn it over")
        self._says = plain_label()
        self._says.setWordWrap(True)
        self._says.setMinimumWidth(420)
        form = QFormLayout()
        form.addRow("Line", self.line_box)
        form.addRow("Sensor", self.sensor_box)
        form.addRow("", self.turned_box)
        kinds = QDialogButtonBox.StandardButton
        buttons = QDialogButtonBox(kinds.Ok | kinds.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        words = plain_label("For an echo sensor write trigger,echo.")
        for part in (words, self._says):
            column.addWidget(part)
        column.insertLayout(1, form)
        column.addWidget(buttons)
        self.line_box.currentTextChanged.connect(self._on_line)
        if name:
            self.line_box.setCurrentText(name)
        self._on_line(self.line_box.currentText())

    def _on_line(self, name: str) -> None:
        """Shows what the line may be, and chooses so."""
        offer = self._offers.get(name.strip())
        self._says.setText(f"{offer.names}: {offer.says}." if offer is not None else "")
        if offer is not None:
            self.turned_box.setChecked(offer.inverted)
            if offer.sheet is not None:
                self.sensor_box.setCurrentIndex(self.sensor_box.findData(offer.sheet))

    @property
    def wanted(self) -> tuple[str, Sheet | None, bool]:
        """Line or lines, the sensor (None finds out), whether they are turned over."""
        return (
            self.line_box.currentText().strip(),
            self.sensor_box.currentData(),
            self.turned_box.isChecked(),
        )
