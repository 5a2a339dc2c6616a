"""The Margins view: how the pulses of a wire lie in their windows, and what moved since before."""

import re
from collections.abc import Callable, Sequence
from functools import partial
from html import escape

import numpy as np
from PySide6.QtWidgets import (
    QHBoxLayout,
    QInputDialog,
    QVBoxLayout,
    QWidget,
)

from pivet.captures.wire import Wire
from pivet.frozen import FrozenObject
from pivet.insight.compare import Better, Comparison, compare
from pivet.insight.drawn.lanes import Lane, lanes_of
from pivet.insight.follows import Follows, what_follows
from pivet.insight.margins import Margins, margins_of
from pivet.insight.pulses import BoolArray
from pivet.insight.readers import Reader
from pivet.insight.rehearsal import suggest
from pivet.insight.side import Side, by_number, of_device
from pivet.insight.suggestion import Suggestion
from pivet.insight.tell import between_words, constant_words, share_words
from pivet.progress import Progress
from pivet.ui.drawing.numbers import NumberBox
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import roomy, scrolled, tight_button, told_label
from pivet.ui.many.lanes import LaneView
from pivet.ui.many.page import NAME_LETTERS, ManyPage, fill, heading, place_in
from pivet.ui.many.whole import Run, WholeWires
from pivet.ui.session.session import Session
from pivet.ui.window.choosing import ChoiceBox

SIDE_PX, TOLD_PX = 210, 300
NOTHING = "Open a capture or a bench: its pulses stand here in their windows."
LOOKING = "The pulses are being looked at …"
ALL, HOUR, NUMBERS = "all", "the hour of the chosen one", "by number…"
BY_HOUR, BY_NUMBER = "hour", "numbers"
RANGE = re.compile(r"\s*(\d+)\s*(?:\.\.|-|to)\s*(\d+)\s*")
NOBODY, HALF, EARLIER = "nothing", "its first half", "all before these"
FIRST_HALF, BEFORE_THESE = "half", "earlier"
BEFORE_TOO = ((NOBODY, None), (HALF, FIRST_HALF), (EARLIER, BEFORE_THESE))
MOST_REASONS = 6
HOUR_NS = 3_600_000_000_000
MOST_LIMIT_US = 10_000.0


class Found(FrozenObject):
    """What is shown.

    Attributes:
        margins: the margins of the pulses.
        lanes: the lanes that are drawn.
        follows: what widths follow.
        comparison: with what was before; None without.
        suggestion: what it means for a firmware.
    """

    margins: Margins
    lanes: Sequence[Lane]
    follows: Sequence[Follows]
    comparison: Comparison | None
    suggestion: Suggestion


def find(
    wires: Sequence[Wire],
    meant: Callable[[Wire], BoolArray | None],
    before: object,
    progress: Progress,
) -> Found:
    """Everything that the view shows of some exchanges.

    Args:
        wires: the wires whose exchanges are shown; a second one is what was before.
        meant: which of them count, bool (n,), None for all.
        before: ``FIRST_HALF`` or ``BEFORE_THESE`` for a part of the same wire.
        progress: called with the share done, 0 to 1.

    Raises:
        InputError: before and after are of different families.
        Cancelled: ``progress`` raised it.
    """
    side, *others = (Side(wire, meant(wire)) for wire in wires)
    old = others[0] if others else None
    if before == FIRST_HALF:
        old, side = _halves(side)
    elif before == BEFORE_THESE and not side.counted[0]:
        old = _earlier(side)
    margins = margins_of(side.wire, side.chosen)
    progress(0.3)
    follows = what_follows(side.wire, side.chosen)
    progress(0.6)
    comparison = None if old is None else compare(old, side)
    earlier = None if old is None else margins_of(old.wire, old.chosen)
    shifts = () if comparison is None else comparison.shifts
    suggestion = suggest([side], Reader(""))
    return Found(margins, lanes_of(margins, earlier, shifts), follows, comparison, suggestion)


def _meant(which: str, hour: int, numbers: tuple[int, int], wire: Wire) -> BoolArray | None:
    """Which exchanges of a wire are chosen; None for all, also where none is."""
    if not which:
        return None
    if which == BY_HOUR:
        found = wire.exchanges.start_ns // HOUR_NS == hour
    elif which == BY_NUMBER:
        found = by_number(wire, *numbers)
    else:
        found = of_device(wire, which)
    return found if found.any() else None


def _halves(side: Side) -> tuple[Side, Side]:
    """The first and the second half of some exchanges, by their number."""
    counted = side.counted
    first = np.cumsum(counted) <= np.count_nonzero(counted) // 2
    return Side(side.wire, counted & first), Side(side.wire, counted & ~first)


def _earlier(side: Side) -> Side:
    """All exchanges before the first of some."""
    before = np.arange(len(side.wire)) < np.flatnonzero(side.counted)[0]
    return Side(side.wire, before)


