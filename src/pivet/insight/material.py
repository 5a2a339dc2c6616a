"""What is looked at: the exchanges of a wire of a file, all together.

A capture has them at hand; of a bench file they are read a stretch at a time, decoded as when they
were heard, and joined.
"""

from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np

from pivet.captures.capture import open_capture
from pivet.captures.text import short_names
from pivet.captures.wire import Wire
from pivet.errors import InputError
from pivet.files.benchfile.beside import is_bench
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import FrozenObject
from pivet.insight.pulses import BoolArray
from pivet.keeping.recorded import recorded_wires
from pivet.progress import Progress, each_whole, silent
from pivet.sheets.model import Sheet
from pivet.signal.naming import wires_meant


class Studied(FrozenObject):
    """The exchanges of one wire.

    Attributes:
        file: as the person named it.
        name: the name of the wire, for people.
        wire: all its exchanges, judged.
        began_ns: zero of its times by the calendar, ns since 1970; None where nobody knows.
        notes: the notes of the person: number of the exchange (None for the whole wire), and text.
    """

    file: str
    name: str
    wire: Wire
    began_ns: int | None = None
    notes: tuple[tuple[int | None, str], ...] = ()

    def between(self, from_ns: int | None, to_ns: int | None) -> BoolArray:
        """Which exchanges begin in a time, bool (n,).

        Args:
            from_ns: in the capture, ns; None for its beginning.
            to_ns: likewise, not with it; None for its end.
        """
        starts = self.wire.exchanges.start_ns
        chosen = np.ones(len(self.wire), dtype=bool)
        if from_ns is not None:
            chosen &= starts >= from_ns
        if to_ns is not None:
            chosen &= starts < to_ns
        return chosen


def study(
    path: Path,
    sheet: Sheet | None = None,
    wires: Sequence[str] = (),
    progress: Progress = silent,
    where: str = "",
) -> list[Studied]:
    """The wires of a file.

    Args:
        path: a capture or a bench file.
        sheet: the sheet of the person, for a capture; None recognises it.
        wires: as ``--wire``; empty for all.
        progress: called with the share done, 0 to 1.
        where: the file as the person named it, for messages.

    Raises:
        InputError: it cannot be used, or has no such wire.
        Cancelled: ``progress`` raised it.
    """
    where = where or path.name
    if is_bench(path):
        if sheet is not None:
            raise InputError(
                f"{where} is a bench file, and knows its sensors", "leave the sheet out"
            )
        return list(_of_bench(path, wires, progress, where))
    sensor = None if sheet is None else sheet.id
    capture = open_capture(path, sensor, wires or None, progress, where=where)
    names = short_names([wire.label for wire in capture.wires])
    return [
        Studied(where, name, wire)
        for name, wire in zip(names, capture.wires, strict=True)
        if len(wire)
    ]


def _of_bench(
    path: Path, wires: Sequence[str], progress: Progress, where: str
) -> Iterator[Studied]:
    bench = BenchFile.open(path)
    try:
        recorded = [wire for wire in recorded_wires(bench) if len(wire)]
        known = [wire.row.name for wire in recorded]
        meant = wires_meant(wires, known, where)
        rows = [wire for wire in recorded if not wires or wire.row.name in meant]
        for wire, share in each_whole(rows, progress):
            own = tuple(
                (number, text)
                for _, text, wire_id, number in bench.notes()
                if wire_id in (wire.row.id, None)
            )
            began = wire.capture.began_ns
            yield Studied(where, wire.row.name, wire.whole(share), began, own)
    finally:
        bench.close()
