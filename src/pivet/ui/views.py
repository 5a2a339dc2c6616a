"""The views of the window, each made when it is first shown."""

import time
from collections.abc import Callable, Generator
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QApplication, QScrollArea, QSplitter, QStackedWidget, QWidget

from pivet.errors import PivetError
from pivet.frozen import replace
from pivet.readings.units import UNITS, Dimension, UnitChoice
from pivet.ui.drawing.theme import dress
from pivet.ui.drawing.widgets import roomy
from pivet.ui.live.controls import LiveControls
from pivet.ui.many.whole import WholeWires
from pivet.ui.readings.exports import ReadingsExports
from pivet.ui.registry import OVER_TIME, VIEWS
from pivet.ui.view import Around, InSight, TimePage, ViewKind, ViewPage
from pivet.ui.window.actions import SEPARATOR, Entry
from pivet.ui.window.services import Services
from pivet.ui.window.tabs import ViewTabs
from pivet.ui.work.background import Background
from pivet.ui.work.turns import turns

if TYPE_CHECKING:  # readings over time are imported when they are first looked at
    from pivet.history.watching import LimitEvent
    from pivet.readings.series import Sensor
    from pivet.ui.glance.window import GlanceWindow
    from pivet.ui.readings.store import ReadingsStore


HOUR_NS = 3_600_000_000_000
MINUTES_10_S, HOUR_S = 600.0, 3600.0
LOADED_S, WANTED_S = 0.005, 0.03
"""So long loading goes on between two events; while a person waits for it."""

Wanted = tuple[str, Callable[[ViewPage], object]]

OVER = object()


