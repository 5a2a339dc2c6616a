"""Findings on pulses against their windows, and on what explains many at once."""

from collections.abc import Iterator
from dataclasses import replace

from pivet.judge.case import Case, Finding
from pivet.judge.notices import Notice
from pivet.judge.pulses import Pulse
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count, limit_of, span, us

FEW = 3
"""So many stray pulses of one window are told one by one."""


def _by_window(pulses: list[Pulse]) -> dict[str, list[Pulse]]:
    groups: dict[str, list[Pulse]] = {}
    for pulse in pulses:
        groups.setdefault(pulse.window.key, []).append(pulse)
    return groups


def outside(case: Case) -> Iterator[Finding]:
    strays = [pulse for pulse in case.pulses if pulse.verdict is Verdict.UNSOUND]
    told = {
        "ask": case.has(Notice.ASK_TOO_SHORT | Notice.LINE_HELD_LOW),
        "release": case.has(Notice.LATE_ANSWER),
    }
    for key, pulses in _by_window(strays).items():
        if told.get(key):
            continue
        window = pulses[0].window
        limits = span(window.min_us, window.max_us) + (" (assumed)" if window.assumed else "")
        worst = min(pulses, key=lambda pulse: pulse.margin_us)
        if len(pulses) <= FEW:
            for pulse in pulses:
                yield case.finding(
                    Notice.PULSE_OUTSIDE, _stray(pulse, limits), "", pulse.start_ns, pulse.column
                )
        else:
            all_of = sum(pulse.window.key == key for pulse in case.pulses)
            yield case.finding(
                Notice.PULSE_OUTSIDE,
                f"{len(pulses)} of {all_of} pulses “{window.label}” lie outside {limits}; "
                f"the worst, at {worst.place}, lasts {us(worst.width_us)}.",
                "",
                worst.start_ns,
                *(pulse.column for pulse in pulses),
            )


def _stray(pulse: Pulse, limits: str) -> str:
    long = pulse.width_us > pulse.window.typ_us
    place = "The pulse" if pulse.bit is None else f"Bit {pulse.bit + 1}:"
    return (
        f"{place} “{pulse.window.label}” lasts {us(pulse.width_us)}, "
        f"{us(-pulse.margin_us)} too {'long' if long else 'short'} for {limits}."
    )


def too_coarse(case: Case) -> Iterator[Finding]:
    pulses = [pulse for pulse in case.pulses if pulse.verdict is Verdict.UNKNOWN]
    step = us(case.judged.resolution_ns / 1000)
    yield case.finding(
        Notice.TOO_COARSE,
        f"The capture's step of {step} is too coarse to say whether "
        f"{count(len(pulses), 'pulse is', 'pulses are')} inside.",
        "Record with a finer step.",
        pulses[0].start_ns if pulses else None,
        *(pulse.column for pulse in pulses),
    )


def near(case: Case) -> Iterator[Finding]:
    near = [pulse for pulse in case.pulses if pulse.verdict is Verdict.NEAR]
    for pulses in _by_window(near).values():
        worst = min(pulses, key=lambda pulse: pulse.share)
        window = worst.window
        above = window.max_us is not None and worst.width_us > window.typ_us
        limit = window.max_us if above and window.max_us is not None else window.min_us
        others = f" and {len(pulses) - 1} more" if len(pulses) > 1 else ""
        assumed = ", which is assumed" if window.assumed else ""
        left = (
            f"leaves {us(worst.margin_us)} to the limit of"
            if worst.margin_us > 0
            else "is at the limit of"
        )
        place = "" if worst.bit is None else f", bit {worst.bit + 1}{others}"
        yield case.finding(
            Notice.PULSE_NEAR,
            f"“{window.label}”{place}: {us(worst.width_us)} {left} {limit_of(limit)}{assumed}.",
            "",
            worst.start_ns,
            *(pulse.column for pulse in pulses),
        )


def _weighed(case: Case, notice: Notice, says: str, advice: str) -> Finding:
    """A cause weighs as much as the pulses that it puts outside or near their limits."""
    finding = case.finding(notice, says, advice)
    for symptom in (Notice.PULSE_OUTSIDE, Notice.PULSE_NEAR):
        if case.has(symptom):
            return replace(finding, weight=symptom.weight)
    return finding


def clock_off(case: Case) -> Iterator[Finding]:
    off = (float(case.judged.clock.clock[case.index]) - 1) * 100
    longer = "longer" if off > 0 else "shorter"
    yield _weighed(
        case,
        Notice.CLOCK_OFF,
        f"The sensor's clock runs {abs(off):.0f} % {'slow' if off > 0 else 'fast'}: "
        f"all its pulses are {longer} by that share.",
        "Tell 0 from 1 by comparing pulses, not by a fixed time.",
    )


def slow_rise(case: Case) -> Iterator[Finding]:
    rise = float(case.judged.clock.rise_us[case.index])
    yield _weighed(
        case,
        Notice.SLOW_RISE,
        f"Lows are {us(rise)} too long and highs as much too short: the line rises slowly.",
        "Use a stronger pull-up (4.7 kΩ) or a shorter cable.",
    )


def spikes(case: Case) -> Iterator[Finding]:
    starts, widths = case.exchanges.spikes_in(case.index)
    for start, width in zip(starts.tolist(), widths.tolist(), strict=True):
        inside = [pulse for pulse in case.pulses if pulse.start_ns <= start < pulse.end_ns]
        pulse = inside[0] if inside else None
        where = f" in {pulse.place}" if pulse else ""
        yield case.finding(
            Notice.SPIKE_REMOVED,
            f"A spike of {us(width / 1000)}{where} was removed.",
            "Look for a motor, a relay or a long unshielded cable nearby.",
            start,
            *((pulse.column,) if pulse else ()),
        )
