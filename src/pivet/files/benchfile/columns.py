"""Exchanges and readings of a bench file as columns, for a whole night of them."""

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from pivet.files.benchfile.checked import (
    Bits,
    Ident,
    Margin,
    Name,
    Ns,
    Number,
    Small,
    Verdict,
)
from pivet.files.benchfile.reading import BenchReader
from pivet.frozen import FrozenObject, FrozenValue

THOUSANDTHS = 1000
"""In which a margin is kept."""

AT_ONCE = 50_000
"""How many rows are fetched at a time: between them reading can be cancelled."""


class TrackRow(FrozenValue):
    """A quantity of a sensor; see docs/bench-file.md."""

    id: int
    quantity: str
    device: str


class ExchangeColumns(FrozenObject):
    """Exchanges of a wire, a row each.

    Attributes:
        number, start_ns: int64 (n,).
        verdict, notices, attempt: int64 (n,).
        margin: least margin as a share of the way, float64 (n,); NaN where it is not known.
    """

    number: npt.NDArray[np.int64]
    start_ns: npt.NDArray[np.int64]
    verdict: npt.NDArray[np.int64]
    notices: npt.NDArray[np.int64]
    attempt: npt.NDArray[np.int64]
    margin: npt.NDArray[np.float64]


class ReadingColumns(FrozenObject):
    """Readings of a track.

    Attributes:
        number: of their exchanges, int64 (n,).
        values: float64 (n,); NaN for one that failed.
    """

    number: npt.NDArray[np.int64]
    values: npt.NDArray[np.float64]


def tracks_of(bench: BenchReader, wire: int) -> list[TrackRow]:
    """The tracks of a wire.

    Args:
        bench: the open file.
        wire: its number there.
    """
    sql = "SELECT id, quantity, device FROM track WHERE wire = ? ORDER BY id"
    rows = bench.rows(sql, (wire,), tuple[Ident, Name, Name])
    return [TrackRow(*row) for row in rows]


def exchange_columns(bench: BenchReader, wire: int, first: int) -> Iterator[ExchangeColumns]:
    """Exchanges of a wire from a number on, in portions.

    Args:
        bench: the bench file.
        wire: its number in the file.
        first: number of the first exchange.

    Raises:
        InputError: they cannot be read.
    """
    margin = "margin" if bench.has("exchange", "margin") else "NULL"
    while True:
        rows = bench.rows(
            f"SELECT number, start_ns, verdict, notices, attempt, {margin} FROM exchange "
            "WHERE wire = ? AND number >= ? ORDER BY number LIMIT ?",
            (wire, first, AT_ONCE),
            tuple[Number, Ns, Verdict, Bits, Small, Margin | None],
        )
        if rows:
            *whole, last = zip(*rows, strict=True)
            numbers, starts, verdicts, notices, attempts = (
                np.fromiter(column, dtype=np.int64, count=len(rows)) for column in whole
            )
            margins = np.array(last, dtype=np.float64) / THOUSANDTHS
            yield ExchangeColumns(numbers, starts, verdicts, notices, attempts, margins)
            first = int(numbers[-1]) + 1
        if len(rows) < AT_ONCE:
            return


def reading_columns(bench: BenchReader, track: int, first: int) -> Iterator[ReadingColumns]:
    """Readings of a track from an exchange on, in portions.

    Args:
        bench: the bench file.
        track: its number in the file.
        first: number of the first exchange.

    Raises:
        InputError: they cannot be read.
    """
    while True:
        rows = bench.rows(
            "SELECT number, value FROM reading WHERE track = ? AND number >= ? "
            "ORDER BY number LIMIT ?",
            (track, first, AT_ONCE),
            tuple[Number, float | None],
        )
        if rows:
            numbers, values = zip(*rows, strict=True)
            found = np.fromiter(numbers, dtype=np.int64, count=len(rows))
            read = np.array(values, dtype=np.float64)
            read[~np.isfinite(read)] = np.nan
            yield ReadingColumns(found, read)
            first = int(found[-1]) + 1
        if len(rows) < AT_ONCE:
            return


def clock_columns(
    bench: BenchReader, capture: int
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Moments of a capture and what the calendar said then, int64 (k,) each, ns.

    Args:
        bench: the open file.
        capture: its number there.
    """
    sql = "SELECT t_ns, wall_ns FROM clock WHERE capture = ? ORDER BY t_ns"
    rows = bench.rows(sql, (capture,), tuple[Ns, Ns])
    times = np.array([row[0] for row in rows], dtype=np.int64)
    return times, np.array([row[1] for row in rows], dtype=np.int64)
