"""Findings on pulses against their windows, and on what explains many at once."""

from collections.abc import Callable, Iterator

import numpy as np

from pivet.judge.finding import Finding
from pivet.judge.humidity.case import Case
from pivet.judge.humidity.classes import KEYS
from pivet.judge.humidity.notices import Notice
from pivet.judge.humidity.pulses import ASK
from pivet.judge.notices import leading
from pivet.judge.tell_windows import (
    SPIKE_ADVICE,
    UNEXPLAINED,
    tell_coarse,
    tell_near,
    tell_outside,
    tell_spikes,
)
from pivet.judge.wording import us

TOLD_ELSEWHERE = {
    "ask": Notice.ASK_TOO_SHORT | Notice.LINE_HELD_LOW,
    "release": Notice.LATE_ANSWER,
}


def _outside(case: Case) -> Iterator[Finding]:
    but = [key for key, notice in TOLD_ELSEWHERE.items() if case.has(notice)]
    unexplained = leading(int(case.judged.notices[case.index]), Notice) is Notice.PULSE_OUTSIDE
    for says, at_ns, columns in tell_outside(case.pulses, but):
        advice = UNEXPLAINED if unexplained else ""
        if ASK in columns:
            advice = f"Hold the line low for {us(case.judged.sheet.windows['ask'].typ_us)}."
        yield case.finding(Notice.PULSE_OUTSIDE, says, advice, at_ns, *columns)


def _too_coarse(case: Case) -> Iterator[Finding]:
    says, at_ns, columns = tell_coarse(case.pulses, case.uncertain_ns)
    yield case.finding(Notice.TOO_COARSE, says, "Record with a finer step.", at_ns, *columns)


def _near(case: Case) -> Iterator[Finding]:
    for says, at_ns, columns in tell_near(
        case.pulses, case.has(Notice.SLOW_RISE) or case.has(Notice.CLOCK_OFF)
    ):
        yield case.finding(Notice.PULSE_NEAR, says, "", at_ns, *columns)


def _clock_off(case: Case) -> Iterator[Finding]:
    off = (float(case.judged.clock.clock[case.index]) - 1) * 100
    longer = "longer" if off > 0 else "shorter"
    yield case.finding(
        Notice.CLOCK_OFF,
        f"The sensor's clock runs {abs(off):.0f} % {'slow' if off > 0 else 'fast'}: "
        f"all its pulses are {longer} by that share.",
        "Tell 0 from 1 by comparing pulses, not by a fixed time.",
    )


def _slow_rise(case: Case) -> Iterator[Finding]:
    rise = float(case.judged.clock.rise_us[case.index])
    yield case.finding(
        Notice.SLOW_RISE,
        f"Lows are {us(rise)} too long and highs as much too short: the line rises slowly.",
        "Use a stronger pull-up (4.7 kΩ) or a shorter cable; see that sensor and input have the "
        "same supply.",
    )


def _scatter(case: Case) -> Iterator[Finding]:
    row = KEYS.index("bit_low")
    least, most = (
        us(int(bound[row, case.index]) / 1000)
        for bound in (case.judged.classes.least_ns, case.judged.classes.most_ns)
    )
    yield case.finding(
        Notice.SCATTER,
        f"Pulses of one kind scatter widely both ways (bit lows from {least} to {most}): noise on "
        "the line, or a recorder that stamps its edges late.",
        "Let a timer of the recorder stamp the edges, not an interrupt; look for noise.",
    )


def _reflections(case: Case) -> Iterator[Finding]:
    _, widths = case.exchanges.spikes_in(case.index)
    typical = us(float(np.median(widths)) / 1000)
    yield case.finding(
        Notice.REFLECTIONS,
        f"The line bounces at its edges ({widths.size} times, for about {typical}): reflections.",
        "Put 100 Ω in series at the host's end, or shorten the cable.",
    )


def _two_answer(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.TWO_ANSWER,
        "The answer begins as a sensor's, then lows of one sensor lie over highs of another: two "
        "sensors answer on this wire.",
        "One sensor a wire: give the second one a pin of its own.",
    )


def _copy_habits(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.COPY_HABITS,
        "Its pulses leave the maker's windows, but no further than copies of this part commonly "
        "do.",
        "Give your firmware room for both: tell 0 from 1 by comparing high with low.",
    )


def _spikes(case: Case) -> Iterator[Finding]:
    if case.has(Notice.REFLECTIONS):
        return
    for says, at_ns, columns in tell_spikes(case.pulses, case.exchanges, case.index):
        yield case.finding(Notice.SPIKE_REMOVED, says, SPIKE_ADVICE, at_ns, *columns)


TELL: dict[Notice, Callable[[Case], Iterator[Finding]]] = {
    Notice.TWO_ANSWER: _two_answer,
    Notice.REFLECTIONS: _reflections,
    Notice.SLOW_RISE: _slow_rise,
    Notice.CLOCK_OFF: _clock_off,
    Notice.SCATTER: _scatter,
    Notice.TOO_COARSE: _too_coarse,
    Notice.PULSE_OUTSIDE: _outside,
    Notice.COPY_HABITS: _copy_habits,
    Notice.PULSE_NEAR: _near,
    Notice.SPIKE_REMOVED: _spikes,
}
