"""The constants of a firmware as fields."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QWidget

from pivet.insight.readers import Reader, ReaderKind
from pivet.insight.stalls import Stall
from pivet.ui.drawing.numbers import NumberBox
from pivet.ui.drawing.widgets import plain_label

MOST_US = 1_000_000.0
MOST_NUMBER = 100_000
NEVER = "none"
STALL, PER_S = "stall_us", "stall_per_s"
WHOLE = ("limit", "number")


class Constants(QWidget):
    """A field for each constant of a kind of reader.

    Signals:
        changed: one was changed by the person.
    """

    changed = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.fields: dict[str, NumberBox] = {}
        self._kind: ReaderKind | None = None
        self._rows = QGridLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)

    def put(self, kind: ReaderKind, reader: Reader) -> None:
        """Shows the constants of a reader of this kind.

        Args:
            kind: the kind of the reader.
            reader: with its constants.
        """
        if kind is not self._kind:
            self._make(kind)
        halves = [self.fields[name].value() for name in (STALL, PER_S) if name in self.fields]
        begun = reader.stall is None and any(halves) and not all(halves)
        for name, box in self.fields.items():
            if begun and name in (STALL, PER_S):
                continue  # how long was said, and how often comes next
            box.blockSignals(True)
            box.setValue(self._value(reader, name))
            box.blockSignals(False)

    def _make(self, kind: ReaderKind) -> None:
        self._kind, self.fields = kind, {}
        while self._rows.count():
            item = self._rows.takeAt(0)
            widget = None if item is None else item.widget()
            if widget is not None:
                widget.setParent(None)
                widget.deleteLater()
        for name, label in kind.constants.items():
            if name == "stall":
                self._add(STALL, "away for")
                self._add(PER_S, "so often a second")
            else:
                self._add(name, label)

    def _add(self, name: str, label: str) -> None:
        box = NumberBox()
        whole = name in WHOLE
        box.setDecimals(0 if whole else 1)
        box.setRange(0.0, MOST_NUMBER if whole else MOST_US)
        unit = " µs" if name.endswith("_us") else " m/s" if name.endswith("_m_s") else ""
        box.setSuffix(unit)
        box.setSpecialValueText(NEVER)
        box.setAccessibleName(label)
        box.setKeyboardTracking(False)
        box.valueChanged.connect(lambda _: self.changed.emit())
        row = self._rows.rowCount()
        self._rows.addWidget(plain_label(label), row, 0)
        self._rows.addWidget(box, row, 1)
        self.fields[name] = box

    @staticmethod
    def _value(reader: Reader, name: str) -> float:
        if name == STALL:
            return 0.0 if reader.stall is None else reader.stall.length_us
        if name == PER_S:
            return 0.0 if reader.stall is None else reader.stall.per_s
        return float(getattr(reader, name) or 0.0)

    def reader(self, kind: ReaderKind) -> Reader:
        """The firmware with the constants of the fields; 0 is none.

        Args:
            kind: the kind of the reader.
        """
        given: dict[str, object] = {}
        for name, box in self.fields.items():
            value = box.value()
            if name in (STALL, PER_S) or value == 0:
                continue
            given[name] = int(value) if name in WHOLE else round(value, 3)
        length, often = (
            self.fields[name].value() if name in self.fields else 0.0 for name in (STALL, PER_S)
        )
        stall = Stall(length, often) if length and often else None
        return kind.filled(Reader(kind.name, stall=stall).with_(**given))
