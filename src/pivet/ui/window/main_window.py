"""The main window: menus, jobs, drops, and what it remembers."""

import shutil
import sys
import tempfile
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QChildEvent, Qt
from PySide6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QResizeEvent,
)
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QHBoxLayout,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from pivet import __version__
from pivet.captures.capture import Capture, add_named, open_capture
from pivet.captures.offers import Offer
from pivet.captures.text import summary_lines
from pivet.captures.wire import Wire
from pivet.errors import PivetError
from pivet.files.benchfile.beside import SUFFIX
from pivet.judge.wording import count
from pivet.person.roles import Roles
from pivet.person.roles_file import load_roles, save_roles
from pivet.progress import Progress
from pivet.sheets.model import Sheet
from pivet.ui.drawing.theme import ThemeChoice, apply_theme, dress
from pivet.ui.drawing.widgets import GAP, plain_label, plain_tip
from pivet.ui.live.controls import LiveControls
from pivet.ui.session.changes import TakeOverNames
from pivet.ui.session.session import Session
from pivet.ui.view import LEAST_SIZE
from pivet.ui.views import Views
from pivet.ui.window.adding import words_of
from pivet.ui.window.empty import EmptyPage
from pivet.ui.window.exports import Exports
from pivet.ui.window.menus import Menus
from pivet.ui.window.notice_bar import NoticeBar
from pivet.ui.window.services import Services
from pivet.ui.window.settings import Settings
from pivet.ui.work.jobs import JobBar
from pivet.ui.work.turns import turns

if TYPE_CHECKING:
    from pivet.ui.window.own_sheets import OwnSheets

SIZE = (1280, 800)
LEAST_NAME_PX, BESIDE_NAME_PX = 60, 40
CAPTURES = (
    "Captures and benches (*.vcd *.csv *.tsv *.txt *.pivet *.gz *.xz *.bz2 *.zst);;All files (*)"
)


