"""Faults as people meet them, made by physics; what the first finding must name, and advise.

Each fault is a capture of some exchanges, the first of them mostly healthy.  ``looked_at`` is the
exchange whose first finding counts; ``codes`` are the causes that are true, ``advice`` a word that
its advice must hold.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from pivet.frozen import replace
from pivet.signal.trace import Trace
from tests.physics import echo, humidity, onewire
from tests.physics.line import (
    Random,
    Times,
    flipped,
    forced,
    jitter,
    joined,
    pulled_low,
    rung,
    sampled,
    slow_rise,
    spans_at,
    traced,
)

EVERY = 2_100_000.0
Make = Callable[[Random], Trace]


@dataclass(frozen=True)
class Fault:
    """One fault.

    Attributes:
        name: for people.
        make: the capture.
        looked_at: number of the exchange; -1 the last.
        codes: of the first finding; none for what is told of the capture.
        advice: a word of its advice.
        sensor: as which it is judged; None recognises.
        wire: named lines.
        told: a word of what the capture says, where no exchange can tell.
    """

    name: str
    make: Make
    looked_at: int = 1
    codes: tuple[str, ...] = ()
    advice: str = ""
    sensor: str | None = None
    wire: str | None = None
    told: str = ""


FRAME = humidity.frame_22(65.3, 11.8)
OTHER = humidity.frame_22(48.1, 23.6)
ELEVEN = humidity.frame_11(53.0, 24.4)


def _frames(
    count: int = 3,
    change: Callable[[Times], Times] = lambda edges: edges,
    first: int = 0,
    every: float = EVERY,
    data: bytes = FRAME,
    part: humidity.Part = humidity.AM,
    ask: float = 1000.0,
    step: float = 0.0,
) -> Make:
    """Some exchanges, all from number ``first`` on changed."""

    def make(random: Random) -> Trace:
        pieces = []
        for number in range(count):
            edges = humidity.exchange(data, 50_000 + number * every, part, ask)
            pieces.append(change(edges) if number >= first else edges)
        line = joined(pieces)
        line = sampled(random, line, step) if step else line
        return traced({"data": (line, True)}, step_ns=round(step * 1000) or 10)

    return make


def _ask_only(edges: Times) -> Times:
    return edges[:2]


def _cut_at(count: int) -> Callable[[Times], Times]:
    return lambda edges: edges[:count]


def _held_from(index: int, length: float) -> Callable[[Times], Times]:
    return lambda edges: np.append(edges[: index | 1], edges[index | 1] + length)


def _no_pull_up(edges: Times) -> Times:
    """The host drives high before the ask and long after it; in between nothing pulls up."""
    return np.array([edges[0], edges[0] + 6000.0])


def _second_sensor(edges: Times) -> Times:
    """A second sensor answers the same ask a little later."""
    other = humidity.answer(OTHER, replace(humidity.AM, clock=1.03), 33.0) + edges[1]
    return pulled_low(np.append(edges, []).reshape(-1, 2), other)


def _second_host(edges: Times) -> Times:
    """Another host asks in the middle of the answer, and gets one of its own."""
    at = float(edges[40])
    own = humidity.exchange(FRAME, at)
    return np.concatenate((edges[edges < at], own[0 if edges.size % 2 == 0 else 1 :]))


def _dropped_between(random: Random) -> Trace:
    """Polled every 300 ms: answers once in 2 s, else not at all."""
    pieces = []
    for number in range(6):
        edges = humidity.exchange(FRAME, 50_000 + number * 300_000.0)
        pieces.append(edges if number == 0 else edges[:2])
    return traced({"data": (joined(pieces), True)})


def _late_when_hurried(random: Random) -> Trace:
    first = humidity.exchange(FRAME, 50_000)
    second = humidity.exchange(FRAME, 900_000, release=3000.0)
    return traced({"data": (joined([first, second]), True)})


def _short_later(random: Random) -> Trace:
    edges = joined([humidity.exchange(FRAME, 50_000), np.array([1_500_000.0])])
    return traced({"data": (edges, True)}, end_us=9_000_000)


def _never_released(random: Random) -> Trace:
    edges = joined([humidity.exchange(FRAME, 50_000), np.array([2_150_000.0])])
    return traced({"data": (edges, True)}, end_us=2_900_000)


def _shorted(random: Random) -> Trace:
    return traced({"data": (np.empty(0), False), "other": (np.array([1e5, 2e5]), False)}, 1e6)


def _spiked(width: float, count: int, high: bool) -> Callable[[Times], Times]:
    """The same spikes in the middle of pulses in every exchange."""

    def change(edges: Times) -> Times:
        at = edges[20 : 20 + 4 * count : 4] if high else edges[21 : 21 + 4 * count : 4]
        return flipped(edges, spans_at(at + 8.0, np.full(at.size, width)))

    return change


def _burst(edges: Times) -> Times:
    """A motor starts: 400 µs of hash."""
    at = float(edges[30])
    inside = np.arange(at + 5, at + 400, 11.0)
    return flipped(edges, spans_at(inside, np.full(inside.size, 5.5)))


ROM = onewire.code(0x28, 0x51B2C7D)
SECOND = onewire.code(0x28, 0x2A4411)
GOOD = onewire.pad_28(21.5)


def _bus(
    fill: Callable[[onewire.Bus], object],
    change: Callable[[Times], Times] = lambda edges: edges,
    step: float = 0.0,
    **how: float,
) -> Make:
    """A healthy read, then what goes wrong."""

    def make(random: Random) -> Trace:
        bus = onewire.Bus(at=20_000.0, **how)  # type: ignore[arg-type]
        fill(bus)
        edges = change(bus.edges())
        edges = sampled(random, edges, step) if step else edges
        return traced({"dq": (edges, True)}, step_ns=round(step * 1000) or 10)

    return make


def _healthy(bus: onewire.Bus) -> onewire.Bus:
    return bus.convert(ROM).scratchpad(GOOD, ROM)


def _gone(bus: onewire.Bus) -> None:
    _healthy(bus)
    bus.answers = False
    bus.convert(ROM).scratchpad(GOOD, ROM)


def _pulled_in_read(bus: onewire.Bus) -> None:
    _healthy(bus).convert(ROM).reset().write(0x55, *ROM, 0xBE).read(GOOD[:4])
    bus.answers = False
    bus.read(GOOD[4:])


def _power_on(bus: onewire.Bus) -> None:
    _healthy(bus).convert(ROM).scratchpad(onewire.pad_28(85.0, reserved=0x0C), ROM)


def _parasite_power_on(bus: onewire.Bus) -> None:
    bus.reset().write(0x55, *ROM, 0xB4).read(b"\x00").rest(1000)
    _healthy(bus).convert(ROM).scratchpad(onewire.pad_28(85.0, reserved=0x0C), ROM)


def _parasite_used(bus: onewire.Bus) -> None:
    bus.reset().write(0x55, *ROM, 0xB4).read(b"\x00").rest(1000)
    bus.convert(ROM, 50_000).scratchpad(GOOD, ROM)


def _unheard(bus: onewire.Bus) -> None:
    bus.answers = False
    bus.reset().rest(1e6).reset()


def _early(bus: onewire.Bus) -> None:
    _healthy(bus).convert(ROM, 100_000).scratchpad(GOOD, ROM)


def _one_bit(bus: onewire.Bus) -> None:
    bad = bytearray(GOOD)
    bad[3] ^= 4
    _healthy(bus).convert(ROM).scratchpad(bytes(bad), ROM)


def _mixed(bus: onewire.Bus) -> None:
    """Two devices known by their codes, then both asked at once."""
    bus.scratchpad(GOOD, ROM)
    warm = onewire.pad_28(30.25)
    bus.scratchpad(warm, SECOND).convert()
    bus.scratchpad(bytes(a & b for a, b in zip(GOOD, warm, strict=True)))


def _other_reset(bus: onewire.Bus) -> None:
    """Another host resets in the middle of a byte."""
    _healthy(bus).convert(ROM).reset().write(0x55, *ROM, 0xBE).read(GOOD[:3])
    for _ in range(3):
        bus.spans.append((bus.at, bus.at + bus.one))
        bus.at += bus.slot
    bus.scratchpad(GOOD, ROM)


def _held(bus: onewire.Bus) -> None:
    _healthy(bus)
    bus.spans.append((bus.at, bus.at + 3_000_000))


def _shots(
    random: Random, count: int = 12, metres: Times | None = None, **how: float
) -> echo.Shots:
    walls = random.uniform(0.4, 2.2, count) if metres is None else metres
    return echo.shots(random, walls, **how)


def _echoes(
    change: Callable[[Random, Times, Times], tuple[Times, Times]], count: int = 12, **how: float
) -> Make:
    """Shots whose spans (n, 2) of trigger and echo are changed."""

    def make(random: Random) -> Trace:
        made = _shots(random, count, None, **how)
        trigger, back = change(random, made.triggers, made.echoes)
        return traced({"trig": (trigger.ravel(), False), "echo": (back.ravel(), False)})

    return make


def _cut_echo(random: Random, trigger: Times, back: Times) -> tuple[Times, Times]:
    gap = spans_at(back[5:6, 0] + 1500.0, np.array([8.0]))
    return trigger, forced(back.ravel(), gap, False, False)


def _stray_echo(random: Random, trigger: Times, back: Times) -> tuple[Times, Times]:
    return trigger, np.sort(np.concatenate((back.ravel(), trigger[5, 0] + np.array([1.0, 60.0]))))


def _torn_echo(random: Random, trigger: Times, back: Times) -> tuple[Times, Times]:
    gap = spans_at(back[5:6, 0] + 1500.0, np.array([600.0]))
    return trigger, forced(back.ravel(), gap, False, False)


def _timeouts(length: float) -> Make:
    def change(random: Random, trigger: Times, back: Times) -> tuple[Times, Times]:
        back = back.copy()
        back[5::3, 1] = back[5::3, 0] + length + random.normal(0, 0.5, back[5::3].shape[0])
        return trigger, back

    return _echoes(change, 30)


def _stuck(random: Random, trigger: Times, back: Times) -> tuple[Times, Times]:
    back = back[:6].copy()
    back[5, 1] = 1e9
    return trigger, back


def _stuck_trace(random: Random) -> Trace:
    trigger, back = _stuck(random, *_both(random))
    return traced(
        {"trig": (trigger.ravel(), False), "echo": (back.ravel()[:-1], False)}, end_us=1_600_000
    )


def _both(random: Random) -> tuple[Times, Times]:
    made = _shots(random)
    return made.triggers, made.echoes


def _swapped(random: Random) -> Trace:
    trigger, back = _both(random)
    return traced({"trig": (back.ravel(), False), "echo": (trigger.ravel(), False)})


def _silent_echo(random: Random) -> Trace:
    trigger, _ = _both(random)
    return traced({"trig": (trigger.ravel(), False), "echo": (np.empty(0), False)})


def _inverted_echo(random: Random) -> Trace:
    trigger, back = _both(random)
    return traced({"trig": (trigger.ravel(), False), "echo": (back.ravel(), True)})


def _inverted_frames(random: Random) -> Trace:
    edges = joined([humidity.exchange(FRAME, 50_000 + n * EVERY) for n in range(3)])
    return traced({"data": (edges, False)})


def _inverted_bus(random: Random) -> Trace:
    return traced({"dq": (_healthy(onewire.Bus(at=20_000.0)).edges(), False)})


def _alone(random: Random) -> Trace:
    return traced({"echo": (_both(random)[1].ravel(), False)})


def _made_up(random: Random) -> Trace:
    from tests.physics.strangers import made_up_code

    return traced({"code": (made_up_code(random), True)})


def _late_rise_of(us: float) -> Callable[[Times], Times]:
    return lambda edges: slow_rise(edges, us)


FAULTS = (
    # humidity: wiring and supply
    Fault("weak pull-up", _frames(change=_late_rise_of(9)), 1, ("slow-rise",), "pull-up"),
    Fault(
        "much too weak a pull-up",
        _frames(change=_late_rise_of(24.5)),
        0,
        ("slow-rise",),
        "pull-up",
        "dht22",
        "data",
    ),
    Fault(
        "weak pull-up, 11-type",
        _frames(change=_late_rise_of(9), data=ELEVEN, part=humidity.ELEVEN, ask=20_000.0),
        1,
        ("slow-rise",),
        "pull-up",
    ),
    Fault(
        "no pull-up",
        _frames(change=_no_pull_up),
        1,
        ("no-answer", "line-held-low"),
        "pull-up",
        "dht22",
        "data",
    ),
    Fault("supply missing", _frames(change=_ask_only), 1, ("no-answer",), "supply"),
    Fault("sensor pulled off later", _frames(change=_ask_only, first=1), 1, ("no-answer",), "wire"),
    Fault("brown-out in the frame", _frames(change=_cut_at(44)), 1, ("cut-short",), "supply"),
    Fault(
        "brown-out in the answer",
        _frames(change=_cut_at(4)),
        1,
        ("cut-short",),
        "supply",
        "dht22",
        "data",
    ),
    Fault("short later", _short_later, -1, ("line-held-low",), "short"),
    Fault(
        "short in the frame",
        _frames(change=_held_from(40, 400_000.0)),
        -1,
        ("line-held-low",),
        "short",
    ),
    Fault("short from the start", _shorted, 0, (), sensor="dht22", wire="data", told="short"),
    Fault("host never lets go", _never_released, -1, ("line-held-low",), "pin"),
    Fault(
        "reflections",
        _frames(change=lambda edges: rung(edges, 2.5, 3.0)),
        1,
        ("reflections",),
        "series",
    ),
    Fault("short crosstalk", _frames(change=_spiked(1.2, 4, True)), 1, ("spike-removed",), "motor"),
    Fault(
        "long crosstalk", _frames(change=_spiked(9.0, 1, True)), 1, ("extra-pulses",), "disturbance"
    ),
    Fault(
        "motor burst",
        _frames(change=_burst),
        1,
        ("extra-pulses", "sum-wrong", "spike-removed"),
        "Look for",
    ),
    Fault(
        "two sensors on the wire",
        _frames(change=_second_sensor),
        1,
        ("two-answer",),
        "pin of its own",
    ),
    Fault("two hosts", _frames(change=_second_host), 0, ("interrupted",), "only one"),
    Fault("inverted", _inverted_frames, 0, (), told="turned over"),
    # humidity: the host
    Fault(
        "ask of 18 µs",
        _frames(change=_ask_only, ask=18.0),
        1,
        ("ask-too-short",),
        "ms",
        "dht22",
        "data",
    ),
    Fault(
        "ask of 100 µs",
        _frames(change=_ask_only, ask=100.0),
        1,
        ("ask-too-short",),
        "ms",
        "dht22",
        "data",
    ),
    Fault(
        "11-type asked for 1 ms",
        _frames(change=_ask_only, ask=1000.0),
        1,
        ("ask-too-short",),
        "ms",
        "dht11",
        "data",
    ),
    Fault("ask of 60 ms", _frames(ask=60_000.0), 1, ("pulse-outside",), "ask", "dht22", "data"),
    Fault("asked too soon, silent", _dropped_between, 1, ("too-soon",), "less often"),
    Fault("asked too soon, late", _late_when_hurried, 1, ("too-soon",), "less often"),
    Fault(
        "wrong type chosen",
        _frames(data=ELEVEN, part=humidity.ELEVEN, ask=20_000.0),
        1,
        ("wrong-type",),
        "dht11",
        "dht22",
        "data",
    ),
    Fault(
        "wrong type chosen, the other way", _frames(), 1, ("wrong-type",), "dht22", "dht11", "data"
    ),
    # humidity: the part
    Fault(
        "slow clock", _frames(part=replace(humidity.AM, clock=1.12)), 1, ("clock-off",), "comparing"
    ),
    Fault(
        "fast clock", _frames(part=replace(humidity.AM, clock=0.88)), 1, ("clock-off",), "comparing"
    ),
    Fault(
        "a copy",
        _frames(part=replace(humidity.AM, zero=19, one=77)),
        1,
        ("copy-habits",),
        "firmware",
    ),
    Fault(
        "a copy with long lows",
        _frames(part=replace(humidity.AM, low=66, end=66)),
        1,
        ("copy-habits",),
        "firmware",
    ),
    Fault("all zero", _frames(data=bytes(5)), 1, ("all-zeros",), "supply"),
    Fault("a bit lost", _frames(data=FRAME[:4] + bytes([FRAME[4] ^ 8])), 1, ("sum-wrong",), "Drop"),
    Fault(
        "at the edge of the scale",
        _frames(data=humidity.frame_22(100.0, 12.0)),
        1,
        ("scale-edge",),
        "dew",
    ),
    # the recorder
    Fault("steps of 25 µs", _frames(step=25.0), 1, ("too-coarse",), "finer"),
    Fault("1-Wire in steps of 20 µs", _bus(_healthy, step=20.0), 1, ("too-coarse",), "finer"),
    Fault(
        "jitter of the recorder",
        lambda random: traced(
            {
                "data": (
                    jitter(
                        random,
                        joined([humidity.exchange(FRAME, 5e4 + n * EVERY) for n in range(3)]),
                        4.5,
                    ),
                    True,
                )
            }
        ),
        1,
        ("scatter",),
        "timer",
    ),
    # 1-Wire
    Fault("nobody there", _bus(_gone), 2, ("no-presence",), "plug"),
    Fault("pulled in the middle of a read", _bus(_pulled_in_read), 3, ("broken-off",), "plug"),
    Fault(
        "reset of 400 µs, unheard",
        _bus(_unheard, reset_low=400.0),
        0,
        ("reset-too-short",),
        "500",
        "onewire",
        "dq",
    ),
    Fault("reset of 1.2 ms", _bus(_healthy, reset_low=1200.0), 1, ("pulse-outside",), "reset"),
    Fault(
        "weak pull-up, ones read as zeros",
        _bus(_healthy, change=_late_rise_of(11), slot=78.0),
        1,
        ("slow-rise",),
        "pull-up",
    ),
    Fault(
        "weak pull-up, still read",
        _bus(_healthy, change=_late_rise_of(8)),
        1,
        ("slow-rise", "pulse-near"),
        "pull-up",
    ),
    Fault("held low later", _bus(_held), -1, ("line-held-low",), "short"),
    Fault("a bit misread", _bus(_one_bit), 3, ("crc-wrong",), "Drop"),
    Fault("85 from power-on", _bus(_power_on), 3, ("power-on-value",), "supply"),
    Fault(
        "parasite without strong pull-up",
        _bus(_parasite_power_on),
        4,
        ("power-on-value",),
        "strong pull-up",
    ),
    Fault("parasite, line used", _bus(_parasite_used), 1, ("parasite-disturbed",), "high"),
    Fault("read too early", _bus(_early), 3, ("read-too-early",), "longer"),
    Fault("two devices asked at once", _bus(_mixed), 3, ("several-answer",), "match ROM"),
    Fault("another host resets", _bus(_other_reset), 3, ("broken-off",), "host"),
    Fault(
        "presence of 300 µs",
        _bus(_healthy, presence_low=290.0),
        1,
        ("copy-habits", "pulse-near"),
        "",
    ),
    Fault(
        "slots of 50 µs",
        _bus(_healthy, slot=50.0, zero=44.0, hold=28.0),
        1,
        ("pulse-outside",),
        "60",
    ),
    Fault("1-Wire inverted", _inverted_bus, 0, (), told="turned over"),
    # echo
    Fault(
        "echo wire off",
        _echoes(lambda random, trigger, back: (trigger, back[:4])),
        8,
        ("no-echo",),
        "echo wire",
        "hc-sr04",
        "trig,echo",
    ),
    Fault(
        "trigger of 4 µs, unheard",
        _echoes(lambda random, trigger, back: (trigger, back[:0]), trigger=4.0),
        3,
        ("trigger-short",),
        "Hold",
        "hc-sr04",
        "trig,echo",
    ),
    Fault("echo wire off, nothing named", _silent_echo, 3, ("no-echo",), "echo wire"),
    Fault("swapped, nothing named", _swapped, 0, (), told="swapped"),
    Fault("trigger and echo swapped", _swapped, 4, ("swapped",), "swap", "hc-sr04", "trig,echo"),
    Fault("echo stuck high", _stuck_trace, 8, ("stuck-high",), "echo", "hc-sr04", "trig,echo"),
    Fault(
        "nothing in range",
        _echoes(
            lambda random, trigger, back: (
                trigger,
                np.stack((back[:, 0], back[:, 0] + 38_000.0), axis=1),
            )
        ),
        3,
        ("nothing-in-range",),
        "target",
    ),
    Fault("timeout of 20 ms", _timeouts(20_000.0), 8, ("nothing-in-range",), "hand"),
    Fault("gap in the echo", _echoes(_cut_echo), 5, ("echo-broken",), "level"),
    Fault("echo torn in two", _echoes(_torn_echo), 5, ("several-echoes",), "broken"),
    Fault("crosstalk of the trigger", _echoes(_stray_echo), 5, ("stray-pulses",), "crosstalk"),
    Fault(
        "triggered every 30 ms",
        _echoes(lambda random, trigger, back: (trigger, back), every=30_000.0),
        3,
        ("too-soon",),
        "less often",
    ),
    Fault("echo inverted", _inverted_echo, 0, (), told="turned over"),
    Fault("echo line alone", _alone, 0, (), told="without its trigger"),
    Fault("a code of nobody", _made_up, 0, (), told="no sheet fits"),
)


def first_of(fault: Fault, random: Random) -> tuple[str, str, str]:
    """Code, sentence and advice of the first finding; or what the capture says."""
    from pathlib import Path

    from pivet.captures.capture import capture_of
    from pivet.captures.text import summary_lines
    from pivet.errors import InputError
    from pivet.sheets.load import find_sheet

    sheet = None if fault.sensor is None else find_sheet(fault.sensor)
    try:
        capture = capture_of(Path("made.vcd"), fault.make(random), sheet, fault.wire)
    except InputError as error:
        return "", str(error), str(error)
    if fault.told or not capture.wires:
        text = " ".join(summary_lines(capture))
        return "", text, text
    wire = capture.wires[0]
    report = wire.report(fault.looked_at % len(wire) if fault.looked_at < 0 else fault.looked_at)
    if not report.findings:
        return "", "nothing", ""
    first = report.findings[0]
    return first.code, first.says, first.advice


def right(fault: Fault, found: tuple[str, str, str]) -> bool:
    """Whether cause and advice are what they must be."""
    code, says, advice = found
    if fault.told:
        return fault.told in says
    return code in fault.codes and fault.advice in f"{says} {advice}"


__all__ = ["FAULTS", "Fault", "first_of", "jitter", "right"]
