"""Whether lines carry echo measurements."""

import numpy as np

from pivet.decode.echo import EchoExchanges
from pivet.decode.interface import ABSENT
from pivet.judge.judgement import Likeness
from pivet.signal.trace import BoolArray, Int64Array

WAIT_NS = (100_000, 3_000_000)
"""From trigger to echo: 450..750 µs by the sheets, boards differ."""

ECHO_NS = (80_000, 250_000_000)
TRIGGER_NS = (1_000, 200_000)
"""Hosts trigger for 10 µs, some for 100; a servo's pulse is five times as long."""

ANSWERED_SHARE, LEAST_ANSWERED = 0.5, 2
"""This many triggers are answered; fewer where all others are a host's, and nobody is in range."""

NEARLY = 0.9
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
    """How much one or two lines look like those of an echo sensor.

    Args:
        exchanges: decoded, columns of n exchanges.
        lines: how many.
    """
    triggered = exchanges.trigger_ns != ABSENT
    count = int(np.count_nonzero(triggered))
    if not count:
        return _alone(exchanges)
    fits, answered = _parts(exchanges, triggered)
    silent = fits & (exchanges.flight_ns == ABSENT)
    asked = lines == 2 and bool((silent | answered).all()) and _host_asks(exchanges)
    found = int(np.count_nonzero(answered))
    mostly = found >= ANSWERED_SHARE * count and np.count_nonzero(~triggered) <= count
    rhythm = np.diff(exchanges.start_ns[triggered])
    calm = not rhythm.size or float(np.median(rhythm)) >= APART_NS
    steady = _steady(exchanges.trigger_ns[answered]) and _steady(exchanges.wait_ns[answered])
    known = mostly or (asked and found >= LEAST_ANSWERED)
    if known and calm and steady:
        return Likeness.ANSWERED
    return Likeness.ASKED if asked else Likeness.POSSIBLE


def _parts(exchanges: EchoExchanges, triggered: BoolArray) -> tuple[BoolArray, BoolArray]:
    """Which triggers are such as hosts give, and which of these a sensor answered, bool (n,)."""
    trigger, wait, flight = exchanges.trigger_ns, exchanges.wait_ns, exchanges.flight_ns
    fits = triggered & (trigger >= TRIGGER_NS[0]) & (trigger <= TRIGGER_NS[1])
    answered = fits & (wait >= WAIT_NS[0]) & (wait <= WAIT_NS[1])
    answered &= (flight >= ECHO_NS[0]) & (flight <= ECHO_NS[1])
    return fits, answered


def _host_asks(exchanges: EchoExchanges) -> bool:
    """Whether triggers come as a host's do."""
    apart = bool((np.diff(exchanges.start_ns) >= ASKED_APART_NS).all())
    return apart and _steady(exchanges.trigger_ns)


def _steady(lengths: Int64Array) -> bool:
    """Whether nearly all lengths are alike: nine of ten lie close together, wherever."""
    if not lengths.size:
        return False
    ordered = np.sort(lengths)
    more = max(int(NEARLY * (ordered.size - 1)), min(1, ordered.size - 1))
    span = int((ordered[more:] - ordered[: ordered.size - more]).min())
    return span <= max(STEADY * int(ordered[(ordered.size - 1) // 2]), STEADY_NS)


def _alone(exchanges: EchoExchanges) -> Likeness:
    """Echoes without triggers could be anything: a button, a servo, a dimmer."""
    return Likeness.OFFERED if looks_alone(exchanges) else Likeness.POSSIBLE


def looks_alone(exchanges: EchoExchanges) -> bool:
    """Whether a line may be that of echoes without its trigger.

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    flight, rises = exchanges.flight_ns, np.diff(exchanges.rise_ns)
    fits = (flight >= ALONE_NS[0]) & (flight <= ALONE_NS[1])
    untriggered = bool((exchanges.trigger_ns == ABSENT).all())
    apart = flight.size > 1 and bool((rises >= ALONE_APART_NS).all())
    return untriggered and apart and bool(fits.all())
