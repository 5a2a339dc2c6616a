"""Margins, comparisons and rehearsals as plain text."""

from collections.abc import Iterator, Sequence

from pivet.insight.compare import Comparison, Moved, Share, Shift
from pivet.insight.follows import Follows
from pivet.insight.margins import Between, Margin, Margins
from pivet.insight.outcomes import Outcome
from pivet.insight.rehearsal import Rehearsal
from pivet.insight.suggestion import Constant, Suggestion
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count, limits_of, us

HEADS = ("pulse", "pulses", "1 %", "middle", "99 %", "least margin", "outside", "near")


def many(number: int, one: str) -> str:
    """A count with its word, thousands apart.

    Args:
        number: how many.
        one: the word for one of them.
    """
    return f"{number:,} {one if number == 1 else one + 's'}"


def margin_words(row: Margin) -> str:
    """The least margin of a window.

    Args:
        row: its pulses.
    """
    least = row.least_us
    if least < 0:
        return f"{us(-least)} outside"
    return f"{us(least)} inside"


def between_words(between: Between, margins: Margins) -> str:
    """What lies between two kinds of pulses, as a sentence.

    Args:
        between: of which kinds.
        margins: with their windows.
    """
    labels = []
    for key in (between.shorter, between.longer):
        row = margins.row(key)
        labels.append(key if row is None else row.window.label)
    if between.free_us > 0:
        return (
            f"{labels[0]} and {labels[1]} are {us(between.free_us)} apart: anything from "
            f"{between.low_us:.1f} to {between.high_us:.1f} µs tells them"
        )
    return (
        f"{labels[0]} and {labels[1]} overlap by {us(-between.free_us)}: no threshold tells all of "
        "them"
    )


def margin_lines(
    title: str, margins: Margins, follows: Sequence[Follows], position: str
) -> Iterator[str]:
    """How the pulses of a wire lie in their windows.

    Args:
        title: the title of the wire.
        margins: the margins of its pulses.
        follows: what they follow.
        position: what a position in an exchange is called.
    """
    yield f"{title} · {many(margins.exchanges, 'exchange')}"
    rows = [HEADS, *(_margin_row(row) for row in margins.rows)]
    yield from _table(rows)
    for between in margins.between:
        yield f"  {between_words(between, margins)}."
    for row in margins.rows:
        if row.least_us < 0:
            stray = row.strays[0]
            where = f", {position} {stray.position + 1}" if stray.position >= 0 else ""
            yield (
                f"  worst {row.window.label}: {us(stray.width_ns / 1000)} for "
                f"{limits_of(row.window)}, exchange {stray.exchange}{where}"
            )
    for one in follows:
        yield f"  {one.says}."


def _margin_row(row: Margin) -> tuple[str, ...]:
    quantiles = (us(row.spread.quantile_us(share)) for share in (0.01, 0.5, 0.99))
    return (
        row.window.label,
        f"{row.spread.total:,}",
        *quantiles,
        margin_words(row),
        f"{row.count(Verdict.UNSOUND):,}",
        f"{row.count(Verdict.NEAR):,}",
    )


def _table(rows: Sequence[Sequence[str]]) -> Iterator[str]:
    """Rows under each other; the first column is text, all others stand at their right."""
    widths = [max(len(row[at]) for row in rows) for at in range(len(rows[0]))]
    for row in rows:
        cells = [row[0].ljust(widths[0])]
        cells += [cell.rjust(width) for cell, width in zip(row[1:], widths[1:], strict=True)]
        yield "  " + "  ".join(cells).rstrip()


WORDS = {Moved.MOVED: "moved", Moved.SAME: "same", Moved.TOO_FEW: "too few to tell"}


def shift_words(shift: Shift) -> str:
    """How a kind of pulse moved, in a few words.

    Args:
        shift: the shift of its widths.
    """
    if shift.verdict is not Moved.MOVED:
        return WORDS[shift.verdict]
    half = (shift.high_us - shift.low_us) / 2
    return f"moved by {shift.shift_us:+.2f} ± {half:.2f} µs"


def share_words(share: Share) -> str:
    """A share of sound exchanges with its interval.

    Args:
        share: as it was seen.
    """
    if not share.total:
        return "no exchange"
    return (
        f"{share.share:.1%} sound ({share.sound:,} of {share.total:,}; in the long run "
        f"{share.low:.1%} to {share.high:.1%})"
    )


