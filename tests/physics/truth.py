"""How true the values are that are given: every family under every class of damage, counted."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from pivet.captures.capture import capture_of
from pivet.captures.wire import Wire
from pivet.decode.echo import EchoExchanges
from pivet.decode.humidity import HumidityExchanges
from pivet.decode.onewire import OneWireExchanges
from pivet.frozen import replace
from pivet.judge.echo import JudgedShots
from pivet.judge.humidity import JudgedFrames
from pivet.judge.onewire import JudgedTransactions
from pivet.readings.sound import fixed_air
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Trace
from tests.physics import echo, humidity, onewire
from tests.physics.line import (
    NOTHING,
    Random,
    Times,
    flipped,
    forced,
    jitter,
    joined,
    near_edges,
    pulled_low,
    rung,
    sampled,
    slow_rise,
    spans_at,
    traced,
)

Damage = Callable[[Random, Times], Times]
EVERY_US = 2_100_000.0
METRES = 0.004
"""A distance that is off by more is wrong: the sheet's 3 mm, and a step of the recorder."""


@dataclass
class Score:
    """How the values of one class fared.

    Attributes:
        name: of the class.
        sent: values that were sent.
        right, wrong: given, and as they were sent or not.
        lost: right ones that are not given, although the check holds.
        looked, named: exchanges that are not sound, and those whose first finding is the cause.
    """

    name: str
    sent: int = 0
    right: int = 0
    wrong: int = 0
    lost: int = 0
    looked: int = 0
    named: int = 0

    @property
    def refused(self) -> int:
        """Values that are not given."""
        return self.sent - self.right - self.wrong


def _spiky(widths: tuple[float, float], share: float) -> Damage:
    def made(random: Random, edges: Times) -> Times:
        spans = near_edges(random, edges, share, widths)
        return (
            flipped(edges, spans)
            if random.random() < 0.5
            else forced(edges, spans, bool(random.random() < 0.5))
        )

    return made


