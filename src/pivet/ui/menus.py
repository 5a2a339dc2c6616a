"""The menus of the window: everything that can be done, with its keys."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QActionGroup, QKeySequence
from PySide6.QtWidgets import QMenu

from pivet.ui.actions import SEPARATOR, Entry, fill_menu
from pivet.ui.help.pages import PAGES
from pivet.ui.settings import Settings
from pivet.ui.theme import ThemeChoice
from pivet.ui.viewpoint import NOWHERE

if TYPE_CHECKING:
    from pivet.ui.main_window import MainWindow


class Menus:
    """Builds the menus.

    Args:
        window: whose menus they are.
        settings: knows the files opened last, and the theme.

    Attributes:
        gated: what needs an exchange to act on.
        recent: the files opened last.
    """

    def __init__(self, window: "MainWindow", settings: Settings) -> None:
        self._window, self._settings = window, settings
        self.gated: list[QAction] = []
        self._build(settings.theme)

    def _build(self, theme: ThemeChoice) -> None:
        window, views, taking = self._window, self._window.views, self._window.taking
        bar = window.menuBar()
        file_menu = bar.addMenu("&File")
        self._fill(file_menu, [Entry("&Open…", "Ctrl+O", window.choose_files)])
        self.recent = file_menu.addMenu("Open &recent")
        self.recent.aboutToShow.connect(self.fill_recent)
        self._fill(
            file_menu,
            [
                Entry("Show the &demo night", "", window.show_demo),
                Entry("Show a &whole night's readings", "", window.show_long_night),
                Entry("Capture de&tails", "Ctrl+I", window.show_details),
                Entry("&Close capture", "Ctrl+W", window.close_capture),
                SEPARATOR,
                Entry("Save &bench as…", "Ctrl+S", window.live.choose_bench_file),
                Entry("&Export readings…", "Ctrl+E", views.out.choose_export, True),
                Entry("Export e&xchanges…", "Ctrl+Shift+E", taking.choose_exchanges_file, True),
                Entry("Export s&tatistics…", "", views.out.choose_statistics_file, True),
                Entry("Save capture &as…", "Ctrl+Shift+S", taking.choose_capture_file, True),
                Entry("Save &picture…", "Ctrl+P", taking.choose_picture_file, True),
                SEPARATOR,
                Entry("&Quit", "Ctrl+Q", window.close),
            ],
        )
        edit = bar.addMenu("&Edit")
        self._add_undo(edit)
        self._fill(
            edit,
            [
                SEPARATOR,
                Entry("&Copy exchange as text", "Ctrl+C", taking.copy_exchange, True),
                SEPARATOR,
                Entry("&Note on this exchange…", "Ctrl+T", window.live.change_note, True),
                Entry("Add a &wire…", "", lambda: window.choose_wire_to_add()),
                Entry("&Take over the bench's names", "", window.take_over_names),
                Entry("&Explain bytes…", "Ctrl+B", window.explain_bytes),
            ],
        )
        self._fill(bar.addMenu("E&xchange"), self._exchange_entries())
        self._fill(bar.addMenu("&Live"), window.live.entries())
        self._fill(bar.addMenu("&Readings"), views.entries())
        view = bar.addMenu("&View")
        self._fill(
            view,
            [
                *views.view_entries(),
                Entry("&Measure lit pulse", "M", window.measure_lit, True),
                Entry("C&lear cursors and light", "Esc", window.clear_marks),
                SEPARATOR,
            ],
        )
        self._add_themes(view, theme)
        help_menu = bar.addMenu("&Help")
        entries: list[Entry | None] = [
            Entry(title, "F1" if page == "stack" else "", partial(window.show_help, page))
            for page, title in PAGES.items()
        ]
        self._fill(help_menu, [*entries, SEPARATOR, Entry("&About Pivet", "", window.show_about)])

    def _exchange_entries(self) -> list[Entry | None]:
        window, session = self._window, self._window.session
        return [
            Entry("&Next", "PgDown", lambda: session.choose_exchange(session.index + 1), True),
            Entry("&Previous", "PgUp", lambda: session.choose_exchange(session.index - 1), True),
            Entry(
                "Next that is not &sound", "Shift+PgDown", lambda: window.step_not_sound(1), True
            ),
            Entry(
                "Previous that is n&ot sound", "Shift+PgUp", lambda: window.step_not_sound(-1), True
            ),
            SEPARATOR,
            Entry("&First", "Home", lambda: session.choose_number(0), True),
            Entry("&Last", "End", lambda: session.choose_number(NOWHERE), True),
            Entry("&Go to…", "Ctrl+G", window.live.go_to, True),
        ]

    def _fill(self, menu: QMenu, entries: list[Entry | None]) -> None:
        fill_menu(menu, self._window, entries, self.gated)

    def _add_undo(self, menu: QMenu) -> None:
        for make, keys in (
            (self._window.session.edits.undo.createUndoAction, QKeySequence.StandardKey.Undo),
            (self._window.session.edits.undo.createRedoAction, QKeySequence.StandardKey.Redo),
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
            action.triggered.connect(partial(self._window.choose_theme, choice))
            group.addAction(action)

    def fill_recent(self) -> None:
        """Lists the files that were opened last."""
        self.recent.clear()
        paths = self._settings.recent()
        for path in paths:
            self.recent.addAction(str(path), partial(self._window.open_files, [path]))
        if paths:
            self.recent.addSeparator()
            self.recent.addAction("&Forget all", self._settings.clear_recent)
        else:
            self.recent.addAction("Nothing opened yet").setEnabled(False)
