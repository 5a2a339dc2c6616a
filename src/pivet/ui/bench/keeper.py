"""The bench file that is open: made when something is first listened to, opened, saved, closed."""

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from pivet.captures.capture import Capture
from pivet.errors import OutputError, PivetError
from pivet.files.benchfile.beside import SUFFIX, continuations, is_bench_content, remove_bench
from pivet.files.benchfile.lock import WriterLock
from pivet.files.disk import make_folder
from pivet.person.roles import Roles
from pivet.progress import Progress
from pivet.ui.session.session import Session
from pivet.ui.work.jobs import JobBar

if TYPE_CHECKING:  # the bench file is imported when there is one: the window starts faster
    from tempfile import TemporaryDirectory

    from pivet.files.benchfile.store import BenchFile
    from pivet.person.stored import LastLook

Opened = tuple["BenchFile", list[Capture]]


class BenchKeeper(QObject):
    """Keeps one bench file open.

    Args:
        window: parent of questions.
        session: shows what it holds.
        jobs: opens and saves.
        folder: where a bench without a name is kept; None for a folder that is thrown away.

    Attributes:
        bench: the open file; None before there is one.
        unnamed: the person has given it no name yet.
        throwaway: it holds nothing that anybody would miss.
        ask_path: asks for the name of a new file.
        borrowed: names of devices that come from the bench, and are not the person's.

    Signals:
        said: something is to be told; carries the sentence and whether it is trouble.
        opened: a file was opened or given a name; carries its path.
        changed: another bench is open, or none.
        closing: the open bench is about to be closed.
        borrows: names of devices come from the open bench only; carries them.
    """

    borrows = Signal(object)

    said = Signal(str, bool)
    opened = Signal(object)
    changed = Signal()
    closing = Signal()

    def __init__(
        self, window: QWidget, session: Session, jobs: JobBar, folder: Path | None
    ) -> None:
        super().__init__(window)
        self._window, self._session, self._jobs = window, session, jobs
        self._own_folder: Path | None = folder
        self._scratch: TemporaryDirectory[str] | None = None
        self.bench: BenchFile | None = None
        self.unnamed = self.throwaway = False
        self.ask_path: Callable[[], Path | None] = lambda: None
        self._kept_roles = self.borrowed = Roles()
        session.roles_changed.connect(self._keep_roles)

    @property
    def _folder(self) -> Path:
        """Where benches without a name are kept."""
        if self._own_folder is not None:
            return self._own_folder
        if self._scratch is None:
            from tempfile import TemporaryDirectory

            self._scratch = TemporaryDirectory(prefix="pivet-bench-")
            self.destroyed.connect(self._scratch.cleanup)
        return Path(self._scratch.name)

    @property
    def title(self) -> str:
        """What the bench is called; empty without one."""
        if self.bench is None:
            return ""
        if self.unnamed:
            return "bench without a name"
        return f"{self.bench.path.name}{' (only shown)' if self.bench.read_only else ''}"

    def need(self) -> "BenchFile":
        """The bench to record into; made when there is none.

        Raises:
            OutputError: it cannot be made, or may only be looked at.
        """
        if self.bench is not None:
            if self.bench.read_only:
                raise OutputError(self.bench.why, "save it under another name to go on in it")
            return self.bench
        make_folder(self._folder)
        stem = f"{datetime.now():%Y-%m-%d %H.%M.%S}"
        path = self._folder / f"{stem}{SUFFIX}"
        for number in range(2, 100):
            if not path.exists():
                break
            path = self._folder / f"{stem} {number}{SUFFIX}"
        from pivet.files.benchfile.store import BenchFile

        self.bench, self.unnamed = BenchFile.create(path), True
        self._kept_roles = Roles()
        self._keep_roles()
        self.changed.emit()
        return self.bench

    def left_behind(self) -> list[Path]:
        """Benches without a name that nobody has open: Pivet ended before they were saved."""
        if self._own_folder is None or not self._own_folder.exists():
            return []
        found = []
        for path in sorted(self._own_folder.glob(f"*{SUFFIX}")):
            lock = WriterLock(path)
            if is_bench_content(path) and not lock.take():
                lock.give()
                found.append(path)
        return found

    def open(self, path: Path) -> None:
        """Opens a bench file beside the window; what was open before is closed then."""
        if self.bench is not None and self.bench.path.resolve() == path.resolve():
            self.said.emit(f"{path.name} is open already.", False)
            return
        self._jobs.start(f"Opening {path.name}", partial(_open, path), self._on_opened)

    def _on_opened(self, opened: Opened) -> None:
        bench, captures = opened
        if not self.may_close():
            bench.close()
            return
        self.close()
        self.bench = bench
        # What another instance writes is its own, also where it has no name yet.
        self.unnamed = not bench.read_only and bench.path.parent == self._folder
        self.throwaway = False
        for capture in captures:
            self._session.add_capture(capture)
        from pivet.person.stored import read_looked, read_roles

        try:
            self._borrow(read_roles(bench))
            self._look(read_looked(bench))
        except PivetError as error:
            self.said.emit(str(error), True)
        self.opened.emit(bench.path)
        self.changed.emit()
        further = continuations(bench.path)
        if further:
            self.said.emit(
                f"{bench.path.name} went away once, and goes on in {further[-1].name}.", True
            )
        elif bench.read_only:
            self.said.emit(f"{bench.why}.", False)
        elif not captures:
            self.said.emit(f"{bench.path.name} holds no exchange yet.", False)

    def _borrow(self, roles: Roles) -> None:
        """Devices are called as the bench has them while it is open; the person's names go first.

        Whose bench it is nobody knows: its names become the person's only when they say so.
        """
        own = self._session.roles
        joined = own.joined(roles)
        self._kept_roles = joined
        self.borrowed = joined.without(own)
        self.borrows.emit(self.borrowed)
        self._session.put_roles(joined)

    def _look(self, looked: "LastLook | None") -> None:
        """Goes where the person looked last."""
        for number, capture in enumerate(self._session.captures):
            for at, wire in enumerate(capture.wires):
                kept = capture.kept
                if looked and kept and (kept.id, wire.title) == (looked.capture, looked.wire):
                    self._session.choose_wire((number, at))
                    self._session.choose_number(looked.number)

    def _keep_look(self, bench: "BenchFile") -> None:
        from pivet.person.stored import LastLook, write_looked

        capture, wire = self._session.capture, self._session.wire
        if bench.read_only or capture is None or capture.kept is None or wire is None:
            return
        try:
            write_looked(bench, LastLook(capture.kept.id, wire.title, self._session.number))
        except PivetError as error:
            self.said.emit(str(error), True)

    def save_as(self, path: Path) -> None:
        """Goes on in a file with a name; listening goes on meanwhile."""
        bench = self.bench
        if bench is None:
            self.said.emit("There is no bench yet: listen to something, or open one.", False)
            return
        former = bench.path
        if path.resolve() == former.resolve():
            if bench.read_only:
                self.said.emit(f"{bench.why}: save it under another name.", True)
            else:
                self.said.emit(f"{path.name} is up to date: all is written as it comes.", False)
            return

        def work(progress: Progress) -> Path:
            progress(0.0)
            bench.move_to(path)
            return path

        def done(path: Path) -> None:
            self._took_name(former, path)
            self.said.emit(f"{path.name} was written; what is heard now goes there.", False)
            self.changed.emit()

        self._jobs.start(f"Writing {path.name}", work, done)

    def _took_name(self, former: Path, path: Path) -> None:
        """The bench goes on at another place; where it had no name nothing is left."""
        if self.unnamed:
            remove_bench(former)
        self.unnamed = self.throwaway = False
        self._session.rename(former, path)
        self.opened.emit(path)

    def moved(self, former: Path, path: Path) -> None:
        """The file went away while it was recorded, and the bench goes on at another place."""
        self.unnamed = False
        self._session.rename(former, path)
        self.opened.emit(path)
        self.changed.emit()

    def _keep_roles(self) -> None:
        """The names of devices stand in the bench too."""
        roles = self._session.roles
        if self.bench is None or self.bench.read_only or roles == self._kept_roles:
            return
        from pivet.person.stored import write_roles

        try:
            write_roles(self.bench, roles)
            self._kept_roles = roles
        except PivetError as error:
            self.said.emit(str(error), True)

    def may_close(self) -> bool:
        """Asks about a bench without a name; False when it must not be closed."""
        bench = self.bench
        if bench is None:
            return True
        if self.unnamed and not self.throwaway and self._holds_something(bench):
            from PySide6.QtWidgets import QMessageBox

            kinds = QMessageBox.StandardButton
            answer = QMessageBox.question(
                self._window,
                "Keep what was heard?",
                "This bench has no name yet. Save it under one, or throw away what was heard?",
                kinds.Save | kinds.Discard | kinds.Cancel,
                kinds.Save,
            )
            if answer == kinds.Cancel or (answer == kinds.Save and not self._save_now(bench)):
                return False
            self.throwaway = answer == kinds.Discard
        return True

    def close(self, stays: bool = False) -> None:
        """Closes the bench; one without a name is gone then, see ``may_close``.

        Args:
            stays: nobody was asked, so nothing is thrown away.
        """
        bench = self.bench
        if bench is None:
            return
        self._keep_look(bench)
        self.closing.emit()
        self.bench = None
        for number in reversed(range(len(self._session.captures))):
            if self._session.captures[number].kept is not None:
                self._session.close_capture(number)
        own = self._session.roles.without(self.borrowed)
        self.borrowed = Roles()
        self._session.put_roles(own)
        self.borrows.emit(self.borrowed)
        keeps = stays and not self.throwaway and self._holds_something(bench)
        bench.close()
        if self.unnamed and not keeps:
            remove_bench(bench.path)
        self.unnamed = self.throwaway = False
        self.changed.emit()

    def _save_now(self, bench: "BenchFile") -> bool:
        """Asks for a name and saves; whether it was done."""
        path = self.ask_path()
        if path is None:
            return False
        former = bench.path
        try:
            bench.move_to(path)
        except PivetError as error:
            self.said.emit(str(error), True)
            return False
        self._took_name(former, path)
        return True

    def _holds_something(self, bench: "BenchFile") -> bool:
        try:
            return any(bench.count(wire.id) for wire in bench.wires())
        except PivetError:
            return False


def _open(path: Path, progress: Progress) -> Opened:
    from pivet.files.benchfile.store import BenchFile
    from pivet.keeping.kept import kept_captures

    bench = BenchFile.open(path)
    try:
        return bench, kept_captures(bench, progress)
    except BaseException:
        bench.close()
        raise
