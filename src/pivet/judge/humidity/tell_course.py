"""Findings on how an exchange went: asked, answered, ended."""

from collections.abc import Callable, Iterator

from pivet.decode.humidity import DecodeMark, layout
from pivet.judge.finding import Finding
from pivet.judge.humidity.case import Case
from pivet.judge.humidity.notices import Notice
from pivet.judge.humidity.pulses import ASK
from pivet.judge.wording import count, span, us

BRIEF_S = 0.1
"""A shorter time is told in ms."""

SPLINTER = 0.4
"""A pulse shorter than this share of its least width may come from a disturbance."""


def _no_answer(case: Case) -> Iterator[Finding]:
    asked = case.asked_us
    yield case.finding(
        Notice.NO_ANSWER,
        f"The sensor did not answer the ask of {us(asked)}.",
        "Check its supply, the wire, the pull-up, and that it is this kind of sensor.",
        int(case.exchanges.body_ns[case.index]),
        ASK,
    )


def _held_low(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.LINE_HELD_LOW,
        f"The line was held low for {us(case.asked_us)}.",
        "Look for a short, a pin left driving low, or a missing pull-up.",
        None,
        ASK,
    )


def _interrupted(case: Case) -> Iterator[Finding]:
    bits = int(case.exchanges.bit_count[case.index])
    yield case.finding(
        Notice.INTERRUPTED,
        f"Another ask begins while the sensor still answers, after {count(bits, 'bit')}.",
        "Two hosts share this wire, or one asks again without waiting: let only one ask.",
        int(case.exchanges.end_ns[case.index]),
    )


def _cut_short(case: Case) -> Iterator[Finding]:
    bits, pulses = int(case.exchanges.bit_count[case.index]), case.pulses
    if bits == layout.BITS:
        says = "The frame has all its bits but no end: the last low is missing."
    elif int(case.exchanges.pulse_count[case.index]) <= layout.FIRST_LOW:
        says = "The sensor began to answer and stopped before its first bit."
    else:
        says = f"The answer was cut short at bit {bits + 1}: {count(bits, 'bit')} came whole."
    last = pulses[-1]
    yield case.finding(
        Notice.CUT_SHORT,
        says,
        "Look for a loose contact or a dip of the supply at this moment.",
        last.end_ns,
        last.column,
    )


def _extra_pulses(case: Case) -> Iterator[Finding]:
    extra = int(case.exchanges.pulse_count[case.index]) - layout.PULSES
    short = [
        pulse
        for pulse in case.pulses
        if pulse.bit is not None and pulse.width_us < SPLINTER * pulse.window.min_us
    ]
    says = f"{count(extra, 'pulse')} too many: the run goes on after 40 bits and their end."
    blamed = min(short, key=lambda pulse: pulse.width_us, default=case.pulses[-1])
    if short:
        says += f" The {us(blamed.width_us)} at bit {(blamed.bit or 0) + 1} may have split a pulse."
    yield case.finding(
        Notice.EXTRA_PULSES,
        says,
        "Look for a disturbance there, or for something else that talks on this line.",
        blamed.start_ns if short else blamed.end_ns,
        blamed.column,
    )


def _ask_short(case: Case) -> Iterator[Finding]:
    ask = case.judged.sheet.windows["ask"]
    asked = case.asked_us
    yield case.finding(
        Notice.ASK_TOO_SHORT,
        f"The start pulse lasts {us(asked)}; the sheet wants {span(ask.min_us, None)}.",
        f"Hold the line low for {us(ask.typ_us)}.",
        None,
        ASK,
    )


def _late(case: Case) -> Iterator[Finding]:
    release = case.judged.sheet.windows["release"]
    yield case.finding(
        Notice.LATE_ANSWER,
        f"The answer came {us(case.width_us(layout.RELEASE))} after the release; "
        f"the sheet allows {us(release.max_us or release.typ_us)}.",
        "Ask less often; a sensor that is still busy answers late.",
        int(case.exchanges.body_ns[case.index]),
        layout.RELEASE,
    )


def _capture_ended(case: Case) -> Iterator[Finding]:
    bits = int(case.exchanges.bit_count[case.index])
    got = f"after {count(bits, 'bit')}" if bits else "before the first bit"
    yield case.finding(
        Notice.CAPTURE_ENDED,
        f"The capture ends inside this exchange, {got}.",
        "Record longer.",
        int(case.exchanges.end_ns[case.index]),
    )


def _capture_began(case: Case) -> Iterator[Finding]:
    clipped = int(case.exchanges.marks[case.index]) & DecodeMark.ASK_CLIPPED
    says = (
        "The capture begins inside the ask, so its length is not known."
        if clipped
        else "The ask of this answer is not in the capture."
    )
    yield case.finding(Notice.CAPTURE_BEGAN, says, "Start recording before the host asks.")


def _too_soon(case: Case) -> Iterator[Finding]:
    sheet = case.judged.sheet
    waited = case.judged.since_last_ns[case.index] / 1e9
    yield case.finding(
        Notice.TOO_SOON,
        f"Asked {us(waited * 1e6) if waited < BRIEF_S else f'{waited:.2f} s'} after the last ask; "
        f"the sheet wants {sheet.interval_s:g} s.",
        f"Ask less often: {sheet.interval_note}.",
        None,
        ASK,
    )


TELL: dict[Notice, Callable[[Case], Iterator[Finding]]] = {
    Notice.INTERRUPTED: _interrupted,
    Notice.LINE_HELD_LOW: _held_low,
    Notice.ASK_TOO_SHORT: _ask_short,
    Notice.TOO_SOON: _too_soon,
    Notice.NO_ANSWER: _no_answer,
    Notice.LATE_ANSWER: _late,
    Notice.CUT_SHORT: _cut_short,
    Notice.EXTRA_PULSES: _extra_pulses,
    Notice.CAPTURE_ENDED: _capture_ended,
    Notice.CAPTURE_BEGAN: _capture_began,
}
