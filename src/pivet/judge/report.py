"""All that is known of one exchange, as an object: made when somebody looks."""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache, partial

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.decode.interface import ABSENT
from pivet.judge.case import Finding
from pivet.judge.classes import KEYS
from pivet.judge.findings import findings_of
from pivet.judge.humidity import Judged
from pivet.judge.margins import margin_us
from pivet.judge.notices import Notice
from pivet.judge.pulses import Pulse, pulses_of
from pivet.judge.verdict import Verdict
from pivet.readings.values import shown
from pivet.sheets.model import Sheet, Window


@dataclass(frozen=True, slots=True)
class Value:
    """A value that an exchange gave, or that was refused.

    Attributes:
        quantity, value, unit: what was measured.
        text: the value with as many decimals as the sensor has.
        reason: why it is refused; empty for a reading.
    """

    quantity: str
    value: float
    unit: str
    text: str
    reason: str = ""


@dataclass(frozen=True, slots=True)
class Check:
    """The check of an exchange: ``ok`` is None when there was nothing to check."""

    kind: str
    ok: bool | None
    sent: int | None
    computed: int | None


@dataclass(frozen=True, slots=True)
class WindowUse:
    """The pulses of one window in one exchange; worst margin below 0 is outside."""

    window: Window
    verdict: Verdict
    count: int
    min_us: float
    max_us: float
    worst_margin_us: float


@dataclass(frozen=True, slots=True, eq=False)
class Report:
    """One exchange, judged.

    Attributes:
        number: of the exchange on its wire, from 0.
        wire: name of the wire.
        sheet: against which it was judged.
        start_ns, end_ns: from the ask to the last edge, ns.
        verdict: the worst of all.
        data: whole bytes received.
        bit_count: whole bits received.
        check: the sum.
        readings, refused: values, and values that are not to be used.
        findings: what was noticed, gravest first.
        windows: by key, those with pulses.
        make_pulses: gives every pulse; called when somebody looks at them.
    """

    number: int
    wire: str
    sheet: Sheet
    start_ns: int
    end_ns: int
    verdict: Verdict
    data: bytes
    bit_count: int
    check: Check
    readings: tuple[Value, ...]
    refused: tuple[Value, ...]
    findings: tuple[Finding, ...]
    windows: dict[str, WindowUse]
    make_pulses: Callable[[], tuple[Pulse, ...]] = field(repr=False)

    @property
    def pulses(self) -> tuple[Pulse, ...]:
        """Every pulse, in the order on the wire; made at the first look."""
        return self.make_pulses()

    @property
    def headline(self) -> str:
        """The verdict and its first cause, in a few words."""
        if self.verdict is Verdict.SOUND:
            return "Sound: the sum holds and every pulse is inside"
        worst = next((row for row in self.findings if row.weight is self.verdict), None)
        cause = HEADLINES.get(worst.code, "") if worst else ""
        title = self.verdict.title.capitalize()
        return f"{title}: {cause}" if cause else title


HEADLINES = {
    Notice.NO_ANSWER.code: "no answer",
    Notice.LINE_HELD_LOW.code: "the line is held low",
    Notice.CUT_SHORT.code: "the answer is cut short",
    Notice.EXTRA_PULSES.code: "too many pulses",
    Notice.SUM_WRONG.code: "the sum is wrong",
    Notice.ALL_ZEROS.code: "all bytes are zero",
    Notice.WRONG_TYPE.code: "wrong sensor type chosen",
    Notice.IMPOSSIBLE_VALUE.code: "impossible value",
    Notice.ASK_TOO_SHORT.code: "the start pulse is too short",
    Notice.LATE_ANSWER.code: "the answer is late",
    Notice.PULSE_OUTSIDE.code: "a pulse is outside its window",
    Notice.CAPTURE_ENDED.code: "the capture ends here",
    Notice.CAPTURE_BEGAN.code: "the capture begins here",
    Notice.TOO_COARSE.code: "the capture is too coarse",
    Notice.TOO_SOON.code: "asked too soon",
    Notice.OUT_OF_RANGE.code: "out of the sheet's range",
    Notice.SCALE_EDGE.code: "at the edge of the scale",
    Notice.CLOCK_OFF.code: "the sensor's clock is off",
    Notice.SLOW_RISE.code: "the line rises slowly",
}

REFUSALS = (
    Notice.WRONG_TYPE,
    Notice.SUM_WRONG,
    Notice.ALL_ZEROS,
    Notice.IMPOSSIBLE_VALUE,
    Notice.CUT_SHORT,
    Notice.CAPTURE_ENDED,
)


def report(exchanges: HumidityExchanges, judged: Judged, index: int, wire: str) -> Report:
    """Everything about exchange ``index``."""
    make_pulses = cache(partial(pulses_of, exchanges, judged, index))
    bits = int(exchanges.bit_count[index])
    data = exchanges.packed[:, index].tobytes()[: bits // 8]
    given = bool(judged.given[index])
    values = _values(judged, index, len(data), "" if given else _reason(judged, index))
    return Report(
        number=index,
        wire=wire,
        sheet=judged.sheet,
        start_ns=int(exchanges.start_ns[index]),
        end_ns=int(exchanges.end_ns[index]),
        verdict=Verdict(int(judged.verdict[index])),
        data=data,
        bit_count=bits,
        check=_check(judged, index, data),
        readings=values if given else (),
        refused=() if given else values,
        findings=tuple(findings_of(exchanges, judged, index, make_pulses)),
        windows=_windows(judged, index),
        make_pulses=make_pulses,
    )


def _check(judged: Judged, index: int, data: bytes) -> Check:
    if len(data) < layout.BYTES:
        return Check("sum8", None, None, None)
    return Check("sum8", bool(judged.check[index]), data[4], int(judged.computed[index]))


def _reason(judged: Judged, index: int) -> str:
    for notice in REFUSALS:
        if judged.has(index, notice):
            return HEADLINES[notice.code]
    return "no whole frame"


def _values(judged: Judged, index: int, received: int, reason: str) -> tuple[Value, ...]:
    return tuple(
        Value(
            row.rule.quantity,
            round(float(row.values[index]), 6),
            row.rule.unit,
            shown(float(row.values[index]), row.rule),
            reason,
        )
        for row in judged.quantities
        if row.rule.first + 2 <= received
    )


def _windows(judged: Judged, index: int) -> dict[str, WindowUse]:
    used = {}
    for row, key in enumerate(KEYS):
        least = int(judged.classes.least_ns[row, index])
        most = int(judged.classes.most_ns[row, index])
        if least == ABSENT:
            continue
        window = judged.sheet.windows[key]
        used[key] = WindowUse(
            window=window,
            verdict=Verdict(int(judged.window_verdict[row, index])),
            count=int(judged.classes.count[row, index]),
            min_us=least / 1000,
            max_us=most / 1000,
            worst_margin_us=min(margin_us(least, window), margin_us(most, window)),
        )
    return used
