"""The Margins view: how the pulses of a wire lie in their windows, and what moved since before."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from html import escape

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QInputDialog,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from pivet.captures.wire import Wire
from pivet.errors import PivetError
from pivet.insight.compare import Better, Comparison, compare
from pivet.insight.drawn.lanes import Lane, lanes_of
from pivet.insight.follows import Follows, what_follows
from pivet.insight.margins import Margins, margins_of
from pivet.insight.pulses import BoolArray
from pivet.insight.readers import Reader
from pivet.insight.rehearsal import suggest
from pivet.insight.side import Side
from pivet.insight.suggestion import Suggestion
from pivet.insight.tell import between_words, constant_words, share_words
from pivet.progress import Progress
from pivet.ui.drawing.numbers import NumberBox
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import GAP, plain_label, roomy, scrolled, tight_button, told_label
from pivet.ui.many.lanes import LaneView
from pivet.ui.many.whole import Offered, Run, WholeWires, offered
from pivet.ui.session.selection import WirePlace
from pivet.ui.session.session import Session
from pivet.ui.view import ViewPage
from pivet.ui.window.choosing import ChoiceBox

SIDE_PX, TOLD_PX = 210, 300
NOTHING = "Open a capture or a bench: its pulses stand here in their windows."
RECKONING = "The pulses are being looked at …"
ALL, HOUR, NUMBERS = "all", "the hour of the chosen one", "by number…"
BY_NUMBER = "numbers"
RANGE = re.compile(r"\s*(\d+)\s*(?:\.\.|-|to)\s*(\d+)\s*")
NOBODY, HALF, EARLIER = "nothing", "its first half", "all before these"
FIRST_HALF, BEFORE_THESE = "half", "earlier"
MOST_REASONS = 6
HOUR_NS = 3_600_000_000_000
MOST_LIMIT_US = 10_000.0


@dataclass(frozen=True, slots=True, eq=False)
class Found:
    """What is shown.

    Attributes:
        margins: of the pulses.
        lanes: that are drawn.
        follows: what widths follow.
        comparison: with what was before; None without.
        suggestion: what it means for a firmware.
    """

    margins: Margins
    lanes: Sequence[Lane]
    follows: Sequence[Follows]
    comparison: Comparison | None
    suggestion: Suggestion


def find(side: Side, before: Side | None, progress: Progress) -> Found:
    """Everything that the view shows of some exchanges.

    Args:
        side: the exchanges.
        before: those of before; None without.
        progress: told the share done.

    Raises:
        InputError: before and after are of different families.
        Cancelled: from ``progress``.
    """
    margins = margins_of(side.wire, side.chosen)
    progress(0.3)
    follows = what_follows(side.wire, side.chosen)
    progress(0.6)
    comparison = old = None
    if before is not None:
        comparison = compare(before, side)
        old = margins_of(before.wire, before.chosen)
    shifts = () if comparison is None else comparison.shifts
    suggestion = suggest([side], Reader(""))
    return Found(margins, lanes_of(margins, old, shifts), follows, comparison, suggestion)


def _halves(side: Side) -> tuple[Side, Side]:
    """The first and the second half of some exchanges, by their number."""
    counted = side.counted
    first = np.cumsum(counted) <= np.count_nonzero(counted) // 2
    return Side(side.wire, counted & first), Side(side.wire, counted & ~first)


def _earlier(side: Side) -> Side:
    """All exchanges before the first of some."""
    before = np.arange(len(side.wire)) < np.flatnonzero(side.counted)[0]
    return Side(side.wire, before)


class MarginsPage(ViewPage):
    """Every pulse of a wire in its window.

    Args:
        session: what is shown.
        whole: all exchanges of its wires.
        run: runs what takes long.
    """

    def __init__(
        self, session: Session, whole: WholeWires, run: Run, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._session, self._run = session, run
        self._whole = whole
        self.wire, self.before, self.which = ChoiceBox(), ChoiceBox(), ChoiceBox()
        self.limit = NumberBox()
        self.lanes, self.told, self.follows = LaneView(), told_label(), told_label()
        self.headline = told_label()
        self.rehearse = tight_button("Try it in Rehearsal", "What a firmware makes of these")
        self.empty = plain_label(NOTHING)
        self.found: Found | None = None
        self._offered: list[Offered] = []
        self._asked, self._numbers = 0, (0, 0)
        self._seen: object = None
        session.captures_changed.connect(lambda: self.renew())
        self._build()

    def _build(self) -> None:
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setWordWrap(True)
        self.limit.setDecimals(1)
        self.limit.setRange(0.0, MOST_LIMIT_US)
        self.limit.setSpecialValueText("none")
        self.limit.setSuffix(" µs")
        self.limit.valueChanged.connect(self._draw)
        for box, name in (
            (self.wire, "Wire"),
            (self.before, "Before"),
            (self.which, "Exchanges"),
            (self.limit, "My threshold"),
        ):
            box.setAccessibleName(name)
        self.rehearse.setAccessibleName("Try it in Rehearsal")
        side = QWidget()
        column = QVBoxLayout(side)
        column.setContentsMargins(14, 10, 14, 10)
        for title, box in (
            ("Widths of", self.wire),
            ("Before, in outline", self.before),
            ("Exchanges", self.which),
            ("My threshold", self.limit),
        ):
            head = told_label()
            head.setText(f"<b>{title}</b>")
            column.addWidget(head)
            column.addWidget(box)
            column.addSpacing(6)
        legend = told_label()
        legend.setText(self._legend())
        self._legend_label = legend
        column.addWidget(legend)
        column.addStretch(1)
        for box in (self.wire, self.before, self.which):
            box.setMinimumContentsLength(8)
        for box in (self.wire, self.before):
            box.activated.connect(lambda _: self._ask())
        self.which.activated.connect(lambda _: self._choose_which())
        self.lanes.chosen.connect(self._show)
        self.rehearse.clicked.connect(lambda: self.view_asked.emit("rehearsal"))
        self._place(side)

    def _place(self, side: QWidget) -> None:
        left = QFrame()
        left.setObjectName("panel")
        QVBoxLayout(left).addWidget(scrolled(side))
        middle = QFrame()
        middle.setObjectName("panel")
        rows = QVBoxLayout(middle)
        rows.setContentsMargins(6, 6, 6, 6)
        self._scroll = roomy(self.lanes)
        rows.addWidget(self._scroll, 1)
        rows.addWidget(self.empty, 1)
        self.follows.setContentsMargins(10, 2, 10, 6)
        rows.addWidget(self.follows)
        told = QWidget()
        words = QVBoxLayout(told)
        words.setContentsMargins(14, 10, 14, 10)
        words.addWidget(self.headline)
        words.addWidget(self.told)
        row = QHBoxLayout()
        row.addWidget(self.rehearse)
        row.addStretch(1)
        words.addLayout(row)
        words.addStretch(1)
        right = QFrame()
        right.setObjectName("panel")
        QVBoxLayout(right).addWidget(scrolled(told))
        parts = QSplitter()
        parts.setObjectName("margins")
        parts.setHandleWidth(GAP)
        parts.setChildrenCollapsible(False)
        for part, stretch in ((left, 0), (middle, 1), (right, 0)):
            parts.addWidget(part)
            parts.setStretchFactor(parts.count() - 1, stretch)
        parts.setSizes([SIDE_PX, 700, TOLD_PX])
        outer = QVBoxLayout(self)
        outer.setContentsMargins(GAP, GAP, GAP, GAP)
        outer.addWidget(parts)

    @property
    def parts(self) -> Sequence[QWidget]:
        """What is looked at, the lanes, and what follows from them."""
        return self.wire, self.before, self.which, self.limit, self.lanes, self.rehearse

    def showEvent(self, event: QShowEvent) -> None:
        """What changed meanwhile is looked at anew."""
        super().showEvent(event)
        self.renew()

    def renew(self) -> None:
        """Shows the wires that there are now, in the colours of now."""
        if not self.isVisible():
            return
        self._legend_label.setText(self._legend())
        self._offered = offered(self._session)
        place = self._session.place
        own = self._chosen_place(self.wire)
        self._fill(self.wire, self._offered, own if own is not None else place)
        self._ask()

    def _chosen_place(self, box: ChoiceBox) -> WirePlace | None:
        data = box.currentData()
        return tuple(data) if isinstance(data, list | tuple) else None

    @staticmethod
    def _fill(
        box: ChoiceBox, rows: Sequence[Offered], place: WirePlace | None, none: str = ""
    ) -> None:
        box.blockSignals(True)
        box.clear()
        if none:
            box.addItem(none, None)
        for row in rows:
            box.addItem(row.name, list(row.place))
        at = box.findData(list(place)) if place is not None else -1
        box.setCurrentIndex(max(at, 0) if box.count() else -1)
        box.blockSignals(False)

    def _ask(self) -> None:
        """Looks at what is chosen, beside the window."""
        self.empty.setVisible(not self._offered)
        self._scroll.setVisible(bool(self._offered))
        place = self._chosen_place(self.wire)
        if place is None:
            self.found, self._seen = None, None
            self._tell()
            return
        wire = next(row.wire for row in self._offered if row.place == place)
        alike = [
            row for row in self._offered if row.wire.family is wire.family and row.place != place
        ]
        old = self._chosen_place(self.before)
        own = self.before.currentData()
        self._fill(self.before, alike, old, NOBODY)
        self.before.insertItem(1, HALF, FIRST_HALF)
        self.before.insertItem(2, EARLIER, BEFORE_THESE)
        if own in (FIRST_HALF, BEFORE_THESE):
            self.before.setCurrentIndex(self.before.findData(own))
        old = self._chosen_place(self.before)
        self._fill_which(wire)
        key = (
            place,
            old,
            own,
            self.which.currentData(),
            self._numbers,
            *(id(row.wire) for row in self._offered),
        )
        if key == self._seen:
            self._tell()
            return
        self._seen, self._asked = key, self._asked + 1
        self._whole.ask([place] if old is None else [place, old], partial(self._look, self._asked))

    def _choose_which(self) -> None:
        """Asks for numbers, where exchanges are meant by these."""
        if self.which.currentData() == BY_NUMBER:
            text, sure = QInputDialog.getText(self, "Exchanges", "From which to which: 100..200")
            found = RANGE.fullmatch(text) if sure else None
            if found is None:
                self.which.setCurrentIndex(0)
            else:
                self._numbers = (int(found[1]), int(found[2]))
        self._ask()

    def _fill_which(self, wire: Wire) -> None:
        chosen = self.which.currentData()
        self.which.blockSignals(True)
        self.which.clear()
        self.which.addItem(ALL, "")
        self.which.addItem(HOUR, "hour")
        self.which.addItem(NUMBERS, BY_NUMBER)
        if wire.family.has_devices:
            codes = {track.rom: track.name for track in wire.tracks if track.rom}
            for code in codes:
                self.which.addItem(f"of {self._session.roles.names.get(code, code)}", code)
        at = self.which.findData(chosen)
        self.which.setCurrentIndex(max(at, 0))
        self.which.blockSignals(False)

    def _look(self, asked: int, wires: list[Wire]) -> None:
        if asked != self._asked:
            return
        sides = [Side(wire, self._which_of(wire)) for wire in wires]
        before = sides[1] if len(sides) > 1 else None
        own = self.before.currentData()
        if own == FIRST_HALF:
            before, sides[0] = _halves(sides[0])
        elif own == BEFORE_THESE and np.flatnonzero(sides[0].counted)[0]:
            before = _earlier(sides[0])
        self.headline.setText(escape(RECKONING))
        self._run(
            "Looking at the pulses", partial(find, sides[0], before), partial(self._take, asked)
        )

    def _which_of(self, wire: Wire) -> BoolArray | None:
        chosen, starts = self.which.currentData(), wire.exchanges.start_ns
        if chosen == "hour":
            number = min(max(self._session.number - wire.first, 0), len(wire) - 1)
            hour = int(starts[number]) // HOUR_NS
            return np.asarray(starts // HOUR_NS == hour)
        if chosen == BY_NUMBER:
            every = np.arange(wire.first, wire.end)
            low, high = self._numbers
            found: BoolArray = (every >= low) & (every <= high)
            return found if found.any() else None
        if chosen:
            own = [wire.family.device(wire.judged, index) == chosen for index in range(len(wire))]
            return np.array(own, dtype=bool)
        return None

    def _take(self, asked: int, found: Found) -> None:
        if asked == self._asked:
            self.found = found
            self._tell()

    def _draw(self) -> None:
        mine = [("mine", self.limit.value())] if self.limit.value() > 0 else []
        self.lanes.put(() if self.found is None else self.found.lanes, mine)

    def _tell(self) -> None:
        found = self.found
        self._draw()
        self.rehearse.setVisible(found is not None)
        if found is None:
            for label in (self.headline, self.told, self.follows):
                label.setText("")
            return
        self.headline.setText(self._headline(found))
        self.told.setText(self._words(found))
        follows = [escape(f"{one.says}.") for one in found.follows]
        title = "<b>What the widths follow</b><br>"
        self.follows.setText(title + ("<br>".join(follows) or "nothing that stands out"))

    def _headline(self, found: Found) -> str:
        if found.comparison is None:
            number = found.margins.exchanges
            return f"<b style='font-size: 15pt'>{number:,} exchanges</b>"
        colours = theme()
        verdict = found.comparison.verdict
        colour = {Better.BETTER: colours.sound, Better.WORSE: colours.unsound}.get(
            verdict, colours.ink
        )
        word = verdict.value.replace("too-few", "too few to tell").capitalize()
        return f"<b style='font-size: 15pt; color: {colour.name()}'>{word}</b>"

    def _words(self, found: Found) -> str:
        parts = []
        if found.comparison is not None:
            parts.append(self._compared(found.comparison))
        parts.append("<b>What it means for a firmware</b>")
        parts += [escape(f"{between_words(one, found.margins)}.") for one in found.margins.between]
        limit = self.limit.value()
        if limit > 0 and found.margins.between:
            between = found.margins.between[0]
            room = min(limit - between.low_us, between.high_us - limit)
            parts.append(
                f"Yours, {limit:g} µs, has {room:.1f} µs on the near side."
                if room >= 0
                else f"Yours, {limit:g} µs, cuts through pulses."
            )
        suggestion = found.suggestion
        for one in suggestion.constants:
            parts.append(
                f"<b>{escape(one.label)}: {escape(constant_words(one))}</b><br>"
                f"<span style='color: {theme().faint.name()}'>{escape(one.why)}</span>"
            )
        if suggestion.why_not:
            parts.append(f"Nothing can be suggested: {escape(suggestion.why_not)}.")
        return "<br><br>".join(parts)

    def _compared(self, found: Comparison) -> str:
        rows = "".join(
            f"<tr><td>{escape(code)}</td><td align='right'>{before:,}</td>"
            f"<td align='right'><b>{after:,}</b></td></tr>"
            for code, before, after in found.reasons[:MOST_REASONS]
        )
        faint = theme().faint.name()
        head = (
            f"<tr style='color: {faint}'><td>reasons&nbsp;&nbsp;</td><td>before&nbsp;&nbsp;</td>"
            "<td>after</td></tr>"
        )
        table = f"<table>{head}{rows}</table>" if rows else "All are sound on both sides."
        notes = "".join(f"<br>{escape(note)}." for note in found.notes)
        return (
            f"before: {escape(share_words(found.before))}<br>after: "
            f"{escape(share_words(found.after))}{notes}<br><br>{table}"
        )

    def _legend(self) -> str:
        now = theme()
        rows = (
            (now.gauge, "the maker's window"),
            (now.accent, "the widths, counted from either end"),
            (now.unsound, "outside"),
            (now.near, "near a limit"),
        )
        return "".join(
            f"<p style='margin: 2px 0'><span style='color: {colour.name()}'>■</span> {text}</p>"
            for colour, text in rows
        )

    def _show(self, exchange: int, position: int) -> None:
        """Shows the exchange of a mark, with its pulse chosen."""
        place = self._chosen_place(self.wire)
        if place is None:
            return
        try:
            self._session.show_reading(place, exchange)
        except PivetError as error:
            self._session.refuse(str(error))
            return
        self.exchange_asked.emit()

    def point_out(self) -> None:
        """Another wire as what was before."""
        self.before.setCurrentIndex(self.before.count() - 1)
        self._ask()
