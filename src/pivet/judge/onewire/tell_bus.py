"""Findings on the line and its devices: resets, presence, searches, who left or joined."""

from collections.abc import Callable, Iterator

from pivet.judge.finding import Finding
from pivet.judge.onewire.case import Case
from pivet.judge.onewire.classes import ONE, SLOT
from pivet.judge.onewire.judged import COARSE_NS
from pivet.judge.onewire.notices import Notice
from pivet.judge.onewire.pulses import RESET
from pivet.judge.onewire.unlisted import with_unlisted
from pivet.judge.tell_windows import (
    SPIKE_ADVICE,
    tell_coarse,
    tell_near,
    tell_outside,
    tell_spikes,
)
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count, span, us


def _held_low(case: Case) -> Iterator[Finding]:
    length = us(float(case.exchanges.reset_ns[case.index]) / 1000)
    yield case.finding(
        Notice.LINE_HELD_LOW,
        f"The line was held low for {length}.",
        "Look for a short, a missing pull-up, or a supply that was switched off.",
        None,
        RESET,
    )


def _no_presence(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.NO_PRESENCE,
        "Nobody answered the reset: there is no presence pulse.",
        "Check the plug, the supply, the pull-up and the pin; firmware often prints -127 now.",
        None,
        RESET,
    )


def _reset_short(case: Case) -> Iterator[Finding]:
    fast = bool(case.exchanges.fast[case.index])
    window = case.judged.sheet.windows["fast_reset" if fast else "reset"]
    length = us(float(case.exchanges.reset_ns[case.index]) / 1000)
    yield case.finding(
        Notice.RESET_TOO_SHORT,
        f"The reset lasts {length}; the standard wants {span(window.min_us, None)}.",
        f"Hold the line low for {us(window.typ_us)}.",
        None,
        RESET,
    )


def _left(case: Case) -> Iterator[Finding]:
    now = case.judged.course.found.get(case.index)
    before = case.judged.course.before.get(case.index)
    if now is None or before is None:
        says = f"{case.meant} answered before and does not answer any more."
    else:
        gone = [code for code in before if code not in now]
        says = (
            f"This search found {count(len(now), 'device')}; the one before also found "
            f"{case.listed(gone)}."
        )
    advice = "Look for a plug pulled off, a broken wire, or a supply that is gone."
    yield case.finding(Notice.DEVICE_LEFT, says, advice)


def _joined(case: Case) -> Iterator[Finding]:
    now = case.judged.course.found.get(case.index)
    before = case.judged.course.before.get(case.index)
    if now is None or before is None:
        says = f"{case.meant} answers again."
    else:
        new = [code for code in now if code not in before]
        says = f"This search found {case.listed(new)}, which the one before did not."
        if not new:
            says = f"{case.meant} answers again."
    yield case.finding(
        Notice.DEVICE_JOINED, says, "If one was replaced, give the new one the role of the old."
    )


def _order_shifted(case: Case) -> Iterator[Finding]:
    now = case.judged.course.found.get(case.index, ())
    before = case.judged.course.before.get(case.index, ())
    moved = [
        f"{case.called(code)} was number {before.index(code)} and is now {now.index(code)}"
        for code in now
        if code in before and before.index(code) != now.index(code)
    ]
    yield case.finding(
        Notice.ORDER_SHIFTED,
        f"The order of the search has shifted: {'; '.join(moved[:3])}"
        f"{f'; and {len(moved) - 3} more' if len(moved) > 3 else ''}.",
        "Firmware that counts devices now reads other probes: tie names to codes.",
    )


def _search_stopped(case: Case) -> Iterator[Finding]:
    at = int(case.exchanges.nobody_at[case.index])
    column = 2 * (8 + 3 * at)
    if at == 0:
        says = "Nobody took part in the search: its first bit and complement are both 1."
    else:
        says = f"At bit {at + 1} nobody answered any more (1 and 1): the pass ends there."
    yield case.finding(
        Notice.SEARCH_STOPPED,
        says,
        "A device that left, a bit misread on the way, or a direction that no device has.",
        case.at_column(column),
        column,
        column + 2,
    )


def _search_cut(case: Case) -> Iterator[Finding]:
    steps = int(case.exchanges.steps[case.index])
    yield case.finding(
        Notice.SEARCH_CUT,
        f"The search stopped after {steps} of 64 bits.",
        "If the host did not mean it, look for what made it give up here.",
        int(case.exchanges.end_ns[case.index]),
    )


def _no_alarm(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.NO_ALARM, "No device is in alarm: nobody took part in the alarm search.", ""
    )


def _unknown_command(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.UNKNOWN_COMMAND,
        f"{case.detail.command or 0:02x} is no ROM command of the standard.",
        "Look for a misread bit in the first byte.",
        case.at_column(0),
        *range(0, 16, 2),
    )


def _capture_began(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.CAPTURE_BEGAN,
        "The capture begins inside the reset, so its length is not known.",
        "Start recording before the host does.",
    )


def _capture_ended(case: Case) -> Iterator[Finding]:
    slots = int(case.exchanges.slot_count[case.index])
    yield case.finding(
        Notice.CAPTURE_ENDED,
        f"The capture ends inside this transaction, after {count(slots, 'slot')}.",
        "Record longer.",
        int(case.exchanges.end_ns[case.index]),
    )


