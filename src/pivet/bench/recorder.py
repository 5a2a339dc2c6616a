"""Recording: what is heard goes into the bench file as it arrives."""

import json
import math
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np

from pivet.bench.families import FAMILIES
from pivet.bench.live.events import Event, Heard, Note
from pivet.bench.live.listener import Listener
from pivet.bench.wire import Wire
from pivet.bench.wishes import Wishes, wishes_text
from pivet.errors import OutputError
from pivet.files.benchfile.columns import THOUSANDTHS
from pivet.files.benchfile.rows import Block, CaptureRow, ExchangeRow, GapRow
from pivet.files.benchfile.store import BenchFile
from pivet.judge.margins import LeastMargins
from pivet.judge.verdict import Verdict
from pivet.sheets.load import sheet_text
from pivet.signal.trace import Int64Array, Level
from pivet.sources.source import Batch, Piece

KEEP_S = 0.4
"""What was heard is written at the latest after so long: less than a second may get lost."""

TIDY_S = 60.0
BLOCK_EDGES = 1 << 15
CLOCK_S = 30.0

MOST_HELD = 20_000_000
"""While nothing can be written, so many edges wait in memory; then the oldest are given up."""

LEAST_MARGIN = -30.0
"""A margin that is worse is kept as this one."""

NOT_WRITTEN = "heard, but there was no room to write it"


@dataclass(slots=True)
class _Heard:
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
            count = sum(row.size for row in self.edges)
            self.level = Level(self.level ^ (count & 1))
            self.edges, self.start_ns = [], self.until_ns


