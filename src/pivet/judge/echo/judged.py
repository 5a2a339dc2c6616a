"""Judging echo measurements against a sheet, as columns."""

from functools import lru_cache

import numpy as np
import numpy.typing as npt

from pivet.decode.echo import DecodeMark, EchoExchanges
from pivet.decode.interface import ABSENT, WIDEST_NS
from pivet.frozen import FrozenObject, replace
from pivet.judge.echo.before import NOTHING, Before
from pivet.judge.echo.line import swapped, torn_by_spikes
from pivet.judge.echo.notices import WEIGHTS, Notice
from pivet.judge.echo.shots import Shots, compare
from pivet.judge.echo.timeout import learn
from pivet.judge.margins import judge_widths, too_soon
from pivet.judge.notices import Flags, note, noted, spiked, verdicts_of
from pivet.judge.verdict import Verdict
from pivet.readings.sound import (
    FIXED_SPEED,
    MEDIAN_OVER,
    USUAL_AIR,
    Air,
    Vessel,
    distance_m,
    speed_of_sound,
)
from pivet.readings.track import Track
from pivet.sheets.model import EchoRule, Sheet, Window
from pivet.signal.trace import BoolArray, Int64Array
from pivet.signal.uncertainty import Uncertainty, worst
from pivet.signal.uncertainty import part as part_of

FloatArray = npt.NDArray[np.float64]

REFUSING = (
    Notice.NOTHING_IN_RANGE
    | Notice.TOO_NEAR
    | Notice.TOO_FAR
    | Notice.CAPTURE_ENDED
    | Notice.SEVERAL_ECHOES
    | Notice.ECHO_RAGGED
    | Notice.NOBODY_ASKED
)
"""With one of these the distance is not given out."""

ABOUT = 0.02
"""The sheets say "~" of nearest and farthest; a distance beyond by this share is none."""

UNASKED_NS = 1_000_000
"""A pulse without a trigger that lasts longer is no disturbance: only its trigger was not seen."""

BLOCK = 1 << 16
"""Measurements judged at once: keeps the columns in between in the processor's cache."""

FIXED_SHARE = 0.005
"""From this share on the error of a fixed speed of sound is told."""


class Lengths(FrozenObject):
    """Pulse lengths: a row a window of the sheet, a column a measurement.

    Attributes:
        least_ns: int32 (k, n), ns; -1 for none.
    """

    least_ns: npt.NDArray[np.int32]

    @property
    def most_ns(self) -> npt.NDArray[np.int32]:
        """The same: each window has one pulse at most."""
        return self.least_ns

    def counts_of(self, first: int, last: int) -> npt.NDArray[np.integer]:
        """1 where there is a pulse, (k, m).

        Args:
            first: number of the first exchange.
            last: one past the number of the last.
        """
        found: npt.NDArray[np.integer] = (self.least_ns[:, first:last] != ABSENT).astype(np.int64)
        return found


class JudgedShots(FrozenObject):
    """What is said of n measurements.

    Attributes:
        sheet: the one they were judged against.
        resolution_ns: uncertainty of every width, ns.
        verdict: ``Verdict`` values, uint8 (n,).
        notices: ``Notice`` bits, int64 (n,).
        air: where the air temperature comes from.
        air_c, speed: air temperature and speed of sound used, float64 (n,), °C and m/s.
        distance: float64 (n,), m; of no meaning without an echo.
        given: the distance may be given out, bool (n,).
        shots: given shots beside their neighbours.
        shot_of: number of each measurement among the given shots, int64 (n,); -1 for none.
        since_last_ns: from the trigger before, int64 (n,); -1 for none.
        classes: lengths by window of the sheet.
        window_verdict: ``Verdict`` by window of the sheet, uint8 (k, n).
        vessel: for which a level is derived; None for none.
        tracks: distance (or level), and its median.
    """

    sheet: Sheet
    resolution_ns: Uncertainty
    verdict: npt.NDArray[np.uint8]
    notices: Flags
    air: Air
    air_c: FloatArray
    speed: FloatArray
    distance: FloatArray
    given: BoolArray
    shots: Shots
    shot_of: Int64Array
    since_last_ns: Int64Array
    classes: Lengths
    window_verdict: npt.NDArray[np.uint8]
    vessel: Vessel | None
    tracks: tuple[Track, ...]

    def __len__(self) -> int:
        return int(self.verdict.size)


def rule_of(sheet: Sheet) -> EchoRule:
    """Range and timeout of an echo sensor's sheet.

    Args:
        sheet: the sheet of the sensor type.

    Raises:
        ValueError: it is a sheet of another family.
    """
    if sheet.echo is None:
        raise ValueError(f"{sheet.id} is no sheet of an echo sensor")
    return sheet.echo


