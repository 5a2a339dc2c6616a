"""Told exactly once: however often, and however late, anybody looks."""

import math
import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from pivet.captures.wire import Wire
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.judge.chapter import CHAPTER, hindsight
from pivet.keeping.recorder import Recorder
from pivet.listening import events as ev
from pivet.listening.calendar import Calendar
from pivet.listening.intake import Begins, Breaks, Goes, Intake
from pivet.listening.listener import Listener
from pivet.listening.told_so_far import ToldSoFar
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level, Trace
from pivet.sources.source import About, Gap, Piece
from pivet.standin.probe.loop import MadeClock
from tests.base import PivetTest
from tests.listening import mutants
from tests.night import demo_night, night_part

CASES = 30

Readings = dict[int, set[tuple[Any, ...]]]


def recorded(bench: BenchFile, listener: Listener, events: list[ev.Event]) -> int:
    """Records what was told; gives the id of its wire."""
    assert listener.about is not None
    recorder = Recorder(bench, listener.about, "replay", listener.calendar)
    for first in range(0, len(events), 3):
        recorder.take(events[first : first + 3])
        recorder.keep(now=True)
    recorder.close()
    return bench.wires()[0].id


def readings_in(bench: BenchFile, wire: int) -> Readings:
    """What the file says of each exchange's readings."""
    found: Readings = {}
    sql = (
        "SELECT number, quantity, unit, device, value FROM reading JOIN track "
        "ON track.id = reading.track WHERE track.wire = ?"
    )
    for number, *rest in bench.rows(sql, (wire,)):
        found.setdefault(number, set()).add(tuple(rest))
    return found


def readings_of(wire: Wire) -> Readings:
    """The same of an opened file; of two tracks of a quantity the first counts."""
    found: dict[int, dict[tuple[str, str], tuple[Any, ...]]] = {}
    for track in wire.tracks:
        for at, value, ok in zip(track.at, track.values, track.given, strict=True):
            row = (track.quantity, track.unit, track.rom, float(value) if ok else None)
            found.setdefault(int(at), {}).setdefault((track.quantity, track.rom), row)
    return {number: set(rows.values()) for number, rows in found.items()}


class Files(PivetTest):
    """A capture says the same opened, played and recorded, whatever the damage and the pace."""

    wires: tuple[Wire, ...]

    @classmethod
    def setUpClass(cls) -> None:
        cls.wires = demo_night().wires

    def play(self, trace: Trace, opened: Wire, rng: np.random.Generator) -> list[ev.Event]:
        """Plays a capture at some pace and rhythm of looking; holds what was told against it."""
        clock = MadeClock()
        pace = float(rng.choice([1.0, 30.0, 4000.0, math.inf]))
        length_s = (trace.end_ns - trace.start_ns) / 1e9 / min(pace, 1e6)
        slowest = length_s / float(rng.choice([0.5, 5.0, 60.0]))
        setups = [mutants.setup_of(opened)]
        self.listener = mutants.listener_of(trace, setups, pace, clock)
        events = mutants.listened(self.listener, clock, lambda: rng.uniform(0.0, slowest) + 1e-6)
        wanted, found = mutants.of_file([opened], trace.start_ns), mutants.told(events)
        self.assertEqual(list(wanted), sorted(found))
        for key, row in wanted.items():
            self.assertEqual(row, found[key], key)
        return events

    def check(self, seed: int) -> int:
        """One damaged capture."""
        rng = np.random.default_rng(seed)
        wire = self.wires[seed % len(self.wires)]
        count = int(rng.integers(3, 14))
        part = mutants.part_of(wire, int(rng.integers(0, len(wire) - count)), count)
        trace = mutants.damaged(part, seed)
        opened = mutants.opened(trace, wire)
        events = self.play(trace, opened, rng)
        if len(opened) and seed % 4 < 2:
            self.check_bench(events, opened)
        return len(opened)

    def check_bench(self, events: list[ev.Event], opened: Wire) -> None:
        """Verdicts, notices, bytes and readings of the file; no row more, none less."""
        path = self.folder / "told.pivet"
        path.unlink(missing_ok=True)
        bench = BenchFile.create(path)
        try:
            wire = recorded(bench, self.listener, events)
            rows = bench.exchanges(wire, 0, 1 << 40)
            self.assertEqual([*range(len(opened))], [row.number for row in rows])
            self.assertEqual(opened.verdicts.tolist(), [row.verdict for row in rows])
            self.assertEqual(opened.judged.notices.tolist(), [row.notices for row in rows])
            data = [opened.family.data(opened.exchanges, row.number) for row in rows]
            self.assertEqual(data, [row.data or b"" for row in rows])
            self.assertEqual(readings_of(opened), readings_in(bench, wire))
        finally:
            bench.close()

    def test_damaged_captures(self) -> None:
        """Every word on every exchange, findings included."""
        total = 0
        for seed in range(CASES):
            with self.subTest(seed):
                total += self.check(seed)
        self.assertGreater(total, 5 * CASES)

    def test_longer_than_what_is_in_sight(self) -> None:
        """Over many chapters nothing that was learned before is forgotten."""
        for name, seed in (("wheels", None), ("brine_vat", 9)):
            with self.subTest(name):
                trace = night_part(name, 6.0)
                if seed is not None:
                    trace = mutants.damaged(trace, seed)
                like = next(row for row in self.wires if name in row.label)
                self.play(trace, mutants.opened(trace, like), np.random.default_rng(4))


