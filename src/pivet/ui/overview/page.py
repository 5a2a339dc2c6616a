"""The Overview: every sensor, what needs attention first; how reliable the chosen one is."""

import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from html import escape

from PySide6.QtCore import QSignalBlocker, Qt, QTimer
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QSplitter,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from pivet.history.attention import SensorState, Urgency
from pivet.history.sentences import lasting, margin_text, moment, percent, worst_hour
from pivet.history.watching import crossing_span
from pivet.judge.verdict import Verdict
from pivet.judge.wording import age, count
from pivet.readings.series import Sensor
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import GAP, plain_label, plain_tip, scrolled, tight_button, told_label
from pivet.ui.overview.hours import HourBars
from pivet.ui.overview.marks import SPOKEN, URGENCY, MarkDelegate
from pivet.ui.readings.page import ReadingsPage
from pivet.ui.readings.store import ReadingsStore
from pivet.ui.session.session import Session

COLUMNS = ("", "Sensor", "Last readings", "When", "Limits", "Last hour", "What needs attention")
NOTHING = "Nothing was read yet. Open a capture or a bench, or listen to a wire."
MOST_REASONS = 6
MOST_CROSSINGS = 3
AGE_MS = 1000
LEAST_TABLE = (800, 160)


class OverviewPage(ReadingsPage):
    """Every sensor."""

    def __init__(
        self, session: Session, store: ReadingsStore, parent: QWidget | None = None
    ) -> None:
        super().__init__(session, store, parent)
        self.table = QTableWidget(0, len(COLUMNS))
        self.hours = HourBars()
        self.title, self.told = told_label(), told_label()
        self.empty = plain_label(NOTHING)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.limits = tight_button("Limits…", "Lines that readings must not cross (Ctrl+Shift+M)")
        self._states: Sequence[SensorState] = []
        self._build()
        store.changed.connect(lambda _: self.renew())
        store.annotations_changed.connect(self.renew)
        session.shown_changed.connect(self.renew_soon)
        session.roles_changed.connect(self.renew)
        self._ages = QTimer(self)
        self._ages.timeout.connect(self._renew_ages)
        self._ages.start(AGE_MS)

    def _build(self) -> None:
        table = self.table
        table.setHorizontalHeaderLabels(COLUMNS)
        table.verticalHeader().hide()
        table.setShowGrid(False)
        self.limits.setAccessibleName("Limits")
        table.setAccessibleName("Every sensor, what needs attention first")
        table.setFrameShape(QFrame.Shape.NoFrame)
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        table.setWordWrap(True)
        table.setItemDelegateForColumn(0, MarkDelegate(table))
        header = table.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(len(COLUMNS) - 1, QHeaderView.ResizeMode.Stretch)
        header.setHighlightSections(False)
        table.itemSelectionChanged.connect(self._tell)
        table.cellDoubleClicked.connect(lambda *_: self._enter())
        self.hours.chosen.connect(self.time_asked)
        self.limits.clicked.connect(self._ask_limits)
        upper = _panel(table, self.empty)
        upper.setMinimumSize(*LEAST_TABLE)
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        head.addWidget(self.limits)
        lower = QFrame()
        lower.setObjectName("panel")
        column = QVBoxLayout(lower)
        column.setContentsMargins(14, 10, 14, 10)
        column.addLayout(head)
        row = QHBoxLayout()
        row.addWidget(self.hours, 3)
        row.addSpacing(16)
        self.told.setAlignment(Qt.AlignmentFlag.AlignTop)
        row.addWidget(scrolled(self.told), 2)
        column.addLayout(row)
        rows = QSplitter(Qt.Orientation.Vertical)
        rows.setHandleWidth(GAP)
        rows.setChildrenCollapsible(False)
        rows.addWidget(upper)
        rows.addWidget(lower)
        rows.setStretchFactor(0, 1)
        rows.setSizes([430, 250])
        outer = QVBoxLayout(self)
        outer.setContentsMargins(GAP, GAP, GAP, GAP)
        outer.addWidget(rows)

    @property
    def parts(self) -> Sequence[QWidget]:
        """The sensors, and what is told of the chosen one."""
        return self.table, self.limits

    def renew(self) -> None:
        """Shows the sensors as they are now."""
        if not self.isVisible():
            return
        chosen = self.chosen
        self._states = self._store.states()
        self.table.setVisible(bool(self._states))
        self.empty.setVisible(not self._states)
        table = self.table
        table.blockSignals(True)
        table.setRowCount(len(self._states))
        with self._measured_once():
            for row, state in enumerate(self._states):
                self._put(row, state)
        table.blockSignals(False)
        table.resizeRowsToContents()
        names = [state.name for state in self._states]
        if self._states:
            wanted = names.index(chosen.name) if chosen and chosen.name in names else 0
            table.selectRow(wanted)
        self._tell()

    @contextmanager
    def _measured_once(self) -> Iterator[None]:
        """Cells change as one: the columns fit themselves once, not for each."""
        model = self.table.model()
        with QSignalBlocker(model):
            yield
        last = model.index(model.rowCount() - 1, len(COLUMNS) - 1)
        if last.isValid():
            model.dataChanged.emit(model.index(0, 0), last)

    def _put(self, row: int, state: SensorState) -> None:
        colours = theme()
        health = "–" if state.health != state.health else f"{percent(state.health)} sound"
        cells = (
            "",
            state.name,
            self._values(state),
            self._age(state),
            self._limits(state),
            health,
            state.says,
        )
        for column, text in enumerate(cells):
            item = self._cell(row, column)
            if item.text() != text:
                item.setText(text)
                item.setToolTip(plain_tip(text))
        mark, name, values, says = (self._cell(row, at) for at in (0, 1, 2, len(cells) - 1))
        mark.setData(URGENCY, int(state.urgency))
        mark.setData(Qt.ItemDataRole.AccessibleTextRole, SPOKEN[state.urgency])
        bold = name.font()
        bold.setBold(True)
        name.setFont(bold)
        values.setForeground(colours.faint if state.silent else colours.ink)
        says.setForeground(colours.unsound if state.urgency is Urgency.NOW else colours.ink)

    def _cell(self, row: int, column: int) -> QTableWidgetItem:
        """A cell of the table, made when it is not there."""
        item = self.table.item(row, column)
        if item is None:
            item = QTableWidgetItem()
            self.table.setItem(row, column, item)
        return item

    def _values(self, state: SensorState) -> str:
        units = self._session.shown.units
        parts = []
        for series, at in state.rows:
            if at >= 0:
                value = units.text(series.quantity, float(series.values[at]), series.decimals)
                fixed = "*" if series.correction else ""
                parts.append(f"{value} {units.of(series.quantity).symbol}{fixed}")
        return "  ".join(parts) or "–"

    def _age(self, state: SensorState) -> str:
        if state.last_ns is None:
            return ""
        if self._store.live:
            return age(max((time.time_ns() - state.last_ns) / 1e9, 0.0))
        return moment(state.last_ns, self._store.clock)

    def _renew_ages(self) -> None:
        if self.isVisible() and self._store.live:
            with self._measured_once():
                for row, state in enumerate(self._states):
                    item = self.table.item(row, 3)
                    if item is not None:
                        item.setText(self._age(state))

    def _limits(self, state: SensorState) -> str:
        given = self._store.annotations.limits
        own = [s for s in given if (s.wire, s.who) == (state.wire, state.who)]
        if not own:
            return ""
        crossed = [s for s in own if s in self._store.open_crossings]
        return f"{crossed[0].quantity} crossed" if crossed else "inside"

    # The chosen sensor.

    @property
    def chosen(self) -> SensorState | None:
        """The chosen sensor."""
        row = self.table.currentRow()
        return self._states[row] if 0 <= row < len(self._states) else None

    def choose(self, name: str) -> None:
        """Chooses a sensor by name."""
        names = [state.name for state in self._states]
        if name in names:
            self.table.selectRow(names.index(name))

    def point_out(self) -> None:
        """What needs attention first."""
        self.table.selectRow(0)

    def _tell(self) -> None:
        state = self.chosen
        told = None if state is None else self._store.reliability(state.wire)
        self.limits.setEnabled(state is not None)
        if state is None or told is None:
            self.title.setText("")
            self.told.setText("")
            self.hours.show_hours(None, False)
            return
        clock = self._store.clock
        self.title.setText(f"<b>How reliable {escape(state.wire)} was, by hour</b>")
        self.hours.show_hours(told.hours, clock)
        shares = ", ".join(
            f"{verdict.title} {percent(told.share(verdict))}"
            for verdict in Verdict
            if told.counts[verdict]
        )
        rows = [f"{count(told.count, 'exchange')}: {shares}"]
        rows += [f"{words}: {seen}×" for words, seen in told.reasons[:MOST_REASONS]]
        rows.append(f"longest gap {lasting(told.gap_s)}, from {moment(told.gap_ns, clock)}")
        if told.every_s == told.every_s:
            kept = f"{lasting(told.every_low_s)} to {lasting(told.every_high_s)}"
            rows.append(f"asked every {lasting(told.every_s)} (90 % within {kept})")
        rows.append(f"{count(told.retries, 'retry', 'retries')}")
        if told.margin_number >= 0:
            rows.append(f"least margin: {margin_text(told.margin)}, exchange {told.margin_number}")
        rows += self._crossings(state)
        lines = "<br>".join(escape(line) for line in rows)
        hour = worst_hour(told, clock)
        advice = " ".join(part for part in (hour and f"{hour}.", told.advice) if part)
        self.told.setText(f"<p><b>{escape(advice)}</b></p>{lines}" if advice else lines)

    def _crossings(self, state: SensorState) -> list[str]:
        """When limits of a sensor were crossed, the last first."""
        units = self._session.shown.units
        own = [
            (sensor.quantity, crossing)
            for sensor, crossing in self._store.crossings
            if (sensor.wire, sensor.who) == (state.wire, state.who)
        ]
        own.sort(key=lambda pair: -pair[1].told_ns)
        lines = [crossing_span(what, crossing, units, self._store.clock) for what, crossing in own]
        if len(lines) > MOST_CROSSINGS:
            lines[MOST_CROSSINGS:] = [f"{len(lines) - MOST_CROSSINGS} crossings before"]
        return lines

    def _enter(self) -> None:
        """Goes to the last exchange of the chosen sensor."""
        state = self.chosen
        if state is None:
            return
        for series, _ in state.rows:
            if len(series):
                found = self._store.place_of(series, len(series) - 1)
                if found is not None:
                    self._session.show_reading(*found)
                    self.exchange_asked.emit()
                    return

    def _ask_limits(self) -> None:
        state = self.chosen
        if state is not None:
            self.limits_asked.emit(state.rows[0][0].sensor)

    @property
    def chosen_sensor(self) -> Sensor | None:
        """What the chosen sensor measures first."""
        return None if self.chosen is None else self.chosen.rows[0][0].sensor


def _panel(*parts: QWidget) -> QFrame:
    panel = QFrame()
    panel.setObjectName("panel")
    column = QVBoxLayout(panel)
    column.setContentsMargins(10, 8, 10, 8)
    for part in parts:
        column.addWidget(part)
    return panel
