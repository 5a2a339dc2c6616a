"""What was noticed about one exchange, in plain sentences with evidence and advice."""

from collections.abc import Callable, Iterator

from pivet.judge.finding import Finding
from pivet.judge.humidity import tell_bytes, tell_course, tell_pulses
from pivet.judge.humidity.case import Case
from pivet.judge.humidity.notices import TOLD, Notice

TELL: dict[Notice, Callable[[Case], Iterator[Finding]]] = {
    Notice.WRONG_TYPE: tell_bytes.wrong_type,
    Notice.TWO_ANSWER: tell_pulses.two_answer,
    Notice.REFLECTIONS: tell_pulses.reflections,
    Notice.SLOW_RISE: tell_pulses.slow_rise,
    Notice.INTERRUPTED: tell_course.interrupted,
    Notice.CLOCK_OFF: tell_pulses.clock_off,
    Notice.SCATTER: tell_pulses.scatter,
    Notice.LINE_HELD_LOW: tell_course.held_low,
    Notice.ASK_TOO_SHORT: tell_course.ask_short,
    Notice.TOO_SOON: tell_course.too_soon,
    Notice.TOO_COARSE: tell_pulses.too_coarse,
    Notice.NO_ANSWER: tell_course.no_answer,
    Notice.LATE_ANSWER: tell_course.late,
    Notice.CUT_SHORT: tell_course.cut_short,
    Notice.EXTRA_PULSES: tell_course.extra_pulses,
    Notice.SUM_WRONG: tell_bytes.sum_wrong,
    Notice.ALL_ZEROS: tell_bytes.all_zeros,
    Notice.IMPOSSIBLE_VALUE: tell_bytes.impossible,
    Notice.PULSE_OUTSIDE: tell_pulses.outside,
    Notice.CAPTURE_ENDED: tell_course.capture_ended,
    Notice.CAPTURE_BEGAN: tell_course.capture_began,
    Notice.TOO_DOUBTFUL: tell_bytes.too_doubtful,
    Notice.OUT_OF_RANGE: tell_bytes.out_of_range,
    Notice.SCALE_EDGE: tell_bytes.scale_edge,
    Notice.COPY_HABITS: tell_pulses.copy_habits,
    Notice.PULSE_NEAR: tell_pulses.near,
    Notice.OTHER_SIGN: tell_bytes.other_sign,
    Notice.SPIKE_REMOVED: tell_pulses.spikes,
}
TELLERS = {notice: TELL[notice] for notice in TOLD}
"""What tells each notice, in the order in which they are told."""
