"""Judging 1-Wire transactions against the sheet, as columns."""

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import ABSENT
from pivet.decode.onewire import DecodeMark, OneWireExchanges
from pivet.frozen import FrozenObject
from pivet.judge.belief import LIMIT
from pivet.judge.margins import HOST_SLACK, judge_widths
from pivet.judge.notices import Flags, as_seen, note, noted, spiked, verdicts_of
from pivet.judge.onewire.belief import doubts
from pivet.judge.onewire.bus import EVERY
from pivet.judge.onewire.classes import (
    FAST,
    KEYS,
    ONE,
    PLAIN,
    SlotClasses,
    sort_pulses,
)
from pivet.judge.onewire.course import Before, Course, follow, follow_on
from pivet.judge.onewire.line import line_notices
from pivet.judge.onewire.notices import WEIGHTS, Notice
from pivet.judge.onewire.scratchpads import BITS, Scratchpads, read_pads, rom_holds
from pivet.judge.verdict import Verdict
from pivet.readings.track import Track
from pivet.sheets.model import Sheet
from pivet.sheets.onewire import POLLED, ROM_BITS, Function, code_text
from pivet.signal.uncertainty import Uncertainty

BLIND_NS, COARSE_NS = 10_000, 5_000
"""In such steps lows of 1 to 15 µs fall through: bits cannot be told, and neither what they say.
From the finer one on where lows last a single step, and the bits are spoiled."""

UNSEEN = (
    Notice.NO_PRESENCE
    | Notice.ALL_ONES
    | Notice.ALL_ZEROS
    | Notice.CRC_WRONG
    | Notice.DEVICE_LEFT
    | Notice.DEVICE_JOINED
    | Notice.ORDER_SHIFTED
    | Notice.SEARCH_STOPPED
    | Notice.SEARCH_CUT
    | Notice.UNKNOWN_COMMAND
    | Notice.PULSE_OUTSIDE
    | Notice.PULSE_NEAR
    | Notice.ENDED_EARLY
    | Notice.TOO_MANY_SLOTS
    | Notice.SLOW_RISE
    | Notice.BROKEN_OFF
    | Notice.SCATTER
    | Notice.REFLECTIONS
    | Notice.SPLIT_SLOTS
    | Notice.RESET_TOO_SHORT
)
"""What only seems so in a capture of such steps."""

MISSED = UNSEEN & ~(
    Notice.NO_PRESENCE | Notice.RESET_TOO_SHORT | Notice.ALL_ONES | Notice.DEVICE_LEFT
)
"""What only seems so where slots are missing; long lows are seen."""

HELD_NS = 5_000_000
"""A "reset" of this length is a line held low."""

REFUSING = (
    Notice.ALL_ZEROS
    | Notice.ALL_ONES
    | Notice.CRC_WRONG
    | Notice.POWER_ON_VALUE
    | Notice.READ_TOO_EARLY
    | Notice.IMPOSSIBLE_VALUE
    | Notice.TOO_DOUBTFUL
)


class JudgedTransactions(FrozenObject):
    """What is said of n transactions.

    Attributes:
        sheet: the one they were judged against.
        resolution_ns: uncertainty of every width, ns.
        verdict: ``Verdict`` values, uint8 (n,).
        notices: ``Notice`` bits, int64 (n,).
        rom_holds: the CRC of the code holds, bool (n,).
        pads: scratchpads that were read.
        doubt: of those, the probability that bits are wrong although the CRC holds, float64 (m,).
        given: of those, the values that may be given out, bool (m,).
        course: what carries over from transaction to transaction.
        classes: shortest and longest pulse of each window.
        window_verdict: ``Verdict`` of each window, uint8 (18, n), rows as ``KEYS``.
        tracks: temperatures, one track a device.
    """

    sheet: Sheet
    resolution_ns: Uncertainty
    verdict: npt.NDArray[np.uint8]
    notices: Flags
    rom_holds: npt.NDArray[np.bool_]
    pads: Scratchpads
    doubt: npt.NDArray[np.float64]
    given: npt.NDArray[np.bool_]
    course: Course
    classes: SlotClasses
    window_verdict: npt.NDArray[np.uint8]
    tracks: tuple[Track, ...]

    def __len__(self) -> int:
        return int(self.verdict.size)

    def pad_of(self, index: int) -> int | None:
        """Number of the scratchpad that a transaction read whole.

        Args:
            index: number of the exchange, from 0.
        """
        pads = self.pads.at
        at = int(pads.searchsorted(index))
        return at if at < pads.size and pads[at] == index else None


