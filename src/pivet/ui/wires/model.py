"""The rows of the list of wires: captures with their wires, live ones as they are now."""

import time
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import msgspec
from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, Qt

from pivet.captures.capture import Capture
from pivet.captures.last_readings import LastReadings, last_given, last_reading, why_none
from pivet.captures.text import short_names
from pivet.captures.wire import Wire
from pivet.frozen import FrozenObject
from pivet.judge.wording import age
from pivet.person.display import PLAIN, Display
from pivet.ui.drawing.widgets import plain_tip
from pivet.ui.live.state import Live
from pivet.ui.session.selection import WirePlace
from pivet.ui.session.session import Session

if TYPE_CHECKING:
    from pivet.bench.live_bench import WireNow

ROW_ROLE = Qt.ItemDataRole.UserRole
FLASH_S = 0.35
"""An ask lights up so long."""

Index = QModelIndex | QPersistentModelIndex


class Row(FrozenObject):
    """A line of the list: a capture's head (no ``short``) or one of its wires.

    Attributes:
        capture, number: to which it belongs.
        place: the place of the wire; None for a head and where nobody knows yet what it carries.
        wire: its exchanges.
        short: the wire's name without what all wires of the capture share.
        live: how the capture is listened to; None when it is not.
        now: how the wire is listened to.
        names: the person's names of devices, by code.
        shown: units and corrections.
    """

    capture: Capture
    number: int
    place: WirePlace | None = None
    wire: Wire | None = None
    short: str = ""
    live: Live | None = None
    now: "WireNow | None" = None
    names: Mapping[str, str] = msgspec.field(default_factory=dict)
    shown: Display = PLAIN

    @property
    def is_head(self) -> bool:
        """The head of a capture."""
        return not self.short

    @property
    def same(self) -> tuple[object, ...]:
        """What tells it from other rows."""
        return self.capture.key, self.place, self.short, self.live is None

    @property
    def spoken(self) -> str:
        """The row in words, for screen readers and tests."""
        if self.is_head:
            return self.capture.name
        if self.wire is None:
            return f"{self.short}, {self.doing}"
        reading = last_reading(self.wire, self.shown, self.short)
        if self.now is None:
            return f"{self.wire.label}, {self.wire.sheet.name}, {reading}"
        trouble = f", {self.trouble}" if self.trouble else ""
        return f"{self.short}, {self.wire.sheet.name}, {self.doing}, {reading}{trouble}"

    @property
    def doing(self) -> str:
        """How the wire is listened to."""
        now = self.now
        if now is None:
            return "recognised" if self.wire is not None and self.wire.recognised else "chosen"
        if now.exploring:
            return "asking what is there …"
        if now.wire is None:
            return "nothing has answered yet" if now.setup.every_s is not None else "only heard"
        if now.setup.every_s is None:
            return "only heard"
        return f"every {now.every_s:g} s" if now.every_s else "asked"

    @property
    def trouble(self) -> str:
        """Why there is no reading now; empty when there is."""
        now = self.now
        if now is None or self.wire is None or not now.silent:
            return ""
        if self.live is not None and not self.live.here:
            return "the source is away"
        rest = [says for code, says in now.silent.items() if not code]
        if rest:
            return rest[0]
        gone = [self.names.get(code, code) for code in now.silent]
        return f"{gone[0]} is silent" if len(gone) == 1 else f"{len(gone)} probes are silent"


@dataclass(slots=True)
class _Told:
    """What was found out of a wire, kept until the wire changes."""

    wire: Wire
    reading: str | None = None
    lately: LastReadings | None = None


@dataclass(slots=True)
class _Flash:
    """When a wire was last asked."""

    asks: int = 0
    at_s: float = field(default=-FLASH_S)


