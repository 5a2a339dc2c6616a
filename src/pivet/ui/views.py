"""The views of the window: Exchange, and those of readings over time; made when first shown."""

from collections.abc import Callable
from dataclasses import replace
from enum import IntEnum
from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QStackedWidget, QWidget

from pivet.errors import PivetError
from pivet.person.display import Shown as ShownAs
from pivet.readings.units import UNITS, Dimension, UnitChoice
from pivet.ui.actions import SEPARATOR, Entry
from pivet.ui.exchange_page import ExchangePage
from pivet.ui.jobs import JobBar
from pivet.ui.live.controls import LiveControls
from pivet.ui.notice_bar import NoticeBar
from pivet.ui.readings.taking import ReadingsOut
from pivet.ui.session import Session
from pivet.ui.settings import Settings
from pivet.ui.tabs import ViewTabs

if TYPE_CHECKING:  # readings over time are imported when they are first looked at
    from pivet.history.watching import Told
    from pivet.readings.series import Sensor
    from pivet.ui.glance.window import GlanceWindow
    from pivet.ui.readings.store import ReadingsStore
    from pivet.ui.trend.page import TrendPage


class View(IntEnum):
    """The views, in the order of their names in the bar."""

    EXCHANGE = 0
    TREND = 1
    AGREEMENT = 2
    OVERVIEW = 3


NAMES = {
    View.EXCHANGE: "Exchange",
    View.TREND: "Trend",
    View.AGREEMENT: "Agreement",
    View.OVERVIEW: "Overview",
}
HOUR_NS = 3_600_000_000_000
MINUTES_10_S, HOUR_S = 600.0, 3600.0


