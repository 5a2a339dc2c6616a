"""A capture of a bench file, open: of each wire a part is shown."""

import time
from collections.abc import Callable

import numpy as np

from pivet.captures.capture import Capture
from pivet.captures.wire import Wire
from pivet.errors import InputError
from pivet.files.benchfile.rows import CaptureRow
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.keeping.recorded import RecordedWire
from pivet.person.choices import WireChoices
from pivet.person.wire_settings import read_wire_settings, wire_settings_text
from pivet.progress import Progress, each, each_whole, silent
from pivet.signal.trace import Level, Line, Trace

MOST_EDGES = 30_000_000
"""A capture of more edges is not read whole."""


class KeptCapture:
    """A capture of a bench file.

    Args:
        bench: the open bench file.
        row: the capture.

    Attributes:
        id: the id of the capture in the file.
        tell_choices: called with a wire's name when it is judged by other choices, if a live
            wire must hear of it.
    """

    def __init__(self, bench: BenchFile, row: CaptureRow) -> None:
        self._bench, self._row, self.id = bench, row, row.id
        self._wires: dict[str, RecordedWire] = {}
        self.tell_choices: Callable[[str, WireChoices], None] | None = None

    @property
    def began_ns(self) -> int:
        """Its zero by the calendar, ns since 1970."""
        return self._row.began_ns

    def _wire(self, name: str) -> RecordedWire:
        if name not in self._wires:
            for wire in self._bench.wires(self.id):
                self._wires.setdefault(wire.name, RecordedWire(self._bench, wire))
        if name not in self._wires:
            raise InputError(f"nothing of {name} stands in the file yet", "wait a moment")
        return self._wires[name]

    def count(self, wire: Wire) -> int:
        """Number of exchanges of a wire; of a live one those that are written.

        Args:
            wire: the wire to look at.
        """
        try:
            return len(self._wire(wire.title))
        except InputError:
            return 0  # nothing of it is written yet

    def around(self, wire: Wire, number: int) -> Wire:
        """The part of a wire in which an exchange stands.

        Args:
            wire: a wire of the capture.
            number: the number of the exchange in the whole wire, from 0.

        Raises:
            InputError: there is no such exchange, or it cannot be read.
        """
        return self._wire(wire.title).around(number)

    def everything(self, wire: Wire, progress: Progress = silent) -> Wire:
        """All exchanges of a wire, as far as they are written.

        Args:
            wire: a wire of the capture.
            progress: called with the share done, 0 to 1.

        Raises:
            InputError: there are too many, or some cannot be read.
            Cancelled: ``progress`` raised it.
        """
        return self._wire(wire.title).whole(progress)

    def number_at(self, wire: Wire, t_ns: int) -> int:
        """The last exchange of a wire that begins before a time.

        Args:
            wire: a wire of the capture.
            t_ns: time in the capture.
        """
        return self._bench.number_at(self._wire(wire.title).row.id, t_ns)

    def next_not_sound(self, wire: Wire, number: int, step: int) -> int | None:
        """The next exchange after (``step`` 1) or before (-1) a number that is not sound.

        Args:
            wire: or a part of it.
            number: of the exchange from which it is looked.
            step: 1 forward, -1 back.
        """
        return self._bench.next_not_sound(self._wire(wire.title).row.id, number, step)

    def choose(self, wire: Wire, choices: WireChoices) -> None:
        """A wire is judged by other choices from now on; what was judged stays as it stands.

        Args:
            wire: a wire of the capture.
            choices: sheet, resolution and what else was said.

        Raises:
            OutputError: that cannot be written; the wire is judged so all the same.
        """
        if self.tell_choices is not None:
            self.tell_choices(wire.title, choices)
        recorded = self._wire(wire.title)
        wishes = replace(read_wire_settings(recorded.row.setup), choices=choices)
        sheet = None if choices.sheet is None else choices.sheet.id
        row = replace(recorded.row, sheet=sheet, setup=wire_settings_text(wishes))
        recorded.row, recorded.choices = row, choices
        if not self._bench.read_only:
            with self._bench.writing():
                self._bench.change_wire(row)
            recorded.kept_sheet = row.sheet

    def note(self, wire: Wire, number: int) -> str:
        """The person's note on an exchange; empty when there is none.

        Args:
            wire: a wire of the capture.
            number: the number of the exchange in the whole wire, from 0.
        """
        return self._bench.note_on(self._wire(wire.title).row.id, number)

    def put_note(self, wire: Wire, number: int, text: str) -> None:
        """Gives an exchange a note; an empty one takes it away.

        Args:
            wire: the wire of the file.
            number: the number of the exchange.
            text: empty takes it away.

        Raises:
            OutputError: it cannot be written.
        """
        row = self._wire(wire.title).row
        with self._bench.writing():
            self._bench.put_note(time.time_ns(), text, row.id, number)

    def trace(self, progress: Progress) -> Trace:
        """All lines, as one trace; what is not known stands in its notes.

        Args:
            progress: called with the share done, 0 to 1.

        Raises:
            InputError: they are too many, or cannot be read.
        """
        names = self._bench.lines(self.id)
        total = sum(names.values())
        if total > MOST_EDGES:
            raise InputError(
                f"{self._row.name} has {total:,} edges, too many for one capture file",
                f"take parts of up to {MOST_EDGES:,}, or read the bench file itself",
            )
        lines, notes, ends, done = [], [], [0], 0
        for name in names:
            parts, initial, level = [], None, None
            for block in self._bench.blocks(self.id, name, 0, 1 << 62):
                if level is not None and block.level is not level:
                    parts.append(np.array([block.start_ns], dtype=np.int64))
                initial = block.level if initial is None else initial
                parts.append(block.edges_ns)
                level = Level(block.level ^ (block.edges_ns.size & 1))
                ends.append(block.end_ns)
                done += block.edges_ns.size
                progress(done / max(total, 1))
            if initial is not None:
                lines.append(Line(name, initial, np.concatenate(parts)))
            notes += [
                f"{name} is not known from {gap.start_ns} to {gap.end_ns} ns: {gap.why}"
                for gap in self._bench.gaps(self.id, name)
            ]
        step = self._row.resolution_ns
        return Trace(tuple(lines), 0, max(ends), step, tuple(notes))

    def capture(self, wires: tuple[Wire, ...] = ()) -> Capture:
        """As the window shows it.

        Args:
            wires: with their latest exchanges.
        """
        return Capture(self._bench.path, None, wires, kept=self, title=self._row.name)

    def last_parts(self, progress: Progress = silent) -> tuple[tuple[Wire, ...], tuple[str, ...]]:
        """The newest part of each wire, and why some cannot be shown.

        Args:
            progress: called with the share done, 0 to 1.
        """
        wires, notes = [], []
        rows = self._bench.wires(self.id)
        for row in each(rows, progress):
            try:
                recorded = self._wires.setdefault(row.name, RecordedWire(self._bench, row))
                if len(recorded):
                    wires.append(recorded.newest())
            except InputError as error:
                notes.append(str(error))
        return tuple(wires), tuple(notes)


def kept_captures(bench: BenchFile, progress: Progress = silent) -> list[Capture]:
    """The captures of a bench file that hold something, each at its end.

    Args:
        bench: an open file.
        progress: called now and then.

    Raises:
        InputError: the file cannot be read.
    """
    found = []
    rows = bench.captures()
    for row, own in each_whole(rows, progress):
        kept = KeptCapture(bench, row)
        wires, notes = kept.last_parts(own)
        if wires or notes:
            found.append(replace(kept.capture(wires), notes=notes))
    return found