def judge(
    exchanges: OneWireExchanges,
    sheet: Sheet,
    resolution_ns: Uncertainty,
    before: Before | None = None,
) -> JudgedTransactions:
    """Judges transactions of one wire.

    Args:
        exchanges: the exchanges, in order of time.
        sheet: the sheet of the line.
        resolution_ns: uncertainty of every width, ns.
        before: what the transactions before left behind; None at the first of a capture.
    """
    classes = sort_pulses(exchanges)
    windows = _window_verdicts(classes, sheet, resolution_ns)
    pads = read_pads(exchanges)
    course = follow(exchanges, pads, before)
    notices = course.notices | _course_notices(exchanges)
    notices |= _pad_notices(notices, pads)
    notices |= _window_notices(exchanges, classes, windows, sheet, notices)
    notices |= line_notices(exchanges, classes, pads)
    notices = as_seen(notices, _blind(classes, resolution_ns, notices), MISSED, Notice.TOO_COARSE)
    blind = np.broadcast_to(np.asarray(resolution_ns) >= BLIND_NS, notices.shape)
    notices = as_seen(notices, blind, UNSEEN, Notice.TOO_COARSE)
    doubt = doubts(exchanges, classes, pads, resolution_ns)
    notices[pads.at] |= noted((doubt >= LIMIT, Notice.TOO_DOUBTFUL))
    given = pads.holds & ~pads.zeros & ((notices[pads.at] & np.int64(REFUSING)) == 0)
    return JudgedTransactions(
        sheet=sheet,
        resolution_ns=resolution_ns,
        verdict=verdicts_of(notices, WEIGHTS),
        notices=notices,
        rom_holds=rom_holds(exchanges),
        pads=pads,
        doubt=doubt,
        given=given,
        course=course,
        classes=classes,
        window_verdict=windows,
        tracks=_tracks(pads, given, course),
    )


def _blind(
    classes: SlotClasses, resolution_ns: Uncertainty, notices: Flags
) -> npt.NDArray[np.bool_]:
    """Transactions of whose short lows some fell between two looks, bool (n,)."""
    step = np.asarray(resolution_ns)
    short = (step >= COARSE_NS) & (classes.least_ns[ONE] <= step)
    return np.asarray(short & ((notices & np.int64(MISSED)) != 0))


def _window_verdicts(
    classes: SlotClasses, sheet: Sheet, resolution_ns: Uncertainty
) -> npt.NDArray[np.uint8]:
    any_fast = bool((classes.count[len(PLAIN) :] > 0).any())
    rows = []
    for row, key in enumerate(KEYS):
        least, most = classes.least_ns[row], classes.most_ns[row]
        if key in FAST and not any_fast:
            rows.append(np.zeros(least.size, dtype=np.uint8))
        else:
            rows.append(judge_widths(least, most, sheet.windows[key], resolution_ns))
    return np.stack(rows)


def _course_notices(exchanges: OneWireExchanges) -> Flags:
    """Notices on how the transactions lie on the line."""
    clipped = (exchanges.marks & DecodeMark.RESET_CLIPPED) != 0
    ended = exchanges.ended & ~_complete(exchanges)
    cut = (exchanges.marks & DecodeMark.CUT) != 0
    held = exchanges.reset_ns >= HELD_NS
    alone = (exchanges.presence_ns == ABSENT) & ~ended & ~held & ~clipped
    return noted(
        (held & ~clipped, Notice.LINE_HELD_LOW),
        (alone, Notice.NO_PRESENCE),
        (clipped, Notice.CAPTURE_BEGAN),
        (ended, Notice.CAPTURE_ENDED),
        (cut, Notice.TOO_MANY_SLOTS),
        (spiked(exchanges), Notice.SPIKE_REMOVED),
    )


