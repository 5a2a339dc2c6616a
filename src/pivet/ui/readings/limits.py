"""The form for the limits of a sensor."""

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFormLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from pivet.errors import InputError
from pivet.readings.limits import Limit
from pivet.readings.series import Sensor
from pivet.ui.agreement.correcting import buttons, value_spin
from pivet.ui.drawing.numbers import NumberBox
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import ink, plain_label
from pivet.ui.readings.store import ReadingsStore
from pivet.ui.session.session import Session

LONGEST_S = 86_400.0


class LimitsDialog(QDialog):
    """Asks for lines that readings must not cross.

    Args:
        session: knows the units.
        store: the readings and their limits.
        sensor: the sensor that is meant first.
    """

    def __init__(
        self, session: Session, store: ReadingsStore, sensor: Sensor, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Limits")
        self._session, self._store = session, store
        self.sensor = QComboBox()
        for known in store.sensors:
            who = f", {known.who}" if known.who else ""
            self.sensor.addItem(f"{known.wire}{who}: {known.quantity}", known)
        self.has_low, self.has_high = QCheckBox("Not below"), QCheckBox("Not above")
        self.low, self.high, self.hysteresis = value_spin(""), value_spin(""), value_spin("")
        self.hysteresis.setMinimum(0.0)
        self.delay = NumberBox()
        self.delay.setRange(0.0, LONGEST_S)
        self.delay.setDecimals(0)
        self.delay.setSuffix(" s")
        self._said = plain_label()
        self._said.setWordWrap(True)
        ink(self._said, theme().unsound)
        self.none = QPushButton("No limits")
        form = QFormLayout()
        form.addRow("Sensor", self.sensor)
        form.addRow(self.has_low, self.low)
        form.addRow(self.has_high, self.high)
        form.addRow("Must come back by", self.hysteresis)
        form.addRow("Must last for", self.delay)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self._said)
        foot = buttons(self)
        foot.addButton(self.none, foot.ButtonRole.ResetRole)
        column.addWidget(foot)
        self.none.clicked.connect(self._take_away)
        self.has_low.toggled.connect(self.low.setEnabled)
        self.has_high.toggled.connect(self.high.setEnabled)
        self.sensor.currentIndexChanged.connect(lambda _: self._show())
        at = next((n for n in range(self.sensor.count()) if self.sensor.itemData(n) == sensor), 0)
        self.sensor.setCurrentIndex(at)
        self._show()

    def _show(self) -> None:
        sensor: Sensor | None = self.sensor.currentData()
        if sensor is None:
            return
        units, quantity = self._session.shown.units, sensor.quantity
        limit = self._store.annotations.limits.get(sensor)
        for spin in (self.low, self.high, self.hysteresis):
            spin.setSuffix(f" {units.of(quantity).symbol}")
        series = self._store.readings.series_of(sensor)
        given = series.values[series.given] if series is not None else None
        low, high = (
            (float(given.min()), float(given.max())) if given is not None and given.size else (0, 0)
        )
        self.has_low.setChecked(limit is not None and limit.low is not None)
        self.has_high.setChecked(limit is not None and limit.high is not None)
        if limit is not None:
            low = limit.low if limit.low is not None else low
            high = limit.high if limit.high is not None else high
        self.low.setValue(units.shown(quantity, low))
        self.high.setValue(units.shown(quantity, high))
        self.low.setEnabled(self.has_low.isChecked())
        self.high.setEnabled(self.has_high.isChecked())
        kept = limit.hysteresis if limit is not None else 0.0
        self.hysteresis.setValue(units.shown_difference(quantity, kept))
        self.delay.setValue(limit.delay_s if limit is not None else 0.0)
        self.none.setEnabled(limit is not None)
        self._said.setText("")

    def _limit(self, sensor: Sensor) -> Limit:
        units, quantity = self._session.shown.units, sensor.quantity
        return Limit(
            units.kept(quantity, self.low.value()) if self.has_low.isChecked() else None,
            units.kept(quantity, self.high.value()) if self.has_high.isChecked() else None,
            units.kept_difference(quantity, self.hysteresis.value()),
            self.delay.value(),
        )

    def accept(self) -> None:
        """Takes them, or says what is wrong."""
        sensor: Sensor | None = self.sensor.currentData()
        if sensor is None:
            return
        try:
            limit = self._limit(sensor)
        except InputError as error:
            self._said.setText(str(error))
            return
        given = self._store.annotations.limited(sensor, limit)
        self._store.change(given, f"limits of {sensor.who or sensor.wire}")
        if self._store.annotations.limits.get(sensor) != limit:
            self._said.setText("The limits could not be written: see the bar in the window.")
            return
        super().accept()

    def _take_away(self) -> None:
        sensor: Sensor | None = self.sensor.currentData()
        if sensor is not None:
            given = self._store.annotations.limited(sensor, None)
            self._store.change(given, f"no limits of {sensor.who or sensor.wire}")
        super().accept()
