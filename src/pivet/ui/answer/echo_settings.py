"""What an echo sensor's distance rests on: the air, the vessel below, how far it reaches."""

import math

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from pivet.captures.air_sources import AirSource, air_sources
from pivet.captures.text import wire_names
from pivet.frozen import replace
from pivet.judge.echo.judged import rule_of
from pivet.readings.sound import (
    COLDEST_C,
    USUAL_AIR_C,
    WARMEST_C,
    Vessel,
    fixed_air,
    round_area,
)
from pivet.readings.units import AS_KEPT, UnitChoice
from pivet.sheets.load import all_sheets
from pivet.sheets.reach import AS_IN_SHEET, Reach
from pivet.ui.answer.reach import ReachDialog
from pivet.ui.drawing.asking import accepted
from pivet.ui.drawing.numbers import NumberBox, ask_number
from pivet.ui.drawing.widgets import plain_label, tighten
from pivet.ui.session.session import Session
from pivet.ui.window.choosing import ChoiceBox

GIVE = "give…"
WARMTH = "temperature"
LONGEST_M = 10.0
CAVE_C = 12.0
"""Offered where a temperature is asked for."""


class EchoSettings(QWidget):
    """Chooses air temperature, vessel and reach of the chosen wire; hidden for other families."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._air = ChoiceBox()
        self._air.setAccessibleName("Air temperature for the speed of sound")
        self._air.picked.connect(self._on_air)
        self._air.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self._vessel = QPushButton("Vessel…")
        self._vessel.setToolTip("Derive level, share and volume from the distance")
        tighten(self._vessel)
        self._vessel.clicked.connect(self.ask_vessel)
        self._reach = QPushButton("Reach…")
        self._reach.setToolTip("Timeout when nothing is in range, and the farthest distance")
        tighten(self._reach)
        self._reach.clicked.connect(self.ask_reach)
        air, more = QHBoxLayout(), QHBoxLayout()
        air.addWidget(plain_label("Air"))
        air.addWidget(self._air, 1)
        more.addWidget(self._vessel, 1)
        more.addWidget(self._reach, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(air)
        column.addLayout(more)

    @property
    def air_box(self) -> QComboBox:
        """The list of air temperatures."""
        return self._air

    def renew(self) -> None:
        """Shows what is chosen for the wire."""
        wire = self._session.wire
        echo = wire is not None and wire.sheet.echo is not None
        self.setVisible(echo)
        if wire is None or not echo or self._air.view().isVisible():
            return
        air = wire.choices.air
        self._air.blockSignals(True)
        self._air.clear()
        self._air.addItem(f"{self._warm(USUAL_AIR_C)} assumed", None)
        if air is not None:
            fixed = air.label == "given"
            self._air.addItem(f"{self._warm(air.values[0])} given" if fixed else air.label, air)
            self._air.setCurrentIndex(1)
        for source in self._sources():
            if air is None or air.label != f"from {source.label}":
                self._air.addItem(f"from {source.label}", source)
        self._air.addItem(GIVE, GIVE)
        self._air.blockSignals(False)
        self._vessel.setText("Vessel…" if wire.choices.vessel is None else "Vessel ✓…")
        self._reach.setText("Reach…" if wire.choices.reach == AS_IN_SHEET else "Reach ✓…")

    def _on_air(self, index: int) -> None:
        wire = self._session.wire
        chosen = self._air.itemData(index)
        if wire is None:
            return
        if chosen == GIVE:
            self.ask_air()
        elif chosen is None:
            self._session.edits.change_choices(replace(wire.choices, air=None), "usual air")
        elif chosen is not wire.choices.air:
            air = chosen.air() if isinstance(chosen, AirSource) else chosen
            self._session.edits.change_choices(replace(wire.choices, air=air), "air temperature")

    def _sources(self) -> list[AirSource]:
        """Thermometers of the shown capture."""
        capture, roles = self._session.capture, self._session.roles
        if capture is None:
            return []
        rows = zip(wire_names(capture), capture.wires, strict=True)
        return air_sources([(name, wire, roles.told(wire.tracks)) for name, wire in rows])

    def _warm(self, air_c: float) -> str:
        """A temperature in the unit that was chosen."""
        units = self._session.shown.units
        return f"{round(units.shown(WARMTH, air_c), 1):g} {units.of(WARMTH).symbol}"

    def ask_air(self) -> None:
        """Asks for an air temperature."""
        units = self._session.shown.units
        ask = f"For the speed of sound, {units.of(WARMTH).symbol}:"
        usual, least, most = (
            units.shown(WARMTH, warmth) for warmth in (CAVE_C, COLDEST_C, WARMEST_C)
        )
        air = ask_number(self, "Air temperature", ask, usual, least, most, 1)
        if air is not None:
            self.give_air(min(max(units.kept(WARMTH, air), COLDEST_C), WARMEST_C))
        else:
            self.renew()

    def give_air(self, air_c: float) -> None:
        """Takes an air temperature for the chosen wire."""
        wire = self._session.wire
        if wire is not None:
            choices = replace(wire.choices, air=fixed_air(air_c))
            self._session.edits.change_choices(choices, "air temperature")

    def ask_reach(self) -> None:
        """Asks for timeout and farthest distance."""
        wire = self._session.wire
        if wire is None:
            return
        sheet = wire.choices.sheet or all_sheets().get(wire.sheet.id, wire.sheet)
        units = self._session.shown.units
        dialog = ReachDialog(wire.choices.reach, rule_of(sheet), self, units)
        if accepted(dialog):
            self.take_reach(dialog.reach)

    def take_reach(self, reach: Reach) -> None:
        """Takes timeout and farthest distance for the chosen wire."""
        wire = self._session.wire
        if wire is not None:
            choices = replace(wire.choices, reach=reach)
            self._session.edits.change_choices(choices, "reach of the sensor")

    def ask_vessel(self) -> None:
        """Asks for the vessel below the sensor."""
        wire = self._session.wire
        if wire is None:
            return
        dialog = VesselDialog(wire.choices.vessel, self, self._session.shown.units)
        if accepted(dialog):
            self.take_vessel(dialog.vessel())

    def take_vessel(self, vessel: Vessel | None) -> None:
        """Derives a level for a vessel; None goes back to the distance."""
        wire = self._session.wire
        if wire is not None:
            self._session.edits.change_choices(replace(wire.choices, vessel=vessel), "vessel")


class VesselDialog(QDialog):
    """Depth, full level and cross-section of an upright vessel, in the unit that was chosen."""

    def __init__(
        self,
        vessel: Vessel | None,
        parent: QWidget | None = None,
        units: UnitChoice = AS_KEPT,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Vessel below the sensor")
        depth = vessel.depth_m if vessel is not None else 1.0
        full = vessel.full_m if vessel is not None else 0.9
        self.depth_box = LengthBox(depth, units, "From the sensor to the bottom")
        self.full_box = LengthBox(full, units, "Level that counts as full")
        area = vessel.area_m2 if vessel is not None else 0.0
        diameter = 2 * math.sqrt(area / math.pi)
        self.diameter_box = LengthBox(diameter, units, "0 when only the level matters")
        self.depth_box.valueChanged.connect(self._check)
        self.full_box.valueChanged.connect(self._check)
        self._wrong = plain_label("Full cannot be higher than the sensor.")
        form = QFormLayout()
        form.addRow("Sensor above the bottom", self.depth_box)
        form.addRow("Full at a level of", self.full_box)
        form.addRow("Inner diameter", self.diameter_box)
        self._buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        self._none = self._buttons.addButton(
            "Distance only", QDialogButtonBox.ButtonRole.DestructiveRole
        )
        self._none.clicked.connect(self._take_none)
        self._buttons.accepted.connect(self.accept)
        self._buttons.rejected.connect(self.reject)
        self._distance_only = False
        column = QVBoxLayout(self)
        column.addWidget(
            plain_label("Level = depth − distance; of an upright, round vessel also the volume.")
        )
        column.addLayout(form)
        column.addWidget(self._wrong)
        column.addWidget(self._buttons)
        self._check()

    def _check(self) -> None:
        wrong = self.full_box.value() > self.depth_box.value()
        self._wrong.setVisible(wrong)
        self._buttons.button(QDialogButtonBox.StandardButton.Ok).setEnabled(not wrong)

    def _take_none(self) -> None:
        self._distance_only = True
        self.accept()

    def vessel(self) -> Vessel | None:
        """What was entered; None for the distance only."""
        if self._distance_only:
            return None
        return Vessel(
            self.depth_box.metres, self.full_box.metres, round_area(self.diameter_box.metres)
        )


class LengthBox(NumberBox):
    """A length up to 10 m in the unit that was chosen; as long as nobody changes it, exact."""

    def __init__(self, metres: float, units: UnitChoice, tip: str) -> None:
        super().__init__()
        self._given, self._units = metres, units
        self.setDecimals(units.decimals("distance", 3))
        self.setRange(0.0, units.shown("distance", LONGEST_M))
        self.setSingleStep(units.shown("distance", 0.01))
        self.setSuffix(f" {units.of('distance').symbol}")
        self.setValue(units.shown("distance", metres))
        self.setToolTip(tip)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._shown = self.value()

    @property
    def metres(self) -> float:
        """The length, m."""
        if self.value() == self._shown:
            return self._given
        return self._units.kept("distance", self.value())