def _complete(exchanges: OneWireExchanges) -> npt.NDArray[np.bool_]:
    """Whether all that a transaction can be expected to hold is there."""
    behind = exchanges.slot_count - exchanges.function_at - 8
    reading = exchanges.function == Function.READ_SCRATCHPAD
    known = np.isin(exchanges.function, POLLED)
    whole = np.where(reading, behind >= BITS, known | (exchanges.slot_count % 8 == 0))
    found: npt.NDArray[np.bool_] = np.where(
        exchanges.steps >= 0, exchanges.steps == ROM_BITS, whole & (exchanges.command >= 0)
    )
    return found


def _pad_notices(so_far: Flags, pads: Scratchpads) -> Flags:
    """Notices on the scratchpads that were read."""
    notices = np.zeros(so_far.size, dtype=np.int64)
    usable = pads.holds & ~pads.zeros
    notices[pads.at] = noted(
        (pads.zeros, Notice.ALL_ZEROS),
        (pads.ones, Notice.ALL_ONES),
        (~pads.holds & ~pads.ones, Notice.CRC_WRONG),
        (usable & ~pads.temperatures.possible, Notice.IMPOSSIBLE_VALUE),
    )
    ended = (so_far[pads.short_at] & np.int64(Notice.CAPTURE_ENDED)) != 0
    notices[pads.short_at] |= noted((~ended, Notice.ENDED_EARLY))
    return notices


def _window_notices(
    exchanges: OneWireExchanges,
    classes: SlotClasses,
    windows: npt.NDArray[np.uint8],
    sheet: Sheet,
    so_far: Flags,
) -> Flags:
    """Notices on pulses against their windows; a short or held reset has its own."""
    outside = windows == Verdict.UNSOUND
    notices = np.zeros(len(exchanges), dtype=np.int64)
    for key in ("reset", "fast_reset"):
        row = KEYS.index(key)
        limit = sheet.windows[key].min_us * 1000 * (1 - HOST_SLACK)
        short = outside[row] & (classes.least_ns[row] < limit)
        note(notices, short, Notice.RESET_TOO_SHORT)
        outside[row] &= ~short & ((so_far & np.int64(Notice.LINE_HELD_LOW)) == 0)
    note(notices, outside.any(axis=0), Notice.PULSE_OUTSIDE)
    note(notices, (windows == Verdict.UNKNOWN).any(axis=0), Notice.TOO_COARSE)
    note(notices, (windows == Verdict.NEAR).any(axis=0), Notice.PULSE_NEAR)
    return notices


def read_by(pads: Scratchpads, course: Course) -> npt.NDArray[np.int32]:
    """Number of the device that each scratchpad is of; ``EVERY`` where nobody can say, int32 (m,).

    When all were asked at once, it is that of the only device that is known.

    Args:
        pads: the scratchpads that were read.
        course: the line, followed through its transactions.
    """
    device = course.device[pads.at]
    only = (device == EVERY) & (course.known_later[pads.at] == 1)
    found: npt.NDArray[np.int32] = np.where(only, 0, device)
    return found


def _tracks(pads: Scratchpads, given: npt.NDArray[np.bool_], course: Course) -> tuple[Track, ...]:
    """Temperatures by device, in search order, those without a code last."""
    device = read_by(pads, course)
    numbers = [number for number in np.unique(device).tolist() if number >= 0]
    codes = {number: course.codes[number] for number in numbers}
    ordered = sorted(numbers, key=lambda number: _place(codes[number], course.order))
    rows = [(code_text(codes[number]), device == number) for number in ordered]
    if (device == EVERY).any():
        rows.append(("", device == EVERY))
    return tuple(_track(code, pads, given, there) for code, there in rows)


def _place(code: int, order: tuple[int, ...]) -> int:
    return order.index(code) if code in order else len(order)


def _track(
    rom: str, pads: Scratchpads, given: npt.NDArray[np.bool_], there: npt.NDArray[np.bool_]
) -> Track:
    rows = np.flatnonzero(there)
    return Track(
        name=rom or "whoever answers",
        quantity="temperature",
        unit="°C",
        decimals=2,
        at=pads.at[rows],
        values=pads.temperatures.values[rows],
        given=given[rows],
        rom=rom,
    )


def after(exchanges: OneWireExchanges, before: Before | None) -> Before:
    """What some transactions leave behind for those that follow.

    Args:
        exchanges: decoded, columns of n exchanges.
        before: what the exchanges before these left behind; None at the first.
    """
    return follow_on(exchanges, read_pads(exchanges), before)