class Sight(unittest.TestCase):
    """How far hindsight reaches."""

    @given(st.integers(0, 5), st.integers(0, 1400))
    def test_hindsight(self, chapters: int, count: int) -> None:
        """Up to the end of the chapter behind the own one, counted from the first exchange."""
        before = chapters * CHAPTER
        ends = hindsight(count, before)
        for at in {0, count // 2, count - 1} & set(range(count)):
            last = ((at + before) // CHAPTER + 2) * CHAPTER - 1 - before
            self.assertEqual(min(last, count - 1), ends[at])


MS = 10**6


@st.composite
def heard_of_two(draw: st.DrawFn) -> list[list[Piece]]:
    """What is heard of two lines: stretches with gaps between them, as pieces of each."""
    lines = []
    for name in "ab":
        pieces, at, level = [], draw(st.integers(0, 3)) * MS + 2 * (name == "b"), Level.HIGH
        gap: Gap | None = Gap(at, at, level, 0)
        for _ in range(draw(st.integers(1, 8))):
            length = draw(st.integers(1, 9)) * MS
            count = draw(st.integers(0, 4))
            edges = at + 1 + np.arange(count, dtype=np.int64) * (length // 5)
            pieces.append(Piece(name, edges, at + length, gap))
            at, level, gap = at + length, Level(level ^ (count & 1)), None
            if draw(st.booleans()):
                end = at + draw(st.integers(1, 6)) * MS
                level = Level(draw(st.integers(0, 1)))
                gap, at = Gap(at, end, level, draw(st.integers(0, 3)), "lost"), end
        lines.append(pieces)
    return lines


class Lines(unittest.TestCase):
    """The lines of a wire on their way into its decoder."""

    @staticmethod
    def acts(order: list[Piece], looks: list[bool]) -> list[Any]:
        """What the decoder is to do, joined over looks."""
        feeds, done = Intake(("a", "b")), []
        for piece, look in zip(order, looks, strict=True):
            feeds.hear(piece)
            done += feeds.news() if look else ()
        done += feeds.news()
        untils = [act.until_ns for act in done if isinstance(act, Goes)]
        assert untils == sorted(untils), "what is known cannot become unknown again"
        joined: list[Any] = []
        for act in done:
            if not isinstance(act, Goes):
                joined.append(act)
            elif joined and isinstance(joined[-1], tuple):
                pairs = zip(joined[-1][0], act.edges, strict=True)
                joined[-1] = ([[*one, *other.tolist()] for one, other in pairs], act.until_ns)
            else:
                joined.append(([row.tolist() for row in act.edges], act.until_ns))
        return joined

    @settings(max_examples=40)
    @given(heard_of_two(), st.data())
    def test_the_way_does_not_matter(self, lines: list[list[Piece]], data: st.DataObject) -> None:
        """In whatever order pieces of two lines come, and whenever somebody looks."""
        runs = []
        for _ in range(2):
            left, order = [list(row) for row in lines], []
            while any(left):
                row = data.draw(st.sampled_from([row for row in left if row]))
                order.append(row.pop(0))
            looks = data.draw(st.lists(st.booleans(), min_size=len(order), max_size=len(order)))
            runs.append(self.acts(order, looks))
        self.assertEqual(runs[0], runs[1])

    @given(heard_of_two())
    def test_levels(self, lines: list[list[Piece]]) -> None:
        """Where a wire begins, its lines stand as was heard of them."""
        order = [piece for row in lines for piece in row]
        for act in self.acts(order, [False] * len(order)):
            for row, level in zip(lines, getattr(act, "levels", ()), strict=False):
                wanted = Level.HIGH
                for piece in row:
                    if piece.gap and piece.gap.end_ns <= act.at_ns:
                        wanted = piece.gap.level
                    wanted = Level(wanted ^ int((piece.edges_ns < act.at_ns).sum()) & 1)
                self.assertEqual(wanted, level)

    def test_a_loss_of_both_is_one(self) -> None:
        """Both lines lose something at about the same time: one stretch, its losses added up."""
        feeds = Intake(("a", "b"))
        none = np.empty(0, dtype=np.int64)
        for name in "ab":
            feeds.hear(Piece(name, none, 10, Gap(0, 0, Level.HIGH, 0)))
        feeds.hear(Piece("a", none, 30))
        feeds.hear(Piece("a", none, 60, Gap(20, 50, Level.LOW, 3, "bytes were lost")))
        feeds.hear(Piece("b", none, 70, Gap(10, 40, Level.HIGH, 4, "bytes were lost")))
        acts = list(feeds.news())
        begins = [act for act in acts if isinstance(act, Begins)]
        self.assertEqual(1, sum(isinstance(act, Breaks) for act in acts))
        self.assertEqual([10, 60], [act.until_ns for act in acts if isinstance(act, Goes)])
        self.assertEqual(Gap(10, 50, Level.HIGH, 7, "bytes were lost"), begins[1].missed)

    def test_listening_before_is_no_loss(self) -> None:
        """What an earlier listener did not hear is nobody's loss."""
        feeds = Intake(("a",))
        gap = Gap(5, 50, Level.LOW, None, "nobody listened")
        feeds.hear(Piece("a", np.empty(0, dtype=np.int64), 60, gap))
        begins, _ = feeds.news()
        assert isinstance(begins, Begins)
        self.assertIsNone(begins.missed)
        # Nor is what one line lost before the other was known at all.
        feeds, none = Intake(("a", "b")), np.empty(0, dtype=np.int64)
        feeds.hear(Piece("a", none, 60, gap))
        feeds.hear(Piece("a", none, 90, Gap(70, 80, Level.LOW, 3, "bytes were lost")))
        feeds.hear(Piece("b", none, 95, Gap(85, 85, Level.HIGH, 0)))
        begins, _ = feeds.news()
        self.assertEqual(Begins(85, (Level.LOW, Level.HIGH), None), begins)


class Looks(PivetTest):
    """What a further look adds to what was told."""

    def setUp(self) -> None:
        super().setUp()
        self.wire = next(row for row in demo_night().wires if "shelf_A" in row.label)

    def part(self, first: int, last: int) -> Wire:
        """Some exchanges, as they are in sight at a moment."""
        exchanges = self.wire.family.rows(self.wire.exchanges, first, last)
        lines, step = len(self.wire.lines), self.wire.resolution_ns
        judged = self.wire.family.judge(exchanges, lines, step, self.wire.choices)
        return replace(self.wire, exchanges=exchanges, judged=judged, first=first)

    def test_new_once(self) -> None:
        """However sights overlap; what has not changed is not told again."""
        told, seen = ToldSoFar(), []
        for first, last in ((0, 3), (0, 3), (0, 9), (4, 12), (6, 12), (6, 20)):
            news = told.look(self.part(first, last))
            seen += news.new
            self.assertEqual([], [row for row in news.revised if row[0] != first])
        self.assertEqual([*range(20)], seen)

    def test_what_was_not_told_cannot_be_passed(self) -> None:
        """A sight that begins behind what was told would lose exchanges."""
        told = ToldSoFar()
        told.look(self.part(0, 3))
        with self.assertRaises(AssertionError):
            told.look(self.part(4, 8))

    def test_gone_and_back(self) -> None:
        """What stood at rest and is not in sight for a while is told again only if it changed."""
        told = ToldSoFar()
        told.look(self.part(0, 5))
        for last in (4, 3):
            news = told.look(self.part(0, last))
            self.assertEqual(([], 0), (news.revised, len(news.new)))
        news = told.look(self.part(0, 6))
        self.assertEqual(([], [5]), (news.revised, [*news.new]))

    def test_no_number(self) -> None:
        """What becomes no number is told again, what stays none is not."""
        self.wire = next(row for row in demo_night().wires if row.family.key == "echo-pulse")
        told, part = ToldSoFar(), self.part(0, 5)
        columns: Any = part.judged
        speed = columns.speed.copy()
        speed[2] = np.nan
        none = replace(part, judged=replace(columns, speed=speed))
        told.look(part)
        self.assertEqual([2], [number for number, _ in told.look(none).revised])
        self.assertEqual([], told.look(none).revised)
        self.assertEqual([2], [number for number, _ in told.look(part).revised])
        # What stands at rest and is out of sight for a while is still held against what was said.
        self.assertEqual([], told.look(self.part(0, 2)).revised)
        self.assertEqual([2], [number for number, _ in told.look(none).revised])

    def test_a_spike_more(self) -> None:
        """What disturbs an exchange is said of it."""
        told, part = ToldSoFar(), self.part(0, 5)
        told.look(part)
        at = np.array([int(part.exchanges.start_ns[3]) + 9])
        exchanges: Any = part.exchanges
        spiked = replace(exchanges, spike_start_ns=at, spike_width_ns=at * 0 + 1)
        news = told.look(replace(part, exchanges=spiked))
        self.assertEqual([3], [number for number, _ in news.revised])

    def test_taken_back(self) -> None:
        """What is not there at the end was no exchange; its number comes again."""
        told = ToldSoFar()
        told.look(self.part(0, 5))
        told.look(self.part(0, 3))
        verdicts = self.wire.verdicts
        self.assertEqual([(3, int(verdicts[3])), (4, int(verdicts[4]))], told.take_back())
        self.assertEqual([], told.take_back())
        self.assertEqual([3, 4, 5], [*told.look(self.part(0, 6)).new])
        for first, last in ((2, 6), (2, 4)):
            told.look(self.part(first, last))
        self.assertEqual([(4, int(verdicts[4])), (5, int(verdicts[5]))], told.take_back())

    def test_taken_back_in_the_file(self) -> None:
        """Rows and readings go, also when they were written before; the wire stays what it is."""
        bench = BenchFile.create(self.folder / "a.pivet")
        self.addCleanup(bench.close)
        about = About("made up", (), 100)
        recorder = Recorder(bench, about, "made up", Calendar(lambda: 0))
        heard = [ev.Heard("w", row + 1, self.wire, row, 0) for row in range(6)]
        recorder.take([*heard[:5], ev.Withdrawn("w", 5)])
        recorder.keep(now=True)
        recorder.take([ev.Withdrawn("w", 4), ev.Withdrawn("nobody", 9)])
        recorder.keep(now=True)
        self.assertEqual([0, 1, 2], [row.number for row in bench.exchanges(1, 0, 99)])
        self.assertEqual({0, 1, 2}, set(readings_in(bench, 1)))
        self.assertEqual(["dht22"], [row.sheet for row in bench.wires()])
        for sheet in ("dht21", "dht22"):
            taken_for = self.wire.judged_as(find_sheet(sheet))
            recorder.take([ev.Heard("w", 4, taken_for, 3, 0, revised=True)])
            recorder.keep(now=True)
            self.assertEqual([sheet], [row.sheet for row in bench.wires()])
        recorder.close()
        self.assertEqual({0, 1, 2, 3}, set(readings_in(bench, 1)))
        self.assertEqual(1, len(bench.wires()))
