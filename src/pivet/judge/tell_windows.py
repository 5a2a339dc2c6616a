"""Sentences on pulses against their windows, alike for all families."""

from collections.abc import Collection, Iterator, Sequence

from pivet.decode.interface import Exchanges
from pivet.judge.pulses import Pulse
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count, limit_of, limits_of, us

MOST_SPIKES = 6
"""Of more spikes only the first few are told one by one."""

FEW = 3
"""How many stray pulses of one window are told one by one."""

WindowSentence = tuple[str, int | None, tuple[int, ...]]
"""A sentence, where to look (ns), and the pulses that it is about."""


def by_window(pulses: Sequence[Pulse]) -> dict[str, list[Pulse]]:
    """Pulses by the key of their window.

    Args:
        pulses: the pulses of an exchange.
    """
    groups: dict[str, list[Pulse]] = {}
    for pulse in pulses:
        groups.setdefault(pulse.window.key, []).append(pulse)
    return groups


def tell_outside(pulses: Sequence[Pulse], but: Collection[str] = ()) -> Iterator[WindowSentence]:
    """Pulses outside their windows; those of windows in ``but`` are told elsewhere.

    Args:
        pulses: the pulses of the exchange.
        but: keys of windows that are told elsewhere.
    """
    strays = [pulse for pulse in pulses if pulse.verdict is Verdict.UNSOUND]
    for key, group in by_window(strays).items():
        if key in but:
            continue
        if len(group) <= FEW:
            for pulse in group:
                yield _stray(pulse), pulse.start_ns, (pulse.column,)
            continue
        worst = min(group, key=lambda pulse: pulse.margin_us)
        all_of = sum(pulse.window.key == key for pulse in pulses)
        says = (
            f"{len(group)} of {all_of} pulses “{worst.window.label}” lie outside "
            f"{limits_of(worst.window)}; the worst, at {worst.place}, lasts {us(worst.width_us)}."
        )
        yield says, worst.start_ns, tuple(pulse.column for pulse in group)


def _stray(pulse: Pulse) -> str:
    long = pulse.width_us > pulse.window.typ_us
    label = pulse.window.label
    place = "The pulse" if pulse.place == label else f"{pulse.place[0].upper()}{pulse.place[1:]}:"
    return (
        f"{place} “{label}” lasts {us(pulse.width_us)}, "
        f"{us(-pulse.margin_us)} too {'long' if long else 'short'} for {limits_of(pulse.window)}."
    )


def tell_near(pulses: Sequence[Pulse], explained: bool = False) -> Iterator[WindowSentence]:
    """Pulses near a limit, one sentence a window; ``explained`` when their cause is told.

    Args:
        pulses: the pulses of the exchange.
        explained: their cause is told already.
    """
    near = [pulse for pulse in pulses if pulse.verdict is Verdict.NEAR]
    for group in by_window(near).values():
        worst = min(group, key=lambda pulse: pulse.share)
        window = worst.window
        above = window.max_us is not None and worst.width_us > window.typ_us
        limit = window.max_us if above and window.max_us is not None else window.min_us
        others = f" and {len(group) - 1} more" if len(group) > 1 else ""
        assumed = ", which is assumed" if window.assumed else ""
        stands = "is at the limit of"
        if worst.margin_us > 0:
            stands = f"leaves {us(worst.margin_us)} to the limit of"
        elif worst.margin_us < 0 and (window.assumed or window.common_us is not None):
            stands = f"is {us(-worst.margin_us)} beyond the limit of"
            if window.common_us is not None and not explained:
                assumed = ": outside the sheet, but common in copies of this part"
        place = "" if worst.place == window.label else f", {worst.place}{others}"
        says = f"“{window.label}”{place}: {us(worst.width_us)} {stands} {limit_of(limit)}{assumed}."
        yield says, worst.start_ns, tuple(pulse.column for pulse in group)


UNEXPLAINED = "Nothing that is known here explains it: see whether other exchanges show it too."
SPIKE_ADVICE = "Look for a motor, a relay or a long unshielded cable nearby."


def tell_spikes(
    pulses: Sequence[Pulse], exchanges: Exchanges, index: int
) -> Iterator[tuple[str, int, tuple[int, ...]]]:
    """Disturbances that were taken out of an exchange, each with the pulse that it was in.

    Args:
        pulses: the pulses of the exchange.
        exchanges: decoded, columns of n exchanges.
        index: of the exchange, from 0.
    """
    bounds = (int(exchanges.start_ns[index]), int(exchanges.end_ns[index]))
    first, last = exchanges.spike_start_ns.searchsorted(bounds).tolist()
    told = last if last - first <= MOST_SPIKES else first + FEW
    for at in range(first, told):
        start = int(exchanges.spike_start_ns[at])
        inside = next((pulse for pulse in pulses if pulse.start_ns <= start < pulse.end_ns), None)
        where = f" in {inside.place}" if inside else ""
        says = f"A spike of {us(float(exchanges.spike_width_ns[at]) / 1000)}{where} was removed."
        yield says, start, (inside.column,) if inside else ()
    if told < last:
        yield f"{last - told} more spikes were removed.", int(exchanges.spike_start_ns[told]), ()


def tell_coarse(pulses: Sequence[Pulse], resolution_ns: int) -> WindowSentence:
    """Pulses of which the capture is too coarse to say anything.

    Args:
        pulses: the pulses of the exchange.
        resolution_ns: step of the capture, ns.
    """
    unknown = [pulse for pulse in pulses if pulse.verdict is Verdict.UNKNOWN and not pulse.bound]
    says = (
        f"The capture's step of {us(resolution_ns / 1000)} is too coarse to say whether "
        f"{count(len(unknown), 'pulse is', 'pulses are')} inside."
    )
    at_ns = unknown[0].start_ns if unknown else None
    return says, at_ns, tuple(pulse.column for pulse in unknown)
