"""The answer: verdict in words, readings, the sum as arithmetic, windows, findings."""

from html import escape
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QVBoxLayout,
    QWidget,
)

from pivet.captures.last_readings import given_before
from pivet.frozen import FrozenValue
from pivet.judge.report import Value
from pivet.judge.verdict import Verdict
from pivet.judge.wording import age
from pivet.ui.answer.findings import FindingCard, WeightSign
from pivet.ui.answer.needles import NeedleList
from pivet.ui.answer.registry import PARTS
from pivet.ui.drawing.painting import clear, font_of
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import WrappedLabel, ink, plain_label, scrolled, wrapped_label
from pivet.ui.session.session import Session
from pivet.ui.window.choosing import ChoiceBox

if TYPE_CHECKING:
    from pivet.ui.answer.echo_settings import EchoSettings
    from pivet.ui.answer.scratchpad import ScratchpadView

PADDING = 14


class Line(FrozenValue):
    """A line of what an exchange gave; ``scale`` is that of its letters."""

    text: str
    rich: bool = False
    wraps: bool = True
    scale: float = 1.0


class ValueLines(QVBoxLayout):
    """What an exchange gave; its labels stay, since to make and to show one takes long."""

    def __init__(self) -> None:
        super().__init__()
        self.setSpacing(0)
        self._labels: list[WrappedLabel] = []

    def put(self, lines: list[Line]) -> None:
        """Shows these, and no others."""
        while len(self._labels) < len(lines):
            label = wrapped_label()
            label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            self._labels.append(label)
            self.addWidget(label)
        for label, line in zip(self._labels, lines, strict=False):
            rich, plain = Qt.TextFormat.RichText, Qt.TextFormat.PlainText
            label.setTextFormat(rich if line.rich else plain)
            if label.wordWrap() != line.wraps:
                label.setWordWrap(line.wraps)
            label.setFont(font_of(label.parentWidget() or label, line.scale))
            label.setText(line.text)
            label.show()
        for label in self._labels[len(lines) :]:
            label.hide()


