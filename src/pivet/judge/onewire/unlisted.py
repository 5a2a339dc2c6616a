"""What is measured against a window but is no listed pulse of a 1-Wire transaction.

From slot to slot and from release to first slot are spans over several pulses, and of very
many slots only some are listed.  Where such a window has a verdict of its own, the span or
pulse to blame is found here, so that no verdict stands without its cause.
"""

import numpy as np

from pivet.decode.onewire import OneWireExchanges, Speaker
from pivet.judge.margins import margin_share
from pivet.judge.onewire.case import Case
from pivet.judge.onewire.classes import FAST, KEYS, PLAIN
from pivet.judge.onewire.pulses import low_column, place_of
from pivet.judge.pulses import Pulse, judged_pulses
from pivet.judge.verdict import Verdict
from pivet.sheets.onewire import SEARCHES
from pivet.signal.trace import Int64Array

Spans = tuple[Int64Array, Int64Array, Int64Array]
"""Start (ns), length (ns) and slot of each, int64 (k,)."""


def with_unlisted(case: Case, verdict: Verdict) -> tuple[Pulse, ...]:
    """The listed pulses, and the worst unlisted one of each window with this verdict.

    Args:
        case: the transaction.
        verdict: the verdict of the pulses that are wanted.
    """
    told = {pulse.window.key for pulse in case.pulses if pulse.verdict is verdict}
    rows = np.flatnonzero(case.judged.window_verdict[:, case.index] == verdict)
    keys = [KEYS[number] for number in rows if KEYS[number] not in told]
    return (*case.pulses, *(_worst(case, key, verdict) for key in keys))


def _worst(case: Case, key: str, verdict: Verdict) -> Pulse:
    window = case.judged.sheet.windows[key]
    starts, lengths, slots = _spans(case.exchanges, case.index, key)
    walks = int(case.exchanges.command[case.index]) in SEARCHES
    high = PLAIN[KEYS.index(key) % len(PLAIN)] == "recovery"
    ends = (int(lengths.argmin()), int(lengths.argmax()))
    rows = judged_pulses(
        [
            (
                low_column(int(slots[at])) + high,
                window,
                high,
                place_of(int(slots[at]), walks),
                int(starts[at]),
                int(lengths[at]),
                int(slots[at]),
                False,
                0,
            )
            for at in ends
        ],
        case.uncertain_ns,
    )
    alike = [found for found in rows if found.verdict is verdict]
    return min(alike, key=lambda pulse: margin_share(pulse.width_ns, window))


def _spans(exchanges: OneWireExchanges, index: int, key: str) -> Spans:
    """Everything that is measured against one window."""
    part = exchanges.slots_of(index)
    falls, lows = exchanges.fall_ns[part], exchanges.low_ns[part].astype(np.int64)
    slots = np.arange(falls.size)
    plain = PLAIN[KEYS.index(key) % len(PLAIN)]
    if plain == "phase":
        release = exchanges.start_ns[index : index + 1] + exchanges.reset_ns[index]
        return release, falls[:1] - release, slots[:1]
    fast = np.full(falls.size, bool(exchanges.fast[index]))
    fast[8:] |= bool(exchanges.turns_fast[index])
    there = fast == (key in FAST)
    if plain in ("slot", "recovery"):
        there = there[:-1]
        begins = falls if plain == "slot" else falls + lows
        lengths = falls[1:] - begins[:-1]
        return begins[:-1][there], lengths[there], slots[:-1][there]
    one = exchanges.bit[part] == 1
    device = exchanges.speaker[part] == Speaker.DEVICE
    there = there & {"one": one, "zero": ~one & ~device, "hold": ~one & device}[plain]
    return falls[there], lows[there], slots[there]
