"""Small forms: the correction of a sensor, and a value that a reference says."""

import numpy as np
from PySide6.QtCore import QDateTime
from PySide6.QtWidgets import (
    QDateTimeEdit,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLineEdit,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from pivet.errors import InputError
from pivet.person.annotations import Reference
from pivet.readings.correction import Correction, by_offset, by_points
from pivet.readings.series import Sensor
from pivet.readings.units import UnitChoice
from pivet.ui.drawing.numbers import NumberBox
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import ink, plain_label

LIMIT = 10_000.0


class CorrectionDialog(QDialog):
    """Asks for an offset, or two points.

    Args:
        sensor: the sensor that is corrected.
        before: the correction that acts now.
        units: the units in which values are given.

    Attributes:
        correction: what was given; None until it is accepted.
    """

    def __init__(
        self,
        sensor: Sensor,
        before: Correction,
        units: UnitChoice,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Correction of {sensor.who or sensor.wire}, {sensor.quantity}")
        self._sensor, self._units = sensor, units
        self.correction: Correction | None = None
        self.by_offset, self.by_points = QRadioButton("An offset"), QRadioButton("Two points")
        unit = units.of(sensor.quantity).symbol
        self.offset = value_spin(unit)
        self.spins = [value_spin(unit) for _ in range(4)]
        self._said = plain_label()
        ink(self._said, theme().unsound)
        self._said.setWordWrap(True)
        form = QFormLayout()
        form.addRow(self.by_offset)
        form.addRow("Add to every value", self.offset)
        form.addRow(self.by_points)
        names = ("It read", "and it was", "It read", "and it was")
        for name, spin in zip(names, self.spins, strict=True):
            form.addRow(name, spin)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self._said)
        column.addWidget(buttons(self))
        self._show(before)
        self.by_offset.toggled.connect(self._renew)
        self._renew()

    def _show(self, before: Correction) -> None:
        quantity, units = self._sensor.quantity, self._units
        self.by_points.setChecked(bool(before.points))
        self.by_offset.setChecked(not before.points)
        if not before.points:
            self.offset.setValue(units.shown_difference(quantity, before.offset))
        values = [value for point in before.points for value in point]
        for spin, value in zip(self.spins, values, strict=False):
            spin.setValue(units.shown(quantity, value))

    def _renew(self) -> None:
        self.offset.setEnabled(self.by_offset.isChecked())
        for spin in self.spins:
            spin.setEnabled(self.by_points.isChecked())

    def accept(self) -> None:
        """Takes it, or says what is wrong with it."""
        quantity, units = self._sensor.quantity, self._units
        try:
            if self.by_offset.isChecked():
                self.correction = by_offset(units.kept_difference(quantity, self.offset.value()))
            else:
                raw, true, raw_2, true_2 = (
                    units.kept(quantity, spin.value()) for spin in self.spins
                )
                self.correction = by_points((raw, true), (raw_2, true_2))
        except InputError as error:
            self._said.setText(str(error))
            return
        super().accept()


class ReferenceDialog(QDialog):
    """Asks what a reference said at a moment.

    Args:
        sensor: the sensor that is compared with it.
        units: the units in which the value is given.
        at_ns: the moment that is meant, if nothing else is said.
        clock: whether times are by the calendar.
    """

    def __init__(
        self,
        sensor: Sensor,
        units: UnitChoice,
        at_ns: int,
        clock: bool,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("What a reference said")
        self._sensor, self._units, self._at_ns, self._clock = sensor, units, at_ns, clock
        unit = units.of(sensor.quantity).symbol
        self.name = QLineEdit("wall instrument")
        self.value, self.accuracy = value_spin(unit), value_spin(unit)
        self.accuracy.setMinimum(0.0)
        self.accuracy.setSpecialValueText("not known")
        self.at = QDateTimeEdit()
        self.at.setDisplayFormat("yyyy-MM-dd HH:mm:ss")
        self.at.setDateTime(QDateTime.fromMSecsSinceEpoch(at_ns // 1_000_000))
        form = QFormLayout()
        form.addRow("Name", self.name)
        form.addRow(f"Its {sensor.quantity}", self.value)
        form.addRow("Its accuracy, ±", self.accuracy)
        if clock:
            form.addRow("When", self.at)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(buttons(self))
        self.value.setFocus()

    def reference(self) -> Reference:
        """What was given."""
        quantity = self._sensor.quantity
        at_ns = self._at_ns
        if self._clock:
            at_ns = self.at.dateTime().toMSecsSinceEpoch() * 1_000_000
        value = self._units.kept(quantity, self.value.value())
        accuracy = self._units.kept_difference(quantity, self.accuracy.value())
        name = " ".join(self.name.text().split()) or "reference"
        times = np.array([at_ns], dtype=np.int64)
        return Reference(name, quantity, times, np.array([value]), accuracy or None)


def value_spin(unit: str) -> NumberBox:
    """A field for a value in a unit."""
    spin = NumberBox()
    spin.setRange(-LIMIT, LIMIT)
    spin.setDecimals(3 if unit in ("m", "in") else 2)
    spin.setSuffix(f" {unit}")
    return spin


def buttons(dialog: QDialog) -> QDialogButtonBox:
    """OK and Cancel of a dialog."""
    kinds = QDialogButtonBox.StandardButton
    row = QDialogButtonBox(kinds.Ok | kinds.Cancel)
    row.accepted.connect(dialog.accept)
    row.rejected.connect(dialog.reject)
    return row
