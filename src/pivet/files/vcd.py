"""VCD captures (IEEE 1364, clause 18) -> traces."""

import numpy as np
import numpy.typing as npt

from pivet.errors import InputError
from pivet.files.vcd_body import HIGH, LOW, Body, BodyReader
from pivet.files.vcd_header import UNITS_FS, Header, Signal, read_header
from pivet.judge.wording import count
from pivet.progress import Progress, silent
from pivet.signal.level_changes import turns
from pivet.signal.trace import Int64Array, Line, Trace

NS_FS = UNITS_FS["ns"]
LATEST_NS = 2**62
MOST_QUIET = 10_000
"""Of a capture with more signals those are left out that never change."""


def parse_vcd(content: bytes, where: str, progress: Progress = silent) -> Trace:
    """Reads the one-bit signals of a VCD file (value change dump, IEEE 1364).

    Time stamps finer than 1 ns are rounded to it.  x and z are taken as high, as the
    pull-up of an open-drain line makes them; the line's notes say so.

    Args:
        content: the content of the file.
        where: its name, for messages.
        progress: called with the share done, 0 to 1.

    Raises:
        InputError: it is no VCD file; the message says where.
        Cancelled: ``progress`` raised it.
    """
    header = read_header(content, where)
    body = BodyReader(content, header, where).read(progress)
    first = body.first_stamp or 0
    last = body.last_stamp if body.last_stamp is not None else first
    clock = _Clock(header.step_fs, header.zero_ns, where)
    lines = _lines(header, body, clock, first, last)
    if not any(line.edges_ns.size for line in lines):
        raise InputError(f"no signal in {where} ever changes", "check which signals were recorded")
    notes = [*header.notes, *body.notes]
    if len(lines) < len(header.signals):
        left_out = len(header.signals) - len(lines)
        notes.append(f"{left_out} signals that never change were left out")
    for off, on in body.off:
        until = "its end" if on is None else f"{clock.ns(on) / 1e9:g} s"
        notes.append(
            f"recording was off from {clock.ns(max(off, first)) / 1e9:g} s to {until}: "
            "lines taken as high"
        )
    return Trace(
        lines=tuple(lines),
        start_ns=clock.ns(first),
        end_ns=clock.ns(last),
        resolution_ns=max(header.step_fs // NS_FS, 1, header.resolution_ns),
        notes=tuple(notes),
    )


class _Clock:
    """Time stamps -> ns."""

    def __init__(self, step_fs: int, zero_ns: int, where: str) -> None:
        self._step_fs = step_fs
        self._zero_ns = zero_ns
        self._where = where

    def ns(self, stamp: int) -> int:
        """One time stamp in ns.

        Raises:
            InputError: it lies beyond what int64 ns hold.
        """
        time_ns = (stamp * self._step_fs + NS_FS // 2) // NS_FS
        if time_ns > LATEST_NS:
            raise InputError(
                f"{self._where} reaches beyond 146 years with its time scale", "check $timescale"
            )
        return time_ns + self._zero_ns

    def all_ns(self, stamps: Int64Array) -> Int64Array:
        """Time stamps in ns, int64 (n,); the last one was checked by ``ns``."""
        if self._step_fs >= NS_FS:
            return stamps * (self._step_fs // NS_FS) + self._zero_ns
        per_ns = NS_FS // self._step_fs
        return (stamps + per_ns // 2) // per_ns + self._zero_ns


def _lines(header: Header, body: Body, clock: _Clock, first: int, last: int) -> list[Line]:
    clock.ns(last)
    signal = np.concatenate([part.signal for part in body.changes] or [np.empty(0, np.int32)])
    stamp = np.concatenate([part.stamp for part in body.changes] or [np.empty(0, np.int64)])
    value = np.concatenate([part.value for part in body.changes] or [np.empty(0, np.uint8)])
    # Numbers of 16 bits and less are sorted digit by digit, and much faster.
    shortest = signal.astype(np.min_scalar_type(len(header.signals)))
    order = np.argsort(shortest, kind="stable")
    bounds = np.searchsorted(signal[order], np.arange(len(header.signals) + 1))
    numbers: Int64Array = np.arange(len(header.signals), dtype=np.int64)
    if numbers.size > MOST_QUIET:
        numbers = _moving(signal[order], stamp[order] > first, value[order])
    lines = []
    for number in numbers.tolist():
        entry = header.signals[number]
        rows = order[bounds[number] : bounds[number + 1]]
        stamps = np.maximum(stamp[rows], first)
        lines.append(_line(entry, clock.all_ns(stamps), value[rows], clock.ns(first)))
    return lines


def _moving(
    signal: npt.NDArray[np.int32], later: npt.NDArray[np.bool_], value: npt.NDArray[np.uint8]
) -> Int64Array:
    """Numbers of the signals that ever change.

    Args:
        signal: the signal of each change, signal by signal, (n,).
        later: whether it comes after the first time stamp, (n,).
        value: after it, (n,).
    """
    begins = np.append(True, signal[1:] != signal[:-1])[: signal.size]
    changes = np.append(True, value[1:] != value[:-1])[: signal.size]
    # Before its first value a signal counts as high.
    moves = np.where(begins, later & (value == LOW), changes)
    return np.unique(signal[moves]).astype(np.int64)


def _line(entry: Signal, times_ns: Int64Array, values: np.ndarray, start_ns: int) -> Line:
    times_ns = np.concatenate(([start_ns], times_ns))
    undefined = values > HIGH
    levels = np.concatenate(([HIGH], np.where(undefined, HIGH, values))).astype(np.uint8)
    found = turns(times_ns, levels)
    notes = []
    if undefined.any():
        at = times_ns[1:][undefined][0] / 1e9
        often = int(np.count_nonzero(undefined))
        times = "once" if often == 1 else f"{often} times"
        notes.append(f"x or z taken as high ({times}, first at {at:g} s)")
    if found.instant > 0 and LOW in values:
        left_out = count(found.instant, "change")
        notes.append(f"{left_out} there and back within one time stamp left out")
    return Line(entry.names[0], found.initial, found.edges_ns, entry.names[1:], tuple(notes))
