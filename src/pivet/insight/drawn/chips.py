"""Single pulses in a line, each with its width; those that are not sound stand out."""

from collections.abc import Iterable, Iterator

from pivet.insight.drawn.picture import Shape, Words, kind_of
from pivet.judge.pulses import Pulse
from pivet.judge.verdict import Verdict
from pivet.judge.wording import us

SIZE = 10.0


def width_words(pulse: Pulse) -> str:
    """How long a pulse lasts, or at least lasts.

    Args:
        pulse: a pulse.
    """
    return f"{'≥ ' if pulse.bound else ''}{us(pulse.width_us)}"


def chip_words(pulse: Pulse) -> str:
    """What a pulse is, and how long it lasts.

    Args:
        pulse: a pulse.
    """
    return f"{pulse.window.label} {width_words(pulse)}"


def chips(pulses: Iterable[Pulse], left: float, base: float, pitch: float) -> Iterator[Shape]:
    """Pulses side by side.

    Args:
        pulses: the pulses, in the order on the wire.
        left: where the first begins, px.
        base: of their letters, px.
        pitch: from one to the next, px.
    """
    for number, pulse in enumerate(pulses):
        bold = pulse.verdict is not Verdict.SOUND
        at, kind = left + number * pitch, kind_of(pulse.verdict)
        yield Words(at, base, chip_words(pulse), kind, size=SIZE, bold=bold)