class MainWindow(QMainWindow):
    """The window.

    Args:
        remembers: begin as the window was left, and keep how it is left this time.
    """

    def __init__(self, remembers: bool = True) -> None:
        super().__init__()
        self.told_to_end = False
        self._settings = Settings(remembers)
        self.session = Session(self)
        self.empty = EmptyPage()
        self.notice = NoticeBar()
        self._own_sheets: OwnSheets | None = None
        self.jobs = JobBar()
        self.session.edits.run_long = self.jobs.start
        services = Services(self, self.session, self.jobs, self.notice, self._settings)
        self.exports = Exports(services, lambda: self.views.page)
        self.live = LiveControls(services)
        self.views = Views(services, self.live)
        self._borrowed = self._kept_roles = Roles()
        self._file_label, self._named = plain_label(), "no capture"
        self._build()
        self.menus = Menus(self, self, self._settings)
        self._bar = self.menuBar()
        for part in (self._bar, self.notice, self.empty, self.jobs):
            dress(part)
        self._connect()
        self._restore()
        self._renew()
        self._load_roles()
        self._tell_left_behind()
        self.session.roles_changed.connect(self._save_roles)
        self.live.keeper.borrows.connect(self._on_borrowed)

    def _build(self) -> None:
        self.setAcceptDrops(True)
        self.resize(*SIZE)
        self.setMinimumSize(*LEAST_SIZE)
        self._pages = QStackedWidget()
        self._pages.addWidget(self.empty)
        self._pages.addWidget(self.views.stack)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for part in (self.notice, self._pages):
            column.addWidget(part)
        self.live.place_for_pane = QVBoxLayout()
        self.live.place_for_pane.setContentsMargins(GAP, 0, GAP, GAP)
        column.addLayout(self.live.place_for_pane)
        column.addWidget(self.jobs)
        column.setStretchFactor(self._pages, 1)
        self.setCentralWidget(whole)
        self._file_label.setObjectName("barFile")
        self._corner = QWidget()
        row = QHBoxLayout(self._corner)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.views.tabs)
        row.addWidget(self._file_label)
        self.menuBar().setCornerWidget(self._corner)
        self.menuBar().setNativeMenuBar(False)

    def _connect(self) -> None:
        self.session.captures_changed.connect(self._renew)
        self.session.wire_changed.connect(self._renew)
        self.jobs.failed.connect(self._on_failed)
        self.live.cave_begun.connect(self._borrow_roles)
        self.live.feeds_help_asked.connect(partial(self.show_help, "feeds"))
        self.live.failed.connect(self._on_failed)
        self.live.changed.connect(self._renew)
        self.views.out.log_changed.connect(self._renew)
        self.live.keeper.opened.connect(self._remember)
        self.live.keeper.changed.connect(self._renew)
        self.views.help_asked.connect(partial(self.show_help, "findings"))
        self.empty.open_asked.connect(self.choose_files)
        self.empty.demo_asked.connect(self.show_demo)
        self.empty.cave_asked.connect(self.live.listen_to_cave)
        self.empty.live_asked.connect(self.live.add_wire)
        self.empty.recent_asked.connect(lambda path: self.open_files([path]))
        self.empty.wire_asked.connect(self.choose_wire_to_add)
        self.empty.offer_asked.connect(self.take_offer)
        hints = QGuiApplication.styleHints()
        hints.colorSchemeChanged.connect(self._on_scheme)

    def childEvent(self, event: QChildEvent) -> None:
        """A dialog over the window is about to be seen for the first time."""
        if event.polished():
            child = event.child()
            if isinstance(child, QWidget) and child.isWindow():
                dress(child)
        super().childEvent(event)

    def _on_scheme(self) -> None:
        self._use_theme(self._settings.theme)

    def choose_theme(self, choice: ThemeChoice, _checked: bool = True) -> None:
        """Uses a theme, now and next time."""
        self._settings.theme = choice
        self._use_theme(choice)

    def _use_theme(self, choice: ThemeChoice) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            apply_theme(app, choice)
            self.views.renew()
            turns().add_last(self, self._renew)

    @property
    def own_sheets(self) -> "OwnSheets":
        """Watches the person's own timing sheets; made when there are some."""
        if self._own_sheets is None:
            from pivet.ui.window.own_sheets import OwnSheets

            self._own_sheets = OwnSheets(self.notice)
        return self._own_sheets

    def show_own_sheets(self) -> None:
        """Shows where the person's own timing sheets stand."""
        self.own_sheets.show_folder()

    def _load_roles(self) -> None:
        """Takes the roles of this person; a broken file is said and left as it is."""
        path = self._settings.roles_path
        if path is None:
            return
        try:
            self._kept_roles = load_roles(path)
            self.session.put_roles(self._kept_roles)
        except PivetError as error:
            self._settings.roles_path = None
            self.notice.say(f"The names of devices are not kept now: {error}")

    def _tell_left_behind(self) -> None:
        """Benches that had no name when Pivet ended all of a sudden."""
        paths = self.live.keeper.left_behind()
        for path in paths:
            self._settings.add_recent(path)
        if paths:
            which = "A bench" if len(paths) == 1 else f"{len(paths)} benches"
            verb = "was" if len(paths) == 1 else "were"
            self.notice.say(
                f"{which} without a name {verb} not closed last time; nothing is lost: "
                "File › Open recent.",
                False,
            )

    def _save_roles(self) -> None:
        """Keeps the roles when they have changed; those of the demo are not kept."""
        path, roles = self._settings.roles_path, self.session.roles.without(self._borrowed)
        if path is None or roles == self._kept_roles:
            return
        try:
            save_roles(roles, path)
            self._kept_roles = roles
        except PivetError as error:
            self.notice.say(str(error))

    def _restore(self) -> None:
        self.restoreGeometry(self._settings.bytes_of("geometry"))

    def _renew(self) -> None:
        """Chooses the page and the titles after a change."""
        capture, wire = self.session.capture, self.session.wire
        if wire is None:
            if capture is None:
                self.empty.show_start(self._settings.recent())
            else:
                self.empty.show_nothing_found(capture)
        live = self.session.live_now is not None
        there = wire is not None or live
        self._pages.setCurrentWidget(self.views.stack if there else self.empty)
        name = capture.name if capture is not None else ""
        bench = self.live.keeper.title
        if capture is not None and capture.kept is not None and bench:
            name = f"{name} · {bench}"
        self.setWindowTitle(f"{name} – Pivet" if name else "Pivet")
        log = self.views.out.logs
        self._named = f"{name} · log {log}" if log else name or "no capture"
        self._fit_corner(self.width())
        for action in self.menus.gated:
            action.setEnabled(wire is not None)

    def choose_files(self) -> None:
        """Asks for captures and opens them."""
        from PySide6.QtWidgets import QFileDialog

        names, _ = QFileDialog.getOpenFileNames(
            self, "Open captures", self._settings.folder, CAPTURES
        )
        self.open_files([Path(name) for name in names])

    def open_files(self, paths: Sequence[Path]) -> None:
        """Opens captures, one job each."""
        for path in paths:
            if path.suffix == SUFFIX:
                self.live.open_bench(path)
                continue
            self.jobs.start(
                f"Opening {path.name}",
                partial(_open, path),
                self._on_opened,
            )

    def _on_opened(self, capture: Capture) -> None:
        self._remember(capture.path)
        self.notice.hide()
        self.session.add_capture(capture)
        offer = next((one for one in capture.offers if one.inverted), None)
        if capture.wires and offer is not None:
            self.notice.say(
                f"{offer.names}: {offer.says}.",
                False,
                (words_of(offer), partial(self.take_offer, offer, capture)),
            )

    def _remember(self, path: Path) -> None:
        self._settings.add_recent(path)
        self._settings.folder = str(path.parent)

    def show_demo(self) -> None:
        """Opens the demo night."""
        from pivet.bench.demo import demo_capture

        self.jobs.start("Making the demo night", demo_capture, self._on_demo)

    def show_long_night(self) -> None:
        """Makes a bench file with a whole night, and opens it."""
        from pivet.bench.demo_night import FILE, record_night

        if self.live.listens:
            self.notice.say("Stop listening first (Ctrl+Shift+.), then look at the night.", False)
            return
        folder = Path(tempfile.mkdtemp(prefix="pivet-night-"))

        def work(progress: Progress) -> Path:
            try:
                record_night(folder / FILE, progress)
            except BaseException:
                shutil.rmtree(folder, ignore_errors=True)
                raise
            return folder / FILE

        self.jobs.start("Making a whole night", work, lambda path: self.open_files([path]))

    def _on_demo(self, capture: Capture) -> None:
        """Shows the demo; its people's names are known while it is open, but not kept."""
        self._borrow_roles()
        self.session.add_capture(capture)

    def _borrow_roles(self) -> None:
        """The people of the cave have names for their probes."""
        from pivet.bench.demo import DEMO_ROLES

        self._borrowed = DEMO_ROLES
        self.session.put_roles(self.session.roles.joined(DEMO_ROLES))

    def _on_borrowed(self, roles: Roles) -> None:
        """Names that come with a bench are shown while it is open, but not kept."""
        self._borrowed = roles
        if roles.roles:
            names = count(len(roles.roles), "name")
            self.notice.say(
                f"{names} of devices come from this bench: "
                "Edit › Take over the bench's names keeps them.",
                False,
            )

    def take_over_names(self) -> None:
        """The names of devices that come with the bench become the person's.  Can be undone."""
        if not self._borrowed.roles:
            self.notice.say("All names of devices are yours already.", False)
            return
        self.session.undo.push(TakeOverNames(self._put_borrowed, self._borrowed))
        self.notice.say("The names of this bench's devices are kept from now on.", False)

    def _put_borrowed(self, roles: Roles) -> None:
        self._borrowed = roles
        self._save_roles()

    def close_capture(self) -> None:
        """Closes the chosen capture."""
        if not self.session.captures:
            return
        place = self.session.place
        number = place[0] if place else len(self.session.captures) - 1
        capture = self.session.captures[number]
        if capture.key in self.session.live:
            self.notice.say("Stop listening first (Ctrl+Shift+.), then close it.", False)
        elif capture.kept is not None:
            if self.live.keeper.may_close():
                self.live.keeper.close()
        else:
            self.session.close_capture(number)

    def show_details(self) -> None:
        """Shows what is known of the capture, and what had to be assumed to read it."""
        from pivet.ui.help.viewer import TextViewer

        capture = self.session.capture
        if capture is None:
            self.notice.say("Open a capture first.", False)
            return
        viewer = TextViewer(capture.name, "\n".join(summary_lines(capture)), self)
        viewer.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        viewer.show()

    def choose_wire_to_add(self, name: str = "", of: Capture | None = None) -> None:
        """Asks for a line on which no sensor was recognised, what it is, and decodes it."""
        from pivet.ui.window.adding import AddWireDialog, offers_of

        capture = of or self.session.capture
        if capture is None or not capture.others:
            self.notice.say("Every line of this capture that changes is shown already.", False)
            return
        dialog = AddWireDialog(capture.others, offers_of(capture), name, self)
        dialog.accepted.connect(lambda: self.add_wire(*dialog.wanted, capture))
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()

    def take_offer(self, offer: Offer, of: Capture | None = None) -> None:
        """Decodes a line as what it may be; asks where only the person can say."""
        if offer.sheet is None and not offer.inverted:
            self.choose_wire_to_add(offer.names, of)
        else:
            self.add_wire(offer.names, offer.sheet, offer.inverted, of)

    def add_wire(
        self,
        name: str,
        sheet: Sheet | None = None,
        invert: bool = False,
        of: Capture | None = None,
    ) -> None:
        """Decodes a line (or trigger,echo) and adds it as a wire.

        Args:
            name: of the line.
            sheet: to judge it by; None recognises it.
            invert: it is read the other way round.
            of: its capture; without one that which is shown.
        """
        capture = of or self.session.capture
        if capture is None:
            return

        def work(progress: Progress) -> Wire:
            return add_named(capture, name, progress, sheet, invert)

        self.jobs.start(f"Decoding {name}", work, partial(self.session.edits.add_wire, capture.key))

    def explain_bytes(self) -> None:
        """Opens the pane for bytes copied from elsewhere."""
        from pivet.ui.window.by_hand import ByHandPane

        pane = ByHandPane(self)
        pane.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        pane.show()
        pane.text.setFocus()

    def step_not_sound(self, step: int) -> None:
        """Goes to the next exchange that is not sound, or says that there is none."""
        if not self.session.step_not_sound(step):
            where = "after" if step > 0 else "before"
            self.notice.say(f"Every exchange {where} this one is sound.", False)

    def measure_lit(self) -> None:
        """Puts the cursors at the ends of the lit pulses."""
        if not self.views.page.measure():
            self.notice.say("Choose a pulse first: click it, or walk to it in the stack.", False)

    def clear_marks(self) -> None:
        """Takes away the cursors, else the light, else what is said."""
        if self.views.page.clear():
            return
        if self.session.chosen:
            self.session.choose_pulses(frozenset())
        else:
            self.notice.hide()

    def show_help(self, page: str, section: str = "") -> None:
        """Opens a page of help."""
        from pivet.ui.help.viewer import HelpViewer

        viewer = HelpViewer(page, section, self)
        viewer.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        viewer.show()

    def show_about(self) -> None:
        """Says what this is."""
        from PySide6.QtWidgets import QMessageBox

        QMessageBox.about(
            self,
            "About Pivet",
            f"<b>Pivet {__version__}</b><br>Decodes and judges pulse-timed single-wire sensor "
            "signals, and says in plain words what is wrong.<br>MIT licence.",
        )

    def _on_failed(self, error: Exception) -> None:
        if isinstance(error, PivetError):
            self.notice.say(str(error))
        else:
            self.show_mistake(error)

    def show_mistake(self, error: BaseException) -> None:
        """Says that Pivet itself went wrong; the traceback goes to the terminal."""
        sys.__excepthook__(type(error), error, error.__traceback__)
        what = f"{type(error).__name__}: {error}".rstrip(": ")
        self.notice.say(f"Pivet made a mistake ({what}). Your work is as it was.")

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Takes files."""
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Opens dropped files."""
        urls = event.mimeData().urls()
        paths = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
        self.open_files(paths)
        if not paths:
            self.notice.say("Only files of this computer can be dropped here.")
        event.acceptProposedAction()

    def end(self) -> None:
        """Closes the window at once: the system says so, and nobody can be asked."""
        self.told_to_end = True
        for widget in QApplication.topLevelWidgets():
            if isinstance(widget, QDialog):
                widget.reject()
        self.close()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Another width has room for more or less of the file's name."""
        self._fit_corner(event.size().width())
        super().resizeEvent(event)

    def _fit_corner(self, width: int) -> None:
        """The menus need the bar's room more than the name of the file, which is shortened."""
        bar, label = self.menuBar(), self._file_label
        menus = bar.sizeHint().width() - self._corner.sizeHint().width()
        label.ensurePolished()
        spare = width - menus - self.views.tabs.sizeHint().width() - BESIDE_NAME_PX
        text = label.fontMetrics().elidedText(self._named, Qt.TextElideMode.ElideMiddle, spare)
        if (text, spare < LEAST_NAME_PX) == (label.text(), label.isHidden()):
            return
        label.setText(text)
        label.setToolTip("" if text == self._named else plain_tip(self._named))
        label.setVisible(spare >= LEAST_NAME_PX)
        # The menu bar measures its corner only when it is given.
        self._corner.adjustSize()
        bar.setCornerWidget(self._corner)
        self._corner.show()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Stops jobs and listening, and remembers how the window stood."""
        if not self.live.close(ask=not self.told_to_end):
            event.ignore()
            return
        self._settings.keep_bytes("geometry", self.saveGeometry())
        # What is still written may take a moment; nobody waits in front of a window for it.
        self.hide()
        self.views.close()
        self.session.reading.wait()
        self.jobs.wait()
        self.live.sending.beside.wait()
        super().closeEvent(event)


def _open(path: Path, progress: Progress) -> Capture:
    return open_capture(path, progress=progress)