class Views(QObject):
    """Shows one of the views.

    Args:
        services: the services of the window.
        live: listening, and the bench file.

    Signals:
        help_asked: help for a finding was asked for; carries its code.
    """

    help_asked = Signal(str)

    def __init__(self, services: Services, live: LiveControls) -> None:
        super().__init__(services.window)
        self._window, self._session = services.window, services.session
        self._jobs, self._notice = services.jobs, services.notice
        self._settings, self._live = services.settings, live
        run = services.jobs.start
        whole = WholeWires(services.session, run, services.window)
        self._around = Around(services.session, lambda: self.store, run, whole, live.bar)
        self.stack = QStackedWidget()
        self.tabs = ViewTabs(tuple(kind.name for kind in VIEWS))
        self.tabs.chosen.connect(lambda number: self.show_view(VIEWS[number].key))
        self._pages: dict[str, ViewPage] = {}
        self._places: dict[str, QScrollArea] = {}
        self._store: ReadingsStore | None = None
        self.glance: GlanceWindow | None = None
        self.out = ReadingsExports(services, lambda: self.store, self.in_sight, live)
        live.keeper.opened.connect(lambda _: self._on_bench())
        live.keeper.changed.connect(self._on_bench_changed)
        live.crossed.connect(self._on_crossed)
        self._show_units(services.settings.units)
        self._ahead, self._loads = Background(self), False
        self._ahead.failed.connect(lambda _: self._end_loading())
        self._steps: Generator[None, None, None] = (None for _ in ())
        self._wanted: Wanted | None = None
        self._once_loaded: list[Callable[[], object]] = []
        self.page_of(VIEWS[0].key)

    def get_ready(self) -> None:
        """Loads and makes the views that nobody has looked at yet: a first look waits for none."""
        from pivet.ui.ahead import load_beside, steps

        self._loads = True
        self._steps = steps()
        self._ahead.ask("core", load_beside, lambda _: self._load_on())

    def _load_on(self) -> None:
        """Loads a little, and the rest between the next events."""
        until = time.monotonic() + (LOADED_S if self._wanted is None else WANTED_S)
        while self._window.isVisible() and time.monotonic() < until:
            try:
                over = next(self._steps, OVER) is OVER
            except Exception:
                self._end_loading()
                raise
            if over:
                self._end_loading()
                self._make_next()
                return
        if self._window.isVisible():
            turns().add(self, self._load_on)

    def _make_next(self) -> None:
        """One after the other, while nothing else happens, and the window was not closed."""
        kind = next((kind for kind in VIEWS if kind.key not in self._pages), None)
        if kind is not None and self._window.isVisible():
            self.page_of(kind.key)
            turns().add(self, self._make_next)

    @property
    def kind(self) -> ViewKind:
        """The view that is shown."""
        return VIEWS[self.tabs.current]

    @property
    def store(self) -> "ReadingsStore":
        """The readings over time; made when they are first needed."""
        if self._store is None:
            from pivet.ui.readings.store import ReadingsStore

            self._store = ReadingsStore(self._session, self._jobs, lambda: self._live.keeper.bench)
            self._store.annotations_changed.connect(self._watch_limits)
        return self._store

    @property
    def background(self) -> Background | None:
        """Where readings over time are made; None until they are needed."""
        return None if self._store is None else self._store.background

    def in_sight(self) -> InSight | None:
        """What the view that is shown shows over time; None when it shows no time."""
        page = self.page
        return page.in_sight() if isinstance(page, TimePage) else None

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
            self._live.limits = self.store.annotations.limits
        self.store.need(self, bool(self.store.annotations.limits))

    @property
    def page(self) -> ViewPage:
        """What is shown now."""
        return self.page_of(self.kind.key)

    @property
    def over_time(self) -> TimePage:
        """The page that shows a stretch of time."""
        page = self.page_of(OVER_TIME.key)
        assert isinstance(page, TimePage)
        return page

    def show_view(self, key: str, then: Callable[[ViewPage], object] = lambda _: None) -> None:
        """Shows a view; one whose parts are still being loaded as soon as they are there.

        Args:
            key: of the view.
            then: what else is wanted of it.
        """
        if self._loads and key not in self._pages:
            self._wanted = key, then
            self._window.setCursor(Qt.CursorShape.BusyCursor)
            return
        self._wanted = None
        page = self.page_of(key)
        self.tabs.choose([kind.key for kind in VIEWS].index(key))
        self.stack.setCurrentWidget(self._places[key])
        page.setFocus()
        then(page)

    def _end_loading(self) -> None:
        """What was asked for while it was loaded is there."""
        self._loads = False
        self._window.unsetCursor()
        if self._wanted is not None:
            self.show_view(*self._wanted)
        waiting, self._once_loaded = self._once_loaded, []
        for work in waiting:
            work()

    def page_of(self, key: str) -> ViewPage:
        """The page of a view; made when it is first needed."""
        if key not in self._pages:
            # What is half loaded serves no page: one that cannot wait has the rest loaded now.
            for _ in self._steps:
                pass
            self._pages[key] = self._added(next(kind for kind in VIEWS if kind.key == key))
        return self._pages[key]

    def _added(self, kind: ViewKind) -> ViewPage:
        page = kind.make(self._around)
        page.exchange_asked.connect(lambda: self.show_view(VIEWS[0].key))
        page.time_asked.connect(self._show_hour)
        page.limits_asked.connect(self.ask_limits)
        self._places[kind.key] = place = roomy(page)
        dress(place)
        self.stack.addWidget(place)
        page.help_asked.connect(self.help_asked)
        page.view_asked.connect(self.show_view)
        for name, splitter in _borders(kind.key, page):
            splitter.restoreState(self._settings.bytes_of(name))
        return page

    def go_on(self, step: int) -> None:
        """Gives the keys to the next part of the view (1), or the one before (-1)."""
        parts = [part for part in self.page.parts if part.isVisible() and part.isEnabled()]
        if not parts:
            return
        focus = QApplication.focusWidget() or self._window
        inside = [at for at, part in enumerate(parts) if part is focus or part.isAncestorOf(focus)]
        start = inside[0] + step if inside else (0 if step > 0 else -1)
        part = parts[start % len(parts)]
        part.setFocus(Qt.FocusReason.ShortcutFocusReason)
        outer: QWidget | None = part
        while outer is not None:
            if isinstance(outer, QScrollArea):
                outer.ensureWidgetVisible(part)
            outer = outer.parentWidget()

    def _show_over_time(self, look: Callable[[TimePage], object]) -> None:
        """Shows time, and looks at a part of it: readings that still come would show all."""
        self.show_view(OVER_TIME.key, lambda _: self.store.once(lambda: look(self.over_time)))

    def _show_last(self, seconds: float) -> None:
        self._show_over_time(lambda page: page.show_last(seconds))

    def _show_hour(self, begin_ns: int) -> None:
        self._show_over_time(lambda page: page.look_at(begin_ns, begin_ns + HOUR_NS))

    def ask_limits(self, sensor: "Sensor | None" = None) -> None:
        """Asks for the limits of a sensor; without one of the chosen wire's first."""
        self.store.once(lambda: self._ask_limits(sensor))

    def _ask_limits(self, sensor: "Sensor | None") -> None:
        from pivet.ui.drawing.asking import accepted
        from pivet.ui.readings.limits import LimitsDialog

        name = self._session.wire_name
        known = self.store.sensors
        wanted = sensor or next((one for one in known if one.wire == name), None)
        if wanted is None:
            self._notice.say("There are no readings yet that could have limits.", False)
            return
        accepted(LimitsDialog(self._session, self.store, wanted, self._window))

    def _on_crossed(self, told: "LimitEvent") -> None:
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
        """The window is about to close: its borders are kept."""
        for key, page in self._pages.items():
            for name, splitter in _borders(key, page):
                self._settings.keep_bytes(name, splitter.saveState())
        self._ahead.wait()
        self._steps.close()
        if self._store is not None:
            self._store.background.wait()
            self._store.close()
        for page in self._pages.values():
            page.end()
        if self.glance is not None:
            self.glance.close()

    def renew(self) -> None:
        """Colours are others."""
        for page in self._pages.values():
            # Behind all that dresses it, which takes the colours that texts have of their own.
            turns().add_last(page, page.renew)
        self.tabs.update()

    # What the menus offer.

    def view_entries(self) -> list[Entry | None]:
        """Choosing a view, and what is in sight of it."""
        rows: list[Entry | None] = [
            Entry(f"&{kind.name}", kind.shortcut, partial(self.show_view, kind.key))
            for kind in VIEWS
        ]
        return [
            *rows,
            SEPARATOR,
            Entry("Next &part", "F6", partial(self.go_on, 1)),
            Entry("&Previous part", "Shift+F6", partial(self.go_on, -1)),
            SEPARATOR,
            Entry("&Fit exchange", "F", lambda: self.page.fit(), True),
            Entry("Show &all", "A", lambda: self.page.show_all(), True),
            Entry("Zoom &in", "+ | =", lambda: self.page.zoom(1), True),
            Entry("Zoom &out", "-", lambda: self.page.zoom(-1), True),
        ]

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
            Entry("Last &ten minutes", "", lambda: self._show_last(MINUTES_10_S), True),
            Entry("Last &hour", "", lambda: self._show_last(HOUR_S), True),
            SEPARATOR,
            *units,
        ]

    def mark(self) -> None:
        """Marks a moment; where time is shown the one under the pointer."""
        if self._loads:
            self._once_loaded.append(self.mark)
            return
        self.store.once(lambda: self.over_time.mark_moment())
        if self.kind is not OVER_TIME:
            where = f"the {OVER_TIME.name} view ({OVER_TIME.shortcut}) shows it"
            self._notice.say(f"The moment was marked; {where}.", False)

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
        self._show_units(units)

    def _show_units(self, units: UnitChoice) -> None:
        self._session.show_as(replace(self._session.shown, units=units))


def _borders(key: str, page: ViewPage) -> list[tuple[str, QSplitter]]:
    """The borders between the parts of a view, each with the name under which it is kept."""
    return [
        (f"borders/{key}/{at}", splitter)
        for at, splitter in enumerate(page.findChildren(QSplitter))
    ]
