"""Printed lines beside exchanges, a row a pair."""

from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QObject, QPersistentModelIndex, Qt

from pivet.insight.printed.check import CODES, INVENTED, MISSING, NOTHING, UNEXPLAINED, Pair
from pivet.insight.printed.classify import SAME, STALE
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import plain_tip

HEADS = ("line", "printed", "", "on the wire", "exchange", "what it is")
SIGNS = {SAME: "=", STALE: "↶", MISSING: "·", INVENTED: "·", NOTHING: "–", UNEXPLAINED: "?"}
WORDS = {
    SAME: "the same",
    STALE: "stale: what the exchange before gave",
    MISSING: "not printed",
    INVENTED: "the wire knows nothing of it",
    NOTHING: "neither gives a reading",
    UNEXPLAINED: "no mistake that is known",
}
Index = QModelIndex | QPersistentModelIndex
HERE = QModelIndex()


class PairTable(QAbstractTableModel):
    """The pairs of a crosscheck; those of one cause only, or all."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.pairs: list[Pair] = []

    def put(self, pairs: list[Pair]) -> None:
        """Shows pairs."""
        self.beginResetModel()
        self.pairs = pairs
        self.endResetModel()

    def rowCount(self, parent: Index = HERE) -> int:
        """A row a pair."""
        return 0 if parent.isValid() else len(self.pairs)

    def columnCount(self, _parent: Index = HERE) -> int:
        """As ``HEADS``."""
        return len(HEADS)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        """Names of the columns."""
        if role == Qt.ItemDataRole.DisplayRole and orientation is Qt.Orientation.Horizontal:
            return HEADS[section]
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """What is shown of a pair."""
        pair = self.pairs[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return self._text(pair, index.column())
        if role == Qt.ItemDataRole.ToolTipRole:
            line = "" if pair.entry is None else pair.entry.line.text
            cause = f"{CODES[pair.code]}. " if pair.code in CODES else ""
            return plain_tip(cause + (pair.line or line))
        if role == Qt.ItemDataRole.ForegroundRole:
            return self._colour(pair.code)
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() in (0, 2, 4):
            return int(Qt.AlignmentFlag.AlignCenter)
        return None

    def _text(self, pair: Pair, column: int) -> str:
        says = WORDS.get(pair.code, pair.code)
        cells = (
            "" if pair.entry is None else str(pair.entry.line.number),
            pair.printed,
            SIGNS.get(pair.code, "≠"),
            pair.wire or ("no reading" if pair.fact is not None else ""),
            "" if pair.fact is None else str(pair.fact.exchange),
            says,
        )
        return cells[column]

    @staticmethod
    def _colour(code: str) -> Any:
        now = theme()
        if code == SAME:
            return now.sound
        if code in (STALE, MISSING, NOTHING):
            return now.faint if code == NOTHING else now.near
        return now.unsound
