"""Recording: what is heard goes into the bench file as it arrives."""

import json
import math
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from pivet.captures.wire import Wire
from pivet.errors import OutputError
from pivet.families import FAMILIES
from pivet.files.benchfile.beside import next_beside
from pivet.files.benchfile.columns import THOUSANDTHS
from pivet.files.benchfile.notice_bits import CodeRow, renumber
from pivet.files.benchfile.rows import Block, CaptureRow, ExchangeRow, GapRow
from pivet.files.benchfile.store import BenchFile
from pivet.judge.margins import LeastMargins
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count
from pivet.keeping.outgoing import Outgoing, changes_of, has_feeds, put_outgoing
from pivet.listening.calendar import Calendar
from pivet.listening.events import Edges, Event, Heard, Moved, Note, Withdrawn
from pivet.listening.setup import NO_SETUP, WireSetup
from pivet.listening.taker import Once, Taker
from pivet.person.wire_settings import WireSettings, wire_settings_text
from pivet.sheets.load import sheet_text
from pivet.signal.trace import Int64Array, Level
from pivet.sources.source import About, Gap, Piece

KEEP_S = 0.4
"""What was heard is written at the latest after so long: less than a second may get lost."""

TIDY_S = 60.0
BLOCK_EDGES = 1 << 15
CLOCK_S = 30.0

MOST_HELD = 20_000_000
MOST_ROWS = 500_000
"""While nothing can be written, so many edges and exchanges wait in memory; then the oldest are
given up, and that is said."""

LEAST_MARGIN = -30.0
"""A margin that is worse is kept as this one."""

NOT_WRITTEN = "heard, but there was no room to write it"

Reading = tuple[str, str, str, float | None]
"""Quantity, unit, device, value; None for one that failed."""


@dataclass(slots=True)
class _Stretch:
    """A line since it was last written.

    Attributes:
        start_ns: from here on, ns.
        until_ns: up to here, ns.
        level: at its start.
        edges: that came.
    """

    start_ns: int
    until_ns: int
    level: Level
    edges: list[Int64Array] = field(default_factory=list)

    def written(self) -> None:
        """What came stands in the file."""
        if self.edges:
            count = sum(part.size for part in self.edges)
            self.level = Level(self.level ^ (count & 1))
            self.edges, self.start_ns = [], self.until_ns

    @property
    def size(self) -> int:
        """Number of edges that came."""
        return sum(part.size for part in self.edges)


@dataclass(slots=True)
class _WirePart:
    """What is to be written of a wire.

    Attributes:
        setup, lines, family: for its row, when it has none yet.
        sheet: chosen, or recognised last.
        resolution_ns: of its widths, ns.
        rows: exchanges by number.
        readings: the readings of each exchange.
        anew: exchanges whose readings in the file are to go.
        gone: exchanges that are to go.
    """

    setup: WireSetup
    lines: tuple[str, ...]
    family: str
    sheet: str
    resolution_ns: int = 0
    rows: dict[int, ExchangeRow] = field(default_factory=dict)
    readings: dict[int, list[Reading]] = field(default_factory=dict)
    anew: set[int] = field(default_factory=set)
    gone: set[int] = field(default_factory=set)


class _Written(NamedTuple):
    """A wire's number in the file, and the sheet that was last written of it."""

    id: int
    sheet: str


