"""Taking readings out of the window, and the running log: what the menus offer for it."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from pivet.ui.live.controls import LiveControls
from pivet.ui.view import InSight
from pivet.ui.window.actions import Entry
from pivet.ui.window.services import Services

if TYPE_CHECKING:  # imported when something is taken out
    from pivet.files.readings_table import Form
    from pivet.keeping.log import LogWish
    from pivet.readings.series import Series
    from pivet.ui.readings.store import ReadingsStore


class ReadingsExports(QObject):
    """Exports, statistics, running log.

    Args:
        services: the services of the window.
        store: the readings; made when they are first needed.
        seen: what is in sight of a view that shows time, else None.
        live: what is listened to.

    Signals:
        log_changed: a running log is written, or no longer.
    """

    log_changed = Signal()

    def __init__(
        self,
        services: Services,
        store: "Callable[[], ReadingsStore]",
        seen: Callable[[], InSight | None],
        live: LiveControls,
    ) -> None:
        super().__init__(services.window)
        self._window, self._session = services.window, services.session
        self._jobs, self._notice = services.jobs, services.notice
        self._settings, self._store, self._seen, self._live = services.settings, store, seen, live
        live.changed.connect(self._apply_log)

    def entries(self) -> list[Entry | None]:
        """The running log."""
        return [
            Entry("Running &log…", "Ctrl+Shift+R", self.choose_log),
            Entry("&End the running log", "", lambda: self.keep_log(None)),
        ]

    def choose_export(self) -> None:
        """Asks where to, and exports readings: of a capture, of a bench, or what is in sight."""
        from pivet.ui.readings.out import ask_export

        asked = ask_export(self._window, self._settings.folder, self._seen() is not None)
        if asked is not None:
            self._store().once(lambda: self.export(*asked))

    def export(self, path: Path, form: "Form", seen: bool) -> None:
        """Exports all that was measured, or what is shown in the Trend view and in sight."""
        from pivet.ui.readings.out import export_work

        store, sight = self._store(), self._seen() if seen else None
        sensors = store.sensors if sight is None else sight.sensors
        wanted = [sensor for sensor in sensors if sight is not None or not store.is_derived(sensor)]
        readings, units = store.readings, self._session.shown.units

        def series() -> "list[Series]":
            rows = [one for one in map(readings.series_of, wanted) if one is not None]
            if sight is None:
                return rows
            return [history.between(sight.from_ns, sight.to_ns) for history in rows]

        work = export_work(series, store.clock, form, path, units)
        self._jobs.start(f"Writing {path.name}", work, lambda _: self._wrote(path))

    def _wrote(self, path: Path) -> None:
        self._settings.folder = str(path.parent)
        self._notice.say(f"{path.name} was written.", False)

    def choose_statistics_file(self) -> None:
        """Asks where to, and writes how reliable the wires were and what they read."""
        from pivet.ui.readings.out import ask_figures

        path = ask_figures(self._window, self._settings.folder)
        if path is not None:
            self._store().once(lambda: self.export_statistics(path))

    def export_statistics(self, path: Path) -> None:
        """Writes statistics in the form that the ending says."""
        from pivet.ui.readings.out import figures_work

        work = figures_work(self._store(), path, self._session.shown.units)
        self._jobs.start(f"Writing {path.name}", work, lambda _: self._wrote(path))

    def choose_log(self) -> None:
        """Asks for a running log, and keeps it."""
        from pivet.keeping.log import read_wish
        from pivet.ui.drawing.asking import accepted
        from pivet.ui.readings.out import LogDialog

        settings = self._settings
        before = read_wish(settings.log or settings.last_log)
        dialog = LogDialog(before, settings.folder, self._session.shown.units, self._window)
        if accepted(dialog):
            self.keep_log(dialog.wish())

    def keep_log(self, wish: "LogWish | None") -> None:
        """Keeps a running log of all that is listened to, or no longer."""
        text = "" if wish is None else wish.text()
        if self._settings.log and wish is None:
            self._notice.say("The running log has ended; what stands in it stays.", False)
        elif wish is not None:
            now = "" if self._live.listens else " as soon as Pivet listens"
            self._notice.say(f"A running log is kept in {wish.path}{now}.", False)
        self._settings.log = text
        if text:
            self._settings.last_log = text
        self._apply_log()
        self.log_changed.emit()

    def _apply_log(self) -> None:
        """Those that listen now keep the log that is wanted."""
        if not self._live.listens:
            return
        from pivet.keeping.log import read_wish
        from pivet.ui.readings.out import numbered

        wish = read_wish(self._settings.log)

        for number, thread in enumerate(self._live.listening.threads):
            thread.keep_log(None if wish is None else numbered(wish, number))

    @property
    def logs(self) -> str:
        """The name of the running log while it is written; else empty."""
        if not self._settings.log or not self._live.listens:
            return ""
        from pivet.keeping.log import read_wish

        wish = read_wish(self._settings.log)
        return "" if wish is None else wish.path.name