class WiresModel(QAbstractListModel):
    """The rows of the list."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.rows: list[Row] = []
        self._told: dict[tuple[object, ...], _Told] = {}
        self._flashes: dict[tuple[object, ...], _Flash] = {}
        self._faces: dict[tuple[object, ...], tuple[object, ...]] = {}
        session.captures_changed.connect(self._renew)
        session.live_changed.connect(self._go_on)
        session.shown_changed.connect(self._forget)

    def _renew(self) -> None:
        self.beginResetModel()
        self.rows = list(self._made())
        known = {row.same for row in self.rows}
        self._told = {key: told for key, told in self._told.items() if key in known}
        self.endResetModel()

    def _forget(self) -> None:
        """Readings are shown otherwise."""
        self._told, self._faces, self.rows = {}, {}, list(self._made())
        if self.rows:
            self.dataChanged.emit(self.index(0), self.index(len(self.rows) - 1))

    def _go_on(self) -> None:
        """Live wires have something new; the rows mostly stay the same."""
        rows = list(self._made())
        if [row.same for row in rows] != [row.same for row in self.rows]:
            self._renew()
            return
        self.rows = rows
        now_s = time.monotonic()
        for number, row in enumerate(rows):
            if row.now is not None:
                flash = self._flashes.setdefault(row.same, _Flash(row.now.asks))
                if flash.asks != row.now.asks:
                    flash.asks, flash.at_s = row.now.asks, now_s
            face = self._face(row)
            if self._faces.get(row.same) != face:
                self._faces[row.same] = face
                self.dataChanged.emit(self.index(number), self.index(number))

    def _face(self, row: Row) -> tuple[object, ...]:
        """What of a row is seen; as long as it is the same nothing is painted anew."""
        if row.live is None:
            return ()
        edges = row.now.edges if row.now is not None else 0
        return (
            id(row.wire),
            row.doing,
            row.trouble,
            row.live.here,
            self.lit(row),
            edges,
            self.age(row),
        )

    def age(self, row: Row) -> str:
        """How old the last reading of a live wire is."""
        if row.live is None or row.wire is None:
            return ""
        lately = self.lately(row)
        return age(self.passed_s(row)) if lately.text else ""

    def passed_s(self, row: Row) -> float:
        """How long ago the last reading was, s."""
        assert row.live is not None
        return max((time.time_ns() - row.live.zero_ns - self.lately(row).end_ns) / 1e9, 0.0)

    def _made(self) -> Iterator[Row]:
        for number, capture in enumerate(self._session.captures):
            live = self._session.live.get(capture.key)
            yield Row(capture, number, live=live)
            if live is not None:
                yield from self._live_rows(capture, number, live)
                continue
            shorts = short_names([wire.label for wire in capture.wires])
            for at, (wire, short) in enumerate(zip(capture.wires, shorts, strict=True)):
                yield Row(capture, number, (number, at), wire, short, shown=self._session.shown)

    def _live_rows(self, capture: Capture, number: int, live: Live) -> Iterator[Row]:
        places = {wire.title: (number, at) for at, wire in enumerate(capture.wires)}
        names = self._session.roles.names
        for now in live.wires:
            if not now.resting:
                place = places.get(now.name)
                shown = self._session.shown
                yield Row(capture, number, place, now.wire, now.name, live, now, names, shown)

    def reading(self, row: Row) -> str:
        """What a row's wire measured last."""
        told = self._tell(row)
        if told.reading is None:
            told.reading = last_reading(told.wire, self._session.shown, row.short)
        return told.reading

    def lately(self, row: Row) -> LastReadings:
        """The last reading that was given."""
        told = self._tell(row)
        if told.lately is None:
            told.lately = last_given(told.wire, self._session.shown, row.short)
        return told.lately

    def _tell(self, row: Row) -> _Told:
        assert row.wire is not None
        told = self._told.get(row.same)
        if told is None or told.wire is not row.wire:
            told = self._told[row.same] = _Told(row.wire)
        return told

    def lit(self, row: Row) -> bool:
        """Whether a wire was asked a moment ago."""
        flash = self._flashes.get(row.same)
        return flash is not None and time.monotonic() - flash.at_s < FLASH_S

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008  Qt's signature
        """Number of rows."""
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """The row, or its words."""
        row = self.rows[index.row()]
        if role == ROW_ROLE:
            return row
        spoken = (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole)
        if role in spoken:
            return row.spoken
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(_tip(row))
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Only what has a place can be chosen."""
        if self.rows[index.row()].place is None:
            return Qt.ItemFlag.ItemIsEnabled
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable


def _tip(row: Row) -> str:
    if row.is_head:
        return "\n".join((str(row.capture.path), *row.capture.notes))
    if row.now is not None:
        lines = ", ".join(row.now.setup.lines)
        parts = [f"line {lines}", f"{row.now.asks} asks, {row.now.retries} of them retries"]
        if row.trouble and row.wire is not None:
            parts.append(why_none(row.wire, len(row.wire) - 1))
        return "\n".join([*parts, row.now.look] if row.now.look else parts)
    if row.wire is None:
        return ""
    return "\n".join(name for line in row.wire.lines for name in (line.name, *line.aliases))
