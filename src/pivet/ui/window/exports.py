"""Taking things out of the window: copies, exports, pictures."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QWidget

from pivet.captures.capture import Capture
from pivet.captures.text import exchange_text
from pivet.errors import PivetError
from pivet.progress import Progress
from pivet.ui.window.services import Services


class Exports:
    """What can be taken out of the shown capture.

    Args:
        services: the services of the window.
        page: the view that is shown, for pictures.
    """

    def __init__(self, services: Services, page: Callable[[], QWidget]) -> None:
        self._window, self._session, self._page = services.window, services.session, page
        self._jobs, self._notice = services.jobs, services.notice
        self._settings = services.settings

    def copy_exchange(self) -> None:
        """Copies the exchange as text."""
        report = self._session.report
        if report is not None:
            QGuiApplication.clipboard().setText(exchange_text(report))
            self._notice.say(f"Exchange {report.number} was copied as text.", False)

    def choose_exchanges_file(self) -> None:
        """Asks where to, and exports the exchanges as JSON Lines."""
        path = self._ask_target("Export exchanges", "exchanges.jsonl", "JSON Lines (*.jsonl)")
        if path is not None:
            from pivet.bench.export import export_readings

            self._export(path, partial(export_readings, roles=self._session.roles))

    def choose_capture_file(self) -> None:
        """Asks where to, and saves the capture."""
        path = self._ask_target("Save capture", "capture.vcd", "VCD (*.vcd);;Edge CSV (*.csv)")
        if path is not None:
            from pivet.bench.export import export_capture

            self._export(path, export_capture)

    def choose_report_file(self) -> None:
        """Asks where to, and writes a report of the capture."""
        capture = self._session.capture
        if capture is None or not any(len(wire) for wire in capture.wires):
            self._notice.say("There is no exchange to report of: open a capture first.", False)
            return
        path = self._ask_target("Report", "report.html", "HTML (*.html);;PDF (*.pdf)")
        if path is None:
            return
        from pivet.ui.many.report import write_report

        work = partial(write_report, capture, dict(self._session.firmware), path)
        done = partial(self._notice.say, f"{path.name} was written.", False)
        self._jobs.start("Writing the report", work, lambda _: done())

    def choose_picture_file(self) -> None:
        """Asks where to, and saves the view as a picture."""
        path = self._ask_target("Save picture", "view.png", "PNG (*.png);;SVG (*.svg)")
        if path is not None:
            self.save_picture(path)

    def save_picture(self, path: Path) -> None:
        """Saves the view as a picture."""
        from pivet.ui.drawing.pictures import picture_of, put_picture

        try:
            content = picture_of(self._page(), path)
        except PivetError as error:
            self._notice.say(str(error))
            return
        self._jobs.start(
            f"Writing {path.name}",
            lambda _: put_picture(content, path),
            lambda _: self._notice.say(f"{path.name} was written.", False),
        )

    def _ask_target(self, title: str, name: str, kinds: str) -> Path | None:
        from PySide6.QtWidgets import QFileDialog

        start = str(Path(self._settings.folder) / name)
        chosen, kind = QFileDialog.getSaveFileName(self._window, title, start, kinds)
        if not chosen:
            return None
        path = Path(chosen)
        ending = kind.partition("*")[2].partition(")")[0]
        return path if path.suffix else path.with_suffix(ending)

    def _export(self, path: Path, write: Callable[[Capture, Path, Progress], None]) -> None:
        capture = self._session.capture
        if capture is not None:
            self._jobs.start(
                f"Writing {path.name}",
                partial(write, capture, path),
                lambda _: self._notice.say(f"{path.name} was written.", False),
            )