class Recorder:
    """Writes what a listener hears.

    Args:
        bench: open for writing.
        listener: that is open.
        source: what the capture is called.
        clock: monotonic seconds.
    """

    def __init__(
        self,
        bench: BenchFile,
        listener: Listener,
        source: str,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self._bench, self._listener, self._clock = bench, listener, clock
        self._lines: dict[str, _Heard] = {}
        self._closed: list[tuple[str, _Heard]] = []
        self._gaps: list[tuple[str, GapRow]] = []
        self._events: list[Heard] = []
        self._notes: list[Note] = []
        self._wires: dict[str, int] = {}
        self._keep_at = clock() + KEEP_S
        self._tidy_at = clock() + TIDY_S
        self._clock_at = 0.0
        self._trouble = ""
        about = listener.about
        assert about is not None
        began = listener.wall_ns(0)
        with bench.writing():
            self.capture: CaptureRow = bench.add_capture(
                about.name, source, began, about.resolution_ns
            )
            bench.put_words(*_words())
        listener.taps.append(self.hear)

    def hear(self, batch: Batch) -> None:
        """Takes what the source told."""
        for piece in batch.pieces:
            self._hear(piece)

    def _hear(self, piece: Piece) -> None:
        row = self._lines.get(piece.line)
        gap = piece.gap
        if row is None or gap is not None:
            if row is not None and row.edges:
                self._closed.append((piece.line, row))
            level = Level.HIGH if gap is None else gap.level
            start = piece.known_until_ns if gap is None else gap.end_ns
            row = self._lines[piece.line] = _Heard(start, start, level)
            if gap is not None and gap.why:
                self._gaps.append(
                    (piece.line, GapRow(gap.start_ns, gap.end_ns, gap.level, gap.lost, gap.why))
                )
        if piece.edges_ns.size:
            row.edges.append(piece.edges_ns)
        row.until_ns = piece.known_until_ns

    def tell(self, event: Event) -> None:
        """Takes what the listener told."""
        if isinstance(event, Heard):
            self._events.append(event)
        elif isinstance(event, Note):
            self._notes.append(event)

    def keep_if_possible(self) -> str:
        """Writes what is due; why it could not be written, the first time, or nothing."""
        try:
            self.keep()
        except OutputError as error:
            self._keep_at = self._clock() + KEEP_S
            self._give_up_oldest()
            said, self._trouble = self._trouble, str(error)
            return "" if said == self._trouble else self._trouble
        self._trouble = ""
        return ""

    def _give_up_oldest(self) -> None:
        """Memory has an end: what waits too long is a gap."""
        held = sum(part.size for row in self._lines.values() for part in row.edges)
        held += sum(part.size for _, row in self._closed for part in row.edges)
        if held <= MOST_HELD:
            return
        for name, row in [*self._closed, *self._lines.items()]:
            lost = sum(part.size for part in row.edges)
            start = row.start_ns
            row.written()
            if lost:
                gap = GapRow(start, row.until_ns, row.level, lost, NOT_WRITTEN)
                self._gaps.append((name, gap))
        self._closed, self._events = [], []

    def keep(self, now: bool = False) -> None:
        """Writes what is due, or all of it.

        Raises:
            OutputError: it cannot be written; it stays in memory for the next time.
        """
        if not now and self._clock() < self._keep_at:
            return
        with self._bench.writing():
            for name, gap in self._gaps:
                self._bench.add_gap(self._bench.line(self.capture.id, name), gap)
            for name, row in [*self._closed, *self._lines.items()]:
                if row.edges:
                    self._put_line(name, row)
            self._put_events()
            for note in self._notes:
                self._bench.add_note(time.time_ns(), note.says, self._wires.get(note.wire), None)
            self._put_clock()
        for row in self._lines.values():
            row.written()
        self._closed, self._gaps, self._events, self._notes = [], [], [], []
        self._keep_at = self._clock() + KEEP_S
        if now or self._clock() >= self._tidy_at:
            self._tidy()

    def _put_line(self, name: str, row: _Heard) -> None:
        edges = np.concatenate(row.edges)
        line = self._bench.line(self.capture.id, name)
        start, level = row.start_ns, row.level
        for first in range(0, edges.size, BLOCK_EDGES):
            part = edges[first : first + BLOCK_EDGES]
            last = first + part.size == edges.size
            end = row.until_ns if last else int(part[-1])
            self._bench.add_block(line, Block(start, end, level, part))
            start, level = end, Level(level ^ (part.size & 1))

    def _put_clock(self) -> None:
        if self._clock() >= self._clock_at:
            now = self._listener.source.now_ns()
            wall = self._listener.wall_ns(now)
            self._bench.add_clock(self.capture.id, now, wall)
            self._clock_at = self._clock() + CLOCK_S

    def _tidy(self) -> None:
        with self._bench.writing():
            for name, row in self._lines.items():
                line = self._bench.line(self.capture.id, name)
                self._bench.tidy_blocks(line, row.start_ns, BLOCK_EDGES)
        self._tidy_at = self._clock() + TIDY_S

    def _put_events(self) -> None:
        by_wire: dict[str, list[Heard]] = {}
        for event in self._events:
            by_wire.setdefault(event.wire, []).append(event)
        for name, events in by_wire.items():
            ident = self._wire(name, events[-1].shown)
            margins: dict[int, LeastMargins] = {}
            for event in events:
                wire = event.shown
                if id(wire) not in margins:
                    margins[id(wire)] = wire.family.margins(wire.judged)
            rows = {
                event.number: exchange_row(ident, event, margins[id(event.shown)])
                for event in events
            }
            self._bench.put_exchanges(rows.values())
            self._put_readings(ident, events)

    def _wire(self, name: str, wire: Wire) -> int:
        if name not in self._wires:
            setup = next((row.setup for row in self._listener.wires if row.name == name), None)
            wishes = Wishes()
            if setup is not None:
                wishes = Wishes(setup.every_s, setup.retries, setup.choices)
            made = self._bench.add_wire(
                self.capture.id,
                name,
                json.dumps([line.name for line in wire.lines]),
                wire.family.key,
                wire.sheet.id,
                wishes_text(wishes),
            )
            self._wires[name] = made.id
        return self._wires[name]

    def _put_readings(self, ident: int, events: list[Heard]) -> None:
        """Readings of the exchanges, from the newest state of their window."""
        newest: dict[int, Heard] = {}
        for event in events:
            newest[id(event.shown)] = event
        for last in newest.values():
            numbers = {row.index: row.number - 1 for row in events if row.shown is last.shown}
            for quantity, unit, device, rows in readings_of(last.shown, numbers):
                track = self._bench.track(ident, quantity, unit, device)
                self._bench.put_readings(track, rows)


def exchange_row(ident: int, event: Heard, margins: LeastMargins) -> ExchangeRow:
    """An exchange as the file keeps it; from columns, since many may come at once."""
    wire, index = event.shown, event.index
    start = int(wire.exchanges.start_ns[index])
    data = wire.family.data(wire.exchanges, index)
    device = wire.family.device(wire.judged, index)
    share = float(margins.share[index])
    known = not math.isnan(share)
    return ExchangeRow(
        ident,
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


def readings_of(
    wire: Wire, numbers: Mapping[int, int]
) -> list[tuple[str, str, str, list[tuple[int, float | None]]]]:
    """Quantity, unit, device and readings of some exchanges of a wire.

    Args:
        wire: judged.
        numbers: by index in the wire, the numbers that the exchanges have in the file.
    """
    found = []
    seen: set[tuple[str, str]] = set()
    for track in wire.tracks:
        if (track.quantity, track.rom) in seen:
            continue
        seen.add((track.quantity, track.rom))
        first = int(np.searchsorted(track.at, min(numbers)))
        last = int(np.searchsorted(track.at, max(numbers), side="right"))
        rows = [
            (numbers[index], value if given else None)
            for index, value, given in zip(
                track.at[first:last].tolist(),
                track.values[first:last].tolist(),
                track.given[first:last].tolist(),
                strict=True,
            )
            if index in numbers
        ]
        if rows:
            found.append((track.quantity, track.unit, track.rom, rows))
    return found


def _words() -> tuple[
    list[tuple[int, str]], list[tuple[str, int, str, int]], list[tuple[str, str, str, str]]
]:
    """What the numbers in the file mean."""
    verdicts = [(int(row), row.word) for row in Verdict]
    codes = [
        (key, int(notice), notice.code, int(notice.weight))
        for key, family in FAMILIES.items()
        for notice in family.notices
    ]
    sheets = [
        (row.id, key, row.name, sheet_text(row.id))
        for key, family in FAMILIES.items()
        for row in family.sheets
    ]
    return verdicts, codes, sheets