class Recorder(Taker):
    """Writes what a listener hears; see docs/reliability.md.

    What is to be written waits in memory until a transaction with all of it is through: one that
    fails changes nothing, neither in the file nor here.

    Args:
        bench: open for writing.
        about: the source.
        label: what the capture is called.
        calendar: beside the source's clock.
        clock: monotonic seconds.

    Raises:
        OutputError: nothing can be written.
    """

    what = "the bench file"

    def __init__(
        self,
        bench: BenchFile,
        about: About,
        label: str,
        calendar: Calendar,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self._bench, self._calendar, self._clock = bench, calendar, clock
        self._lines: dict[str, _Stretch] = {}
        self._closed: list[tuple[str, _Stretch]] = []
        self._gaps: list[tuple[str, GapRow]] = []
        self._parts: dict[str, _WirePart] = {}
        self._notes: list[tuple[int, Note]] = []
        self._wires: dict[str, _Written] = {}
        self._keep_at = clock() + KEEP_S
        self._tidy_at = clock() + TIDY_S
        self._clock_at = 0.0
        self._once = Once(clock)
        with bench.writing():
            self.capture: CaptureRow = bench.add_capture(
                about.name, label, calendar.wall_ns(0), about.resolution_ns
            )
            verdicts, codes, sheets = _words()
            bench.put_words(verdicts, sheets)
            renumber(bench, codes)

    def take(self, events: Sequence[Event]) -> None:
        """Takes what the listener told.

        Args:
            events: the events, in the order in which they were told.
        """
        margins: dict[int, LeastMargins] = {}
        for event in events:
            if isinstance(event, Edges):
                for piece in event.pieces:
                    self._hear(piece)
            elif isinstance(event, Heard):
                self._put_heard(event, margins)
            elif isinstance(event, Withdrawn):
                self._put_withdrawn(event)
            elif isinstance(event, Note):
                self._notes.append((time.time_ns(), event))

    def skip(self, events: Sequence[Event]) -> Sequence[Event]:
        """Edges that could not be taken are a gap of their lines.

        Args:
            events: the events, in the order in which they were told.
        """
        spans: dict[str, Gap] = {}
        for event in events:
            for piece in event.pieces if isinstance(event, Edges) else ():
                before = spans.get(piece.line)
                start = piece.known_until_ns if before is None else before.start_ns
                if before is None and piece.edges_ns.size:
                    start = int(piece.edges_ns[0]) - 1
                level = before.level if before is not None else Level.HIGH
                level = piece.gap.level if piece.gap is not None else level
                level = Level(level ^ (piece.edges_ns.size & 1))
                lost = piece.edges_ns.size + (before.lost or 0 if before is not None else 0)
                spans[piece.line] = Gap(start, piece.known_until_ns, level, lost, NOT_WRITTEN)
        pieces = tuple(
            Piece(line, np.empty(0, dtype=np.int64), gap.end_ns, gap) for line, gap in spans.items()
        )
        kept = [event for event in events if isinstance(event, Heard | Withdrawn | Note)]
        return (Edges(pieces), *kept)

    def _hear(self, piece: Piece) -> None:
        row = self._lines.get(piece.line)
        gap = piece.gap
        if row is None or gap is not None:
            if row is not None and row.edges:
                self._closed.append((piece.line, row))
            level = Level.HIGH if gap is None else gap.level
            start = piece.known_until_ns if gap is None else gap.end_ns
            row = self._lines[piece.line] = _Stretch(start, start, level)
            if gap is not None and gap.why:
                self._gaps.append(
                    (piece.line, GapRow(gap.start_ns, gap.end_ns, gap.level, gap.lost, gap.why))
                )
        if piece.edges_ns.size:
            row.edges.append(piece.edges_ns)
        row.until_ns = piece.known_until_ns

    def _put_heard(self, event: Heard, margins: dict[int, LeastMargins]) -> None:
        wire, number = event.shown, event.number - 1
        part = self._parts.get(event.wire)
        if part is None or not part.lines:
            lines = tuple(line.name for line in wire.lines)
            gone = set() if part is None else part.gone
            part = _WirePart(
                event.setup, lines, wire.family.key, wire.sheet.id, wire.resolution_ns, gone=gone
            )
            self._parts[event.wire] = part
        if id(wire) not in margins:
            margins[id(wire)] = wire.family.margins(wire.judged)
        part.sheet = wire.sheet.id
        part.rows[number] = exchange_row(event, margins[id(wire)])
        part.readings[number] = readings_of(wire, event.index)
        part.gone.discard(number)
        if event.revised:
            part.anew.add(number)

    def _put_withdrawn(self, event: Withdrawn) -> None:
        number = event.number - 1
        part = self._parts.setdefault(event.wire, _WirePart(NO_SETUP, (), "", ""))
        part.rows.pop(number, None)
        part.readings.pop(number, None)
        part.gone.add(number)

    def tick(self) -> None:
        """Writes what is due; says why it could not be written, once until that changes."""
        if self._clock() < self._keep_at:
            return
        try:
            if self._bench.gone:
                self._follow()
            self.keep()
        except OutputError as error:
            self._keep_at = self._clock() + KEEP_S
            self._give_up_oldest()
            says = self._once.failed(str(error))
            if says:
                self.say(Note(says))
        else:
            if self._once.worked():
                self.say(Note(f"{self._bench.path.name} is written again; nothing is missing."))

    def _follow(self) -> None:
        """The file went away: goes on in another beside it, with all that stood in it.

        Raises:
            OutputError: there is no place for it; what was written is still there.
        """
        former = self._bench.path
        if not former.parent.is_dir():
            raise OutputError(
                f"the folder of {former} is gone", "bring it back, or save the bench elsewhere"
            )
        path = next_beside(former)
        self._bench.move_to(path)
        self.say(Moved(former, path))
        self.say(Note(f"{former.name} was deleted or replaced: recording goes on in {path.name}."))

    def close(self) -> None:
        """Writes all; says what could not be written."""
        try:
            if self._bench.gone:
                self._follow()
            self.keep(now=True)
        except OutputError as error:
            edges = sum(stretch.size for _, stretch in self._stretches())
            rows = sum(len(part.rows) for part in self._parts.values())
            lost = f"{count(edges, 'edge')} and {count(rows, 'exchange')} are not in the bench"
            self.say(Note(f"{error} {lost}."))

    @property
    def unwritten(self) -> bool:
        """Something waits to be written."""
        return any(part.rows for part in self._parts.values()) or any(
            stretch.size for _, stretch in self._stretches()
        )

    def _stretches(self) -> list[tuple[str, _Stretch]]:
        return [*self._closed, *self._lines.items()]

    def _give_up_oldest(self) -> None:
        """Memory has an end: what waits too long is a gap, and said."""
        if sum(stretch.size for _, stretch in self._stretches()) > MOST_HELD:
            total = 0
            for name, stretch in self._stretches():
                lost, start = stretch.size, stretch.start_ns
                stretch.written()
                total += lost
                if lost:
                    gap = GapRow(start, stretch.until_ns, stretch.level, lost, NOT_WRITTEN)
                    self._gaps.append((name, gap))
            self._closed = []
            self.say(Note(f"{count(total, 'edge')} that waited to be written were given up."))
        for name, part in self._parts.items():
            if len(part.rows) > MOST_ROWS:
                old = sorted(part.rows)[: MOST_ROWS // 2]
                for number in old:
                    del part.rows[number], part.readings[number]
                self.say(Note(f"{count(len(old), 'exchange')} that waited were given up.", name))

    def keep(self, now: bool = False) -> None:
        """Writes what is due, or all of it.

        Args:
            now: all of it, whether it is due or not.

        Raises:
            OutputError: it cannot be written; it stays in memory for the next time.
        """
        if not now and self._clock() < self._keep_at:
            return
        wires = dict(self._wires)
        with self._bench.writing():
            for name, gap in self._gaps:
                self._bench.add_gap(self._bench.line(self.capture.id, name), gap)
            for name, stretch in self._stretches():
                if stretch.edges:
                    self._put_line(name, stretch)
            sends, outgoing = has_feeds(self._bench), list[Outgoing]()
            for name, part in self._parts.items():
                self._put_part(name, part, wires)
                if sends and name in wires:
                    ident = wires[name].id
                    outgoing += changes_of(
                        *(self._bench, ident, part.rows, part.readings, part.anew, part.gone)
                    )
            put_outgoing(self._bench, outgoing)
            for wall_ns, note in self._notes:
                about = wires.get(note.wire)
                self._bench.add_note(wall_ns, note.says, about and about.id, None)
            told_clock = self._put_clock()
        # Only now it stands in the file: before, everything is as it was.
        self._wires = wires
        self._clock_at = self._clock() + CLOCK_S if told_clock else self._clock_at
        for stretch in self._lines.values():
            stretch.written()
        self._closed, self._gaps, self._parts, self._notes = [], [], {}, []
        self._keep_at = self._clock() + KEEP_S
        if now or self._clock() >= self._tidy_at:
            self._tidy()

    def _put_line(self, name: str, row: _Stretch) -> None:
        edges = np.concatenate(row.edges)
        line = self._bench.line(self.capture.id, name)
        start, level = row.start_ns, row.level
        for first in range(0, edges.size, BLOCK_EDGES):
            part = edges[first : first + BLOCK_EDGES]
            last = first + part.size == edges.size
            end = row.until_ns if last else int(part[-1])
            self._bench.add_block(line, Block(start, end, level, part))
            start, level = end, Level(level ^ (part.size & 1))

    def _put_clock(self) -> bool:
        if self._clock() < self._clock_at:
            return False
        heard = max((stretch.until_ns for stretch in self._lines.values()), default=0)
        self._bench.add_clock(self.capture.id, heard, self._calendar.wall_ns(heard))
        return True

    def _tidy(self) -> None:
        with self._bench.writing():
            for name, stretch in self._lines.items():
                line = self._bench.line(self.capture.id, name)
                self._bench.tidy_blocks(line, stretch.start_ns, BLOCK_EDGES)
        self._tidy_at = self._clock() + TIDY_S

    def _settings_of(self, part: _WirePart) -> WireSettings:
        setup, own = part.setup, part.resolution_ns
        own = own if own != self.capture.resolution_ns else 0
        return WireSettings(setup.every_s, setup.retries, setup.choices, setup.pull_up, own)

    def _put_part(self, name: str, part: _WirePart, wires: dict[str, _Written]) -> None:
        if name not in wires:
            if not part.lines:  # All that was told of it was taken back before it was written.
                return
            made = self._bench.add_wire(
                self.capture.id,
                name,
                json.dumps(part.lines),
                part.family,
                part.sheet,
                wire_settings_text(self._settings_of(part)),
            )
            wires[name] = _Written(made.id, part.sheet)
        ident, written = wires[name]
        if part.sheet not in ("", written):  # recognised anew, or chosen
            self._bench.change_sheet(ident, part.sheet)
            wires[name] = _Written(ident, part.sheet)
        self._bench.forget_exchanges(ident, part.gone)
        self._bench.forget_readings(ident, part.anew)
        self._bench.put_exchanges(ident, part.rows.values())
        by_track: dict[tuple[str, str, str], list[tuple[int, float | None]]] = {}
        for number, readings in part.readings.items():
            for quantity, unit, device, value in readings:
                by_track.setdefault((quantity, unit, device), []).append((number, value))
        for key, rows in by_track.items():
            self._bench.put_readings(self._bench.track(ident, *key), rows)


def exchange_row(event: Heard, margins: LeastMargins) -> ExchangeRow:
    """An exchange as the file keeps it; from columns, since many may come at once.

    Args:
        event: the wire, and which exchange.
        margins: least of each exchange, worked out once a wire.
    """
    wire, index = event.shown, event.index
    start = int(wire.exchanges.start_ns[index])
    data = wire.family.data(wire.exchanges, index)
    device = wire.family.device(wire.judged, index)
    share = float(margins.share[index])
    known = not math.isnan(share)
    return ExchangeRow(
        event.number - 1,
        start,
        int(wire.exchanges.end_ns[index]) - start,
        int(wire.verdicts[index]),
        int(wire.judged.notices[index]),
        event.attempt,
        device or None,
        data or None,
        round(max(share, LEAST_MARGIN) * THOUSANDTHS) if known else None,
    )


def readings_of(wire: Wire, index: int) -> list[Reading]:
    """What one exchange of a wire gave; the first track of a quantity and device counts.

    Args:
        wire: decoded and judged.
        index: number of the exchange, from 0.
    """
    found: dict[tuple[str, str], Reading] = {}
    for track in wire.tracks:
        place = int(track.at.searchsorted(index))
        if place < track.at.size and track.at[place] == index:
            value = float(track.values[place]) if track.given[place] else None
            found.setdefault(
                (track.quantity, track.rom), (track.quantity, track.unit, track.rom, value)
            )
    return list(found.values())


def _words() -> tuple[list[tuple[int, str]], list[CodeRow], list[tuple[str, str, str, str]]]:
    """What the numbers in the file mean."""
    verdicts = [(int(verdict), verdict.word) for verdict in Verdict]
    codes = [
        (key, int(notice), notice.code, int(notice.weight))
        for key, family in FAMILIES.items()
        for notice in family.notices
    ]
    sheets = [
        (sheet.id, key, sheet.name, sheet_text(sheet.id))
        for key, family in FAMILIES.items()
        for sheet in family.sheets
    ]
    return verdicts, codes, sheets
