"""The Rehearsal view: what a given firmware would have made of the edges of a wire."""

from collections.abc import Sequence
from functools import partial
from html import escape

import numpy as np
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QApplication, QHBoxLayout, QVBoxLayout, QWidget

from pivet.captures.wire import Wire
from pivet.insight.family import FamilyInsight
from pivet.insight.grid import Grid
from pivet.insight.outcomes import Outcome
from pivet.insight.pulses import Int64Array
from pivet.insight.readers import Reader, ReaderKind
from pivet.insight.registry import insight_of
from pivet.insight.rehearsal import Rehearsal, rehearse
from pivet.insight.side import Side
from pivet.insight.tell import OUTCOMES, constant_words, header_lines
from pivet.progress import Progress
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import scrolled, tight_button, told_label
from pivet.ui.many.page import NAME_LETTERS, ManyPage, heading
from pivet.ui.many.picture import PictureView
from pivet.ui.many.whole import WholeWires
from pivet.ui.rehearsal.changes import ChangeFirmware
from pivet.ui.rehearsal.constants import Constants
from pivet.ui.rehearsal.handle import PulseHandle
from pivet.ui.rehearsal.map import MapView
from pivet.ui.session.session import Session
from pivet.ui.window.choosing import ChoiceBox

SIDE_PX, TOLD_PX = 290, 300
NOTHING = "Open a capture or a bench: here it is told what a firmware would have made of it."
NO_MAP = "no whole exchange to draw from"
DRAFT, EXACT, MAP = "draft", "exact", "map"
DRAFTED = 5_000
"""How many exchanges are gone through while a constant is dragged."""

STEP_PX = 52
CUTS_US = 1.0