def _lossy(random: Random, edges: Times) -> Times:
    """A recorder that drops edges in pairs."""
    pairs = np.flatnonzero(random.random(edges.size // 2 - 1) < 0.01) * 2 + random.integers(0, 2)
    return np.delete(edges, np.concatenate((pairs, pairs + 1)))


def _both(first: Damage, second: Damage) -> Damage:
    return lambda random, edges: second(random, first(random, edges))


def _jitter(sigma: float) -> Damage:
    return lambda random, edges: jitter(random, edges, sigma)


def _step(step: float) -> Damage:
    return lambda random, edges: sampled(random, edges, step)


def _late(random: Random, edges: Times) -> Times:
    """A recorder that serves edges by interrupt: now and then one waits for another."""
    late = np.where(random.random(edges.size) < 0.03, random.exponential(15, edges.size), 0.0)
    moved: Times = np.maximum.accumulate(edges + late)
    return moved + 1e-6 * np.arange(edges.size)


KEPT: dict[str, Damage] = {
    "clean": lambda random, edges: edges,
    "slow rise of 12 µs": lambda random, edges: slow_rise(edges, 12.0),
    "spikes under 2 µs": _spiky((0.3, 1.9), 0.02),
    "jitter of 2 µs": _jitter(2),
    "jitter of 4 µs": _jitter(4),
}
"""Here at most 1 in 100 of the right values may be lost."""

HARD: dict[str, Damage] = {
    "jitter of 6 µs": _jitter(6),
    "jitter of 8 µs": _jitter(8),
    "jitter of 12 µs": _jitter(12),
    "jitter of 20 µs": _jitter(20),
    "spikes of 2 to 20 µs": _spiky((2, 20), 0.02),
    "spikes of 2 to 20 µs, many": _spiky((2, 20), 0.08),
    "spikes of 10 to 60 µs": _spiky((10, 60), 0.02),
    "edges lost": _lossy,
    "late interrupts": _late,
    "reflections of 3 µs": lambda random, edges: rung(edges, 2.5, 3.0),
    "steps of 5 µs": _step(5),
    "steps of 10 µs": _step(10),
    "steps of 16 µs": _step(16),
    "steps of 20 µs": _step(20),
    "steps of 25 µs": _step(25),
    "steps of 33 µs": _step(33),
    "steps of 50 µs": _step(50),
    "steps of 10 µs, jitter of 4": _both(_jitter(4), _step(10)),
    "spikes and lost edges": _both(_spiky((2, 20), 0.02), _lossy),
}
CLOCKS = {
    "clock 12 % slow": replace(humidity.AM, clock=1.12),
    "clock 12 % fast": replace(humidity.AM, clock=0.88),
}
STEPS = {
    "5": 5000,
    "10": 10_000,
    "16": 16_000,
    "20": 20_000,
    "25": 25_000,
    "33": 33_000,
    "50": 50_000,
}


def _step_of(name: str) -> int:
    for text, step in STEPS.items():
        if name.startswith(f"steps of {text} "):
            return step
    return 10


def wires_of(trace: Trace, sensor: str | None, wire: str | None = None) -> tuple[Wire, ...]:
    """The wires that are found; the sensor as somebody chose it."""
    sheet = None if sensor is None else find_sheet(sensor)
    return capture_of(Path("made.vcd"), trace, sheet, wire, air=fixed_air(20.0)).wires


def _near(row: tuple[float, ...], other: tuple[float, ...], by: float) -> bool:
    return len(row) == len(other) and all(abs(a - b) <= by for a, b in zip(row, other, strict=True))


CAUSES: dict[str, tuple[str, ...]] = {
    "slow rise": ("slow-rise",),
    "spikes under": ("split-slots", "spike-removed"),
    "jitter": ("scatter",),
    "spikes of": (
        "split-slots",
        "extra-pulses",
        "spike-removed",
        "cut-short",
        "scatter",
        "pulse-outside",
    ),
    "edges lost": (
        "broken-off",
        "split-slots",
        "cut-short",
        "extra-pulses",
        "scatter",
        "pulse-outside",
        "crc-wrong",
    ),
    "late": ("scatter", "pulse-outside"),
    "reflections": ("reflections", "echo-broken", "stray-pulses"),
    "steps": ("too-coarse",),
    "clock": ("clock-off",),
    "a copy": ("copy-habits",),
    "gaps of 1": ("echo-broken", "echo-ragged"),
    "gaps of 20": ("several-echoes", "echo-ragged", "echo-broken", "stray-pulses"),
    "strays on": ("too-soon", "echo-ragged", "nobody-asked"),
    "strays": ("stray-pulses", "echo-ragged", "several-echoes", "nobody-asked", "echo-broken"),
}
"""What may be named first in each class; in others nothing is."""
LOOKED_AT = 60


def look(score: Score, wire: Wire) -> None:
    """Counts how often the first finding of what is not sound is the cause."""
    codes = next((codes for name, codes in CAUSES.items() if score.name.startswith(name)), ())
    if not codes:
        return
    rows = np.flatnonzero(wire.verdicts != 0)
    for index in rows[:: max(rows.size // LOOKED_AT, 1)][:LOOKED_AT].tolist():
        findings = wire.report(index).findings
        score.looked += 1
        score.named += bool(findings) and findings[0].code in codes


def humidity_score(
    name: str,
    damage: Damage,
    random: Random,
    count: int,
    part: humidity.Part = humidity.AM,
    sensor: str | None = "dht22",
    rests_ns: int | None = None,
) -> Score:
    """Frames of a 22-type under one damage."""
    frames = humidity.random_frames(random, count)
    pieces = []
    for number, data in enumerate(frames):
        clean = humidity.exchange(data, 20_000 + number * EVERY_US, part)
        pieces.append(damage(random, clean))
    trace = traced({"data": (joined(pieces), True)}, step_ns=rests_ns or _step_of(name))
    sent = [
        (int.from_bytes(d[:2]) / 10, (int.from_bytes(d[2:4]) & 0x7FFF) / 10 * (1 - 2 * (d[2] >> 7)))
        for d in frames
    ]
    score = Score(name, sent=count)
    for wire in wires_of(trace, sensor, "data" if sensor else None):
        look(score, wire)
        columns, judged = wire.columns(HumidityExchanges, JudgedFrames)
        place = np.rint((columns.start_ns / 1000 - 20_000) / EVERY_US).astype(int)
        for index in range(len(wire)):
            values = tuple(float(row.values[index]) for row in judged.quantities)
            right = 0 <= place[index] < count and _near(values, sent[place[index]], 0.01)
            if judged.given[index]:
                score.right += right
                score.wrong += not right
            elif right and judged.check[index] == 1:
                score.lost += 1
    return score


def onewire_score(name: str, damage: Damage, random: Random, count: int) -> Score:
    """Scratchpads of one device under one damage; each conversion is long over."""
    values = np.round(random.uniform(-20, 60, count) * 16) / 16
    rom, pieces = onewire.code(0x28, 0x51B2C7D), []
    for number, value in enumerate(values):
        bus = onewire.Bus(
            at=20_000 + number * EVERY_US, one=random.uniform(3, 8), hold=random.uniform(22, 45)
        )
        bus.convert(rom).scratchpad(onewire.pad_28(value), rom)
        pieces.append(damage(random, bus.edges()))
    trace = traced({"dq": (joined(pieces), True)}, step_ns=_step_of(name))
    score = Score(name, sent=count)
    for wire in wires_of(trace, "onewire", "dq"):
        look(score, wire)
        columns, judged = wire.columns(OneWireExchanges, JudgedTransactions)
        pads, given = judged.pads, judged.given
        place = (columns.start_ns[pads.at] / 1000 - 20_000) // EVERY_US
        for number, at in enumerate(place.astype(int)):
            right = bool(
                0 <= at < count and abs(pads.temperatures.values[number] - values[at]) < 0.01
            )
            code = int(columns.rom[pads.at[number]])
            right &= code == int.from_bytes(rom, "little")
            if given[number]:
                score.right += right
                score.wrong += not right
            elif right and pads.holds[number]:
                score.lost += 1
    return score


def _cut(random: Random, made: echo.Shots, share: float, gap: tuple[float, float]) -> Times:
    """Echoes of which a share has a gap somewhere."""
    rows = random.random(len(made.echoes)) < share
    lengths = made.flights[rows]
    width = random.uniform(*gap, lengths.size)
    room = np.maximum(lengths - width - 4, 0)
    starts = made.echoes[rows, 0] + 2 + room * random.uniform(0, 1, lengths.size)
    return spans_at(starts, np.minimum(width, np.maximum(lengths - 4, 0)))


def _strays(random: Random, made: echo.Shots, share: float, widths: tuple[float, float]) -> Times:
    """Pulses that nobody sent, near a share of the echoes."""
    rows = random.random(len(made.echoes)) < share
    before = random.random(int(rows.sum())) < 0.5
    width = random.uniform(*widths, before.size)
    away = random.uniform(0, 400, before.size)
    first, last = made.echoes[rows].T
    return spans_at(np.where(before, first - away - width, last + away), width)


EchoDamage = Callable[[Random, echo.Shots], tuple[Times, Times]]


def _as_high(spans: Times) -> Times:
    return pulled_low(spans)


def _plain(random: Random, made: echo.Shots) -> tuple[Times, Times]:
    return _as_high(made.triggers), _as_high(made.echoes)


def _with_gaps(share: float, gap: tuple[float, float]) -> EchoDamage:
    def damaged(random: Random, made: echo.Shots) -> tuple[Times, Times]:
        spans = _cut(random, made, share, gap)
        return _as_high(made.triggers), forced(_as_high(made.echoes), spans, False, False)

    return damaged


def _with_strays(share: float, widths: tuple[float, float], where: str = "echo") -> EchoDamage:
    def damaged(random: Random, made: echo.Shots) -> tuple[Times, Times]:
        spans = _strays(random, made, share, widths)
        trigger, back = _as_high(made.triggers), _as_high(made.echoes)
        if where == "trigger":
            return forced(trigger, spans, True, False), back
        return trigger, forced(back, spans, True, False)

    return damaged


def _through(damage: Damage) -> EchoDamage:
    def damaged(random: Random, made: echo.Shots) -> tuple[Times, Times]:
        return damage(random, _as_high(made.triggers)), damage(random, _as_high(made.echoes))

    return damaged


ECHO: dict[str, EchoDamage] = {
    "clean": _plain,
    "jitter of 4 µs": _through(_jitter(2.8)),
    "gaps of 1.5 to 20 µs": _with_gaps(0.1, (1.5, 20)),
    "gaps of 20 to 200 µs": _with_gaps(0.1, (20, 200)),
    "strays of 1.5 to 200 µs": _with_strays(0.3, (1.5, 200)),
    "strays of 200 to 900 µs": _with_strays(0.3, (200, 900)),
    "strays on the trigger": _with_strays(0.3, (1.5, 200), "trigger"),
    "reflections of 3 µs": _through(lambda random, edges: rung(edges, 2.0, 2.5)),
}


def echo_score(name: str, damage: EchoDamage, random: Random, count: int, lines: int = 2) -> Score:
    """Shots under one damage."""
    metres = random.uniform(0.05, 2.9, count)
    made = echo.shots(random, metres, 12.0 if lines == 2 else 5.0, 460.0 if lines == 2 else 750.0)
    trigger, back = damage(random, made)
    if lines == 2:
        trace = traced({"trig": (trigger, False), "echo": (back, False)})
        wires = wires_of(trace, "hc-sr04", "trig,echo")
    else:
        both = pulled_low(np.concatenate((trigger.reshape(-1, 2), back.reshape(-1, 2))))
        wires = wires_of(traced({"sig": (both, False)}), "ping3", "sig")
    score = Score(name, sent=count)
    true = made.flights * 1e-6 * 343.24 / 2
    for wire in wires:
        look(score, wire)
        columns, judged = wire.columns(EchoExchanges, JudgedShots)
        place = ((columns.start_ns / 1000 - 5000 + 500) // 100_000).astype(int)
        for index in range(len(wire)):
            at = place[index]
            right = bool(0 <= at < count and abs(judged.distance[index] - true[at]) < METRES)
            if judged.given[index]:
                score.right += right
                score.wrong += not right
            elif right:
                score.lost += 1
    return score


def scores(count: int, seed: int = 1) -> Iterator[tuple[str, Score]]:
    """The whole table: family and class."""
    random = np.random.default_rng(seed)
    clocks = {**CLOCKS, "a copy's habits": humidity.COPY}
    for name, damage in (KEPT | HARD).items():
        yield "humidity", humidity_score(name, damage, random, count)
    for name, part in clocks.items():
        yield "humidity", humidity_score(name, KEPT["clean"], random, count, part)
    for name, damage in (KEPT | HARD).items():
        yield "1-Wire", onewire_score(name, damage, random, max(count // 4, 1))
    for lines in (2, 1):
        for name, made in ECHO.items():
            score = echo_score(name, made, random, count, lines)
            yield f"echo, {lines} line{'s'[: lines - 1]}", score


__all__ = ["NOTHING", "Score", "scores"]
