"""Adding a live wire: source, line, what answers there, how it is asked, its name."""

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from pivet.judge.wording import us
from pivet.listening.asking.explore import Found
from pivet.listening.setup import WireSetup
from pivet.sheets.load import all_sheets
from pivet.sheets.model import Sheet
from pivet.sources.port import ports
from pivet.sources.source import About, LineInfo
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import ink, plain_label
from pivet.ui.live.asking_form import AskingForm
from pivet.ui.live.session import LiveSession
from pivet.ui.live.thread import ListeningThread

CAVE = "The simulated cave"
FIND_OUT = "find out"
NONE = "none"
HINT = "a port, socket://host:port, gpio:gpiochip0, kernel:, folder:PATH or replay:FILE"
ASKING = "Listening for 3 s whether somebody else asks there, then asking …"


class AddWire(QDialog):
    """Asks only for what cannot be found out.

    Args:
        listening: all that is listened to.
        parent: the window.

    Signals:
        source_asked: a source is to be opened; carries its words.
        cave_asked: the simulated cave is to be opened.
    """

    source_asked = Signal(str)
    cave_asked = Signal()

    def __init__(self, listening: LiveSession, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Add a wire")
        self.setMinimumWidth(620)
        self._listening = listening
        self._thread: ListeningThread | None = None
        self._found: Found | None = None
        self._own_name = ""
        self._used: set[str] = set()
        self.source, self.line, self.second = QComboBox(), QComboBox(), QComboBox()
        self.source.setEditable(True)
        self.source.setToolTip(HINT)
        self.opener = QPushButton("Open")
        self.find_out = QPushButton("What answers there?")
        self.find_out.setAutoDefault(False)
        self.opener.setAutoDefault(False)
        self.said, self.answer = plain_label(), plain_label()
        self.sensor = QComboBox()
        self.asking = AskingForm()
        self.name = QLineEdit()
        self.pull_up = QCheckBox("Switch on the source's own pull-up")
        self.pull_up.setToolTip(
            "A weak one, of some 40 kΩ: for a wire of a hand's length. Longer ones need a resistor."
        )
        self._build()
        self._connect()
        self._fill_sources()
        self._renew()

    def _build(self) -> None:
        first = QHBoxLayout()
        first.addWidget(self.source, 1)
        first.addWidget(self.opener)
        second = QHBoxLayout()
        second.addWidget(self.line, 1)
        second.addWidget(plain_label("echo on"))
        second.addWidget(self.second, 1)
        for label in (self.said, self.answer):
            label.setWordWrap(True)
            label.setMinimumHeight(2 * label.fontMetrics().lineSpacing() + 2)
            label.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.answer.setMinimumHeight(4 * self.answer.fontMetrics().lineSpacing() + 2)
        form = QFormLayout()
        form.addRow("1  Source", first)
        form.addRow("", self.said)
        form.addRow("2  Line", second)
        form.addRow("", self.pull_up)
        form.addRow("3  Sensor", self.sensor)
        form.addRow("", self.find_out)
        form.addRow("", self.answer)
        form.addRow("4  Asking", self.asking)
        form.addRow("5  Name", self.name)
        for box, name in (
            (self.source, "Source"),
            (self.line, "Line"),
            (self.second, "Echo line"),
            (self.sensor, "Sensor"),
            (self.name, "Name"),
        ):
            box.setAccessibleName(name)
        self.buttons = QDialogButtonBox()
        self.add = self.buttons.addButton("Add wire", QDialogButtonBox.ButtonRole.AcceptRole)
        self.buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.buttons)

    def _connect(self) -> None:
        self.opener.clicked.connect(self._open)
        self.line.currentIndexChanged.connect(self._on_line)
        self.sensor.currentIndexChanged.connect(self._on_sensor)
        self.find_out.clicked.connect(self._look)
        self.name.textEdited.connect(self._renew)
        self.buttons.accepted.connect(self._add)
        self.buttons.rejected.connect(self.reject)
        self._listening.known.connect(self._on_known)
        self._listening.changed.connect(self._on_changed)
        self._listening.said.connect(self._on_said)
        self.sensor.addItem(FIND_OUT, None)
        for sheet in all_sheets().values():
            self.sensor.addItem(f"{sheet.name} ({sheet.id})", sheet)

    def _fill_sources(self) -> None:
        for thread in self._listening.threads:
            assert thread.about is not None
            self.source.addItem(f"{thread.about.name} (listened to now)", thread)
        for port in ports():
            note = "" if port.usable else " (no rights)"
            text = f"{port.path} – {port.about}{note}" if port.about else f"{port.path}{note}"
            self.source.addItem(text, port.path)
        for chip in sorted(Path("/dev").glob("gpiochip*")):
            self.source.addItem(f"GPIO lines of {chip.name}", f"gpio:{chip.name}")
        if any(Path("/sys/bus/w1/devices").glob("*-*")):
            self.source.addItem("Sensors that the kernel reads", "kernel:")
        self.source.addItem(CAVE, CAVE)
        if self._listening.threads:
            self._take(self._listening.threads[0])

    def _open(self) -> None:
        """Opens the source, if nobody listens to it yet."""
        at = self.source.findText(self.source.currentText())
        data = self.source.itemData(at) if at >= 0 else None
        if isinstance(data, ListeningThread):
            self._take(data)
            return
        self._say(self.said, "Opening …")
        if data == CAVE:
            self.cave_asked.emit()
        else:
            self.source_asked.emit(data or self.source.currentText().strip())

    def _take(self, thread: ListeningThread) -> None:
        """A source is there: its lines can be chosen."""
        self._thread, about = thread, thread.about
        assert about is not None
        self.line.clear()
        self.second.clear()
        self.second.addItem(NONE, None)
        self._used = used = {line for name in thread.used for line in name}
        for known in sorted(about.lines, key=lambda line: line.name in used):
            self.line.addItem(_described(known, used), known)
            self.second.addItem(known.name, known)
            if known.name in used:
                self.line.model().item(self.line.count() - 1).setEnabled(False)  # type: ignore[attr-defined]
        facts = ", ".join(f"{word} {value}" for word, value in about.facts)
        self._say(self.said, f"{about.name}: {facts}" if facts else about.name)
        self._on_line()

    @property
    def _about(self) -> About | None:
        return self._thread.about if self._thread is not None else None

    def _on_changed(self) -> None:
        """A source that was asked for may have come."""
        new = [thread for thread in self._listening.threads if thread is not self._thread]
        if self._thread is None and new:
            self._take(new[-1])
        self._renew()

    def _on_said(self, says: str, trouble: bool) -> None:
        if self._thread is None and trouble:
            self._say(self.said, says, True)

    def _on_line(self) -> None:
        row = self.line.currentData()
        self._found = None
        self._say(self.answer, "")
        if isinstance(row, LineInfo):
            echo = self._echo_of(row)
            self.second.setCurrentIndex(max(self.second.findText(echo) if echo else 0, 0))
            short = row.name.removesuffix(".trigger").rpartition(".")[2]
            if self.name.text() in ("", self._own_name):
                self.name.setText(short)
            self._own_name = short
        self._renew()

    def _echo_of(self, row: LineInfo) -> str:
        """The echo line that belongs to a trigger by its name."""
        about = self._about
        echo = f"{row.name.removesuffix('.trigger')}.echo"
        names = [other.name for other in about.lines] if about is not None else []
        return echo if row.name.endswith(".trigger") and echo in names else ""

    def _on_sensor(self) -> None:
        self.asking.show_sheet(self._sheet)
        self._renew()

    @property
    def _sheet(self) -> Sheet | None:
        chosen: Sheet | None = self.sensor.currentData()
        return chosen

    @property
    def _lines(self) -> tuple[str, ...]:
        boxes = (self.line, self.second)
        return tuple(
            box.currentData().name for box in boxes if isinstance(box.currentData(), LineInfo)
        )

    def _look(self) -> None:
        """Asks harmlessly what is there."""
        if self._thread is not None and self._lines:
            self._say(self.answer, ASKING)
            self.find_out.setEnabled(False)
            every = 0.0 if self.asking.asks.isChecked() else None
            setup = WireSetup(self._ticket, self._lines, None, every, pull_up=self._pulls_up)
            self._listening.look(self._thread, setup)

    @property
    def _pulls_up(self) -> bool | None:
        """Whether the source's own pull-up is wanted; None where it has none."""
        return self.pull_up.isChecked() if self.pull_up.isEnabled() else None

    @property
    def _ticket(self) -> str:
        """Under this name the answer comes back."""
        return f"? {','.join(self._lines)}"

    def _on_known(self, wire: str, found: Found) -> None:
        if wire != self._ticket:
            return
        self._say(self.answer, found.says)
        self._found = found
        if found.sheet is not None:
            ids = [
                sheet.id if sheet else ""
                for sheet in map(self.sensor.itemData, range(self.sensor.count()))
            ]
            self.sensor.setCurrentIndex(ids.index(found.sheet.id))
        self._renew()

    def _renew(self) -> None:
        there = self._thread is not None
        for part in (self.line, self.second, self.sensor, self.asking, self.name):
            part.setEnabled(there)
        row = self.line.currentData()
        self.pull_up.setEnabled(there and isinstance(row, LineInfo) and row.can_pull_up)
        free = there and bool(self._lines) and not self._used & {*self._lines}
        self.find_out.setEnabled(free and self.answer.text() != ASKING)
        self.add.setEnabled(free and bool(self.name.text().strip()))

    def _add(self) -> None:
        if self._thread is None:
            return
        lines = self._found.lines if self._found is not None else ()
        name = " ".join(self.name.text().split())
        if name in self._thread.resting:
            self._listening.wake(self._thread, name)
            self.accept()
            return
        if name in self._thread.names:
            self._say(self.answer, f"A wire is called {name!r} already; give another name.", True)
            return
        self._listening.add(
            self._thread,
            WireSetup(
                name,
                lines or self._lines,
                self._sheet,
                self.asking.every_s,
                self.asking.tries,
                pull_up=self._pulls_up,
            ),
        )
        self.accept()

    def _say(self, label: QLabel, text: str, trouble: bool = False) -> None:
        colours = theme()
        label.setText(text)
        ink(label, colours.unsound if trouble else colours.ink)


class PaceDialog(QDialog):
    """Changes how a wire is asked.

    Args:
        name: the name of the wire.
        sheet: the sheet of its sensor, as far as it is known.
        pace: interval and retries now.
        parent: the window.
    """

    def __init__(
        self,
        name: str,
        sheet: Sheet | None,
        pace: tuple[float | None, int],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"How {name} is asked")
        self.setMinimumWidth(460)
        self.form = AskingForm()
        self.form.show_sheet(sheet)
        self.form.show_pace(*pace)
        kinds = QDialogButtonBox.StandardButton
        buttons = QDialogButtonBox(kinds.Ok | kinds.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(self.form)
        column.addWidget(buttons)


def _described(row: LineInfo, used: set[str]) -> str:
    words = [row.name]
    if row.level is not None:
        words.append(f"rests {row.level.name.lower()}")
    if row.exact is not None:
        words.append(f"± {us(row.exact.wrong_ns / 1000)}")
    if row.note:
        words.append(row.note)
    if row.name in used:
        words.append("is a wire already")
    return " · ".join(words)
