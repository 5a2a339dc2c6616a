"""What was found beside the wire, as plain text."""

from collections.abc import Iterator

from pivet.insight.printed.check import CODES, INVENTED, MISSING, UNEXPLAINED, Crosscheck, Pair
from pivet.insight.printed.classify import SAME, STALE

COUNTED = {
    SAME: "the same",
    STALE: "stale: what the exchange before gave",
    MISSING: "missing: the wire gave a reading that was not printed",
    INVENTED: "invented: printed, but the wire gave no such reading",
    UNEXPLAINED: "neither the same nor any mistake that is known",
}
MOST = 3


def crosscheck_lines(title: str, found: Crosscheck) -> Iterator[str]:
    """What was printed beside what the wire gave, as a table and a sentence a cause.

    Args:
        title: the title of the wire.
        found: the comparison.
    """
    yield f"{title} · {len(found.lines)} printed lines, {found.paired} beside an exchange"
    for says in binding_words(found):
        yield f"  {says}"
    for code, words in COUNTED.items():
        if found.count(code):
            yield f"  {found.count(code):>7,}  {words}"
    for code, number, example in found.explained:
        yield f"  {number:>7,}  {code}: {CODES[code]}"
        yield f"           {example_words(example)}"
    for code in (UNEXPLAINED, INVENTED):
        rows = [pair for pair in found.pairs if pair.code == code][:MOST]
        for pair in rows:
            yield f"           {code}: {pair_words(pair)}"


def binding_words(found: Crosscheck) -> Iterator[str]:
    """Which numbers were taken for which quantity.

    Args:
        found: the comparison.
    """
    for (shape, at), bound in found.binding.items():
        unit = f", {bound.unit.symbol}" if bound.unit.symbol else ""
        yield f"number {at + 1} of {shape!r} is the {bound.quantity}{unit}"


def example_words(pair: Pair) -> str:
    """A printed number, what the wire gave, and the arithmetic between.

    Args:
        pair: of them.
    """
    line = f": {pair.line}" if pair.line else ""
    return f"{pair_words(pair)}{line}"


def pair_words(pair: Pair) -> str:
    """Where a number stands, and what it stands beside.

    Args:
        pair: the pair of a line and an exchange, or one of them.
    """
    where = "" if pair.entry is None else f"line {pair.entry.line.number} has {pair.printed}"
    if pair.fact is None:
        return where
    gave = pair.wire or "no reading"
    return f"{where}, exchange {pair.fact.exchange} gave {gave}"