def echo_window(sheet: Sheet, speed: float) -> Window:
    """The echo's window for a speed of sound: from the nearest to the farthest, about.

    Args:
        sheet: the sheet of the sensor.
        speed: of sound, m/s.
    """
    return _echo_window(sheet.windows["echo"], rule_of(sheet), speed)


@lru_cache(maxsize=256)
def _echo_window(window: Window, rule: EchoRule, speed: float) -> Window:
    least = round(2e6 * rule.nearest_m * (1 - ABOUT) / speed, 1)
    most = max(round(2e6 * rule.farthest_m * (1 + ABOUT) / speed, 1), least)
    # Who says that a sensor reaches less far says nothing of what is typical.
    typical = min(max(window.typ_us, least), most)
    return replace(window, min_us=least, typ_us=typical, max_us=most, common_us=None)


def latest_us(sheet: Sheet) -> float:
    """From trigger to echo at most, µs.

    Args:
        sheet: the sheet of the sensor type.
    """
    window = sheet.windows["wait"]
    return window.typ_us if window.max_us is None else window.max_us


MOST_KEPT = 256
_WINDOWS_AT: dict[tuple[int, float], tuple[Sheet, tuple[Window, ...]]] = {}
"""By the sheet's identity, and a speed of sound: to hash a sheet takes longer than all the rest."""


def windows_at(sheet: Sheet, speed: float) -> tuple[Window, ...]:
    """The sheet's windows, that of the echo for a speed of sound.

    Args:
        sheet: the sheet of the sensor.
        speed: of sound, m/s.
    """
    key = (id(sheet), speed)
    if key not in _WINDOWS_AT:
        if len(_WINDOWS_AT) >= MOST_KEPT:
            _WINDOWS_AT.clear()
        windows = tuple(
            echo_window(sheet, speed) if name == "echo" else window
            for name, window in sheet.windows.items()
        )
        _WINDOWS_AT[key] = sheet, windows
    return _WINDOWS_AT[key][1]


MARKED = {
    DecodeMark.ECHO_UP: Notice.RETRIGGERED,
    DecodeMark.CAPTURE_ENDED: Notice.CAPTURE_ENDED,
    DecodeMark.TRIGGER_UNSEEN: Notice.TRIGGER_UNSEEN,
    DecodeMark.STUCK: Notice.STUCK_HIGH,
    DecodeMark.BROKEN: Notice.ECHO_BROKEN,
    DecodeMark.RAGGED: Notice.ECHO_RAGGED,
    DecodeMark.SEVERAL: Notice.SEVERAL_ECHOES,
    DecodeMark.STRAYS: Notice.STRAY_PULSES,
}
"""What decoding marked, and what is noticed by it."""


def judge(
    exchanges: EchoExchanges,
    sheet: Sheet,
    resolution_ns: Uncertainty,
    air: Air | None = None,
    vessel: Vessel | None = None,
    over: int = MEDIAN_OVER,
    before: Before = NOTHING,
    triggered: bool = False,
) -> JudgedShots:
    """Judges measurements of one wire.

    Args:
        exchanges: the exchanges, in order of time.
        sheet: the sheet of the sensor type.
        resolution_ns: uncertainty of every width, ns.
        air: the air temperature; None takes the usual 20 °C.
        vessel: derives a level.
        over: how many shots make a median.
        before: what the measurements before left behind.
        triggered: triggers are seen on this wire, so an echo without one answers nobody.
    """
    air = air or USUAL_AIR
    air_c = air.at(exchanges.start_ns)
    speed = _speeds(air, air_c)
    distance = distance_m(exchanges.flight_ns, speed)
    since = _since_last(exchanges, before)
    scale = FIXED_SPEED if air.values.size > 1 or not len(exchanges) else float(speed[0])
    notices, widths, windows = _in_blocks(
        exchanges, sheet, resolution_ns, speed, scale, distance, since
    )
    notices |= _timeout_notices(exchanges, resolution_ns, before)
    if triggered:
        unasked = (exchanges.marks & DecodeMark.TRIGGER_UNSEEN) != 0
        unasked &= exchanges.flight_ns < UNASKED_NS
        note(notices, unasked, Notice.NOBODY_ASKED)
    given = (exchanges.flight_ns != ABSENT) & ((notices & np.int64(REFUSING)) == 0)
    heard: slice | BoolArray = slice(None) if given.all() else given
    shots = compare(distance[heard], over, before.distances)
    notices[heard] |= _shot_notices(shots, speed[heard], air)
    return JudgedShots(
        sheet=sheet,
        resolution_ns=resolution_ns,
        verdict=verdicts_of(notices, WEIGHTS),
        notices=notices,
        air=air,
        air_c=air_c,
        speed=speed,
        distance=distance,
        given=given,
        shots=shots,
        shot_of=_numbered(given),
        since_last_ns=since,
        classes=Lengths(widths),
        window_verdict=windows,
        vessel=vessel,
        tracks=_tracks(distance, given, shots, vessel),
    )