class MarginsPage(ManyPage):
    """Every pulse of a wire in its window.

    Args:
        session: what is shown.
        whole: all exchanges of its wires.
        run: runs what takes long.
    """

    def __init__(
        self, session: Session, whole: WholeWires, run: Run, parent: QWidget | None = None
    ) -> None:
        super().__init__(session, whole, NOTHING, parent)
        self._run = run
        self.before, self.which = ChoiceBox(), ChoiceBox()
        self.limit = NumberBox()
        self.lanes, self.told, self.follows = LaneView(), told_label(), told_label()
        self.headline = told_label()
        self.rehearse = tight_button("Try it in Rehearsal", "What a firmware makes of these")
        self.found: Found | None = None
        self._numbers = (0, 0)
        self._seen: object = None
        self._build()

    def _build(self) -> None:
        self.limit.setDecimals(1)
        self.limit.setRange(0.0, MOST_LIMIT_US)
        self.limit.setSpecialValueText("none")
        self.limit.setSuffix(" µs")
        self.limit.valueChanged.connect(self._draw)
        for box, name in (
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
            column.addWidget(heading(title))
            column.addWidget(box)
            column.addSpacing(6)
        legend = told_label()
        legend.setText(self._legend())
        self._legend_label = legend
        column.addWidget(legend)
        column.addStretch(1)
        for box in (self.before, self.which):
            box.setMinimumContentsLength(NAME_LETTERS)
        self.before.picked.connect(lambda _: self._choose_wire())
        self.which.picked.connect(lambda _: self._choose_which())
        self.lanes.chosen.connect(self._show)
        self.rehearse.clicked.connect(lambda: self.view_asked.emit("rehearsal"))
        self._put_panels(
            "margins", (scrolled(side), self._middle(), self._right()), (SIDE_PX, 700, TOLD_PX)
        )

    def _middle(self) -> QWidget:
        middle = QWidget()
        rows = QVBoxLayout(middle)
        rows.setContentsMargins(0, 0, 0, 0)
        self._scroll = roomy(self.lanes)
        rows.addWidget(self._scroll, 1)
        rows.addWidget(self.empty, 1)
        self.follows.setContentsMargins(10, 2, 10, 6)
        rows.addWidget(self.follows)
        return middle

    def _right(self) -> QWidget:
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
        return scrolled(told)

    @property
    def parts(self) -> Sequence[QWidget]:
        """What is looked at, the lanes, and what follows from them."""
        return self.wire, self.before, self.which, self.limit, self.lanes, self.rehearse

    def renew(self) -> None:
        """Shows the wires that there are now, in the colours of now."""
        if self.isVisible():
            self._legend_label.setText(self._legend())
        super().renew()

    def _choose_wire(self) -> None:
        """Looks at what is chosen, beside the window."""
        place = self._place()
        self.empty.setVisible(place is None)
        self._scroll.setVisible(place is not None)
        if place is None:
            self._take_wire(None)
            return
        wire = next(row.wire for row in self._offered if row.place == place)
        alike = [
            row for row in self._offered if row.wire.family is wire.family and row.place != place
        ]
        old, own = place_in(self.before), self.before.currentData()
        fill(self.before, alike, own if old is None else old, BEFORE_TOO)
        old = place_in(self.before)
        self._fill_which(wire)
        places = [place] if old is None else [place, old]
        key = (
            places,
            self.before.currentData(),
            self.which.currentData(),
            self._numbers,
            self._hour(),
            [id(row.wire) for row in self._offered],
        )
        if key == self._seen:
            self._tell()
            return
        self._seen, self._asked = key, self._asked + 1
        self._whole.ask(places, partial(self._look, self._asked))

    def _take_wire(self, wire: Wire | None) -> None:
        """There is no wire."""
        self.found, self._seen = None, None
        self._tell()

    def _hour(self) -> int:
        """The hour of the capture in which the chosen exchange stands."""
        report = self._session.report
        return 0 if report is None else report.start_ns // HOUR_NS

    def _choose_which(self) -> None:
        """Asks for numbers, where exchanges are meant by these."""
        if self.which.currentData() == BY_NUMBER:
            text, sure = QInputDialog.getText(self, "Exchanges", "From which to which: 100..200")
            found = RANGE.fullmatch(text) if sure else None
            if found is None:
                self.which.setCurrentIndex(0)
            else:
                self._numbers = (int(found[1]), int(found[2]))
        self._choose_wire()

    def _fill_which(self, wire: Wire) -> None:
        chosen = self.which.currentData()
        self.which.blockSignals(True)
        self.which.clear()
        self.which.addItem(ALL, "")
        self.which.addItem(HOUR, BY_HOUR)
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
        which = self.which.currentData()
        meant = partial(_meant, which, self._hour(), self._numbers)
        self.headline.setText(escape(LOOKING))
        work = partial(find, wires, meant, self.before.currentData())
        self._run("Looking at the pulses", work, partial(self._take, asked))

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

    def _show(self, exchange: int, _position: int) -> None:
        """Shows the exchange of a mark."""
        self._show_exchange(exchange)

    def point_out(self) -> None:
        """Another wire as what was before."""
        self.before.setCurrentIndex(self.before.count() - 1)
        self._choose_wire()
