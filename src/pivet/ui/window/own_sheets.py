"""The person's own timing sheets in the window: read at the start, and again when they change."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, QUrl
from PySide6.QtGui import QDesktopServices

from pivet.errors import PivetError
from pivet.files.disk import make_folder
from pivet.person.own_folder import own_folder
from pivet.person.own_sheets import SUFFIX, use_folder
from pivet.sheets.load import own_sheets
from pivet.ui.window.notice_bar import NoticeBar

SETTLED_MS = 300
"""An editor writes a file in several steps."""


class OwnSheets(QObject):
    """Watches the folder of own sheets.

    Args:
        notice: where is said what cannot be used.
        folder: where they stand.
        show: shows a folder to the person.
    """

    def __init__(
        self,
        notice: NoticeBar,
        folder: Path | None = None,
        show: Callable[[QUrl], bool] = QDesktopServices.openUrl,
    ) -> None:
        super().__init__(notice)
        self._notice, self._folder, self._show = notice, folder or own_folder(), show
        # Properties are set by their setters: as words of a call they are not found in Turkish,
        # where the capital of i is another letter.
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(SETTLED_MS)
        self._later.timeout.connect(self.read)
        self._watcher = QFileSystemWatcher(self)
        for changed in (self._watcher.directoryChanged, self._watcher.fileChanged):
            changed.connect(lambda _: self._later.start())

    def read(self) -> None:
        """Takes what stands there; from now on also what changes."""
        refused = use_folder(self._folder)
        if self._folder.is_dir():
            paths = [self._folder, *self._folder.glob(f"*{SUFFIX}")]
            self._watcher.addPaths([str(path) for path in paths])
        if refused:
            more = f" ({len(refused) - 1} more)" if len(refused) > 1 else ""
            self._notice.say(f"One of your timing sheets is left out: {refused[0]}{more}")

    def show_folder(self) -> None:
        """Shows the folder, and says how to begin a sheet."""
        try:
            make_folder(self._folder)
        except PivetError as error:
            self._notice.say(str(error))
            return
        self.read()
        self._show(QUrl.fromLocalFile(str(self._folder)))
        names = ", ".join(own_sheets()) or "none yet"
        self._notice.say(
            f"Your own timing sheets stand in {self._folder} ({names}). To begin one: "
            f"pivet sheet copy dht22 {self._folder / 'mine.toml'}",
            False,
        )
