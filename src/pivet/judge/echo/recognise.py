"""Whether lines carry echo measurements."""

import numpy as np

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.judge.judgement import Likeness
from pivet.signal.trace import Int64Array

WAIT_NS = (100_000, 3_000_000)
"""From trigger to echo: 450..750 µs by the sheets, boards differ."""

ECHO_NS = (80_000, 250_000_000)
TRIGGER_NS = (1_000, 200_000)
"""Hosts trigger for 10 µs, some for 100; a servo's pulse is five times as long."""

ANSWERED_SHARE = 0.5
STEADY = 0.25
STEADY_NS = 60_000
"""Triggers are all alike, and so is a board's wait: they spread by less than either of these."""

ALONE_NS = (100_000, 45_000_000)
ALONE_APART_NS = 10_000_000
"""An echo line without its trigger: nothing but highs of these lengths, so far apart."""

ASKED_APART_NS = 10_000_000
APART_NS = 1_000_000
"""Triggers stand at least so far apart."""


def likeness(exchanges: EchoExchanges, lines: int = 1) -> Likeness:
    """How much one or two lines look like those of an echo sensor."""
    triggered = exchanges.trigger_ns != ABSENT
    count = int(np.count_nonzero(triggered))
    if not count:
        return _alone(exchanges)
    if lines == 2 and _only_asked(exchanges):
        return Likeness.ASKED
    trigger, wait = exchanges.trigger_ns, exchanges.wait_ns
    fits = triggered & (trigger >= TRIGGER_NS[0]) & (trigger <= TRIGGER_NS[1])
    answered = fits & (wait >= WAIT_NS[0]) & (wait <= WAIT_NS[1])
    answered &= (exchanges.flight_ns >= ECHO_NS[0]) & (exchanges.flight_ns <= ECHO_NS[1])
    rhythm = np.diff(exchanges.start_ns[triggered])
    steady = _steady(trigger[answered]) and _steady(wait[answered])
    calm = not rhythm.size or float(np.median(rhythm)) >= APART_NS
    alone = np.count_nonzero(~triggered)
    found = np.count_nonzero(answered) >= ANSWERED_SHARE * count and alone <= count
    return Likeness.ANSWERED if found and calm and steady else Likeness.POSSIBLE


def _only_asked(exchanges: EchoExchanges) -> bool:
    """Whether triggers come as a host's do, and no echo at all."""
    trigger, silent = exchanges.trigger_ns, exchanges.flight_ns == ABSENT
    fits = silent & (trigger >= TRIGGER_NS[0]) & (trigger <= TRIGGER_NS[1])
    apart = bool((np.diff(exchanges.start_ns) >= ASKED_APART_NS).all())
    return bool(fits.all()) and apart and _steady(trigger)


def _steady(lengths: Int64Array) -> bool:
    """Whether nearly all lengths are alike."""
    ordered = np.sort(lengths)
    if not ordered.size:
        return False
    low, middle, high = (int(ordered[int(share * (ordered.size - 1))]) for share in (0.1, 0.5, 0.9))
    return high - low <= max(STEADY * middle, STEADY_NS)


def _alone(exchanges: EchoExchanges) -> Likeness:
    """Echoes without triggers could be anything: a button, a servo, a dimmer."""
    return Likeness.OFFERED if looks_alone(exchanges) else Likeness.POSSIBLE


def looks_alone(exchanges: EchoExchanges) -> bool:
    """Whether a line may be that of echoes without its trigger."""
    flight, rises = exchanges.flight_ns, np.diff(exchanges.rise_ns)
    fits = (flight >= ALONE_NS[0]) & (flight <= ALONE_NS[1])
    untriggered = bool((exchanges.trigger_ns == ABSENT).all())
    apart = flight.size > 1 and bool((rises >= ALONE_APART_NS).all())
    return untriggered and apart and bool(fits.all())
