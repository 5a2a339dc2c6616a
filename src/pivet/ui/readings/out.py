"""Taking readings out of the window: exports, statistics, and the running log."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import IO, cast

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from pivet.bench.export import write_readings
from pivet.files import disk
from pivet.files.readings_table import Form
from pivet.history.figures import FiguresForm, figures_text, wire_figures
from pivet.history.wire import by_wire
from pivet.keeping.log import LogWish
from pivet.progress import Progress
from pivet.readings.series import Series
from pivet.readings.units import UnitChoice
from pivet.ui.agreement.correcting import buttons
from pivet.ui.drawing.widgets import plain_label
from pivet.ui.readings.store import ReadingsStore

KINDS = {
    "CSV, a column a quantity (*.csv)": Form.WIDE,
    "CSV, a line a quantity (*.csv)": Form.LONG,
    "Workbook for spreadsheets (*.xlsx)": Form.WORKBOOK,
    "JSON Lines (*.jsonl)": Form.LINES,
}
FIGURES = "Text (*.txt);;CSV, a row a quantity (*.csv);;JSON Lines, an object a wire (*.jsonl)"
ALL, SEEN = "All readings", "What is in sight in the Trend view"
FORMS = {
    "CSV, a column a quantity": Form.WIDE,
    "CSV, a line a quantity": Form.LONG,
    "JSON Lines": Form.LINES,
}


def ask_export(window: QWidget, folder: str, can_see: bool) -> tuple[Path, Form, bool] | None:
    """Asks where to, in which form, and whether only what is in sight; None when not."""
    start = str(Path(folder) / "readings.csv")
    name, kind = QFileDialog.getSaveFileName(window, "Export readings", start, ";;".join(KINDS))
    if not name:
        return None
    form, path = KINDS.get(kind, Form.WIDE), Path(name)
    if path.suffix.lower() in (Form.LINES.suffix, Form.WORKBOOK.suffix):
        form = Form(path.suffix.lower().removeprefix("."))
    elif not path.suffix:
        path = path.with_suffix(form.suffix)
    if not can_see:
        return path, form, False
    what, chosen = QInputDialog.getItem(window, "Export readings", "Export:", [SEEN, ALL], 0, False)
    return (path, form, what == SEEN) if chosen else None


def export_work(
    make: Callable[[], Sequence[Series]], clock: bool, form: Form, path: Path, units: UnitChoice
) -> Callable[[Progress], None]:
    """The work of making series and writing them as a table."""

    def work(progress: Progress) -> None:
        write_readings(make(), clock, form, path, progress, units)

    return work


def ask_figures(window: QWidget, folder: str) -> Path | None:
    """Asks where statistics go; the ending says in which form."""
    start = str(Path(folder) / "statistics.txt")
    name, kind = QFileDialog.getSaveFileName(window, "Export statistics", start, FIGURES)
    if not name:
        return None
    path = Path(name)
    ending = kind.rpartition(".")[2].rstrip(")") or str(FiguresForm.TEXT)
    return path if path.suffix else path.with_suffix(f".{ending}")


def figures_work(store: ReadingsStore, path: Path, units: UnitChoice) -> Callable[[Progress], None]:
    """The work of writing how reliable every wire was and what its readings are like."""
    known = {str(form) for form in FiguresForm}
    ending = path.suffix.lower().removeprefix(".")
    form = FiguresForm(ending) if ending in known else FiguresForm.TEXT
    readings, clock = store.readings, store.clock

    def work(progress: Progress) -> None:
        series = [one for one in map(readings.series_of, readings.sensors) if one is not None]
        found, wires = [], by_wire([history for history in readings.histories if len(history)])
        for number, rows in enumerate(wires.values()):
            progress(number / len(wires))
            found.append(wire_figures(rows, series, clock))
        with disk.writing(path) as stream:
            cast(IO[str], stream).write(figures_text(found, units, form))

    return work


class LogDialog(QDialog):
    """Asks where the running log is kept, and how.

    Args:
        before: what was wanted last time.
        folder: where files were kept last.
        units: the units in which values are shown now.
    """

    def __init__(
        self, before: LogWish | None, folder: str, units: UnitChoice, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Running log")
        self._units = units
        start = before.path if before is not None else Path(folder) / "log.csv"
        self.path = QLineEdit(str(start))
        self.path.setMinimumWidth(360)
        browse = QPushButton("Choose…")
        browse.clicked.connect(self._browse)
        where = QHBoxLayout()
        where.addWidget(self.path, 1)
        where.addWidget(browse)
        self.form = QComboBox()
        self.form.addItems(list(FORMS))
        self.daily = QCheckBox("A new file each day")
        self.derived = QCheckBox("With dew point, heat index and the like")
        self.daily.setChecked(before is None or before.daily)
        self.derived.setChecked(before is not None and before.derived)
        if before is not None:
            self.form.setCurrentIndex(list(FORMS.values()).index(before.form))
        self.form.currentTextChanged.connect(self._fit_ending)
        form = QFormLayout()
        form.addRow("File", where)
        form.addRow("Form", self.form)
        form.addRow("", self.daily)
        form.addRow("", self.derived)
        column = QVBoxLayout(self)
        column.addLayout(form)
        told = plain_label(
            "Every reading is a line as soon as it is heard, and a failed one says why. The log "
            "goes on where it stood when Pivet listens again."
        )
        told.setWordWrap(True)
        column.addWidget(told)
        foot = buttons(self)
        self._ok = foot.button(foot.StandardButton.Ok)
        column.addWidget(foot)
        self.path.textChanged.connect(self._on_path)
        self._on_path()

    def _on_path(self) -> None:
        """There is a log only where its file has a name."""
        path = Path(self.path.text().strip())
        self._ok.setEnabled(bool(path.name) and not path.is_dir())

    def _browse(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self,
            "Running log",
            self.path.text(),
            "Logs (*.csv *.jsonl)",
            options=QFileDialog.Option.DontConfirmOverwrite,
        )
        if name:
            self.path.setText(name)

    def _fit_ending(self) -> None:
        path = Path(self.path.text().strip())
        if path.name:
            self.path.setText(str(path.with_suffix(FORMS[self.form.currentText()].suffix)))

    def wish(self) -> LogWish:
        """What is wanted."""
        return LogWish(
            Path(self.path.text().strip()),
            FORMS[self.form.currentText()],
            self.derived.isChecked(),
            self.daily.isChecked(),
            self._units,
        )


def numbered(wish: LogWish, number: int) -> LogWish:
    """The log of a further source that is listened to at the same time."""
    if number == 0:
        return wish
    path = wish.path.with_name(f"{wish.path.stem}-source{number + 1}{wish.path.suffix}")
    return LogWish(path, wish.form, wish.derived, wish.daily, wish.units)
