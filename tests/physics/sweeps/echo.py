"""Shots of echo sensors of which one figure grows."""

from collections.abc import Callable

import numpy as np

from pivet.signal.trace import Trace
from tests.physics.line import NOTHING, Times, forced, pulled_low, spans_at, traced
from tests.physics.sweeps.sweep import Make, Sweep

Change = Callable[[Times, Times, float], tuple[Times, Times]]

FLIGHTS = np.array([3105.4, 6402.8, 2711.0, 8000.5, 4502.25, 5210.7, 3999.1, 7444.4])


def _echoes(change: Change, count: int = 6, every: float = 100_000.0) -> Make:
    """Shots at walls; the figure changes the triggers (n, 2) or the echoes."""

    def make(figure: float) -> Trace:
        starts = 5000.0 + every * np.arange(count)
        triggers = spans_at(starts, np.full(count, 12.0))
        back = spans_at(starts + 472.0, np.resize(FLIGHTS, count))
        trigger, echoes = change(triggers, back, figure)
        return traced(
            {"trig": (trigger.ravel(), False), "echo": (echoes.ravel(), False)}, step_ns=1
        )

    return make


def _trigger(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    triggers[2, 1] = triggers[2, 0] + figure
    back[2] += max(figure - 12.0, 0.0)
    return triggers, back


def _waits(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    back += figure - 460.0
    return triggers, back


def _wait(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    back[2] += figure - 460.0
    return triggers, back


def _width(at: int | slice) -> Change:
    def change(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
        back[at, 1] = back[at, 0] + figure
        return triggers, back

    return change


def _gap(after: float) -> Change:
    def change(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
        gap = spans_at(back[2:3, 0] + after, np.array([figure]))
        return triggers, forced(back.ravel(), gap, False, False)

    return change


def _stray(before: float) -> Change:
    """A pulse so long, from so long before the echo (behind its end where negative)."""

    def change(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
        start = back[2, 0] - before if before > 0 else back[2, 1] - before
        return triggers, pulled_low(back, np.array([[start, start + figure]]))

    return change


def _stray_at(figure_width: float) -> Change:
    """A pulse behind the trigger, so late."""

    def change(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
        start = triggers[2, 1] + figure
        return triggers, pulled_low(back, np.array([[start, start + figure_width]]))

    return change


def _unasked(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    """The first so many triggers are missing."""
    return triggers[int(figure) :], back


def _alone(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    """The first so many echoes are missing."""
    return triggers, back[int(figure) :]


def _alike(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    """So many of the echoes are the longest of all, and alike."""
    back[: int(figure), 1] = back[: int(figure), 0] + 20_000.0
    return triggers, back


def _ragged(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    """The longest, three times, spread by the figure."""
    back[1::2, 1] = back[1::2, 0] + 20_000.0 + figure * np.arange(back[1::2].shape[0])
    return triggers, back


def _longest(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    """Every other echo is as long as the figure."""
    back[1::2, 1] = back[1::2, 0] + figure
    return triggers, back


def _others(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    """Half are the longest and alike; the others spread by the figure."""
    back[1::2, 1] = back[1::2, 0] + 20_000.0
    back[0::2, 1] = back[0::2, 0] + 4000.0 + figure * np.linspace(0, 1, back[0::2].shape[0])
    return triggers, back


def _few_others(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    """So many differ, behind those that are the longest and alike."""
    back[: len(back) - int(figure), 1] = back[: len(back) - int(figure), 0] + 20_000.0
    return triggers, back


def _pace_of(figure: float) -> Trace:
    return _echoes(lambda t, b, _: (t, b), 6, figure)(0.0)


def _one_line(change: Change) -> Make:
    """Trigger and echo on one pin."""

    def make(figure: float) -> Trace:
        two = _echoes(change)(figure)
        spans = [line.edges_ns.reshape(-1, 2) / 1000 for line in two.lines]
        return traced({"sig": (pulled_low(*spans), False)}, step_ns=1)

    return make


def _triggers(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    triggers[:, 1] = triggers[:, 0] + figure
    return triggers, back + max(figure - 12.0, 0.0)


def _trigger_spread(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    triggers[1::2, 1] += figure
    return triggers, back + figure


def _wait_spread(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    back[1::2] += figure
    return triggers, back


def _echo_alone(change: Change) -> Make:
    """The echo's line without its trigger."""

    def make(figure: float) -> Trace:
        line = _echoes(change)(figure).lines[1]
        return traced({"echo": (line.edges_ns / 1000, False)}, step_ns=1)

    return make


def _apart(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    """Shots follow each other by the figure."""
    move = (figure - 100_000.0) * np.arange(len(back))[:, None]
    return triggers + move, back + move


def _silent_apart(triggers: Times, back: Times, figure: float) -> tuple[Times, Times]:
    return _apart(triggers, back, figure)[0], NOTHING


SENSOR = "hc-sr04"
ECHO = [
    Sweep("trigger", _echoes(_trigger), 0.1, 40_000, SENSOR, "echo-pulse"),
    Sweep("wait", _echoes(_wait), 1, 20_000, SENSOR, "echo-pulse"),
    Sweep("wait of all", _echoes(_waits), 1, 20_000, SENSOR, "echo-pulse"),
    Sweep("flight", _echoes(_width(2)), 0.2, 90_000, SENSOR, "echo-pulse"),
    Sweep("flight of all", _echoes(_width(slice(None))), 0.2, 90_000, SENSOR, "echo-pulse"),
    Sweep("last flight", _echoes(_width(-1)), 0.2, 900_000, SENSOR, "echo-pulse"),
    Sweep("gap", _echoes(_gap(1000)), 0.1, 1600, SENSOR, "echo-pulse"),
    Sweep("early gap", _echoes(_gap(8)), 0.1, 900, SENSOR, "echo-pulse"),
    Sweep("gap near the end", _echoes(_gap(2600)), 0.1, 110, SENSOR, "echo-pulse"),
    Sweep("stray before", _echoes(_stray(350)), 0.1, 349, SENSOR, "echo-pulse"),
    Sweep("stray behind", _echoes(_stray(-400)), 0.1, 20_000, SENSOR, "echo-pulse"),
    Sweep("late stray", _echoes(_stray_at(40)), 1, 80_000, SENSOR, "echo-pulse"),
    Sweep("late long stray", _echoes(_stray_at(900)), 1, 80_000, SENSOR, "echo-pulse"),
    Sweep("triggers", _echoes(_triggers), 0.2, 400, None, "echo-pulse"),
    Sweep("spread of triggers", _echoes(_trigger_spread), 0, 120, None, "echo-pulse"),
    Sweep("spread of waits", _echoes(_wait_spread), 0, 1000, None, "echo-pulse"),
    Sweep("flights unnamed", _echoes(_width(slice(None))), 20, 90_000, None, "echo-pulse"),
    Sweep("echoes alone", _echo_alone(_width(slice(None))), 20, 60_000, None, "echo-pulse"),
    Sweep("echoes alone apart", _echo_alone(_apart), 9000, 40_000, None, "echo-pulse"),
    Sweep("silent apart", _echoes(_silent_apart), 500, 40_000, None, "echo-pulse"),
    Sweep("shots apart", _echoes(_apart), 9000, 40_000, None, "echo-pulse"),
    Sweep("not asked", _echoes(_unasked), 0, 6, None, "echo-pulse", 1000),
    Sweep("not answered", _echoes(_alone), 0, 6, None, "echo-pulse", 1000),
    Sweep("alike", _echoes(_alike, 8), 0, 8, SENSOR, "echo-pulse", 1000),
    Sweep("spread of the longest", _echoes(_ragged, 12), 0, 900, SENSOR, "echo-pulse"),
    Sweep("the longest", _echoes(_longest, 12), 2000, 60_000, SENSOR, "echo-pulse"),
    Sweep("spread of the others", _echoes(_others, 12), 0, 15_900, SENSOR, "echo-pulse"),
    Sweep("number of others", _echoes(_few_others, 8), 0, 8, SENSOR, "echo-pulse", 1000),
    Sweep("pace", _pace_of, 9_000, 120_000, SENSOR, "echo-pulse"),
    Sweep("flight on one pin", _one_line(_width(2)), 0.2, 90_000, SENSOR, "echo-pulse"),
    Sweep("wait on one pin", _one_line(_wait), 1, 6_000, SENSOR, "echo-pulse"),
    Sweep("gap on one pin", _one_line(_gap(1000)), 0.1, 1600, SENSOR, "echo-pulse"),
]
