"""The pane that moves the simulated world: its climate, its wires, its probe."""

from collections.abc import Mapping
from functools import partial
from typing import Any

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QWidget,
)

from pivet.standin.live.cave import PROBES, RANGES
from pivet.ui.drawing.numbers import NumberBox
from pivet.ui.drawing.painting import font_of
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import ink, plain_label, tighten
from pivet.ui.standin.process import StandinProcess
from pivet.ui.window.choosing import ChoiceBox

PLACES = ("shelf_A", "wash_room", "blast_chiller", "cellar_door", "brine_vat", *PROBES)
WIRES = ("shelf_A", "wash_room", "wheels", "brine_vat", "blast_chiller", "cellar_door", "spare")
SENSORS = ("shelf_A", "wash_room", *PROBES, "brine_vat", "blast_chiller", "cellar_door")
DROPPED = 40
SLOW_PERCENT = 8
CRASH_S = 3
STRIPE = 10
WIDTH = 92
TIGHT = "padding: 3px 8px"


class Hatched(QWidget):
    """A hatched edge with a word: none of this is real."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFixedWidth(WIDTH)
        self.setToolTip("These sensors are simulated; nothing here is measured.")

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paints the stripes, and the words on them."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = theme()
        painter.fillRect(self.rect(), colours.glow)
        stripe = QColor(colours.panel)
        stripe.setAlpha(70)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(stripe)
        for y in range(-self.width(), self.height() + self.width(), 2 * STRIPE):
            painter.save()
            painter.translate(0, y)
            painter.shear(0, -1)
            painter.drawRect(QRectF(0, self.width(), self.width(), STRIPE))
            painter.restore()
        box = QRectF(self.rect()).adjusted(5, 0, -5, 0)
        box.setTop(box.center().y() - 20)
        box.setHeight(40)
        painter.setBrush(colours.glow)
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(colours.panel)
        painter.setFont(font_of(self, 0.9, bold=True))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "SIMULATED\ncave")


class StandinPane(QFrame):
    """Moves the world of the stand-in cave.

    Args:
        process: that simulates it.
        parent: where it stands.

    Signals:
        closed: it is not wanted any more.
    """

    closed = Signal()

    def __init__(self, process: StandinProcess, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.setAccessibleName("Simulated cave")
        self._process = process
        self._state: Mapping[str, Any] = {}
        self.place, self.wire, self.sensor = _box(PLACES), _box(WIRES), _box(SENSORS)
        self.first, self.second = _box(tuple(PROBES)), _box(tuple(PROBES))
        self.second.setCurrentIndex(1)
        self.spins = {key: _spin(*RANGES[key]) for key in RANGES}
        self.plug = QPushButton("Pull off")
        self.weak, self.noisy = QCheckBox("weak"), QCheckBox("noise")
        self.slow = QCheckBox("slow")
        self.weak.setToolTip("A weak pull-up: edges rise 5 µs late")
        self.noisy.setToolTip("Spikes on the line")
        self.slow.setToolTip(f"The sensor's clock is {SLOW_PERCENT} % slow")
        row = QHBoxLayout(self)
        row.setContentsMargins(1, 1, 8, 1)
        row.setSpacing(10)
        row.addWidget(Hatched())
        row.addLayout(self._climate())
        row.addWidget(_rule())
        row.addLayout(self._sensors())
        row.addWidget(_rule())
        row.addLayout(self._link())
        row.addStretch(1)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self._connect()

    def _climate(self) -> QGridLayout:
        first, second = QHBoxLayout(), QHBoxLayout()
        first.addWidget(self.place)
        for text, order, tip in (
            ("Breathe", "breathe", "A breath: humidity climbs within seconds"),
            ("Warm hand", "hand", "A hand around the sensor: minutes"),
            ("Cold", "cold", "Something cold beside it"),
        ):
            first.addWidget(self._button(text, tip, partial(self._at_place, order)))
        for key, spin in self.spins.items():
            spin.setAccessibleName(key)
            spin.setToolTip(f"The {key} there now; another value changes it")
            second.addWidget(spin)
        second.addStretch(1)
        return _rows(("Climate", first), ("now", second))

    def _sensors(self) -> QGridLayout:
        first, second = QHBoxLayout(), QHBoxLayout()
        tighten(self.plug)
        first.addWidget(self.sensor)
        first.addWidget(self.plug)
        brown = self._button("Brown-out", "The supply of its sensors dips", self._brown_out)
        for part in (self.wire, self.weak, self.noisy, self.slow, brown):
            second.addWidget(part)
        first.addStretch(1)
        return _rows(("Sensor", first), ("Wire", second))

    def _link(self) -> QGridLayout:
        first, second = QHBoxLayout(), QHBoxLayout()
        swap = self._button("Swap", "Two thermometers change places", self._swap)
        for part in (self.first, self.second, swap):
            first.addWidget(part)
        for text, tip, run in (
            (
                "Drop bytes",
                f"{DROPPED} bytes get lost on the serial line",
                partial(self._process.order, f"drop {DROPPED}"),
            ),
            ("Crash", f"Away for {CRASH_S} s", partial(self._process.order, f"crash {CRASH_S}")),
            ("End", "End the simulated cave", self.closed.emit),
        ):
            second.addWidget(self._button(text, tip, run))
        return _rows(("", first), ("Probe", second))

    def _button(self, text: str, tip: str, run: Any) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        tighten(button)
        button.clicked.connect(lambda: run())
        return button

    def _connect(self) -> None:
        self._process.state.connect(self._on_state)
        self.place.currentIndexChanged.connect(self._renew)
        self.wire.currentIndexChanged.connect(self._renew)
        self.sensor.currentIndexChanged.connect(self._renew)
        self.plug.clicked.connect(self._plug)
        self.weak.clicked.connect(lambda on: self._at_wire("pull-up", "weak" if on else "good"))
        self.noisy.clicked.connect(lambda on: self._at_wire("noise", "on" if on else "off"))
        self.slow.clicked.connect(lambda on: self._at_wire("clock", SLOW_PERCENT if on else 0))
        for key, spin in self.spins.items():
            spin.editingFinished.connect(partial(self._set, key))

    def _at_place(self, order: str) -> None:
        self._process.order(f"{order} {self.place.currentText()}")

    def _at_wire(self, order: str, value: object) -> None:
        self._process.order(f"{order} {self.wire.currentText()} {value}")

    def _brown_out(self) -> None:
        self._process.order(f"brown-out {self.wire.currentText()}")

    def _swap(self) -> None:
        self._process.order(f"swap {self.first.currentText()} {self.second.currentText()}")

    def _plug(self) -> None:
        order = "unplug" if self._is_plugged() else "plug"
        self._process.order(f"{order} {self.sensor.currentText()}")

    def _set(self, key: str) -> None:
        spin = self.spins[key]
        if spin.property("told") != spin.value():
            spin.setProperty("told", spin.value())
            place = "brine_vat" if key == "level" else self.place.currentText()
            self._process.order(f"set {place} {key} {spin.value():g}")

    def _is_plugged(self) -> bool:
        name = self.sensor.currentText()
        if name in PROBES:
            return bool(self._state.get("probes", {}).get(name, True))
        return not self._state.get("wires", {}).get(name, {}).get("unplugged", False)

    def _on_state(self, state: Mapping[str, Any]) -> None:
        self._state = state
        self._renew()

    def _renew(self) -> None:
        """Shows the truth; what is being typed is left alone."""
        if not self._state:
            return
        place = self._state["places"].get(self.place.currentText(), {})
        values = {**place, "level": self._state["level"]}
        for key, spin in self.spins.items():
            if not spin.hasFocus() and key in values:
                spin.setValue(values[key])
                spin.setProperty("told", spin.value())
        self.spins["level"].setVisible(self.place.currentText() == "brine_vat")
        wire = self._state["wires"].get(self.wire.currentText(), {})
        self.weak.setChecked(bool(wire.get("weak")))
        self.noisy.setChecked(bool(wire.get("noisy")))
        self.slow.setChecked(bool(wire.get("clock")))
        self.plug.setText("Pull off" if self._is_plugged() else "Put back")


def _box(names: tuple[str, ...]) -> QComboBox:
    box = ChoiceBox()
    box.addItems(list(names))
    return box


def _spin(low: float, high: float, unit: str) -> NumberBox:
    spin = NumberBox()
    spin.setRange(low, high)
    spin.setDecimals(2 if unit == "m" else 1)
    spin.setSingleStep(0.05 if unit == "m" else 0.5)
    spin.setSuffix(f" {unit}")
    return spin


def _bold(text: str) -> QLabel:
    label = plain_label(text)
    font = label.font()
    font.setBold(True)
    label.setFont(font)
    return label


def _rule() -> QFrame:
    rule = QFrame()
    rule.setFrameShape(QFrame.Shape.VLine)
    ink(rule, theme().edge)
    return rule


def _rows(*rows: tuple[str, QHBoxLayout]) -> QGridLayout:
    grid = QGridLayout()
    grid.setContentsMargins(0, 5, 0, 5)
    grid.setVerticalSpacing(4)
    for number, (word, row) in enumerate(rows):
        row.setSpacing(5)
        grid.addWidget(_bold(word), number, 0)
        grid.addLayout(row, number, 1)
    return grid