class AnswerPanel(QFrame):
    """Shows what is said of the chosen exchange.

    Signals:
        help_asked: help for a finding was asked for; carries its code.
    """

    help_asked = Signal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setObjectName("panel")
        self.setMinimumWidth(290)
        self._mark = WeightSign(Verdict.SOUND, 20)
        self._headline = wrapped_label()
        self._headline.setFont(font_of(self, 1.2, bold=True))
        self._values = ValueLines()
        self._check = wrapped_label()
        self._check.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._note = wrapped_label()
        self._note.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.sheet = ChoiceBox()
        self._listed: object = None
        self.sheet.setAccessibleName("Sensor type of this wire")
        self.sheet.picked.connect(self._on_sheet)
        self.parts: dict[str, ScratchpadView | EchoSettings] = {}
        self._own = QVBoxLayout()
        self._needles = NeedleList(session)
        self._findings = QVBoxLayout()
        self._findings.setSpacing(4)
        self._noticed = self._title("What was noticed")
        self._timing = self._title("Timing against the sheet, µs")
        self._build()
        session.exchange_changed.connect(self.renew)
        session.shown_changed.connect(self.renew)
        session.wire_changed.connect(self._renew_wire)

    def _title(self, text: str) -> QLabel:
        label = plain_label(text)
        label.setFont(font_of(self, 0.9, bold=True))
        label.setObjectName("faint")
        return label

    def _build(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self._mark, 0, Qt.AlignmentFlag.AlignTop)
        head.addWidget(self._headline, 1)
        judged = QHBoxLayout()
        judged.addWidget(plain_label("Judged as"))
        judged.addWidget(self.sheet, 1)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(PADDING, PADDING, PADDING, PADDING)
        column.setSpacing(7)
        column.addLayout(head)
        column.addLayout(self._values)
        column.addWidget(self._check)
        column.addWidget(self._note)
        column.addSpacing(4)
        column.addLayout(judged)
        column.addLayout(self._own)
        column.addWidget(self._timing)
        column.addWidget(self._needles)
        column.addWidget(self._noticed)
        column.addLayout(self._findings)
        column.addStretch(1)
        scroll = scrolled(inner)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(1, 1, 1, 1)
        outer.addWidget(scroll)
        self._scroll = scroll

    def _renew_wire(self) -> None:
        """Another wire is followed by another exchange, which renews the rest."""
        self._renew_sheets()
        self._renew_own()

    def renew(self) -> None:
        """Shows the chosen exchange."""
        self._renew_sheets()
        self._renew_own()
        report, note = self._session.report, self._session.note
        self._note.setText(f"Note: {note}")
        self._note.setVisible(bool(note))
        ink(self._note, theme().accent)
        clear(self._findings)
        shown = report is not None
        for widget in (self._mark, self._check, self._timing, self._needles, self._noticed):
            widget.setVisible(shown)
        if report is None:
            self._headline.setText("No exchange")
            ink(self._headline, theme().faint)
            self._values.put([])
            return
        self._mark.show_verdict(report.verdict)
        self._headline.setText(report.headline)
        ink(self._headline, theme().verdict(report.verdict))
        lines = [self._value_line(value) for value in (*report.readings, *report.refused)]
        if report.gap:
            lines.append(Line(report.gap, scale=1.1))
        elif not report.due:
            lines += self._last_read()
        self._values.put(lines)
        self._check.setText(report.check.says)
        good = report.check.ok is not False
        ink(self._check, theme().ink if good else theme().unsound)
        self._noticed.setText("What was noticed" if report.findings else "Nothing else was noticed")
        for finding in report.findings:
            card = FindingCard(self._session, finding)
            card.asked.connect(self.help_asked)
            self._findings.addWidget(card)
        self._show_at_once()
        if not self._session.follows:
            self._scroll.verticalScrollBar().setValue(0)

    def _show_at_once(self) -> None:
        """Qt shows new parts a moment later; where readings come live that would flicker."""
        for number in range(self._findings.count()):
            item = self._findings.itemAt(number)
            part = item.widget() if item is not None else None
            if part is not None:
                part.show()
        inner = self._scroll.widget()
        layout = inner.layout() if inner is not None else None
        if layout is not None:
            layout.activate()

    def _renew_own(self) -> None:
        """What only some families have; made when a wire of theirs is first shown."""
        wire = self._session.wire
        family = wire.family.key if wire is not None else ""
        if family in PARTS and family not in self.parts:
            self.parts[family] = part = PARTS[family](self._session)
            self._own.addWidget(part)
        for part in self.parts.values():
            part.renew()

    def _value_line(self, value: Value) -> Line:
        colours = theme()
        size = font_of(self).pointSizeF()
        shown = self._session.shown.reading(self._session.wire_name, value)
        units = self._session.shown.units
        about = value.told(units)
        if shown.correction:
            places = len(value.text.partition(".")[2])
            read = units.words(value.quantity, value.value, places)
            about = f"corrected {shown.correction}; read {read}"
        if value.reason:
            text = (
                f'<span style="font-size:{size * 1.3:.0f}pt; color:{colours.faint.name()}">'
                f"<s>{shown.text} {escape(shown.unit)}</s></span> "
                f'<span style="color:{colours.unsound.name()}">'
                f"refused: {escape(value.reason)}</span>"
            )
        else:
            big = 1.35 if value.derived else 2.6
            text = (
                f'<span style="font-size:{size * big:.0f}pt; font-weight:700">{shown.text}</span>'
                f'<span style="font-size:{size * 1.25:.0f}pt; color:{colours.faint.name()}">'
                f" {shown.unit}</span>"
            )
            if value.derived:
                text = f"{value.quantity} {text}"
            if about:
                text += ("&nbsp; " if value.derived else "<br>") + (
                    f'<span style="color:{colours.faint.name()}">{escape(about)}</span>'
                )
        return Line(text, rich=True, wraps=bool(value.reason or about))

    def _last_read(self) -> list[Line]:
        """An exchange that is to give no reading stands between others that did."""
        session = self._session
        if session.wire is None or session.report is None:
            return []
        last = given_before(session.wire, session.index, session.shown, session.wire_name)
        if not last.text:
            return []
        passed_s = (session.report.end_ns - last.end_ns) / 1e9
        when = "just" if passed_s < 1 else age(passed_s)
        return [Line(f"Last read, {when} before:\n{last.text}")]

    def _renew_sheets(self) -> None:
        wire = self._session.wire
        now = None if wire is None else (wire.family.key, wire.sheet.id, wire.recognised)
        if self._listed == (now, self.sheet.currentIndex()):
            return
        self.sheet.blockSignals(True)
        self.sheet.clear()
        self.sheet.setEnabled(wire is not None)
        found = f"recognised: {wire.sheet.name}" if wire and wire.recognised else "recognise"
        self.sheet.addItem(found, None)
        for sheet in wire.family.sheets if wire is not None else ():
            self.sheet.addItem(f"{sheet.name} ({sheet.id})", sheet)
            if wire is not None and not wire.recognised and wire.sheet.id == sheet.id:
                self.sheet.setCurrentIndex(self.sheet.count() - 1)
        self.sheet.blockSignals(False)
        self._listed = (now, self.sheet.currentIndex())

    def _on_sheet(self, index: int) -> None:
        self._session.edits.change_sheet(self.sheet.itemData(index))
