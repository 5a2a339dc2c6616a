"""The history of a bench file's captures; what is new is added to what was read before."""

import numpy as np
import numpy.typing as npt

from pivet.families import find_family
from pivet.files.benchfile.checked import damaged
from pivet.files.benchfile.columns import (
    TrackRow,
    clock_columns,
    exchange_columns,
    reading_columns,
    tracks_of,
)
from pivet.files.benchfile.notice_bits import moved, moves_of
from pivet.files.benchfile.reading import BenchReader
from pivet.files.benchfile.rows import CaptureRow, WireRow
from pivet.frozen import replace
from pivet.history.growing import Growing
from pivet.history.wire import TrackHistory, WireHistory, decimals_of
from pivet.judge.chapter import CHAPTER
from pivet.judge.notices import bits_of
from pivet.person.wire_settings import read_wire_settings
from pivet.progress import Progress, part, silent
from pivet.readings.units import QUANTITIES
from pivet.sheets.families import known_as

AGAIN = 2 * CHAPTER
"""How many exchanges at the end are read again: what follows may have changed them."""


class _KeptTrack:
    """A track of a wire; ``numbers`` are those of its exchanges."""

    def __init__(self, row: TrackRow) -> None:
        self.row = row
        self._numbers, self._values = Growing(np.int64), Growing(np.float64)

    def read(self, bench: BenchReader, again_from: int) -> None:
        numbers = self._numbers.taken()
        keep = int(np.searchsorted(numbers, again_from))
        for column in (self._numbers, self._values):
            column.cut(keep)
        for rows in reading_columns(bench, self.row.id, again_from):
            self._numbers.extend(rows.number)
            self._values.extend(rows.values)

    def history(self, numbers: npt.NDArray[np.int64]) -> TrackHistory:
        own = self._numbers.taken()
        at = np.searchsorted(numbers, own)
        # A reading may be written a moment before this looked at the exchanges.
        there = at < numbers.size
        there[there] = numbers[at[there]] == own[there]
        values = np.asarray(self._values.taken(), dtype=np.float64)
        return TrackHistory(
            self.row.quantity,
            self.row.device,
            decimals_of(self.row.quantity, self.row.device),
            at[there],
            values[there],
        )


class _KeptWire:
    """A wire of a bench file."""

    def __init__(self, row: WireRow) -> None:
        self.row, self._family = row, find_family(row.family)
        self._columns = {
            "number": Growing(np.int64),
            "start_ns": Growing(np.int64),
            "verdict": Growing(np.uint8),
            "notices": Growing(np.int64),
            "attempt": Growing(np.int16),
            "margin": Growing(np.float32),
        }
        self._tracks: dict[int, _KeptTrack] = {}

    def read(self, bench: BenchReader, progress: Progress) -> None:
        numbers = self._columns["number"].taken()
        keep = max(numbers.size - AGAIN, 0)
        again_from = int(numbers[keep]) if numbers.size else 0
        for column in self._columns.values():
            column.cut(keep)
        total = max(bench.count(self.row.id), 1)
        moves = moves_of(bench, known_as(self._family.key), bits_of(self._family.notices))
        for rows in exchange_columns(bench, self.row.id, again_from):
            columns = replace(rows, notices=moved(rows.notices, moves))
            for name, column in self._columns.items():
                column.extend(getattr(columns, name))
            progress(min(len(self._columns["number"]) / total, 1.0) / 2)
        tracks = tracks_of(bench, self.row.id)
        for done, track in enumerate(tracks):
            self._tracks.setdefault(track.id, _KeptTrack(track)).read(bench, again_from)
            progress(0.5 + (done + 1) / len(tracks) / 2)

    def history(
        self, part_number: int, began_ns: int, times: npt.NDArray[np.int64], off: np.ndarray
    ) -> WireHistory:
        taken = {name: column.taken() for name, column in self._columns.items()}
        starts = np.asarray(taken["start_ns"], dtype=np.int64)
        if times.size:
            calendar = starts + np.interp(starts, times, off).astype(np.int64) + began_ns
        else:
            calendar = starts + began_ns
        numbers = np.asarray(taken["number"], dtype=np.int64)
        return WireHistory(
            name=self.row.name,
            family=self._family,
            sheet=self.row.sheet or self._family.sheets[0].id,
            part=part_number,
            number=numbers,
            times_ns=calendar,
            verdict=np.asarray(taken["verdict"], dtype=np.uint8),
            notices=np.asarray(taken["notices"], dtype=np.int64),
            attempt=np.asarray(taken["attempt"], dtype=np.int16),
            margin=np.asarray(taken["margin"], dtype=np.float32),
            tracks=tuple(
                track.history(numbers)
                for track in self._tracks.values()
                if track.row.quantity in QUANTITIES
            ),
            vessel=read_wire_settings(self.row.setup).choices.vessel,
        )


class KeptHistory:
    """The history of all captures of a bench file.

    Args:
        bench: the open bench file.
    """

    def __init__(self, bench: BenchReader) -> None:
        self._bench = bench
        self._wires: dict[int, _KeptWire] = {}
        self._captures: list[CaptureRow] = []

    @property
    def captures(self) -> list[CaptureRow]:
        """The captures as they were when ``read`` was last called."""
        return self._captures

    def read(self, progress: Progress = silent) -> list[WireHistory]:
        """Reads what is new, and gives the history of each wire of each capture.

        Args:
            progress: called with the share done, 0 to 1.

        Raises:
            InputError: the file cannot be read.
            Cancelled: ``progress`` raised it.
        """
        self._captures = self._bench.captures()
        rows = self._bench.wires()
        found = []
        for number, wire_row in enumerate(rows):
            share = part(progress, number / len(rows), (number + 1) / len(rows))
            wire = self._wires.setdefault(wire_row.id, _KeptWire(wire_row))
            wire.row = wire_row
            wire.read(self._bench, share)
            place = next(
                (at for at, c in enumerate(self._captures) if c.id == wire_row.capture), None
            )
            if place is None:
                raise damaged(self._bench.path, f"no capture has the wire {wire_row.name[:40]!r}")
            capture = self._captures[place]
            times, walls = clock_columns(self._bench, capture.id)
            off = (walls - times - capture.began_ns).astype(np.float64)
            found.append(wire.history(place, capture.began_ns, times, off))
        return found
