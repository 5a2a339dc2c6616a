"""Findings on bytes and values."""

from collections.abc import Callable, Iterator

import numpy as np

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.judge.belief import DOUBT_ADVICE, says_doubt
from pivet.judge.finding import Finding
from pivet.judge.humidity.case import Case
from pivet.judge.humidity.notices import Notice
from pivet.judge.notices import leading
from pivet.judge.tell_windows import UNEXPLAINED
from pivet.judge.wording import us
from pivet.readings.values import shown

DOUBT = 0.6
"""A bit is doubtful when it lies within this share of the way from the split to the middle
of its heap."""


def doubtful_bit(exchanges: HumidityExchanges, index: int) -> int | None:
    """The least certain bit that, taken the other way, would make the sum hold.

    Only a hint: never taken as the reading.  None when no doubtful bit does.

    Args:
        exchanges: decoded, columns of n exchanges.
        index: of the exchange, from 0.
    """
    bits = exchanges.bits(index)
    if bits.size < layout.BITS:
        return None
    highs = exchanges.highs_ns[:, index].astype(np.float64)
    split = float(exchanges.split_ns[index])
    place = 7 - np.arange(layout.BITS) % 8
    change = np.where(bits == 1, -1, 1) << place
    in_sum = np.arange(layout.BITS) >= 32
    packed = exchanges.packed[:, index].astype(np.int64)
    gap = int(packed[:4].sum() - packed[4])
    after = np.where(in_sum, gap - change, gap + change) % 256
    distance = np.abs(highs - split)
    middles = [np.median(highs[bits == value]) for value in (0, 1) if (bits == value).any()]
    reach = min(abs(float(middle) - split) for middle in middles)
    able = np.flatnonzero((after == 0) & (distance < DOUBT * reach))
    return int(able[np.argmin(distance[able])]) if able.size else None


def _sum_wrong(case: Case) -> Iterator[Finding]:
    packed = case.exchanges.packed[:, case.index]
    computed, sent = int(case.judged.computed[case.index]), int(packed[4])
    terms = " + ".join(f"{byte:02x}" for byte in packed[:4])
    says = f"The sum is wrong: {terms} gives {computed:02x}, but {sent:02x} was sent."
    bit = doubtful_bit(case.exchanges, case.index)
    if bit is None:
        yield case.finding(
            Notice.SUM_WRONG,
            f"{says} No single doubtful bit explains it.",
            f"Drop this reading. {UNEXPLAINED}"
            if leading(int(case.judged.notices[case.index]), Notice) is Notice.SUM_WRONG
            else "Drop this reading.",
        )
        return
    column = layout.high_column(bit)
    taken = int(case.exchanges.bits(case.index)[bit])
    yield case.finding(
        Notice.SUM_WRONG,
        f"{says} Bit {bit + 1} is doubtful ({us(case.width_us(column))}, taken as {taken}): "
        f"were it {1 - taken}, the sum would hold.",
        "Drop this reading: the hint shows where to look, it is no value.",
        case.find(column).start_ns,
        column,
    )


def _all_zeros(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.ALL_ZEROS,
        "All five bytes are zero: the sum holds, yet nothing was measured.",
        "Look for a line that is pulled down, or a sensor without supply.",
    )


def _too_doubtful(case: Case) -> Iterator[Finding]:
    doubt = float(case.judged.doubt[case.index])
    yield case.finding(Notice.TOO_DOUBTFUL, says_doubt("the sum", doubt), DOUBT_ADVICE)


def _wrong_type(case: Case) -> Iterator[Finding]:
    better = case.judged.better
    if better is not None:
        yield case.finding(
            Notice.WRONG_TYPE,
            f"This wire is judged as {case.judged.sheet.name}, but it fits the "
            f"{better.name} ({better.id}).",
            f"Choose {better.id} for this wire.",
        )


def _impossible(case: Case) -> Iterator[Finding]:
    for quantity in case.judged.quantities:
        if not quantity.possible[case.index]:
            rule = quantity.rule
            value = shown(float(quantity.values[case.index]), rule)
            yield case.finding(
                Notice.IMPOSSIBLE_VALUE,
                f"{rule.quantity.capitalize()} {value} {rule.unit} cannot come from this sensor "
                f"({rule.least:g} to {rule.most:g} {rule.unit}).",
                "" if case.has(Notice.WRONG_TYPE) else "Check the sensor type of this wire.",
            )


def _out_of_range(case: Case) -> Iterator[Finding]:
    for quantity in case.judged.quantities:
        if not quantity.in_range[case.index]:
            rule = quantity.rule
            value = shown(float(quantity.values[case.index]), rule)
            yield case.finding(
                Notice.OUT_OF_RANGE,
                f"{rule.quantity.capitalize()} {value} {rule.unit} is outside the range of the "
                f"sheet ({rule.low:g} to {rule.high:g} {rule.unit}).",
                "Take it with care: no accuracy is promised there.",
            )


def _other_sign(case: Case) -> Iterator[Finding]:
    row = next(quantity for quantity in case.judged.quantities if quantity.other_sign[case.index])
    value = shown(float(row.values[case.index]), row.rule)
    how = {
        "signed-tenths": "two's complement, where the maker's parts send sign and magnitude",
        "signed-whole-and-tenth": "the whole byte, where the maker's parts have it in the tenths",
    }[row.rule.form]
    yield case.finding(
        Notice.OTHER_SIGN,
        f"{value} {row.rule.unit}: this part sends the sign in {how}.",
        "Firmware must read both forms, or it prints nonsense below zero.",
    )


def _scale_edge(case: Case) -> Iterator[Finding]:
    row = next(
        quantity for quantity in case.judged.quantities if quantity.rule.quantity == "humidity"
    )
    yield case.finding(
        Notice.SCALE_EDGE,
        f"Humidity is exactly {row.values[case.index]:g} %RH, the edge of the scale.",
        "Suspect dew on the sensor, or one that is worn out.",
    )


TELL: dict[Notice, Callable[[Case], Iterator[Finding]]] = {
    Notice.WRONG_TYPE: _wrong_type,
    Notice.SUM_WRONG: _sum_wrong,
    Notice.ALL_ZEROS: _all_zeros,
    Notice.IMPOSSIBLE_VALUE: _impossible,
    Notice.TOO_DOUBTFUL: _too_doubtful,
    Notice.OUT_OF_RANGE: _out_of_range,
    Notice.SCALE_EDGE: _scale_edge,
    Notice.OTHER_SIGN: _other_sign,
}