def _speeds(air: Air, air_c: FloatArray) -> FloatArray:
    """Speed of sound at each measurement; one root is enough where the air stays as it is."""
    if air.values.size > 1:
        return speed_of_sound(air_c)
    return np.full(air_c.shape, speed_of_sound(air.values)[0])


def _numbered(given: BoolArray) -> Int64Array:
    """Number of each among those that are given; -1 for the others."""
    if given.all():
        return np.arange(given.size)
    numbers: Int64Array = np.where(given, np.cumsum(given) - 1, -1)
    return numbers


def _in_blocks(
    exchanges: EchoExchanges,
    sheet: Sheet,
    resolution_ns: Uncertainty,
    speed: FloatArray,
    scale: float,
    distance: FloatArray,
    since: Int64Array,
) -> tuple[Flags, npt.NDArray[np.int32], npt.NDArray[np.uint8]]:
    """Notices, pulse lengths and their verdicts, a block after the other."""
    size, keys = len(exchanges), list(sheet.windows)
    notices = np.empty(size, dtype=np.int64)
    widths = np.empty((len(keys), size), dtype=np.int32)
    windows = np.empty((len(keys), size), dtype=np.uint8)
    for start in range(0, size, BLOCK):
        part = slice(start, min(start + BLOCK, size))
        rows = exchanges.rows(part.start, part.stop)
        own = part_of(resolution_ns, part.start, part.stop)
        lengths = _widths(rows, sheet)
        if "rest" in lengths and part.stop < size:
            lengths["rest"][-1] = _rest(exchanges, part.stop - 1)
        found = _window_verdicts(lengths, sheet, speed[part], scale, own)
        told = _course_notices(rows, sheet, since[part])
        told |= _range_notices(rows, sheet, distance[part])
        notices[part] = told | _window_notices(lengths, found, sheet, told)
        for row, key in enumerate(keys):
            widths[row, part], windows[row, part] = lengths[key], found[key]
    return notices, widths, windows


def _timeout_notices(exchanges: EchoExchanges, resolution_ns: Uncertainty, before: Before) -> Flags:
    """The sensor's timeout, where it is shorter than the sheet's."""
    named, _ = learn(exchanges, worst(resolution_ns), before.longest, before.count)
    return noted((named, Notice.NOTHING_IN_RANGE))


def _shot_notices(shots: Shots, speed: FloatArray, air: Air) -> Flags:
    """Notices on shots that may be given: jumps, and what the distance rests on."""
    notices = noted((shots.jumped, Notice.JUMPED))
    if not air.given:
        notices |= np.int64(Notice.AIR_ASSUMED)
    if air.values.size > 1:
        note(notices, np.abs(FIXED_SPEED / speed - 1) >= FIXED_SHARE, Notice.FIXED_SPEED)
    elif speed.size and abs(FIXED_SPEED / speed[0] - 1) >= FIXED_SHARE:
        notices |= np.int64(Notice.FIXED_SPEED)
    return notices


def _since_last(exchanges: EchoExchanges, before: Before) -> Int64Array:
    since = np.full(len(exchanges), -1, dtype=np.int64)
    triggered = np.flatnonzero(exchanges.trigger_ns != ABSENT)
    since[triggered[1:]] = np.diff(exchanges.start_ns[triggered])
    if triggered.size and before.trigger_ns is not None:
        since[triggered[0]] = int(exchanges.start_ns[triggered[0]]) - before.trigger_ns
    return since


def _widths(exchanges: EchoExchanges, sheet: Sheet) -> dict[str, npt.NDArray[np.int32]]:
    """Lengths of the pulses that were seen from beginning to end."""
    part = exchanges.ended
    found = {
        "trigger": np.where(part & (exchanges.flight_ns < 0), ABSENT, exchanges.trigger_ns),
        "wait": exchanges.wait_ns,
        "echo": np.where(part, ABSENT, exchanges.flight_ns),
    }
    if "rest" in sheet.windows:
        rest = np.full(len(exchanges), ABSENT, dtype=np.int64)
        rest[:-1] = exchanges.start_ns[1:] - exchanges.end_ns[:-1]
        found["rest"] = np.where(exchanges.flight_ns < 0, ABSENT, rest)
    return {key: np.minimum(width, WIDEST_NS).astype(np.int32) for key, width in found.items()}


