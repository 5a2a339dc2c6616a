"""The Trend view: what can be shown, the plots, and what they say at a moment."""

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut, QShowEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from pivet.frozen import replace
from pivet.person.annotations import Mark
from pivet.readings.response import Response, responses
from pivet.readings.series import Sensor, Series
from pivet.signal.seconds import ns_of
from pivet.ui.drawing.widgets import GAP, plain_label, rich_label, tight_button
from pivet.ui.readings.lines import styles_of
from pivet.ui.readings.page import ReadingsPage
from pivet.ui.readings.store import ReadingsStore
from pivet.ui.session.session import Session
from pivet.ui.trend.aside import Aside
from pivet.ui.trend.choice import ChoicePanel
from pivet.ui.trend.plot import PlottedSeries
from pivet.ui.trend.plots import Plots
from pivet.ui.trend.sentences import mark_when, moment_text, response_rows, value_at
from pivet.ui.view import InSight, TimePage
from pivet.ui.work.turns import turns

MINUTES_10, HOUR = 600.0, 3600.0
BEFORE_NS, AFTER_NS = 120 * 10**9, 1200 * 10**9
"""Readings that a fit may use before a mark and after it."""

CLOSE_S = 240.0
"""How much is shown after a mark that is chosen."""

UNNAMED = "disturbance"
NOTHING = "Nothing was read yet. Open a capture or a bench, or listen to a wire."