def _too_many(case: Case) -> Iterator[Finding]:
    slots = int(case.exchanges.slot_count[case.index])
    yield case.finding(
        Notice.TOO_MANY_SLOTS,
        f"After {slots} slots no reset has come; the rest is left out.",
        "See whether this line is 1-Wire at all.",
    )


def _spikes(case: Case) -> Iterator[Finding]:
    for says, at_ns, columns in tell_spikes(case.pulses, case.exchanges, case.index):
        yield case.finding(Notice.SPIKE_REMOVED, says, SPIKE_ADVICE, at_ns, *columns)


def _outside(case: Case) -> Iterator[Finding]:
    told = case.has(Notice.RESET_TOO_SHORT | Notice.LINE_HELD_LOW)
    but = ("reset", "fast_reset") if told else ()
    for says, at_ns, columns in tell_outside(with_unlisted(case, Verdict.UNSOUND), but):
        yield case.finding(Notice.PULSE_OUTSIDE, says, _pulse_advice(says), at_ns, *columns)


def _near(case: Case) -> Iterator[Finding]:
    for says, at_ns, columns in tell_near(with_unlisted(case, Verdict.NEAR)):
        yield case.finding(Notice.PULSE_NEAR, says, _pulse_advice(says), at_ns, *columns)


def _pulse_advice(says: str) -> str:
    """A short low that grows is the line's fault more often than the host's."""
    rises = "“1, low”" in says or "“fast 1, low”" in says
    return "A long cable or a weak pull-up lets a 1 grow towards a 0." if rises else ""


def _too_coarse(case: Case) -> Iterator[Finding]:
    if case.uncertain_ns >= COARSE_NS:
        yield case.finding(
            Notice.TOO_COARSE,
            f"The capture's step of {us(case.uncertain_ns / 1000)} is too coarse for a 1-Wire "
            "line: its short lows last 1 to 15 µs and fall through.",
            "Record with a step of 1 µs or finer.",
        )
        return
    pulses = with_unlisted(case, Verdict.UNKNOWN)
    says, at_ns, columns = tell_coarse(pulses, case.uncertain_ns)
    yield case.finding(Notice.TOO_COARSE, says, "Record with a finer step.", at_ns, *columns)


def _slow_rise(case: Case) -> Iterator[Finding]:
    longest = us(float(case.judged.classes.most_ns[ONE, case.index]) / 1000)
    yield case.finding(
        Notice.SLOW_RISE,
        f"A written 1 lasts up to {longest}, and a read 1 comes out as a 0: the line rises slowly.",
        "Use a stronger pull-up (down to 1 kΩ on a long line) or a shorter cable.",
    )


def _scatter(case: Case) -> Iterator[Finding]:
    least, most = (
        us(int(bound[ONE, case.index]) / 1000)
        for bound in (case.judged.classes.least_ns, case.judged.classes.most_ns)
    )
    yield case.finding(
        Notice.SCATTER,
        f"Pulses of one kind scatter widely (a 1 lasts {least} to {most}): noise on the line, or a "
        "recorder that stamps its edges late.",
        "Let a timer of the recorder stamp the edges, not an interrupt; look for noise.",
    )


def _reflections(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.REFLECTIONS,
        "The line bounces at its edges, many slots are split by it: reflections.",
        "Put 100 Ω in series at the host's end, or shorten the cable and its branches.",
    )


def _split_slots(case: Case) -> Iterator[Finding]:
    least = us(int(case.judged.classes.least_ns[SLOT, case.index]) / 1000)
    yield case.finding(
        Notice.SPLIT_SLOTS,
        f"Slots follow each other after {least}: a disturbance split one, or put one between.",
        SPIKE_ADVICE,
    )


def _several(case: Case) -> Iterator[Finding]:
    number = int(case.judged.course.known[case.index])
    yield case.finding(
        Notice.SEVERAL_ANSWER,
        f"All devices were asked at once, and {number} are known here: their answers mix.",
        "Address one of them by its code (match ROM).",
    )


TELL: dict[Notice, Callable[[Case], Iterator[Finding]]] = {
    Notice.LINE_HELD_LOW: _held_low,
    Notice.RESET_TOO_SHORT: _reset_short,
    Notice.NO_PRESENCE: _no_presence,
    Notice.DEVICE_LEFT: _left,
    Notice.SEARCH_STOPPED: _search_stopped,
    Notice.PULSE_OUTSIDE: _outside,
    Notice.CAPTURE_BEGAN: _capture_began,
    Notice.CAPTURE_ENDED: _capture_ended,
    Notice.TOO_COARSE: _too_coarse,
    Notice.SEVERAL_ANSWER: _several,
    Notice.SLOW_RISE: _slow_rise,
    Notice.SCATTER: _scatter,
    Notice.REFLECTIONS: _reflections,
    Notice.SPLIT_SLOTS: _split_slots,
    Notice.UNKNOWN_COMMAND: _unknown_command,
    Notice.DEVICE_JOINED: _joined,
    Notice.ORDER_SHIFTED: _order_shifted,
    Notice.SEARCH_CUT: _search_cut,
    Notice.PULSE_NEAR: _near,
    Notice.TOO_MANY_SLOTS: _too_many,
    Notice.NO_ALARM: _no_alarm,
    Notice.SPIKE_REMOVED: _spikes,
}
