"""All pulses of echo measurements."""

from collections.abc import Iterator

from pivet.insight.pulses import Widths, one_each
from pivet.judge.echo import JudgedShots


def widths(judged: JudgedShots) -> Iterator[Widths]:
    """All pulses, window by window.

    Args:
        judged: what the judge says of n measurements.
    """
    for window, lengths in zip(judged.sheet.windows.values(), judged.classes.least_ns, strict=True):
        yield one_each(window, lengths)
