"""The Agreement view: does a sensor agree with its reference, and what to do if not."""

from collections.abc import Sequence
from functools import partial
from html import escape
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QInputDialog,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from pivet.errors import PivetError
from pivet.files.reference_csv import LoggedColumn, read_reference
from pivet.history.agree import (
    Comparison,
    compared,
    figure_rows,
    headline,
    suggested,
    verdict_of,
)
from pivet.judge.verdict import Verdict
from pivet.person.annotations import Reference
from pivet.readings.correction import Correction, by_offset
from pivet.readings.series import Sensor
from pivet.readings.units import QUANTITIES
from pivet.ui.agreement.correcting import CorrectionDialog, ReferenceDialog
from pivet.ui.agreement.plots import AgreementPlots
from pivet.ui.answer.findings import WeightSign
from pivet.ui.drawing.asking import accepted
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import GAP, plain_label, rich_label, tight_button, told_label
from pivet.ui.readings.page import ReadingsPage
from pivet.ui.readings.store import ReadingsStore
from pivet.ui.session.session import Session
from pivet.ui.window.choosing import ChoiceBox
from pivet.ui.work.turns import turns

SIDE_PX = 330
NO_READINGS = "Nothing was read yet. Open a capture or a bench, or listen to a wire."
COMPARING = "The readings are being compared …"
NO_REFERENCE = (
    "Choose a reference: another sensor, a value that you type, or the log of an instrument."
)


