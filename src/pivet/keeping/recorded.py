"""Looking at what was recorded: a wire of a bench file, a chapter at a time.

Nothing is read whole: for an exchange the edges of its chapter and of both beside it are read,
decoded, and judged in the chapters in which they were heard.
"""

from contextlib import suppress

import numpy as np

from pivet.captures.wire import Wire
from pivet.errors import InputError
from pivet.families import find_family
from pivet.files.benchfile.checked import damaged, decoded
from pivet.files.benchfile.rows import Block, GapRow, WireRow
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.judge.chapter import CHAPTER
from pivet.listening.stream import LiveWire
from pivet.person.choices import WireChoices
from pivet.person.wire_settings import read_wire_settings
from pivet.progress import Progress, silent
from pivet.sheets.load import all_sheets, find_sheet, parse_sheet, sheet_text, sheets_of
from pivet.sheets.model import Sheet
from pivet.signal.trace import Level
from pivet.signal.uncertainty import worst
from pivet.sources.source import NO_EDGES, Gap, Piece

AT_ONCE = 16 * CHAPTER
"""How many exchanges are read at once, where all are."""

MOST = 2_000_000
"""How many exchanges are looked at together; one of a humidity sensor takes 350 bytes."""

UNREADABLE = "this part of the file cannot be read"
LEAD_NS = 1_000
LEAD = 16
"""Exchanges that are read before a part."""

ALL = 1 << 62
REST_NS = 2_000_000_000