class Views(QObject):
    """Shows one of the views.

    Args:
        window: parent of dialogs.
        session: what is shown.
        exchange: the first view.
        jobs: reads what takes long.
        notice: says what happened.
        settings: remembers units.
        live: listening, and the bench file.
    """

    def __init__(
        self,
        window: QWidget,
        session: Session,
        exchange: ExchangePage,
        jobs: JobBar,
        notice: NoticeBar,
        settings: Settings,
        live: LiveControls,
    ) -> None:
        super().__init__(window)
        self._window, self._session, self._jobs = window, session, jobs
        self._notice, self._settings, self._live = notice, settings, live
        self._exchange = exchange
        self.stack = QStackedWidget()
        self.stack.addWidget(exchange)
        self.tabs = ViewTabs(tuple(NAMES.values()))
        self.tabs.chosen.connect(lambda number: self.show_view(View(number)))
        self._pages: dict[View, QWidget] = {View.EXCHANGE: exchange}
        self._store: ReadingsStore | None = None
        self.glance: GlanceWindow | None = None
        self.out = ReadingsOut(
            window, session, lambda: self.store, self._seen_trend, jobs, notice, settings, live
        )
        live.keeper.opened.connect(lambda _: self._on_bench())
        live.keeper.changed.connect(self._on_bench_changed)
        live.crossed.connect(self._on_crossed)
        session.show_as(_with_units(session, settings.units))

    @property
    def view(self) -> View:
        """The view that is shown."""
        return View(self.tabs.current)

    @property
    def store(self) -> "ReadingsStore":
        """The readings over time; made when they are first needed."""
        if self._store is None:
            from pivet.ui.readings.store import ReadingsStore

            self._store = ReadingsStore(self._session, self._jobs, lambda: self._live.keeper.bench)
            self._store.given_changed.connect(self._watch_limits)
        return self._store

    def _seen_trend(self) -> "TrendPage | None":
        return self.trend if self.view is View.TREND else None

    def _on_bench(self) -> None:
        """A bench was opened: its corrections and limits act whatever view is shown."""
        from pivet.person.annotations import read_annotations

        bench = self._live.keeper.bench
        if bench is None:
            return
        try:
            given = read_annotations(bench)
        except PivetError as error:
            self._notice.say(str(error))
            return
        self._session.show_as(replace(self._session.shown, corrections=given.corrections))
        self._live.limits = given.limits
        if given.limits:
            self._watch_limits()

    def _on_bench_changed(self) -> None:
        if self._live.keeper.bench is None:
            self._live.limits = {}

    def _watch_limits(self) -> None:
        """As long as there are limits somebody looks at them."""
        self.store.need(self, True)
        if self.store.clock:
            self._live.limits = self.store.given.limits
        self.store.need(self, bool(self.store.given.limits))

    @property
    def page(self) -> QWidget:
        """What is shown now."""
        return self._pages[self.view]

    @property
    def trend(self) -> "TrendPage":
        """The Trend view."""
        found: Any = self._page(View.TREND)
        return found

    def show_view(self, view: View) -> None:
        """Shows a view."""
        page = self._page(view)
        self.tabs.choose(view)
        self.stack.setCurrentWidget(page)
        page.setFocus()

    def _page(self, view: View) -> QWidget:
        if view not in self._pages:
            self._pages[view] = page = self._made(view)
            self.stack.addWidget(page)
        return self._pages[view]

    def _made(self, view: View) -> QWidget:
        if view is View.AGREEMENT:
            from pivet.ui.agreement.page import AgreementPage

            return AgreementPage(self._session, self.store)
        if view is View.OVERVIEW:
            return self._made_overview()
        from pivet.ui.trend.page import TrendPage

        page = TrendPage(self._session, self.store, self._jobs.start)
        page.exchange_asked.connect(lambda: self.show_view(View.EXCHANGE))
        return page

    def _made_overview(self) -> QWidget:
        from pivet.ui.overview.page import OverviewPage

        page = OverviewPage(self._session, self.store)
        page.exchange_asked.connect(lambda: self.show_view(View.EXCHANGE))
        page.time_asked.connect(self._show_hour)
        page.limits_asked.connect(self.ask_limits)
        return page

    def _show_hour(self, begin_ns: int) -> None:
        self.show_view(View.TREND)
        self.trend.plots.look_at(begin_ns, begin_ns + HOUR_NS)

    def ask_limits(self, sensor: "Sensor | None" = None) -> None:
        """Asks for the limits of a sensor; without one of the chosen wire's first."""
        self.store.once(lambda: self._ask_limits(sensor))

    def _ask_limits(self, sensor: "Sensor | None") -> None:
        from pivet.ui.readings.limits import LimitsDialog

        name = self._session.wire_name
        known = self.store.sensors
        wanted = sensor or next((row for row in known if row.wire == name), None)
        if wanted is None:
            self._notice.say("There are no readings yet that could have limits.", False)
            return
        LimitsDialog(self._session, self.store, wanted, self._window).exec()

    def _on_crossed(self, told: "Told") -> None:
        """A limit was crossed: one notice in the window, and one of the desktop."""
        from pivet.history.watching import crossing_text
        from pivet.ui.readings.desktop import notify_later

        text = crossing_text(told, self._session.shown.units)
        self._notice.say(text, told.crossing.until_ns is None)
        notify_later("Pivet", text)

    def show_glance(self) -> None:
        """Opens the small window of large figures, or brings it to the front."""
        if self.glance is None:
            from pivet.ui.glance.window import GlanceWindow

            self.glance = GlanceWindow(self._session, self._settings, self.next_unit)
            self.glance.closed.connect(self._on_glance_closed)
        self.glance.show()
        self.glance.raise_()
        self.glance.activateWindow()

    def _on_glance_closed(self) -> None:
        glance, self.glance = self.glance, None
        if glance is not None:
            glance.deleteLater()

    def close(self) -> None:
        """The window is about to close."""
        if self.glance is not None:
            self.glance.close()

    def renew(self) -> None:
        """Colours are others."""
        for page in self._pages.values():
            page.renew()  # type: ignore[attr-defined]
        self.tabs.update()

    # What the menus offer.

    def view_entries(self) -> list[Entry | None]:
        """Choosing a view, and what is in sight of it."""
        rows: list[Entry | None] = [
            Entry(f"&{name}", f"Ctrl+{view + 1}", partial(self.show_view, view))
            for view, name in NAMES.items()
        ]
        strip = self._exchange.strip
        return [
            *rows,
            SEPARATOR,
            Entry("&Fit exchange", "F", strip.fit, True),
            Entry(
                "Show &all", "A", self._by_view(strip.show_all, lambda t: t.plots.show_all()), True
            ),
            Entry("Zoom &in", "+ | =", self._by_view(lambda: strip.zoom(2), _zoom_in), True),
            Entry("Zoom &out", "-", self._by_view(lambda: strip.zoom(-2), _zoom_out), True),
        ]

    def _by_view(
        self, exchange: Callable[[], object], trend: Callable[["TrendPage"], object]
    ) -> Callable[[], object]:
        """Does what a key means in the view that is shown."""

        def run() -> object:
            if self.view is View.TREND:
                return trend(self.trend)
            return exchange()

        return run

    def entries(self) -> list[Entry | None]:
        """What can be done with readings over time."""
        units: list[Entry | None] = [
            Entry("Next unit of &temperature", "U", partial(self.next_unit, Dimension.TEMPERATURE)),
            Entry("Next unit of &length", "Shift+U", partial(self.next_unit, Dimension.LENGTH)),
        ]
        return [
            Entry("&Mark this moment", "B", self.mark, True),
            Entry("&Glance: large figures", "Ctrl+5", self.show_glance, True),
            *self.out.entries(),
            SEPARATOR,
            Entry("&Limits…", "Ctrl+Shift+M", self.ask_limits, True),
            Entry("Last &ten minutes", "", lambda: self._in_trend(MINUTES_10_S), True),
            Entry("Last &hour", "", lambda: self._in_trend(HOUR_S), True),
            SEPARATOR,
            *units,
        ]

    def _in_trend(self, seconds: float) -> None:
        self.show_view(View.TREND)
        self.trend.plots.show_last(seconds)

    def mark(self) -> None:
        """Marks a moment; in the Trend view the one under the pointer."""
        self.store.once(self.trend.mark_moment)
        if self.view is not View.TREND:
            self._notice.say("The moment was marked; the Trend view (Ctrl+2) shows it.", False)

    def next_unit(self, dimension: Dimension) -> None:
        """Shows the next unit of a dimension, everywhere."""
        self.use_units(self._session.shown.units.next(dimension))
        quantity = str(dimension)
        symbol = self._session.shown.units.chosen[dimension]
        others = ", ".join(unit.symbol for unit in UNITS[dimension] if unit.symbol != symbol)
        self._notice.say(f"{quantity.capitalize()} is shown in {symbol} (also: {others}).", False)

    def use_units(self, units: UnitChoice) -> None:
        """Shows readings in these units, now and next time."""
        self._settings.units = units
        self._session.show_as(_with_units(self._session, units))


def _zoom_in(page: "TrendPage") -> None:
    page.plots.zoom(2.0)


def _zoom_out(page: "TrendPage") -> None:
    page.plots.zoom(0.5)


def _with_units(session: Session, units: UnitChoice) -> ShownAs:
    return replace(session.shown, units=units)
