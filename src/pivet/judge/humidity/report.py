"""Everything about one humidity exchange."""

from functools import lru_cache, partial
from operator import itemgetter

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.frozen import FrozenValue
from pivet.judge.belief import doubt_words, refused_doubt
from pivet.judge.case import findings_of
from pivet.judge.humidity.case import Case
from pivet.judge.humidity.classes import KEYS
from pivet.judge.humidity.findings import TELLERS
from pivet.judge.humidity.judged import JudgedFrames
from pivet.judge.humidity.notices import HEADLINES, Notice
from pivet.judge.humidity.pulses import ASK, pulses_of
from pivet.judge.later import Call, Later
from pivet.judge.pulses import Pulse
from pivet.judge.report import (
    Check,
    Report,
    Stretch,
    Value,
    WindowRow,
    as_float,
    headline_of,
    stretch,
    window_rows,
)
from pivet.judge.verdict import VERDICTS
from pivet.readings.values import shown

SOUND = "Sound: the sum holds and every pulse is inside"
NO_SUM = "No sum to check: the frame is not whole."
BITS_IN_BYTE = 8


IN_ORDER = itemgetter(*KEYS)
"""The windows of a sheet, in the order of the rows of the classes."""


class Frame(FrozenValue):
    """What only a humidity exchange has: how many whole bits came."""

    bit_count: int


REFUSALS = (
    Notice.WRONG_TYPE,
    Notice.SUM_WRONG,
    Notice.ALL_ZEROS,
    Notice.IMPOSSIBLE_VALUE,
    Notice.CUT_SHORT,
    Notice.CAPTURE_ENDED,
    Notice.TOO_DOUBTFUL,
)


def report(exchanges: HumidityExchanges, judged: JudgedFrames, index: int, wire: str) -> Report:
    """Everything about exchange ``index``.

    Args:
        exchanges: decoded, columns of n exchanges.
        judged: what the judge says of them, as columns.
        index: of the exchange, from 0.
        wire: its name, for people.
    """
    make_pulses = Later(pulses_of, exchanges, judged, index)
    bits = int(exchanges.bit_count[index])
    data = exchanges.packed[:, index].tobytes()[: bits // 8]
    given = bool(judged.given[index])
    case = Case(exchanges, judged, index, make_pulses)
    findings = findings_of(case, TELLERS)
    reason = "" if given else _refusal(case)
    values = _values(judged, index, len(data), reason)
    verdict = VERDICTS[judged.verdict[index]]
    return Report(
        number=index,
        wire=wire,
        sheet=judged.sheet,
        start_ns=int(exchanges.start_ns[index]),
        end_ns=int(exchanges.end_ns[index]),
        verdict=verdict,
        headline=headline_of(verdict, findings, HEADLINES, SOUND),
        data=data,
        check=_check(judged, index, data),
        readings=values if given else (),
        refused=() if given else values,
        gap="" if values else f"No reading: {bits} of {layout.BITS} bits came.",
        findings=findings,
        detail=Frame(bits),
        make_pulses=make_pulses,
        make_windows=partial(_windows, judged, index),
        make_stretches=partial(_stretches, judged, values),
    )


def _windows(judged: JudgedFrames, index: int) -> list[WindowRow]:
    windows = partial(IN_ORDER, judged.sheet.windows)
    return window_rows(judged, judged.classes, judged.window_verdict, windows, index)


def _refusal(case: Case) -> str:
    doubt = float(case.judged.doubt[case.index])
    words = {**HEADLINES, Notice.TOO_DOUBTFUL.code: doubt_words(doubt)}
    return case.first_words(REFUSALS, words, "no whole frame")


def _check(judged: JudgedFrames, index: int, data: bytes) -> Check:
    if len(data) < layout.BYTES:
        return Check("sum8", None, make_says=Call(str, (NO_SUM,)))
    return sum_check(data)


@lru_cache(maxsize=4096)
def sum_check(data: bytes) -> Check:
    """The sum of five bytes.

    Args:
        data: bytes, in the order on the wire.
    """
    computed, sent = sum(data[:4]) & 0xFF, data[4]
    return Check("sum8", computed == sent, sent, computed, Call(sum_words, (data,)))


def sum_words(data: bytes) -> str:
    """The sum of five bytes, written out as a person would do it.

    Args:
        data: bytes, in the order on the wire.
    """
    payload, sent = data[:4], data[4]
    total = sum(payload)
    terms = " + ".join(f"{byte:02x}" for byte in payload)
    carried = f" → {total & 0xFF:02x}" if total > 0xFF else ""
    return f"{terms} = {total:02x}{carried}, sent {sent:02x}"


def _values(judged: JudgedFrames, index: int, received: int, reason: str) -> tuple[Value, ...]:
    doubt = refused_doubt(float(judged.doubt[index])) if reason else None
    came = [one for one in judged.quantities if one.rule.first + 2 <= received]
    values = [(one.rule, float(one.values[index])) for one in came]
    return tuple(
        [
            Value(
                rule.quantity, as_float(value), rule.unit, shown(value, rule), reason, doubt=doubt
            )
            for rule, value in values
        ]
    )


def _stretches(
    judged: JudgedFrames, values: tuple[Value, ...], pulses: tuple[Pulse, ...]
) -> list[Stretch]:
    """Ask, answer, values, check sum."""
    groups = [("ask", "ask", (ASK,)), ("answer", "ans.", (layout.ANSWER_LOW, layout.ANSWER_HIGH))]
    given = {value.quantity: f"{value.text} {value.unit}" for value in values if not value.reason}
    for rule in judged.sheet.values:
        text = given.get(rule.quantity, rule.quantity)
        groups.append((text, rule.quantity[:4], _bytes(rule.first, 2)))
    groups.append(("check sum", "sum", _bytes(layout.BYTES - 1, 1)))
    places = {pulse.column: pulse for pulse in pulses}
    return [
        found
        for text, short, columns in groups
        for found in stretch(
            text, short, [places[column] for column in columns if column in places]
        )
    ]


def _bytes(first: int, count: int) -> tuple[int, ...]:
    start = layout.low_column(first * BITS_IN_BYTE)
    return tuple(range(start, start + 2 * BITS_IN_BYTE * count))