class RehearsalPage(ManyPage):
    """A firmware beside a wire.

    Args:
        session: what is shown.
        whole: all exchanges of its wires.
    """

    def __init__(self, session: Session, whole: WholeWires, parent: QWidget | None = None) -> None:
        super().__init__(session, whole, NOTHING, parent)
        self.kind = ChoiceBox()
        self.kind.setMinimumContentsLength(NAME_LETTERS)
        self.handle, self.constants, self.map = PulseHandle(), Constants(), MapView()
        self.exchange = PictureView("The exchange as this firmware took it")
        self.headline, self.told, self.title = told_label(), told_label(), told_label()
        self.take = tight_button("Set the handles there", "Takes the suggested constants")
        self.copy = tight_button("Copy as C", "The suggested constants as a C header")
        self.back = tight_button("◂", "The one before that is not read right")
        self.on = tight_button("▸", "The next that is not read right")
        for button in (self.back, self.on):
            button.setMinimumWidth(STEP_PX)
        self.found: Rehearsal | None = None
        self.reader = self._settled = Reader("")
        self._own: Wire | None = None
        self._grid: Grid | None = None
        self._before: Rehearsal | None = None
        self._map_key: object = None
        self._shown = 0
        self._build()

    def _build(self) -> None:
        for widget, name in (
            (self.kind, "How it reads"),
            (self.take, "Set the handles there"),
            (self.copy, "Copy as C"),
            (self.back, "Before"),
            (self.on, "Next"),
        ):
            widget.setAccessibleName(name)
        self.kind.picked.connect(lambda _: self._choose_kind())
        self.constants.changed.connect(self._typed)
        self.handle.moved.connect(partial(self._to_threshold, False))
        self.handle.released.connect(partial(self._to_threshold, True))
        self.map.chosen.connect(self._to_place)
        self.take.clicked.connect(self._take_suggested)
        self.copy.clicked.connect(self._copy)
        self.back.clicked.connect(lambda: self._step(-1))
        self.on.clicked.connect(lambda: self._step(1))
        left, middle, right = QWidget(), QWidget(), QWidget()
        self._build_left(QVBoxLayout(left))
        self._build_middle(QVBoxLayout(middle))
        self._build_right(QVBoxLayout(right))
        inner = [scrolled(part) for part in (left, middle, right)]
        self._put_panels("rehearsal", inner, (SIDE_PX, 660, TOLD_PX))

    def _build_left(self, column: QVBoxLayout) -> None:
        column.setContentsMargins(10, 8, 10, 8)
        for title, box in (("The firmware that reads", self.wire), ("How it reads", self.kind)):
            column.addWidget(heading(title))
            column.addWidget(box)
            column.addSpacing(6)
        column.addWidget(self.handle)
        column.addSpacing(6)
        column.addWidget(self.constants)
        column.addStretch(1)

    def _build_middle(self, column: QVBoxLayout) -> None:
        column.setContentsMargins(8, 8, 8, 8)
        column.addWidget(self.empty)
        column.addWidget(self.map, 3)
        row = QHBoxLayout()
        row.addWidget(self.title, 1)
        row.addWidget(self.back)
        row.addWidget(self.on)
        column.addLayout(row)
        column.addWidget(self.exchange, 2)

    def _build_right(self, column: QVBoxLayout) -> None:
        column.setContentsMargins(10, 8, 10, 8)
        column.addWidget(self.headline)
        column.addWidget(self.told)
        row = QHBoxLayout()
        row.addWidget(self.take)
        row.addWidget(self.copy)
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(1)

    @property
    def parts(self) -> Sequence[QWidget]:
        """What reads, its handles, the map, the exchange, and what to take instead."""
        boxes = tuple(self.constants.fields.values())
        return (
            self.wire,
            self.kind,
            self.handle,
            *boxes,
            self.map,
            self.back,
            self.on,
            self.exchange,
            self.take,
            self.copy,
        )

    def hideEvent(self, event: QHideEvent) -> None:
        """Nothing is gone through while nobody sees it."""
        super().hideEvent(event)
        self.beside.forget_all()

    def renew(self) -> None:
        """Shows the wires that there are now, and the map in the colours of now."""
        if self.isVisible():
            self.map.put(None, None, "")
        super().renew()

    def _take_wire(self, wire: Wire | None) -> None:
        before, self._own = self._own, wire
        for widget in (self.map, self.exchange, self.title, self.back, self.on, self.handle):
            widget.setVisible(wire is not None)
        self.found, self._before, self._map_key, self._shown = None, None, None, -1
        if wire is None:
            self._tell()
            return
        if before is None or before.family is not wire.family:
            self._fill_kinds()
        self._renew_reader()

    @property
    def insight(self) -> FamilyInsight:
        """Of the family of the chosen wire."""
        assert self._own is not None
        return insight_of(self._own)

    @property
    def reader_kind(self) -> ReaderKind:
        """The chosen kind of reader."""
        return self.insight.kind(self.reader.kind)

    def _fill_kinds(self) -> None:
        self.kind.blockSignals(True)
        self.kind.clear()
        for kind in self.insight.kinds:
            self.kind.addItem(kind.does, kind.name)
        self.kind.blockSignals(False)
        self._choose_kind(ask=False)

    def _choose_kind(self, ask: bool = True) -> None:
        kind = self.insight.kind(self.kind.currentData() or "")
        kept = {
            name: getattr(self.reader, name)
            for name in kind.constants
            # A loop compares with the low before, unless the person says a time.
            if (name != "threshold_us" or name in kind.usual)
            and self.reader.kind in {one.name for one in self.insight.kinds}
        }
        self.reader = kind.filled(Reader(kind.name).with_(**kept))
        self.constants.put(kind, self.reader)
        self._map_key = None
        if ask:
            self._change()
        else:
            self._settled = self.reader

    def _change(self, exact: bool = True) -> None:
        """The person changed the firmware.  Can be undone, but for what passes under the hand."""
        if exact and self.reader != self._settled:
            before, after = self._settled, self.reader
            self._session.undo.push(ChangeFirmware(self._put_reader, before, after))
        else:
            self._renew_reader(exact)

    def _put_reader(self, reader: Reader) -> bool:
        """Shows a firmware; False where the chosen wire cannot be read by such."""
        at = -1 if self._own is None else self.kind.findData(reader.kind)
        if at < 0:
            return False
        self.reader = self._settled = reader
        self.kind.blockSignals(True)
        self.kind.setCurrentIndex(at)
        self.kind.blockSignals(False)
        self._renew_reader()
        return True

    def _typed(self) -> None:
        self.reader = self.constants.reader(self.reader_kind)
        self._change()

    def _to_threshold(self, over: bool, at_us: float) -> None:
        """The handle was dragged: counts of some exchanges at once, of all when it is let go."""
        self.reader = self.reader.with_(threshold_us=at_us)
        self._change(over)

    def _to_place(self, across: float, up: float) -> None:
        if self._grid is None:
            return
        given: dict[str, object] = {}
        for name, value in ((self._grid.across, across), (self._grid.up, up)):
            if name == "stall_us":
                continue  # the map has one in each exchange, a firmware so many a second
            given[name] = round(value, 2)
        self.reader = self.reader.with_(**given)
        self._change()

    def _take_suggested(self) -> None:
        if self.found is None:
            return
        self._before = self.found
        names = self.reader_kind.constants
        given: dict[str, object] = {
            one.name: int(one.value) if not one.unit else round(one.value, 3)
            for one in self.found.suggested.constants
            if one.name in names
        }
        self.reader = self.reader.with_(**given)
        self._change()

    def _copy(self) -> None:
        if self.found is not None and self._own is not None:
            title = self._own.family.title
            lines = header_lines(self.found.suggested, self.reader.kind, title)
            QApplication.clipboard().setText("\n".join(lines) + "\n")

    def _renew_reader(self, exact: bool = True) -> None:
        """Goes through the exchanges with the constants of now, beside the window."""
        wire, reader = self._own, self.reader
        if wire is None:
            return
        self.constants.put(self.reader_kind, reader)
        self._renew_handle()
        if not exact and len(wire) > DRAFTED:
            rows = np.zeros(len(wire), dtype=bool)
            rows[np.linspace(0, len(wire) - 1, DRAFTED).astype(np.int64)] = True
            rows[max(self._shown, 0)] = True
            draft = partial(rehearse, Side(wire, rows), reader)
            self.beside.ask(DRAFT, draft, self._tell_draft)
            return
        self.beside.forget(DRAFT)
        self.beside.ask(EXACT, partial(rehearse, Side(wire), reader), self._take)
        if exact:
            self._ask_map(wire, reader)

    def _ask_map(self, wire: Wire, reader: Reader) -> None:
        """A map is drawn anew only when something changes that it does not vary itself."""
        varied = () if self._grid is None else (self._grid.across, self._grid.up)
        key = (id(wire), reader.with_(threshold_us=None, period_us=None, stall=None), varied)
        if key == self._map_key:
            self._put_map()
            return
        self._map_key = key
        at = np.arange(len(wire))
        map_of = self.insight.map_of

        def work(progress: Progress) -> Grid | None:
            return map_of(wire, at, reader, progress=progress)

        self.beside.ask(MAP, work, self._take_map)

    def _take_map(self, grid: Grid | None) -> None:
        self._grid = grid
        if self._own is not None:
            varied = () if grid is None else (grid.across, grid.up)
            plain = self.reader.with_(threshold_us=None, period_us=None, stall=None)
            self._map_key = (id(self._own), plain, varied)
        self._put_map()

    def _put_map(self) -> None:
        grid = self._grid
        at = None
        if grid is not None:
            stall = self.reader.stall
            values = [
                (0.0 if stall is None else stall.length_us)
                if name == "stall_us"
                else getattr(self.reader, name)
                for name in (grid.across, grid.up)
            ]
            if None not in values:
                at = (float(values[0]), float(values[1]))
            elif values[0] is not None:
                at = (float(values[0]), float(grid.y[-1]))
        self.map.put(grid, at, NO_MAP)

    def _renew_handle(self) -> None:
        has = "threshold_us" in self.reader_kind.constants and self.reader.threshold_us is not None
        self.handle.setVisible(has)
        if has and self._own is not None:
            pairs = self.insight.pairs[:1]
            windows = self._own.sheet.windows
            zero, one = (windows[key].typ_us for key in pairs[0]) if pairs else (26.0, 70.0)
            assert self.reader.threshold_us is not None
            rises = pairs == (("zero_high", "one_high"),)
            self.handle.put(self.reader.threshold_us, zero, one, rises)

    def _take(self, found: Rehearsal) -> None:
        self.found = found
        if self._own is not None:
            self._session.firmware[self._own.name] = found.reader
        bad = self._bad()
        if self._shown < 0 or (bad.size and self._shown not in bad):
            self._shown = int(bad[0]) if bad.size else 0
        self._tell()

    def _bad(self) -> Int64Array:
        """Exchanges that are not read right."""
        if self.found is None:
            return np.empty(0, dtype=np.int64)
        found: Int64Array = self.found.at[self.found.found.outcome != Outcome.RIGHT]
        return found

    def _step(self, step: int) -> None:
        bad = self._bad()
        others = bad[bad > self._shown] if step > 0 else bad[bad < self._shown]
        if others.size:
            self._shown = int(others[0] if step > 0 else others[-1])
            self._tell_exchange()

    def _tell_draft(self, found: Rehearsal) -> None:
        """Counts of some exchanges, told as what they are."""
        self.headline.setText(self._head(found, about=True))
        self.told.setText(self._words(found))
        self._put_exchange(found)
        self._put_map()

    def _tell(self) -> None:
        self.take.setVisible(self.found is not None)
        self.copy.setVisible(self.found is not None)
        if self.found is None:
            self.headline.setText("")
            self.told.setText("")
            return
        self.headline.setText(self._head(self.found))
        self.told.setText(self._words(self.found))
        self._tell_exchange()
        self._put_map()

    def _head(self, found: Rehearsal, about: bool = False) -> str:
        share, low, high = found.right
        faint = theme().faint.name()
        before = self._before
        was = ""
        if before is not None and before.reader != found.reader:
            at = before.reader.threshold_us
            with_ = "" if at is None else f", at {at:g} µs"
            was = f"<br><b>before{with_}: {before.right[0]:.1%}</b>"
        some = f"of {len(found.found):,} drawn exchanges" if about else f"of {len(found.found):,}"
        return (
            f"<b style='font-size: 15pt'>{share:.1%} would be right</b><br>"
            f"<span style='color: {faint}'>{some}; in the long run {low:.1%} to {high:.1%}</span>"
            f"{was}"
        )

    def _words(self, found: Rehearsal) -> str:
        now = theme()
        colours = {
            Outcome.RIGHT: now.sound,
            Outcome.REFUSED: now.faint,
            Outcome.WRONG: now.unsound,
            Outcome.TIMEOUT: now.faint,
        }
        rows = "".join(
            f"<tr><td style='color: {colours[outcome].name()}'>"
            f"{'<b>' if outcome is Outcome.WRONG else ''}{escape(words)}&nbsp;&nbsp;</td>"
            f"<td align='right' style='color: {colours[outcome].name()}'><b>"
            f"{found.count(outcome):,}</b></td></tr>"
            for outcome, words in OUTCOMES.items()
        )
        parts = [f"<table>{rows}</table>"]
        if found.why:
            parts.append("<b>Why</b><br>" + "<br>".join(escape(f"{why}.") for why in found.why))
        suggested = found.suggested
        if suggested.constants:
            first, *more = suggested.constants
            parts.append(
                f"<b>Take instead</b><br><b style='font-size: 14pt; color: {now.sound.name()}'>"
                f"{escape(constant_words(first))}</b> {escape(first.label)}<br>"
                f"<span style='color: {now.faint.name()}'>{escape(first.why)}</span>"
            )
            parts += [
                f"{escape(one.label)} {escape(constant_words(one))}<br>"
                f"<span style='color: {now.faint.name()}'>{escape(one.why)}</span>"
                for one in more
            ]
            parts.append(
                f"<span style='color: {now.faint.name()}'>from {suggested.exchanges:,} exchanges: "
                f"fewer than {suggested.beyond:.2%} beyond (95 %)"
                f"{'; ' + escape(suggested.beside) if suggested.beside else ''}</span>"
            )
        else:
            parts.append(f"Nothing can be suggested: {escape(suggested.why_not)}.")
        return "".join(f"<p style='margin: 7px 0'>{part}</p>" for part in parts)

    def _tell_exchange(self) -> None:
        wire, found = self._own, self.found
        if wire is None or found is None or not len(wire):
            self.exchange.put(None)
            return
        bad = self._bad()
        self.back.setEnabled(bool((bad < self._shown).any()))
        self.on.setEnabled(bool((bad > self._shown).any()))
        self._put_exchange(found)

    def _put_exchange(self, found: Rehearsal) -> None:
        """The exchange that is looked at, as this firmware took it."""
        wire = self._own
        if wire is None or self._shown < 0:
            return
        place = int(np.searchsorted(found.at, self._shown))
        outcome = Outcome(found.found.outcome[place])
        colour = theme().sound if outcome is Outcome.RIGHT else theme().unsound
        self.title.setText(
            f"<b>Exchange {wire.first + self._shown}</b> as the wire had it, and as this firmware "
            f"took it: <b style='color: {colour.name()}'>{escape(OUTCOMES[outcome])}</b>"
        )
        report = wire.report(self._shown, self._session.roles.names)
        self.exchange.put(self.insight.taken_picture(wire, report, self.reader, found.found, place))

    def point_out(self) -> None:
        """A firmware whose threshold cuts through the zeros."""
        if self.found is not None and self.found.suggested.low_us is not None:
            self._to_threshold(True, round(self.found.suggested.low_us - CUTS_US))
