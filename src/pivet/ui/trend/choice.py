"""The list of what can be shown: wires with their quantities, each with its line."""

from collections.abc import Collection, Mapping, Sequence

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QPainter, QPalette, QPixmap
from PySide6.QtWidgets import QFrame, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from pivet.readings.series import Sensor
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import plain_tip, rich_label
from pivet.ui.readings.lines import LineStyle, label_of
from pivet.ui.trend.signs import draw_shape

SENSOR = Qt.ItemDataRole.UserRole
SAMPLE = QSize(30, 12)
MOST_AT_FIRST = 24
"""How many series are shown unasked: of more no eye follows one, and each takes its time."""

UNFOLDED = 60
"""How many series are listed at once; of more only the wires."""


class ChoicePanel(QFrame):
    """Chooses which series are shown.

    Signals:
        chosen: others are to be shown.
        current_changed: another series is the one that is meant; carries its sensor.
    """

    chosen = Signal()
    current_changed = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.tree = QTreeWidget()
        self.tree.setHeaderHidden(True)
        self.tree.setIconSize(SAMPLE)
        self.tree.setIndentation(12)
        self.tree.setFrameShape(QFrame.Shape.NoFrame)
        self.tree.setAccessibleName("What is shown")
        self.tree.itemChanged.connect(lambda *_: self.chosen.emit())
        self.tree.currentItemChanged.connect(self._on_current)
        self._title = rich_label("<b>What is shown</b>")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 10, 6, 6)
        column.addWidget(self._title)
        column.addWidget(self.tree, 1)
        self._seen: dict[Sensor, bool] = {}

    def renew(
        self,
        sensors: Sequence[Sensor],
        derived: Collection[Sensor],
        styles: Mapping[tuple[str, str], LineStyle],
        corrected: Collection[Sensor],
        wire: str = "",
    ) -> None:
        """Lists these; what was chosen stays so, and what is new is shown if it was measured.

        Args:
            sensors: what can be shown, in the order in which it was measured.
            derived: those of them that follow from others.
            styles: the styles of the lines, by wire and device.
            corrected: those whose values are corrected.
            wire: the chosen one; of very many series its own are shown first.
        """
        self._remember()
        unasked = self._unasked(sensors, derived, wire)
        current = self.current
        self.tree.blockSignals(True)
        self.tree.clear()
        palette = self.tree.palette()
        # The frames of empty boxes are drawn in a shade of this.
        palette.setColor(QPalette.ColorRole.Window, theme().faint)
        self.tree.setPalette(palette)
        heads: dict[tuple[str, str], QTreeWidgetItem] = {}
        for sensor in sorted(sensors, key=lambda one: (one.wire, one.who)):
            key = (sensor.wire, sensor.who)
            if key not in heads:
                text = f"{sensor.wire}, {sensor.who}" if sensor.who else sensor.wire
                head = QTreeWidgetItem(self.tree, [label_of(sensor)])
                head.setIcon(0, sample(styles[key]))
                head.setFlags(head.flags() | Qt.ItemFlag.ItemIsAutoTristate)
                head.setFlags(head.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                head.setToolTip(0, plain_tip(text))
                heads[key] = head
            mark = " (corrected)" if sensor in corrected else ""
            row = QTreeWidgetItem(heads[key], [sensor.quantity + mark])
            row.setData(0, SENSOR, sensor)
            shown = self._seen.get(sensor, sensor in unasked)
            row.setCheckState(0, Qt.CheckState.Checked if shown else Qt.CheckState.Unchecked)
            if sensor == current:
                self.tree.setCurrentItem(row)
        if len(sensors) <= UNFOLDED:
            self.tree.expandAll()
        self.tree.blockSignals(False)
        some = f": {len(self.checked)} of {len(sensors)}" if len(sensors) > UNFOLDED else ""
        self._title.setText(f"<b>What is shown</b>{some}")

    def _unasked(
        self, sensors: Sequence[Sensor], derived: Collection[Sensor], wire: str
    ) -> set[Sensor]:
        """Which of the series that nobody has chosen or hidden yet are shown."""
        known = sum(self._seen.get(sensor, False) for sensor in sensors)
        new = [one for one in sensors if one not in self._seen and one not in derived]
        new.sort(key=lambda sensor: sensor.wire != wire)
        return set(new[: max(MOST_AT_FIRST - known, 0)])

    def _rows(self) -> list[QTreeWidgetItem]:
        heads = [self.tree.topLevelItem(at) for at in range(self.tree.topLevelItemCount())]
        rows = [head.child(at) for head in heads if head for at in range(head.childCount())]
        return [row for row in rows if row is not None]

    def _remember(self) -> None:
        for row in self._rows():
            self._seen[row.data(0, SENSOR)] = row.checkState(0) is Qt.CheckState.Checked

    @property
    def checked(self) -> list[Sensor]:
        """What is to be shown."""
        return [
            row.data(0, SENSOR)
            for row in self._rows()
            if row.checkState(0) is Qt.CheckState.Checked
        ]

    def check(self, sensor: Sensor, shown: bool) -> None:
        """Shows a series, or no longer."""
        for row in self._rows():
            if row.data(0, SENSOR) == sensor:
                row.setCheckState(0, Qt.CheckState.Checked if shown else Qt.CheckState.Unchecked)

    @property
    def current(self) -> Sensor | None:
        """The series that is meant."""
        item = self.tree.currentItem()
        if item is None:
            return None
        first = item.child(0)
        found: Sensor | None = (item if first is None else first).data(0, SENSOR)
        return found

    def choose(self, sensor: Sensor) -> None:
        """Means a series."""
        for row in self._rows():
            if row.data(0, SENSOR) == sensor:
                self.tree.setCurrentItem(row)

    def _on_current(self) -> None:
        if self.current is not None:
            self.current_changed.emit(self.current)


def sample(style: LineStyle) -> QIcon:
    """A piece of a line."""
    picture = QPixmap(SAMPLE.width() * 2, SAMPLE.height() * 2)
    picture.setDevicePixelRatio(2.0)
    picture.fill(theme().panel)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(style.pen(2.0))
    painter.drawLine(
        QPointF(1, SAMPLE.height() / 2), QPointF(SAMPLE.width() - 1, SAMPLE.height() / 2)
    )
    draw_shape(
        painter, style.number, QPointF(SAMPLE.width() / 2, SAMPLE.height() / 2), 6.0, style.colour
    )
    painter.end()
    return QIcon(picture)