def comparison_lines(found: Comparison) -> Iterator[str]:
    """What differs between two sets of exchanges.

    Args:
        found: their comparison.
    """
    yield f"{found.verdict.replace('too-few', 'too few to tell').capitalize()}."
    yield f"  before  {share_words(found.before)}"
    yield f"  after   {share_words(found.after)}"
    for note in found.notes:
        yield f"  note: {note}"
    rows: list[tuple[str, ...]] = [("pulse", "before", "after", "")]
    for shift in found.shifts:
        sides = (_side_words(side) for side in (shift.before, shift.after))
        rows.append((shift.window.label, *sides, shift_words(shift)))
    yield from _table(rows)
    if found.reasons:
        yield from _table([("reason", "before", "after"), *_reason_rows(found)])


def _reason_rows(found: Comparison) -> Iterator[tuple[str, str, str]]:
    for code, before, after in found.reasons:
        yield code, f"{before:,}", f"{after:,}"


def _side_words(side: Margin | None) -> str:
    return "-" if side is None else us(side.spread.quantile_us(0.5))


OUTCOMES = {
    Outcome.RIGHT: "read right",
    Outcome.REFUSED: "refused by the check",
    Outcome.WRONG: "TAKEN ALTHOUGH WRONG",
    Outcome.TIMEOUT: "given up",
}


def rehearsal_lines(title: str, found: Rehearsal, what: str) -> Iterator[str]:
    """What a firmware would have made of exchanges.

    Args:
        title: the title of the wire.
        found: what became of them.
        what: such a reader does, for people.
    """
    share, low, high = found.right
    yield f"{title} · {many(len(found.found), 'exchange')}, for a reader that {what}"
    yield f"  {share:.1%} read right (in the long run {low:.1%} to {high:.1%})"
    for outcome, words in OUTCOMES.items():
        yield f"  {found.count(outcome):>9,}  {words}"
    for why in found.why:
        yield f"  {why}."
    failed = found.failed()
    if failed:
        shown = ", ".join(f"{number} ({outcome.code})" for number, outcome in failed)
        yield f"  first of them: exchange{'s' * (len(failed) > 1)} {shown}"
    yield from suggestion_lines(found.suggested)


def constant_words(one: Constant) -> str:
    """A constant with its unit.

    Args:
        one: that is suggested.
    """
    if one.unit == "µs":
        return us(one.value)
    return f"{one.value:.1f} {one.unit}" if one.unit else f"{one.value:g}"


def suggestion_lines(found: Suggestion) -> Iterator[str]:
    """Which constants some exchanges suggest, and what stands behind them.

    Args:
        found: the suggestion.
    """
    if not found.constants:
        yield f"  Nothing can be suggested: {found.why_not}."
        return
    for one in found.constants:
        yield f"  take {one.label}: {constant_words(one)} ({one.why})"
    yield (
        f"  Of {many(found.exchanges, 'exchange')}: others may lie beyond in fewer than "
        f"{found.beyond:.2%} (95 %)."
    )
    if found.beside:
        yield f"  {found.beside}."


def header_lines(found: Suggestion, kind: str, family: str) -> Iterator[str]:
    """The constants as a C header.

    Args:
        found: the suggestion.
        kind: of reader.
        family: what the wire carries, for people.
    """
    yield f"/* Constants for a reader of {family}, kind: {kind}."
    yield f" * From {count(found.exchanges, 'captured exchange')}; what was never seen in them may"
    yield f" * still come, in fewer than {found.beyond:.2%} of exchanges (95 %). */"
    yield "#ifndef SENSOR_TIMING_H"
    yield "#define SENSOR_TIMING_H"
    for one in found.constants:
        yield ""
        yield f"/* {one.label}: {one.why}. */"
        yield f"#define SENSOR_{one.name.upper()} {_in_c(one, found)}"
    if not found.constants:
        yield ""
        yield f"/* Nothing can be suggested: {found.why_not}. */"
    yield ""
    yield "#endif"


def _in_c(one: Constant, found: Suggestion) -> str:
    """A whole number where that is still among those that read everything, else a fraction."""
    whole = round(one.value)
    if one is found.constants[0] and found.low_us is not None and found.high_us is not None:
        fits = found.low_us <= whole < found.high_us
    else:
        fits = one.unit != "m/s"
    return f"{whole}u" if fits else f"{one.value:.2f}f"