def _rest(exchanges: EchoExchanges, index: int) -> int:
    """From the end of a measurement that is not the last to the next, ns."""
    if exchanges.flight_ns[index] < 0:
        return ABSENT
    return min(int(exchanges.start_ns[index + 1] - exchanges.end_ns[index]), WIDEST_NS)


def _window_verdicts(
    widths: dict[str, npt.NDArray[np.int32]],
    sheet: Sheet,
    speed: FloatArray,
    scale: float,
    resolution_ns: Uncertainty,
) -> dict[str, npt.NDArray[np.uint8]]:
    """Verdicts by window; echoes are judged as if all flew at the speed ``scale``, m/s."""
    found = {}
    for key, width in widths.items():
        if key == "echo":
            if (speed != scale).any():
                width = np.where(width == ABSENT, ABSENT, width * speed / scale).astype(np.int32)
            found[key] = judge_widths(width, width, echo_window(sheet, scale), resolution_ns)
        else:
            found[key] = judge_widths(width, width, sheet.windows[key], resolution_ns)
    return found


def _course_notices(exchanges: EchoExchanges, sheet: Sheet, since: Int64Array) -> Flags:
    """Notices on how a measurement went: triggered, answered, ended."""
    marks = exchanges.marks
    up = (marks & DecodeMark.ECHO_UP) != 0
    ended = exchanges.ended
    silent = (exchanges.flight_ns == ABSENT) & ~up & ~ended
    soon = too_soon(since, sheet.interval_s)
    notices = noted(
        (silent, Notice.NO_ECHO),
        (soon & ~up, Notice.TOO_SOON),
        (spiked(exchanges), Notice.SPIKE_REMOVED),
        (swapped(exchanges), Notice.SWAPPED),
        (torn_by_spikes(exchanges), Notice.ECHO_RAGGED),
    )
    for mark, notice in MARKED.items() if marks.any() else ():
        note(notices, (marks & mark) != 0, notice)
    return notices


def _range_notices(exchanges: EchoExchanges, sheet: Sheet, distance: FloatArray) -> Flags:
    rule = rule_of(sheet)
    flight = exchanges.flight_ns
    there = flight != ABSENT
    timeout = there & (flight >= rule.timeout_us * 1000)
    far = there & ~timeout & (distance > rule.farthest_m * (1 + ABOUT))
    near = there & (distance < rule.nearest_m * (1 - ABOUT))
    return noted(
        (timeout, Notice.NOTHING_IN_RANGE),
        (far, Notice.TOO_FAR),
        (near, Notice.TOO_NEAR),
    )


def _window_notices(
    widths: dict[str, npt.NDArray[np.int32]],
    windows: dict[str, npt.NDArray[np.uint8]],
    sheet: Sheet,
    so_far: Flags,
) -> Flags:
    """Notices on pulses against their windows; range, trigger and wait have their own."""
    trigger = windows["trigger"] == Verdict.UNSOUND
    late = widths["wait"] > latest_us(sheet) * 1000
    own = Notice.NOTHING_IN_RANGE | Notice.TOO_FAR | Notice.TOO_NEAR
    outside = (windows["echo"] == Verdict.UNSOUND) & ((so_far & np.int64(own)) == 0)
    if "rest" in windows:
        outside |= windows["rest"] == Verdict.UNSOUND
    every = np.stack(
        [np.where(late, 0, window) if key == "wait" else window for key, window in windows.items()]
    )
    return noted(
        (trigger, Notice.TRIGGER_SHORT),
        (late, Notice.LATE_RISE),
        (outside, Notice.PULSE_OUTSIDE),
        ((every == Verdict.UNKNOWN).any(axis=0), Notice.TOO_COARSE),
        ((every == Verdict.NEAR).any(axis=0), Notice.PULSE_NEAR),
    )


def _tracks(
    distance: FloatArray, given: BoolArray, shots: Shots, vessel: Vessel | None
) -> tuple[Track, ...]:
    """What the ribbon shows: single shots and their median, as level if there is a vessel."""
    median = np.zeros(distance.size)
    if shots.median.size == median.size:
        median = shots.median
    else:
        median[given] = shots.median
    every = np.arange(distance.size, dtype=np.int64)
    steady = f"median of {shots.over}"
    if vessel is None:
        rows = [("distance", "distance", distance), (steady, "distance", median)]
    else:
        levels = [np.maximum(vessel.depth_m - reach, 0.0) for reach in (distance, median)]
        rows = [("single shots", "level", levels[0]), ("level", "level", levels[1])]
    return tuple(
        Track(name, quantity, "m", 3, every, values, given) for name, quantity, values in rows
    )
