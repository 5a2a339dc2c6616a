"""What was noticed about one echo measurement, in plain sentences."""

from collections.abc import Callable, Iterator
from functools import lru_cache

from pivet.decode.echo import EchoExchanges, layout
from pivet.judge.case import Case as AnyCase
from pivet.judge.echo.detail import Measurement
from pivet.judge.echo.judged import JudgedShots, rule_of
from pivet.judge.echo.notices import TOLD, Notice
from pivet.judge.echo.pulses import ECHO, TRIGGER, WAIT
from pivet.judge.finding import Finding
from pivet.judge.tell_windows import (
    SPIKE_ADVICE,
    tell_coarse,
    tell_near,
    tell_outside,
    tell_spikes,
)
from pivet.judge.wording import limits_of, span, us
from pivet.readings.sound import FIXED_SPEED


class Case(AnyCase[EchoExchanges, JudgedShots]):
    """One measurement, as the sentences need it."""

    detail: Measurement

    @property
    def distance_m(self) -> float:
        """Of this shot, m."""
        return float(self.judged.distance[self.index])

    @property
    def flight(self) -> str:
        """Length of the echo, for people."""
        return us(float(self.exchanges.flight_ns[self.index]) / 1000)

    @property
    def rise_ns(self) -> int:
        """Rise of the echo, ns."""
        return int(self.exchanges.rise_ns[self.index])


def _retriggered(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.RETRIGGERED,
        "Triggered while the echo of the shot before was still up.",
        f"Wait for the echo to fall, and {case.judged.sheet.interval_s * 1000:g} ms "
        "from trigger to trigger."
        if case.judged.sheet.interval_s
        else "Wait for the echo to fall.",
        None,
        TRIGGER,
    )


def _swapped(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.SWAPPED,
        "The trigger line holds pulses as long as echoes, the echo line such as triggers are, "
        "ahead of them: the two lines are swapped.",
        "Swap the two pins, or name the lines the other way round.",
        None,
        TRIGGER,
    )


def _stuck_high(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.STUCK_HIGH,
        "The echo line is high for longer than any sensor's timeout: it is stuck.",
        "Switch the sensor's supply off and on; look for a short from echo to the supply.",
        None,
        TRIGGER,
    )


def _no_echo(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.NO_ECHO,
        "No echo came back on the line.",
        "Check the sensor's supply and the echo wire; some boards stay silent when nothing is "
        "in range.",
        None,
        TRIGGER,
    )


def _nothing_in_range(case: Case) -> Iterator[Finding]:
    if case.exchanges.flight_ns[case.index] < rule_of(case.judged.sheet).timeout_us * 1000:
        yield case.finding(
            Notice.NOTHING_IN_RANGE,
            f"Nothing in range: echoes of {case.flight} come back identical, longest of all, while "
            "the others spread: that is the sensor's timeout, not a distance.",
            "Give the sensor's timeout by hand if it is another.",
            case.rise_ns,
            ECHO,
        )
        return
    yield case.finding(
        Notice.NOTHING_IN_RANGE,
        f"Nothing in range: the echo of {case.flight} is the sensor's timeout, not a distance "
        f"(it would be {case.distance_m:.2f} m).",
        "Look for a soft or slanted target, or one out of the beam.",
        case.rise_ns,
        ECHO,
    )


def _broken(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.ECHO_BROKEN,
        f"The echo has gaps of less than {us(layout.GAP_NS / 1000)}: it was taken as one.",
        "Look at the echo's level: a 5 V echo on a divider that is too weak, or crosstalk.",
        case.rise_ns,
        ECHO,
    )


def _ragged(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.ECHO_RAGGED,
        "Short pulses touch the echo: whether they belong to it nobody can say, and they change "
        "the distance by more than the sensor's accuracy.",
        "Look for crosstalk from the trigger, a motor or a long cable.",
        case.rise_ns,
        ECHO,
    )


def _several(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.SEVERAL_ECHOES,
        "Several pulses answer this trigger and none stands out: which one is the echo nobody "
        "can say.",
        "Look for a broken echo, or for something else that drives this line.",
        case.rise_ns,
        ECHO,
    )


def _nobody_asked(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.NOBODY_ASKED,
        f"A pulse of {case.flight} for which no trigger asked: it may be anything.",
        "Look for something else that drives this line, or for a trigger too short to be seen.",
        case.rise_ns,
        ECHO,
    )


def _strays(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.STRAY_PULSES,
        f"Pulses of up to {us(layout.STRAY_NS / 1000)} beside the echo were passed over.",
        "Look for crosstalk from the trigger, a motor or a long cable.",
        case.rise_ns,
        ECHO,
    )


def _too_far(case: Case) -> Iterator[Finding]:
    farthest = rule_of(case.judged.sheet).farthest_m
    yield case.finding(
        Notice.TOO_FAR,
        f"{case.distance_m:.2f} m is beyond the {farthest:g} m that the sheet promises.",
        "Take it for nothing in range.",
        case.rise_ns,
        ECHO,
    )


def _too_near(case: Case) -> Iterator[Finding]:
    nearest = rule_of(case.judged.sheet).nearest_m
    yield case.finding(
        Notice.TOO_NEAR,
        f"{case.distance_m * 100:.1f} cm is nearer than the {nearest * 100:g} cm from which on "
        "the sensor can tell.",
        "Mount the sensor farther away.",
        case.rise_ns,
        ECHO,
    )