class TrendPage(ReadingsPage, TimePage):
    """Readings over time."""

    def __init__(
        self,
        session: Session,
        store: ReadingsStore,
        run: Callable[..., None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(session, store, parent)
        self._run = run
        self.choice, self.plots, self.aside = ChoicePanel(), Plots(), Aside()
        self.bar = _Bar()
        self.empty = plain_label(NOTHING)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._pointed: int | None = None
        self._mark: Mark | None = None
        self._others = False
        self._fits: dict[Mark, list[tuple[Series, list[Response]]]] = {}
        self._build()
        self._connect()

    def _build(self) -> None:
        middle = QFrame()
        middle.setObjectName("panel")
        column = QVBoxLayout(middle)
        column.setContentsMargins(8, 6, 4, 4)
        column.setSpacing(2)
        column.addLayout(self.bar)
        column.addWidget(self.plots, 1)
        column.addWidget(self.empty, 1)
        columns = QSplitter(Qt.Orientation.Horizontal)
        columns.setHandleWidth(GAP)
        columns.setChildrenCollapsible(False)
        for part in (self.choice, middle, self.aside):
            columns.addWidget(part)
        columns.setStretchFactor(1, 1)
        columns.setSizes([212, 780, 264])
        outer = QHBoxLayout(self)
        outer.setContentsMargins(GAP, GAP, GAP, GAP)
        outer.addWidget(columns)

    def _connect(self) -> None:
        self._store.changed.connect(self._on_readings)
        self._store.annotations_changed.connect(self._on_given)
        self._session.exchange_changed.connect(self._show_chosen)
        self._session.shown_changed.connect(self.renew_soon)
        self.choice.chosen.connect(lambda: self._show(True))
        self.plots.pointed.connect(self._on_pointed)
        self.plots.picked.connect(self._on_picked)
        self.plots.entered.connect(self._on_entered)
        self.aside.mark_asked.connect(self.mark_moment)
        self.aside.mark_chosen.connect(self.choose_mark)
        self.aside.mark_removed.connect(self._remove_mark)
        self.aside.mark_renamed.connect(self._rename_mark)
        self.bar.ten.clicked.connect(lambda: self.plots.show_last(MINUTES_10))
        self.bar.hour.clicked.connect(lambda: self.plots.show_last(HOUR))
        self.bar.all.clicked.connect(self.plots.show_all)
        for key, seconds in (("1", MINUTES_10), ("2", HOUR)):
            short = QShortcut(QKeySequence(key), self.plots)
            short.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            short.activated.connect(partial(self.plots.show_last, seconds))
        gone = QShortcut(QKeySequence.StandardKey.Delete, self.aside.marks)
        gone.setContext(Qt.ShortcutContext.WidgetShortcut)
        gone.activated.connect(self.aside.remove_current)
        self.setFocusProxy(self.plots)

    def showEvent(self, event: QShowEvent) -> None:
        """The chosen exchange is in sight."""
        super().showEvent(event)
        turns().add(self, self._reveal)

    def _on_readings(self, others: bool) -> None:
        if not self.isVisible():
            return
        if others:
            self._mark = None
        self._others |= others
        self._fits = {}
        self._show_soon()

    def _show_soon(self) -> None:
        """List, plots, marks: each takes a moment when there is much, so each has its turn."""
        turns().add(self, self._list)
        measured = (one for one in self._store.sensors if not self._store.is_derived(one))
        for quantity in dict.fromkeys(sensor.quantity for sensor in measured):
            turns().add(self, self.plots.make, quantity)
        for part in (self._go_on, self._on_given):
            turns().add(self, part)

    def _go_on(self) -> None:
        """Shows what there is now; who looks at the end goes on with it."""
        others, self._others = self._others, False
        self._show(not others, self._store.live and self.plots.at_end)

    def _list(self) -> None:
        store = self._store
        styles = styles_of(store.sensors)
        derived = [sensor for sensor in store.sensors if store.is_derived(sensor)]
        self.choice.renew(
            store.sensors,
            derived,
            styles,
            store.annotations.corrections,
            self._session.wire_name,
        )

    def _show(self, keep: bool, follow: bool = False) -> None:
        store = self._store
        styles = styles_of(store.sensors)
        order = {sensor: at for at, sensor in enumerate(store.sensors)}
        shown = []
        for sensor in sorted(self.choice.checked, key=lambda one: order.get(one, 0)):
            series, style = store.series(sensor), styles.get((sensor.wire, sensor.who))
            if series is not None and style is not None:
                shown.append(PlottedSeries(series, style))
        span = store.span_ns
        self.plots.units = self._session.shown.units
        there = span is not None and bool(shown)
        self.plots.setVisible(there)
        self.empty.setVisible(not there)
        self.empty.setText(NOTHING if span is None else "Choose on the left what is to be shown.")
        if span is not None:
            self.plots.show_series(shown, span, store.clock, keep, follow)
            self.plots.show_chosen(store.chosen_ns)
        # What is told beside them lays itself out anew: not before the same painting.
        turns().add(self, self._tell)

    @property
    def parts(self) -> Sequence[QWidget]:
        """What is shown, the plots, the marks."""
        return self.choice.tree, self.plots, self.aside.marks

    def renew(self) -> None:
        """Units or colours are others."""
        if self.isVisible():
            self._show_soon()

    def zoom(self, notches: int) -> None:
        """Of the plots, all alike."""
        self.plots.zoom(2.0**notches)

    def show_all(self) -> None:
        """The whole time."""
        self.plots.show_all()

    def look_at(self, from_ns: int, to_ns: int) -> None:
        """Shows a stretch of time."""
        turns().add(self, self.plots.look_at, from_ns, to_ns)

    def show_last(self, seconds: float) -> None:
        """Shows the end."""
        turns().add(self, self.plots.show_last, seconds)

    def in_sight(self) -> InSight | None:
        """The sensors that are chosen, and the time of the plots; None while there are none."""
        if not self.plots.quantities:
            return None
        return InSight(tuple(self.choice.checked), *self.plots.view_ns)

    def point_out(self) -> None:
        """The first mark, with what answered to it."""
        if self._store.annotations.marks:
            self.choose_mark(self._store.annotations.marks[0], look=False)

    def _show_chosen(self) -> None:
        if self.isVisible():
            self.plots.show_chosen(self._store.chosen_ns)
            self._tell()

    def _reveal(self) -> None:
        """The chosen exchange is in sight."""
        at_ns = self._store.chosen_ns
        if at_ns is None or not self.plots.quantities or not self.plots.isVisible():
            return
        low, high = self.plots.view_ns
        if not low <= at_ns <= high:
            half = (high - low) // 2
            self.plots.look_at(at_ns - half, at_ns + half)

    # At a moment.

    def _on_pointed(self, at_ns: int | None) -> None:
        self._pointed = at_ns
        self._tell()

    def _tell(self) -> None:
        at_ns = self._pointed if self._pointed is not None else self._store.chosen_ns
        if at_ns is None:
            self.aside.show_moment("Point at a moment", [])
            return
        styles = styles_of(self._store.sensors)
        units = self._session.shown.units
        rows = []
        for sensor in self.choice.checked:
            series = self._store.series(sensor)
            style = styles.get((sensor.wire, sensor.who))
            # What is chosen may be gone already, and the choice not yet renewed.
            if series is not None and style is not None:
                name = f"{sensor.who or sensor.wire}, {sensor.quantity}"
                rows.append((name, style.colour.name(), value_at(series, at_ns, units)))
        self.aside.show_moment(moment_text(at_ns, self._store.clock), rows)

    def _on_picked(self, sensor: Sensor, row: int) -> None:
        self.choice.choose(sensor)
        self._go(sensor, row)

    def _on_entered(self, sensor: Sensor, row: int) -> None:
        if self._go(sensor, row):
            self.exchange_asked.emit()

    def _go(self, sensor: Sensor, row: int) -> bool:
        series = self._store.series(sensor)
        found = None if series is None else self._store.place_of(series, row)
        if found is None:
            return False
        self._session.show_reading(*found)
        return True

    # Marks.

    def mark_moment(self) -> None:
        """Marks the moment under the pointer; else this one while listening, else the chosen."""
        store = self._store
        at_ns = self._pointed
        if at_ns is None and store.live and store.span_ns is not None:
            at_ns = store.span_ns[1]
        if at_ns is None:
            at_ns = store.chosen_ns
        if at_ns is None:
            return
        mark = Mark(at_ns, UNNAMED, self._session.wire_name)
        store.change(store.annotations.marked(mark), "mark")
        if mark in store.annotations.marks:
            self._mark = mark
            self.choose_mark(mark, look=False)

    def _remove_mark(self, mark: Mark) -> None:
        self._mark = None
        self._store.change(self._store.annotations.unmarked(mark), f"removing the mark {mark.text}")

    def _rename_mark(self, mark: Mark, text: str) -> None:
        self._mark = renamed = replace(mark, text=text)
        given = self._store.annotations.unmarked(mark).marked(renamed)
        self._store.change(given, f"name of the mark {text}")

    def _on_given(self) -> None:
        given, clock = self._store.annotations, self._store.clock
        if self._mark not in given.marks:
            self._mark = None
        rows = [(mark, mark_when(mark, clock)) for mark in given.marks]
        self.aside.show_marks(rows, self._mark)
        self.plots.show_marks(given.marks, dict(given.limits))
        self._show_response()

    def choose_mark(self, mark: Mark | None, look: bool = True) -> None:
        """Looks at a mark, and tells how the sensors follow it."""
        self._mark = mark
        if mark is not None and look and self._store.span_ns is not None:
            self.plots.look_at(mark.at_ns - ns_of(CLOSE_S * 0.25), mark.at_ns + ns_of(CLOSE_S))
        self._show_response()

    def _show_response(self) -> None:
        mark = self._mark
        if mark is None:
            self.plots.show_fits([])
            if self._store.annotations.marks:
                self.aside.response.setText("Choose a mark to see how the sensors follow it.")
            return
        if mark in self._fits:
            self._tell_response(mark)
            return
        own = [
            one
            for one in self._store.readings.series
            if not one.derived and (not mark.wire or one.sensor.wire == mark.wire)
        ]
        after = [other.at_ns for other in self._store.annotations.marks if other.at_ns > mark.at_ns]
        until = min([mark.at_ns + AFTER_NS, *after])
        self.aside.response.setText("The response is being fitted …")
        self._run("Fitting the response", partial(_fit, own, mark, until), self._on_fitted)

    def _on_fitted(self, found: tuple[Mark, list[tuple[Series, list[Response]]]]) -> None:
        mark, rows = found
        self._fits[mark] = rows
        if mark == self._mark:
            self._tell_response(mark)

    def _tell_response(self, mark: Mark) -> None:
        units = self._session.shown.units
        lines, fits = [], []
        for series, found in self._fits[mark]:
            lines.append("<br>".join(response_rows(series, found, units)))
            for response in found:
                if not response.why_not:
                    t = np.linspace(response.begin_s, response.end_s, 200)
                    times = mark.at_ns + np.rint(t * 1e9).astype(np.int64)
                    fits.append((series.sensor, times, response.course(t)))
        self.aside.response.setText("<p>".join(lines) or "No sensor was read then.")
        self.plots.show_fits(fits)


def _fit(
    own: list[Series], mark: Mark, until_ns: int, _: Any
) -> tuple[Mark, list[tuple[Series, list[Response]]]]:
    """Fits the response of each series; beside the window, since SciPy takes a while to load."""
    found = []
    for series in own:
        near = series.between(mark.at_ns - BEFORE_NS, until_ns)
        if len(near):
            times = (near.times_ns - mark.at_ns) / 1e9
            found.append((series, responses(times, near.values, 10.0**-series.decimals)))
    return mark, found


class _Bar(QHBoxLayout):
    """The buttons over the plots."""

    def __init__(self) -> None:
        super().__init__()
        self.said = rich_label("<b>Readings over time</b>")
        self.ten = tight_button("10 minutes", "Shows the last ten minutes (1)")
        self.hour = tight_button("Hour", "Shows the last hour (2)")
        self.all = tight_button("All", "Shows all there is (A)")
        self.addWidget(self.said, 1)
        for part in (self.ten, self.hour, self.all):
            self.addWidget(part)