class AgreementPage(ReadingsPage):
    """A sensor against a reference.

    Args:
        session: what is shown.
        store: the readings.
    """

    def __init__(
        self,
        session: Session,
        store: ReadingsStore,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(session, store, parent)
        self.sensor, self.reference = ChoiceBox(), ChoiceBox()
        self.plots = AgreementPlots()
        self.mark = WeightSign(Verdict.UNKNOWN)
        self.headline, self.figures, self.correction = told_label(), told_label(), told_label()
        self.empty = plain_label(NO_READINGS)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.comparison: Comparison | None = None
        self._compared: tuple[Sensor, Sensor | Reference] | None = None
        self.keep = tight_button("Keep offset", "Takes the mean difference away from all values")
        self.points = tight_button("Correct…", "By an offset, or through two points")
        self.remove = tight_button("Remove", "Shows the raw values again")
        self.type_value = tight_button("Type a value…", "What a wall instrument says at a moment")
        self.read_log = tight_button(
            "Read a log…", "A CSV log of an instrument, with its own times"
        )
        self.forget = tight_button("Forget", "Forgets the chosen reference")
        self._build()
        self._connect()

    def _build(self) -> None:
        side = QFrame()
        side.setObjectName("panel")
        side.setMinimumWidth(SIDE_PX)
        column = QVBoxLayout(side)
        column.setContentsMargins(14, 12, 14, 12)
        column.setSpacing(8)
        column.addWidget(rich_label("<b>Sensor</b>"))
        column.addWidget(self.sensor)
        column.addWidget(rich_label("<b>Reference</b>"))
        column.addWidget(self.reference)
        column.addLayout(_row(self.type_value, self.read_log, self.forget))
        column.addSpacing(6)
        told = QHBoxLayout()
        told.addWidget(self.mark, 0, Qt.AlignmentFlag.AlignTop)
        told.addWidget(self.headline, 1)
        column.addLayout(told)
        column.addWidget(self.figures)
        column.addSpacing(6)
        column.addWidget(rich_label("<b>Correction of the sensor</b>"))
        column.addWidget(self.correction)
        column.addLayout(_row(self.keep, self.points, self.remove))
        column.addStretch(1)
        middle = QFrame()
        middle.setObjectName("panel")
        inner = QVBoxLayout(middle)
        inner.setContentsMargins(6, 8, 6, 6)
        inner.addWidget(self.plots)
        inner.addWidget(self.empty)
        columns = QSplitter(Qt.Orientation.Horizontal)
        columns.setHandleWidth(GAP)
        columns.setChildrenCollapsible(False)
        columns.addWidget(side)
        columns.addWidget(middle)
        columns.setStretchFactor(1, 1)
        outer = QHBoxLayout(self)
        outer.setContentsMargins(GAP, GAP, GAP, GAP)
        outer.addWidget(columns)
        self.sensor.setAccessibleName("Sensor")
        self.reference.setAccessibleName("Reference")
        self.reference.setPlaceholderText("choose one")

    def _connect(self) -> None:
        self._store.changed.connect(self._on_readings)
        self._store.annotations_changed.connect(self._on_readings)
        self._session.shown_changed.connect(self.renew_soon)
        self.sensor.picked.connect(lambda _: self._list_references())
        self.reference.picked.connect(lambda _: self._compare())
        self.type_value.clicked.connect(self.ask_value)
        self.read_log.clicked.connect(self.choose_log)
        self.forget.clicked.connect(self._forget)
        self.keep.clicked.connect(self.keep_offset)
        self.points.clicked.connect(self.ask_correction)
        self.remove.clicked.connect(lambda: self._correct(None, "removing a correction"))

    def _on_readings(self, _others: bool = False) -> None:
        if self.isVisible():
            self._list_sensors()

    @property
    def parts(self) -> Sequence[QWidget]:
        """What is compared, and with what."""
        return self.sensor, self.reference

    def renew(self) -> None:
        """Units or colours are others."""
        if self.isVisible():
            self._list_sensors()

    # What is compared.

    def _list_sensors(self) -> None:
        wanted: Sensor | None = self.sensor.currentData()
        if wanted is None:
            name = self._session.wire_name
            wanted = next((sensor for sensor in self._store.sensors if sensor.wire == name), None)
        self.sensor.clear()
        for sensor in self._store.sensors:
            self.sensor.addItem(_name(sensor), sensor)
        self.sensor.setCurrentIndex(max(_index_of(self.sensor, wanted), 0))
        self._list_references()

    def _list_references(self) -> None:
        sensor: Sensor | None = self.sensor.currentData()
        wanted = self.reference.currentText()
        self.reference.clear()
        if sensor is not None:
            dimension = QUANTITIES[sensor.quantity]
            for other in self._store.sensors:
                if other != sensor and QUANTITIES[other.quantity] is dimension:
                    self.reference.addItem(_name(other), other)
            for reference in self._store.annotations.references:
                if QUANTITIES[reference.quantity] is dimension:
                    self.reference.addItem(f"{reference.name} (reference)", reference)
        # Two sensors may hang in different places: which belong together only the person knows.
        at = self.reference.findText(wanted) if wanted else -1
        self.reference.setCurrentIndex(at if at >= 0 else self._first_given(sensor))
        self._compare()

    def _first_given(self, sensor: Sensor | None) -> int:
        """The place of the first reference that somebody gave for what a sensor measures."""
        rows = [self.reference.itemData(place) for place in range(self.reference.count())]
        given = (
            at
            for at, item in enumerate(rows)
            if isinstance(item, Reference)
            and sensor is not None
            and item.quantity == sensor.quantity
        )
        return next(given, -1)

    def point_out(self) -> None:
        """The chosen sensor beside the first other one of its kind."""
        sensor: Sensor | None = self.sensor.currentData()
        rows = [self.reference.itemData(place) for place in range(self.reference.count())]
        alike = (at for at, item in enumerate(rows) if sensor and item.quantity == sensor.quantity)
        self.reference.setCurrentIndex(next(alike, -1))
        self._compare()

    def choose(self, sensor: Sensor, reference: str) -> None:
        """Compares a sensor with a reference of a name."""
        self.sensor.setCurrentIndex(_index_of(self.sensor, sensor))
        self._list_references()
        self.reference.setCurrentIndex(self.reference.findText(reference))
        self._compare()

    def _compare(self) -> None:
        sensor: Sensor | None = self.sensor.currentData()
        other: Sensor | Reference | None = self.reference.currentData()
        if sensor is None or other is None:
            self._store.background.forget(self)
            self._compared = None
            self._show_comparison(None)
            return
        if (sensor, other) != self._compared:
            self._show_comparison(None, COMPARING)
            self._compared = (sensor, other)
        readings = self._store.readings
        work = partial(compared, readings.series_of, sensor, other)
        self._store.background.ask(
            self, lambda _: work(), self._show_comparison, self._store.is_little
        )

    def _show_comparison(self, comparison: Comparison | None, why_not: str = "") -> None:
        self.comparison = comparison
        self._tell(why_not)

    def _tell(self, why_not: str = "") -> None:
        units = self._session.shown.units
        comparison, sensor = self.comparison, self.sensor.currentData()
        self.plots.setVisible(comparison is not None)
        self.empty.setVisible(comparison is None)
        self.headline.setVisible(comparison is not None)
        self.figures.setVisible(comparison is not None)
        self.forget.setEnabled(isinstance(self.reference.currentData(), Reference))
        for part in (self.type_value, self.read_log, self.points):
            part.setEnabled(sensor is not None)
        before = None if sensor is None else self._store.annotations.corrections.get(sensor)
        self.remove.setEnabled(before is not None)
        self.keep.setEnabled(comparison is not None and comparison.found is not None)
        acts = "none: the values are as they were read" if sensor is not None else ""
        if before is not None and sensor is not None:
            acts = f"{before.text(sensor.quantity, units)}; the raw values are kept"
        self.correction.setText(acts)
        if comparison is None:
            self.mark.hide()
            self.empty.setText(why_not or (NO_READINGS if sensor is None else NO_REFERENCE))
            return
        verdict = verdict_of(comparison)
        self.mark.show_verdict(verdict)
        self.mark.show()
        colour = theme().verdict(verdict).name()
        self.headline.setText(
            f"<span style='color:{colour}'><b>{escape(headline(comparison, units))}</b></span>"
        )
        rows = "".join(
            f"<tr><td style='padding-right:14px'>{name}</td><td><b>{escape(text)}</b></td></tr>"
            for name, text in figure_rows(comparison, units)
        )
        self.figures.setText(f"<table>{rows}</table>")
        turns().add(self, self._draw)

    def _draw(self) -> None:
        """The plots, once, however often what they show was made meanwhile."""
        if self.comparison is not None:
            units = self._session.shown.units
            self.plots.show_comparison(self.comparison, units, self._store.clock)

    # What the person does.

    def ask_value(self) -> None:
        """Asks what a reference says, now or at the moment that is looked at."""
        sensor: Sensor | None = self.sensor.currentData()
        span = self._store.span_ns
        if sensor is None or span is None:
            return
        at_ns = self._store.chosen_ns
        if at_ns is None or self._store.live:
            at_ns = span[1]
        dialog = ReferenceDialog(sensor, self._session.shown.units, at_ns, self._store.clock, self)
        if accepted(dialog):
            self.add_reference(dialog.reference())

    def add_reference(self, reference: Reference) -> None:
        """Takes a reference and compares with it."""
        given = self._store.annotations.referred(reference)
        self._store.change(given, f"reference {reference.name}")
        if reference not in self._store.annotations.references:
            return
        self.reference.setCurrentIndex(self.reference.findText(f"{reference.name} (reference)"))
        self._compare()

    def choose_log(self) -> None:
        """Asks for the log of a reference instrument."""
        name, _ = QFileDialog.getOpenFileName(
            self, "Log of a reference", "", "Logs (*.csv *.txt *.tsv);;All files (*)"
        )
        if name:
            self.take_log(Path(name))

    def take_log(self, path: Path) -> None:
        """Takes the log of a reference instrument."""
        if not self._store.clock:
            self._session.refuse(
                f"{path.name} has times by the calendar, and a capture has none: record the wire "
                "into a bench to compare with it."
            )
            return
        try:
            columns = read_reference(path)
        except PivetError as error:
            self._session.refuse(str(error))
            return
        column = self._column_of(columns)
        sensor: Sensor | None = self.sensor.currentData()
        if column is None or sensor is None:
            return
        name = path.stem if len(columns) == 1 else f"{path.stem}, {column.name}"
        self.add_reference(Reference(name, sensor.quantity, column.times_ns, column.values))

    def _column_of(self, columns: list[LoggedColumn]) -> LoggedColumn | None:
        sensor: Sensor | None = self.sensor.currentData()
        quantity = "" if sensor is None else sensor.quantity
        fitting = [column for column in columns if column.quantity == quantity]
        if len(fitting) == 1:
            return fitting[0]
        rows = fitting or columns
        if len(rows) == 1 and not rows[0].quantity:
            return rows[0]
        names = [column.name for column in rows]
        name, chosen = QInputDialog.getItem(
            self, "Log of a reference", f"Which column is the {quantity}?", names, 0, False
        )
        return rows[names.index(name)] if chosen else None

    def _forget(self) -> None:
        reference = self.reference.currentData()
        if isinstance(reference, Reference):
            self._store.change(
                self._store.annotations.without(reference), f"forgetting {reference.name}"
            )

    def keep_offset(self) -> None:
        """Takes the mean difference away."""
        sensor: Sensor | None = self.sensor.currentData()
        if self.comparison is None or sensor is None:
            return
        before = self._store.annotations.corrections.get(sensor)
        self._correct(suggested(self.comparison, before), "correction by the mean difference")

    def ask_correction(self) -> None:
        """Asks for an offset, or two points."""
        sensor: Sensor | None = self.sensor.currentData()
        if sensor is None:
            return
        before = self._store.annotations.corrections.get(sensor, by_offset(0.0))
        dialog = CorrectionDialog(sensor, before, self._session.shown.units, self)
        if accepted(dialog) and dialog.correction is not None:
            self._correct(dialog.correction, "correction")

    def _correct(self, correction: Correction | None, name: str) -> None:
        sensor: Sensor | None = self.sensor.currentData()
        if sensor is not None:
            self._store.change(self._store.annotations.corrected(sensor, correction), name)


def _name(sensor: Sensor) -> str:
    who = f", {sensor.who}" if sensor.who else ""
    return f"{sensor.wire}{who}: {sensor.quantity}"


def _index_of(box: QComboBox, data: Any) -> int:
    return next((place for place in range(box.count()) if box.itemData(place) == data), -1)


def _row(*parts: QWidget) -> QHBoxLayout:
    row = QHBoxLayout()
    for part in parts:
        row.addWidget(part)
    row.addStretch(1)
    return row
