"""What lines are taken for: few exchanges of the crowds, and lone pulses, all about limits."""

import zlib
from collections import Counter
from collections.abc import Iterable, Iterator
from typing import Any

import numpy as np

from pivet.captures.decoding import decode_lines
from pivet.families import FAMILIES
from pivet.judge.humidity.recognise import rank_sheets
from pivet.signal.trace import Trace
from tests.base import PivetTest
from tests.pages import Page
from tests.physics import humidity, onewire
from tests.physics.crowd import BESIDE_US, POOL, changed, crowds
from tests.physics.line import Random, Times, pulled_low, spans_at, traced

PAGE = Page(__file__)
SIZES, GROUPS, LONE, NEAR = (1, 3), 20, 200, 8
ALIKE = (0.75, 0.9499, 0.95, 0.98, 1.0, 1.02, 1.05, 1.0501, 1.25)
WIDTHS = (10, 100, 300, 460, 480, 500, 700, 1_000, 18_000, 40_000)
RESTS = (1_000, 9_999.999, 10_000, 60_000, 99_999.999, 1e5, 3e5, 1e6)


def said(key: str, found: Any, lines: int, step_ns: int) -> str:
    """What exchanges look like; of more than two frames, which sheets fit them."""
    family = FAMILIES[key]
    nearest = family.nearest(found)
    words = family.likeness(found, lines, step_ns).name
    words += f" {nearest[0]}" if nearest else ""
    if key == "humidity-frame" and len(found) > 2:
        fits = rank_sheets(found).fits[:3]
        words += "".join(f" {fit.sheet.id} {fit.score:.5f}" for fit in fits)
    return words


def counted(title: str, rows: Iterable[str]) -> str:
    """How often they look like what, and a sum over every word."""
    every = list(rows)
    counts = Counter(row.partition(" ")[0] for row in every)
    return f"{title}: {dict(sorted(counts.items()))} {zlib.crc32(' '.join(every).encode()):x}"


def lone(random: Random) -> Trace:
    """A few pulses, nearly alike, with rests between them, and perhaps such on a line beside."""
    count = int(random.integers(1, 7))
    widths = np.full(count, changed(random, random.choice(WIDTHS, 1).astype(float), 0.8)[0])
    widths[random.integers(count)] *= random.choice(ALIKE)
    rests = random.choice(RESTS, count) * random.choice((1.0, 1.0, 1.5), count)
    starts = 5e4 + np.concatenate(([0.0], np.cumsum(widths + rests)[:-1]))
    high = bool(random.integers(2))
    lines: dict[str, tuple[Times, bool]] = {"a": (spans_at(starts, widths).ravel(), high)}
    if random.integers(2):
        beside = spans_at(starts + widths + 450, np.minimum(3 * widths, rests / 2))
        lines["b"] = (beside[: random.integers(count + 1)].ravel(), high)
    return traced(lines, step_ns=int(random.choice((1, 20, 5_000, 20_000))))


def limited(*usual: float, near: int = NEAR) -> Iterator[list[float]]:
    """Each of the widths, µs, in turn each limit near to it, and just beside that."""
    for at, width in enumerate(usual):
        place = int(np.searchsorted(POOL, width))
        for limit in POOL[max(place - near, 0) : place + near + 1]:
            for beside in BESIDE_US:
                yield [*usual[:at], limit + beside, *usual[at + 1 :]]


def frames() -> Iterator[Trace]:
    """Two frames that are alike: of a sensor, of a slow one, of one whose bits are spoiled."""
    data = np.unpackbits(np.frombuffer(humidity.frame_22(92.0, 11.8), dtype=np.uint8))
    usual = (1000, 30, 80, 80, 50, 26, 70)
    for kind in (usual, (800, 45, 115, 115, 74, 40, 110), (*usual[:4], 150, 12, 190)):
        for ask, release, low, high, bit, zero, one in limited(*kind):
            bits = np.column_stack((np.full(40, bit), np.where(data, one, zero)))
            bits = bits[:, ::-1] if kind[4] == 150 else bits
            row = [ask, release, low, high, *bits.ravel(), bit, 2.1e6]
            edges = np.cumsum([50_000.0, *row, *row])
            yield traced({"d": (edges[:-1], True)}, step_ns=1)


def sessions() -> Iterator[Trace]:
    """Two rounds of a bus that are alike."""
    names = ("slot", "one", "zero", "hold", "reset_low", "wait", "presence_low")
    usual = onewire.Bus()
    for number, widths in enumerate(limited(*(getattr(usual, name) for name in names))):
        bus = onewire.Bus(**dict(zip(names, widths, strict=True)))  # type: ignore[arg-type]
        for _ in range(2):
            bus.reset().write(0xCC, (0x44, 0xBE, 0x37)[number % 3]).rest(1000 * (number % 5))
        edges = pulled_low(np.array(bus.spans))
        yield traced({"q": (edges, True)}, step_ns=(1, 5_000, 20_000)[number // 3 % 3])


def alone() -> Iterator[Trace]:
    """Three pulses or more that are alike, and nothing else."""
    for usual in ((500, 5_000), (500, 25_000), (1_000, 1e5), (5_800, 10_000), (120, 60_000)):
        for number, (width, every) in enumerate(limited(*usual)):
            starts = 5e4 + every * np.arange(3 + 2 * (number % 2))
            spans = spans_at(starts, np.minimum(width, every / 2))
            yield traced({"a": (spans.ravel(), usual[0] != 5_800)}, step_ns=1)


def shots() -> Iterator[Trace]:
    """Three shots that are alike, on one line and on two, of which all or two are answered."""
    for number, (trigger, wait, flight, every) in enumerate(
        limited(12, 460, 5_800, 60_000, near=12)
    ):
        starts = 5e4 + every * np.arange(3)
        triggers, echoes = (
            spans_at(starts + late, np.full(3, width)).ravel()
            for late, width in ((0, trigger), (trigger + wait, flight))
        )
        echoes = echoes[: 6 - 2 * (number % 2)]
        yield traced({"s": (pulled_low(triggers, echoes), False)}, step_ns=1)
        yield traced({"t": (triggers, False), "e": (echoes, False)}, step_ns=1)


def lines() -> Iterator[str]:
    """The page."""
    for crowd in crowds():
        if " 0.01" in crowd.name or crowd.name.endswith(" 1000"):
            continue
        key, trace = crowd.family, crowd.trace
        family = FAMILIES[key]
        found = decode_lines(family, trace.lines, trace)
        for size in SIZES:
            groups = [
                family.rows(found, first, first + size)
                for first in np.linspace(0, len(found) - size, GROUPS).astype(int).tolist()
            ]
            rows = (said(key, row, len(trace.lines), trace.resolution_ns) for row in groups)
            yield counted(f"{crowd.name}, {size}", rows)
    random = np.random.default_rng(8)
    few = [*(lone(random) for _ in range(LONE)), *alone()]
    own = {"humidity-frame": frames, "one-wire": sessions, "echo-pulse": shots}
    for key, family in FAMILIES.items():
        traces = [*few, *own[key]()]
        for count in family.lines:
            some = [trace for trace in traces if len(trace.lines) == count]
            rows = (
                said(key, decode_lines(family, row.lines, row), count, row.resolution_ns)
                for row in some
            )
            yield counted(f"few pulses as {key} of {count}", rows)


class Taken(PivetTest):
    """Against the page that was last looked through."""

    def test_group_by_group(self) -> None:
        PAGE.same(self, lines())