class RecordedWire:
    """A wire of a bench file.

    Args:
        bench: the open bench file.
        row: the wire, with its sheet and choices.

    Attributes:
        row: as it is judged; where the file cannot be written, otherwise than it stands there.
        kept_sheet: as it stood in the file.
    """

    def __init__(self, bench: BenchFile, row: WireRow) -> None:
        self.row, self._bench, self.kept_sheet = row, bench, row.sheet
        self.family = find_family(row.family)
        self.lines = tuple(decoded(row.lines, list[str]) or ())
        if len(self.lines) not in self.family.lines or len(set(self.lines)) < len(self.lines):
            raise damaged(bench.path, f"the wire {row.name[:40]!r} has no such lines")
        sheet = None if row.sheet is None else _sheet(bench, row.sheet)
        settings = read_wire_settings(row.setup)
        self.choices = replace(settings.choices, sheet=sheet)
        captures = [capture for capture in bench.captures() if capture.id == self.row.capture]
        if not captures:
            raise damaged(bench.path, f"no capture has the wire {row.name[:40]!r}")
        self.capture = captures[0]
        self.resolution_ns = settings.resolution_ns or self.capture.resolution_ns
        self._begun: tuple[WireChoices, object] | None = None

    def __len__(self) -> int:
        return self._bench.count(self.row.id)

    def _follow(self) -> None:
        """Goes by the sheet that stands in the file, where a recorder has recognised another."""
        rows = self._bench.wires(self.row.capture)
        kept = next((row.sheet for row in rows if row.id == self.row.id), self.kept_sheet)
        if kept != self.kept_sheet:
            sheet = None if kept is None else _sheet(self._bench, kept)
            self.kept_sheet, self.row = kept, replace(self.row, sheet=kept)
            self.choices = replace(self.choices, sheet=sheet)

    def around(self, number: int) -> Wire:
        """The chapter in which an exchange stands, and the one behind, as they were judged.

        Args:
            number: the number of the exchange.

        Raises:
            InputError: there is no such exchange, or its edges cannot be read.
        """
        self._follow()
        chapter = number // CHAPTER
        return self._part((chapter - 1) * CHAPTER, (chapter + 2) * CHAPTER, number)

    def newest(self) -> Wire:
        """The last two chapters, of which the second may not be whole, as they were judged.

        Raises:
            InputError: there is no exchange, or its edges cannot be read.
        """
        self._follow()
        number = len(self) - 1
        return self._part((number // CHAPTER - 2) * CHAPTER, number + 1, number)

    def _part(self, first: int, end: int, number: int, chapter: int = CHAPTER) -> Wire:
        """The last two chapters of some exchanges, among them one that must be there.

        What is said of an exchange rests on where chapters begin, and on what was before them: of
        that a chapter is read, too, and what the very first left behind is known.  A decoder that
        begins in the middle of noise finds its way in the exchanges ahead.
        """
        first = max(first, 0)
        rows = self._bench.exchanges(self.row.id, max(first - LEAD, 0), end)
        row = next((row for row in rows if row.number == number), None)
        if row is None:
            raise InputError(f"{self.row.name} has no exchange {number}", "choose another")
        start = next(other.start_ns for other in rows if other.number >= first)
        last_ns = rows[-1].start_ns + rows[-1].length_ns + LEAD_NS
        following = self._bench.exchanges(self.row.id, rows[-1].number + 1, rows[-1].number + 2)
        until = following[0].start_ns - LEAD_NS if following else last_ns + REST_NS
        live = LiveWire(
            self.family,
            self.lines,
            self.resolution_ns,
            self.choices,
            settled_ns=0,
            title=self.row.name,
            chapter=chapter,
            before=self._before() if first else None,
        )
        live.hear(self._pieces(rows[0].start_ns - LEAD_NS, until))
        live.end()
        live.pass_over(start)
        wire = live.wire()
        at = int(np.searchsorted(wire.exchanges.start_ns, row.start_ns))
        if at >= len(wire) or int(wire.exchanges.start_ns[at]) != row.start_ns:
            raise InputError(
                f"the edges of exchange {number} of {self.row.name} cannot be read",
                "the file may be damaged: rescue it",
            )
        return replace(wire, first=number - at)

    def _before(self) -> object:
        """What the first chapter left behind; None where it cannot be read any more."""
        if self._begun is None or self._begun[0] != self.choices:
            before = None
            with suppress(InputError):
                wire = self._part(0, 2 * CHAPTER, CHAPTER - 1, ALL)
                left = CHAPTER - wire.first  # fewer where edges are lost
                before = self.family.after(wire.exchanges, wire.judged, left, None)
            self._begun = self.choices, before
        return self._begun[1]

    def whole(self, progress: Progress = silent) -> Wire:
        """All exchanges, judged together; the edges are not kept.

        Args:
            progress: called with the share done, 0 to 1.

        Raises:
            InputError: there is none, there are too many, or some cannot be read.
            Cancelled: ``progress`` raised it.
        """
        self._follow()
        total = len(self)
        if not 0 < total <= MOST:
            raise InputError(
                f"{self.row.name} has {total:,} exchanges; 1 to {MOST:,} can be looked at together",
                "choose another recording",
            )
        batches, steps, part = [], [], None
        for first in range(0, total, AT_ONCE):
            progress(first / total)
            end = min(first + AT_ONCE, total)
            part = self._part(first - CHAPTER, end, end - 1, ALL)
            begin = max(first - part.first, 0)
            batches.append(self.family.rows(part.exchanges, begin, end - part.first))
            steps.append(worst(part.judged.resolution_ns))
        assert part is not None
        exchanges = self.family.join(batches)
        judged = self.family.judge(exchanges, len(part.lines), max(steps), part.choices)
        return replace(part, exchanges=exchanges, judged=judged, first=0)

    def _pieces(self, start_ns: int, until_ns: int) -> list[Piece]:
        """What is known of its lines in a time, in order."""
        pieces: list[Piece] = []
        for name in self.lines:
            gaps = [
                gap
                for gap in self._bench.gaps(self.capture.id, name)
                if gap.end_ns > start_ns and gap.start_ns < until_ns
            ]
            blocks = list(self._bench.blocks(self.capture.id, name, start_ns, until_ns))
            pieces += _line_pieces(name, blocks, gaps, start_ns, until_ns)
        return sorted(pieces, key=lambda piece: piece.known_until_ns)


def _sheet(bench: BenchFile, sheet_id: str) -> Sheet:
    """The sheet as it was when it was used, or the one that ships with Pivet.

    Raises:
        InputError: neither is there.
    """
    content = bench.sheet_content(sheet_id)
    if content and content != sheet_text(sheet_id):
        try:
            return _fitting(parse_sheet(content, f"the sheet {sheet_id} in {bench.path.name}"))
        except InputError:
            if sheet_id not in all_sheets():
                raise
    return find_sheet(sheet_id)


def _fitting(sheet: Sheet) -> Sheet:
    """A sheet that its family can judge by: with the windows and values of those that ship.

    Raises:
        InputError: it is no such sheet.
    """
    for known in sheets_of(sheet.family):
        alike = known.windows.keys() == sheet.windows.keys()
        alike &= [value.form for value in known.values] == [value.form for value in sheet.values]
        if alike and (known.echo is None) == (sheet.echo is None):
            return sheet
    raise InputError(f"the sheet {sheet.id[:40]!r} is none of its family", "use the one of Pivet")


def _line_pieces(
    name: str, blocks: list[Block], gaps: list[GapRow], start_ns: int, until_ns: int
) -> list[Piece]:
    """Blocks of a line as pieces; what was not known begins anew."""
    pieces: list[Piece] = []
    level = Level.HIGH
    for block in blocks:
        edges = block.edges_ns
        if pieces:
            gap = _gap_between(pieces[-1], level, block, gaps)
            level = block.level
        else:
            before = int(np.searchsorted(edges, start_ns, side="right"))
            edges, level = edges[before:], Level(block.level ^ (before & 1))
            begin = max(start_ns, block.start_ns)
            gap = Gap(begin, begin, level, 0)
        edges = edges[: int(np.searchsorted(edges, until_ns, side="right"))]
        level = Level(level ^ (edges.size & 1))
        pieces.append(Piece(name, edges, min(block.end_ns, until_ns), gap))
    if not pieces:
        pieces.append(Piece(name, NO_EDGES, until_ns, Gap(start_ns, start_ns, Level.HIGH, 0)))
    return pieces


def _gap_between(before: Piece, level: Level, block: Block, gaps: list[GapRow]) -> Gap | None:
    """What is missing between a piece, at whose end the line had a level, and a block.

    Where nothing was written about it, a block between them is damaged.
    """
    known = before.known_until_ns
    if block.start_ns <= known and block.level is level:
        return None
    row = next((gap for gap in gaps if known <= gap.end_ns <= block.start_ns + 1), None)
    lost, why = (None, UNREADABLE) if row is None else (row.lost, row.why)
    return Gap(known, max(block.start_ns, known), block.level, lost, why)


def recorded_wires(bench: BenchFile) -> list[RecordedWire]:
    """All wires of a bench file.

    Args:
        bench: the bench file.
    """
    return [RecordedWire(bench, wire) for wire in bench.wires()]
