"""The menus of the window: everything that can be done, with its keys."""

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import Protocol

from PySide6.QtGui import QAction, QActionGroup, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu

from pivet.ui.drawing.theme import ThemeChoice
from pivet.ui.help.pages import PAGES
from pivet.ui.live.controls import LiveControls
from pivet.ui.session.session import Session
from pivet.ui.session.viewpoint import NOWHERE
from pivet.ui.views import Views
from pivet.ui.window.actions import SEPARATOR, Entry, fill_menu
from pivet.ui.window.exports import Exports
from pivet.ui.window.settings import Settings


class Commands(Protocol):
    """What the menus offer, beside what belongs to views, listening and taking out."""

    session: Session
    views: Views
    live: LiveControls
    exports: Exports

    def choose_files(self) -> None: ...
    def open_files(self, paths: Sequence[Path]) -> None: ...
    def show_demo(self) -> None: ...
    def show_long_night(self) -> None: ...
    def show_details(self) -> None: ...
    def close_capture(self) -> None: ...
    def choose_wire_to_add(self) -> None: ...
    def take_over_names(self) -> None: ...
    def show_own_sheets(self) -> None: ...
    def explain_bytes(self) -> None: ...
    def step_not_sound(self, step: int) -> None: ...
    def measure_lit(self) -> None: ...
    def clear_marks(self) -> None: ...
    def choose_theme(self, choice: ThemeChoice) -> None: ...
    def show_help(self, page: str) -> None: ...
    def show_about(self) -> None: ...


class Menus:
    """Builds the menus.

    Args:
        window: the window whose menus they are.
        commands: what can be done in it.
        settings: knows the files opened last, and the theme.

    Attributes:
        gated: what needs an exchange to act on.
        recent: the files opened last.
    """

    def __init__(self, window: QMainWindow, commands: Commands, settings: Settings) -> None:
        self._window, self._commands, self._settings = window, commands, settings
        self.gated: list[QAction] = []
        self._build(settings.theme)

    def _build(self, theme: ThemeChoice) -> None:
        commands = self._commands
        views = commands.views
        bar = self._window.menuBar()
        file_menu = bar.addMenu("&File")
        self._fill(file_menu, [Entry("&Open…", "Ctrl+O", commands.choose_files)])
        self.recent = file_menu.addMenu("Open &recent")
        self.recent.aboutToShow.connect(self.fill_recent)
        self._fill(file_menu, self._file_entries())
        edit = bar.addMenu("&Edit")
        self._add_undo(edit)
        self._fill(edit, self._edit_entries())
        self._fill(bar.addMenu("E&xchange"), self._exchange_entries())
        self._fill(bar.addMenu("&Live"), commands.live.entries())
        self._fill(bar.addMenu("&Readings"), views.entries())
        view = bar.addMenu("&View")
        self._fill(
            view,
            [
                *views.view_entries(),
                Entry("&Measure lit pulse", "M", commands.measure_lit, True),
                Entry("C&lear cursors and light", "Esc", commands.clear_marks),
                SEPARATOR,
            ],
        )
        self._add_themes(view, theme)
        help_menu = bar.addMenu("&Help")
        entries: list[Entry | None] = [
            Entry(title, "", partial(commands.show_help, page)) for page, title in PAGES.items()
        ]
        this = Entry("&This view", "F1", lambda: commands.show_help(views.kind.help))
        self._fill(
            help_menu,
            [this, SEPARATOR, *entries, SEPARATOR, Entry("&About Pivet", "", commands.show_about)],
        )

    def _file_entries(self) -> list[Entry | None]:
        commands = self._commands
        views, exports = commands.views, commands.exports
        return [
            Entry("Show the &demo night", "", commands.show_demo),
            Entry("Show a &whole night's readings", "", commands.show_long_night),
            Entry("Capture de&tails", "Ctrl+I", commands.show_details),
            Entry("&Close capture", "Ctrl+W", commands.close_capture),
            SEPARATOR,
            Entry("Save &bench as…", "Ctrl+S", commands.live.choose_bench_file),
            Entry("&Export readings…", "Ctrl+E", views.out.choose_export, True),
            Entry("Export e&xchanges…", "Ctrl+Shift+E", exports.choose_exchanges_file, True),
            Entry("Export s&tatistics…", "", views.out.choose_statistics_file, True),
            Entry("&Report…", "Ctrl+R", exports.choose_report_file, True),
            Entry("Save capture &as…", "Ctrl+Shift+S", exports.choose_capture_file, True),
            Entry("Save &picture…", "Ctrl+P", exports.choose_picture_file, True),
            SEPARATOR,
            Entry("&Quit", "Ctrl+Q", self._window.close),
        ]

    def _edit_entries(self) -> list[Entry | None]:
        commands, exports = self._commands, self._commands.exports
        return [
            SEPARATOR,
            Entry("&Copy exchange as text", "Ctrl+C", exports.copy_exchange, True),
            SEPARATOR,
            Entry("&Note on this exchange…", "Ctrl+T", commands.live.change_note, True),
            Entry("Add a &wire…", "", lambda: commands.choose_wire_to_add()),
            Entry("&Take over the bench's names", "", commands.take_over_names),
            Entry("&Explain bytes…", "Ctrl+B", commands.explain_bytes),
            Entry("Your own timing &sheets", "", commands.show_own_sheets),
        ]

    def _exchange_entries(self) -> list[Entry | None]:
        commands, session = self._commands, self._commands.session
        return [
            Entry("&Next", "PgDown", lambda: session.step(1), True),
            Entry("&Previous", "PgUp", lambda: session.step(-1), True),
            Entry(
                "Next that is not &sound", "Shift+PgDown", lambda: commands.step_not_sound(1), True
            ),
            Entry(
                "Previous that is n&ot sound",
                "Shift+PgUp",
                lambda: commands.step_not_sound(-1),
                True,
            ),
            SEPARATOR,
            Entry("&First", "Home", lambda: session.choose_number(0), True),
            Entry("&Last", "End", lambda: session.choose_number(NOWHERE), True),
            Entry("&Go to…", "Ctrl+G", commands.live.go_to, True),
        ]

    def _fill(self, menu: QMenu, entries: list[Entry | None]) -> None:
        fill_menu(menu, self._window, entries, self.gated)

    def _add_undo(self, menu: QMenu) -> None:
        for make, keys in (
            (self._commands.session.undo.createUndoAction, QKeySequence.StandardKey.Undo),
            (self._commands.session.undo.createRedoAction, QKeySequence.StandardKey.Redo),
        ):
            action = make(self._window)
            action.setShortcuts(keys)
            menu.addAction(action)

    def _add_themes(self, menu: QMenu, chosen: ThemeChoice) -> None:
        group = QActionGroup(self._window)
        for choice in ThemeChoice:
            action = menu.addAction(f"{choice.title()} colours")
            action.setCheckable(True)
            action.setChecked(choice is chosen)
            action.triggered.connect(partial(self._commands.choose_theme, choice))
            group.addAction(action)

    def fill_recent(self) -> None:
        """Lists the files that were opened last."""
        self.recent.clear()
        paths = self._settings.recent()
        for path in paths:
            self.recent.addAction(str(path), partial(self._commands.open_files, [path]))
        if paths:
            self.recent.addSeparator()
            self.recent.addAction("&Forget all", self._settings.clear_recent)
        else:
            self.recent.addAction("Nothing opened yet").setEnabled(False)
