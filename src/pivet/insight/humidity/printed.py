"""What humidity exchanges gave, and what mistakes in a firmware make of their bytes."""

from collections.abc import Iterator

from pivet.decode.humidity import HumidityExchanges, layout
from pivet.insight.printed.facts import Fact, Mistake, Truth
from pivet.judge.humidity import JudgedFrames
from pivet.sheets.model import ValueRule

TENTHS = ("tenths", "signed-tenths")
SIGN = 0x8000


def facts_of(exchanges: HumidityExchanges, judged: JudgedFrames) -> list[Fact]:
    """What each exchange gave.

    Args:
        exchanges: decoded, columns of n exchanges.
        judged: what the judge says of them.
    """
    given = [dict[str, Truth]() for _ in range(len(exchanges))]
    rules = {rule.quantity: rule for rule in judged.sheet.values}
    for track in judged.tracks:
        rule = rules.get(track.quantity)
        if rule is None:
            continue
        kept = track.given
        for index, value in zip(track.at[kept].tolist(), track.values[kept].tolist(), strict=True):
            high, low = exchanges.packed[rule.first : rule.first + 2, index].tolist()
            mistakes = tuple(_mistakes(rule, high, low))
            given[index][track.quantity] = Truth(value, track.decimals, mistakes)
    ends = (exchanges.end_ns / 1e9).tolist()
    asked = (exchanges.bit_count > 0) | (exchanges.pulse_count > 0)
    return [
        Fact(index, ends[index], "", given[index])
        for index in range(len(exchanges))
        if given[index] or asked[index] or exchanges.bit_count[index] < layout.BITS
    ]


def _mistakes(rule: ValueRule, high: int, low: int) -> Iterator[Mistake]:
    raw, swapped = high << 8 | low, low << 8 | high
    if rule.form in TENTHS:
        yield Mistake("bytes-swapped", swapped / 10, f"0x{low:02x}{high:02x} = {swapped}, / 10")
        yield Mistake("other-type", float(high), f"only the first byte, 0x{high:02x} = {high}")
        yield Mistake("other-type", high + low / 10, f"{high} and {low} tenths, as an 11-type")
        yield Mistake("other-type", high + low / 256, f"{high} and {low}/256")
    else:
        yield Mistake("bytes-swapped", low + high / 10, f"{low} and {high} tenths")
        yield Mistake("other-type", raw / 10, f"0x{raw:04x} = {raw}, / 10, as a 22-type")
        signed = (raw & ~SIGN) / 10 * (-1 if raw & SIGN else 1)
        yield Mistake("other-type", signed, f"0x{raw:04x}, sign and tenths, as a 22-type")
    if rule.form == "signed-tenths" and raw & SIGN:
        part = raw & ~SIGN
        yield Mistake(
            "sign-as-magnitude",
            raw / 10,
            f"0x{raw:04x} = {raw}, / 10: the sign bit counts as 32768",
        )
        yield Mistake(
            "sign-as-magnitude", part / 10, f"0x{raw:04x} without its sign bit = {part}, / 10"
        )
        yield Mistake(
            "twos-complement",
            (raw - 0x10000) / 10,
            f"0x{raw:04x} as two's complement = {raw - 0x10000}, / 10",
        )
        yield Mistake("sign-as-magnitude", -part / 10, f"0x{raw:04x}: minus {part}, / 10")
    if rule.form == "signed-whole-and-tenth" and (low | high) & 0x80:
        tenth = low & 0x7F
        yield Mistake(
            "sign-as-magnitude", high + low / 10, f"{high} and {low} tenths, sign bit and all"
        )
        yield Mistake(
            "sign-as-magnitude",
            (high & 0x7F) + tenth / 10,
            f"{high & 0x7F} and {tenth} tenths, no minus",
        )
        complement = low - 256 if low & 0x80 else low
        yield Mistake("twos-complement", high + complement / 10, f"{high} and {complement} tenths")