def _trigger_short(case: Case) -> Iterator[Finding]:
    window = case.judged.sheet.windows["trigger"]
    length = us(float(case.exchanges.trigger_ns[case.index]) / 1000)
    yield case.finding(
        Notice.TRIGGER_SHORT,
        f"The trigger lasts {length}; the sheet wants {span(window.min_us, None)}.",
        f"Hold the trigger high for {us(window.typ_us)}.",
        None,
        TRIGGER,
    )


def _outside(case: Case) -> Iterator[Finding]:
    own = [("trigger", Notice.TRIGGER_SHORT), ("wait", Notice.LATE_RISE)]
    own.append(("echo", Notice.NOTHING_IN_RANGE | Notice.TOO_FAR | Notice.TOO_NEAR))
    but = [key for key, notice in own if case.has(notice)]
    for says, at_ns, columns in tell_outside(case.pulses, but):
        yield case.finding(Notice.PULSE_OUTSIDE, says, "", at_ns, *columns)


def _near(case: Case) -> Iterator[Finding]:
    for says, at_ns, columns in tell_near(case.pulses):
        yield case.finding(Notice.PULSE_NEAR, says, "", at_ns, *columns)


def _too_coarse(case: Case) -> Iterator[Finding]:
    says, at_ns, columns = tell_coarse(case.pulses, case.uncertain_ns)
    yield case.finding(Notice.TOO_COARSE, says, "Record with a finer step.", at_ns, *columns)


def _late_rise(case: Case) -> Iterator[Finding]:
    window = case.judged.sheet.windows["wait"]
    wait = us(float(case.exchanges.wait_ns[case.index]) / 1000)
    yield case.finding(
        Notice.LATE_RISE,
        f"The echo rises {wait} after the trigger; {limits_of(window)} is usual.",
        "The distance does not suffer: it is in the echo's length.",
        case.rise_ns,
        WAIT,
    )


def _too_soon(case: Case) -> Iterator[Finding]:
    sheet = case.judged.sheet
    waited = case.judged.since_last_ns[case.index] / 1e6
    yield case.finding(
        Notice.TOO_SOON,
        f"Triggered {waited:.1f} ms after the last trigger; the sheet wants "
        f"{sheet.interval_s * 1000:g} ms.",
        f"Trigger less often: {sheet.interval_note}.",
        None,
        TRIGGER,
    )


def _jumped(case: Case) -> Iterator[Finding]:
    shots, shot = case.judged.shots, int(case.judged.shot_of[case.index])
    yield case.finding(
        Notice.JUMPED,
        f"{case.distance_m:.3f} m stands alone: the shots before and after agree on another "
        f"distance (the median of the last {shots.over} is {shots.median[shot]:.3f} m).",
        "A soft or slanted target gives now itself, now the wall behind: use the median.",
        case.rise_ns,
        ECHO,
    )


def _fixed_speed(case: Case) -> Iterator[Finding]:
    before, behind = _fixed_words(case.detail.speed)
    yield case.finding(
        Notice.FIXED_SPEED,
        f"{before}{case.detail.fixed_m:.3f}{behind}",
        "Take the air temperature into account.",
        case.rise_ns,
        ECHO,
    )


@lru_cache(maxsize=64)
def _fixed_words(speed: float) -> tuple[str, str]:
    """What stands before and after the distance."""
    off = (FIXED_SPEED / speed - 1) * 100
    return (
        f"Firmware that counts with a fixed {FIXED_SPEED:g} m/s reads ",
        f" m here: {abs(off):.1f} % too {'long' if off > 0 else 'short'}.",
    )


def _air_assumed(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.AIR_ASSUMED,
        f"No air temperature is known: {case.detail.air_c:g} °C is assumed.",
        "Give one, or choose a thermometer of this bench.",
    )


def _trigger_unseen(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.TRIGGER_UNSEEN, "No trigger of this echo is known; its length tells enough.", ""
    )


def _capture_ended(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.CAPTURE_ENDED, "The capture ends before the echo does.", "Record longer."
    )


def _spikes(case: Case) -> Iterator[Finding]:
    for says, at_ns, columns in tell_spikes(case.pulses, case.exchanges, case.index):
        yield case.finding(Notice.SPIKE_REMOVED, says, SPIKE_ADVICE, at_ns, *columns)


TELL: dict[Notice, Callable[[Case], Iterator[Finding]]] = {
    Notice.SWAPPED: _swapped,
    Notice.STUCK_HIGH: _stuck_high,
    Notice.RETRIGGERED: _retriggered,
    Notice.TRIGGER_SHORT: _trigger_short,
    Notice.NO_ECHO: _no_echo,
    Notice.SEVERAL_ECHOES: _several,
    Notice.NOTHING_IN_RANGE: _nothing_in_range,
    Notice.TOO_NEAR: _too_near,
    Notice.TOO_FAR: _too_far,
    Notice.PULSE_OUTSIDE: _outside,
    Notice.CAPTURE_ENDED: _capture_ended,
    Notice.ECHO_RAGGED: _ragged,
    Notice.NOBODY_ASKED: _nobody_asked,
    Notice.TOO_COARSE: _too_coarse,
    Notice.TOO_SOON: _too_soon,
    Notice.JUMPED: _jumped,
    Notice.LATE_RISE: _late_rise,
    Notice.ECHO_BROKEN: _broken,
    Notice.STRAY_PULSES: _strays,
    Notice.PULSE_NEAR: _near,
    Notice.TRIGGER_UNSEEN: _trigger_unseen,
    Notice.FIXED_SPEED: _fixed_speed,
    Notice.AIR_ASSUMED: _air_assumed,
    Notice.SPIKE_REMOVED: _spikes,
}
TELLERS = {notice: TELL[notice] for notice in TOLD}
"""What tells each notice, in the order in which they are told."""
