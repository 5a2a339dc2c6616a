"""Captures with damage of every kind, and what listening tells of them."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from pivet.captures.decoding import decode_lines
from pivet.captures.wire import Wire, make_wire
from pivet.files.jsonl import exchange_object
from pivet.listening import events as ev
from pivet.listening.listener import Listener
from pivet.listening.setup import WireSetup
from pivet.person.choices import WireChoices
from pivet.signal.trace import Int64Array, Line, Trace
from pivet.sources.replay import ReplaySource
from pivet.standin.probe.loop import MadeClock

Told = dict[tuple[str, int], dict[str, Any]]

BESIDE = ("event", "at", "attempt", "revised")
"""What may differ between a file and listening, beside the zero of time."""


def _rising(edges: Int64Array, start: int, end: int) -> Int64Array:
    found: Int64Array = np.unique(edges[(edges > start) & (edges < end)])
    return found


def _missing(edges: Int64Array, rng: np.random.Generator) -> Int64Array:
    return np.delete(edges, rng.integers(0, edges.size, rng.integers(1, 6)))


def _spikes(edges: Int64Array, rng: np.random.Generator) -> Int64Array:
    at = rng.integers(edges[0], edges[-1], rng.integers(1, 40))
    near = edges[rng.integers(0, edges.size, at.size)] + rng.integers(-300_000, 300_000, at.size)
    at = np.where(rng.random(at.size) < 0.7, near, at)
    return np.concatenate((edges, at, at + rng.integers(50, 3_000, at.size)))


def _jitter(edges: Int64Array, rng: np.random.Generator) -> Int64Array:
    return edges + rng.integers(-9_000, 9_000, edges.size)


def _silence(edges: Int64Array, rng: np.random.Generator) -> Int64Array:
    first, last = np.sort(rng.integers(0, edges.size, 2))
    return np.delete(edges, slice(first, min(last, first + 300)))


def _stretch(edges: Int64Array, rng: np.random.Generator) -> Int64Array:
    moved = edges.copy()
    moved[rng.integers(0, edges.size) :] += int(10 ** rng.uniform(3, 8))
    return moved


def _pulses(edges: Int64Array, rng: np.random.Generator) -> Int64Array:
    at = rng.integers(edges[0], edges[-1], 6)
    return np.concatenate((edges, at, at + (10 ** rng.uniform(3, 7.5, 6)).astype(np.int64)))


DAMAGES: tuple[Callable[[Int64Array, np.random.Generator], Int64Array], ...] = (
    _missing,
    _spikes,
    _jitter,
    _silence,
    _stretch,
    _pulses,
)


def part_of(wire: Wire, first: int, count: int) -> Trace:
    """A stretch of a wire's lines, as a capture by itself."""
    last = min(first + count, len(wire)) - 1
    start = int(wire.exchanges.start_ns[first]) - 40_000_000
    end = int(wire.exchanges.end_ns[last]) + 250_000_000
    start, end = max(start, wire.start_ns), min(end, wire.end_ns)
    lines = []
    for line in wire.lines:
        low, high = np.searchsorted(line.edges_ns, (start, end))
        lines.append(Line(line.name, line.level_at(start - 1), line.edges_ns[low:high]))
    return Trace(tuple(lines), start, end, wire.resolution_ns)


def damaged(trace: Trace, seed: int) -> Trace:
    """The same capture with some damage, cut anywhere."""
    rng = np.random.default_rng(seed)
    lines = []
    for line in trace.lines:
        edges = line.edges_ns
        for number in rng.choice(len(DAMAGES), rng.integers(0, 3), replace=False):
            if edges.size > 2:
                edges = _rising(DAMAGES[number](edges, rng), trace.start_ns, trace.end_ns)
        lines.append(Line(line.name, line.initial, edges))
    start, end = trace.start_ns, trace.end_ns
    if rng.random() < 0.3 and lines[0].edges_ns.size > 4:
        end = int(lines[0].edges_ns[rng.integers(2, lines[0].edges_ns.size)]) + 1
    if rng.random() < 0.3 and lines[0].edges_ns.size > 4:
        start = int(lines[0].edges_ns[rng.integers(0, lines[0].edges_ns.size // 2)])
    end = max(start + 1, end)
    cut = []
    for line in lines:
        low, high = np.searchsorted(line.edges_ns, (start, end))
        cut.append(Line(line.name, line.level_at(start - 1), line.edges_ns[low:high]))
    return Trace(tuple(cut), start, end, trace.resolution_ns)


def of_file(wires: Sequence[Wire], zero_ns: int) -> Told:
    """What an opened file says, as JSON; times from ``zero_ns``."""
    return {
        (wire.name, number): _from_zero(exchange_object(wire.report(number)), zero_ns)
        for wire in wires
        for number in range(len(wire))
    }


def _from_zero(row: dict[str, Any], zero_ns: int) -> dict[str, Any]:
    def moved(value: float | None) -> float | None:
        return None if value is None else round(value - zero_ns / 1e9, 9)

    found = {key: value for key, value in row.items() if key not in BESIDE}
    found["start_s"], found["end_s"] = moved(row["start_s"]), moved(row["end_s"])
    found["findings"] = [{**one, "at_s": moved(one["at_s"])} for one in row["findings"]]
    return found


def opened(trace: Trace, wire: Wire) -> Wire:
    """A damaged capture of a wire, as if it was named when it was opened."""
    exchanges = decode_lines(wire.family, trace.lines, trace)
    return make_wire(wire.family, trace.lines, trace, exchanges, WireChoices(sheet=wire.sheet))


def setup_of(wire: Wire) -> WireSetup:
    """The same wire, to be listened to."""
    return WireSetup(wire.name, tuple(line.name for line in wire.lines), wire.choices.sheet)


def listener_of(
    trace: Trace, setups: Sequence[WireSetup], pace: float, clock: MadeClock
) -> Listener:
    """A listener that hears a capture at a pace."""
    source = ReplaySource("damaged", trace, pace, clock.seconds, clock.sleep)
    return Listener(source, lambda _: setups, clock.seconds, clock.sleep)


def listened(listener: Listener, clock: MadeClock, looks: Callable[[], float]) -> list[ev.Event]:
    """All that is told until the capture is over; time passes by itself between two looks."""
    events: list[ev.Event] = [listener.open()]
    while not listener.over:
        clock.sleep(looks())
        events += listener.step(0.0)
    return events


def told(events: list[ev.Event]) -> Told:
    """The last word on each exchange, as JSON."""
    found: Told = {}
    for event in events:
        if isinstance(event, ev.Heard):
            key = (event.wire, event.number - 1)
            assert event.revised == (key in found), "told twice, or revised before it was told"
            found[key] = _from_zero(exchange_object(event.report()), 0)
        elif isinstance(event, ev.Withdrawn):
            del found[event.wire, event.number - 1]
    return found
