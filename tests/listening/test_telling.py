"""What is told of exchanges of which more becomes known."""

from functools import partial
from unittest import mock

import numpy as np

from pivet.captures.wire import Wire
from pivet.frozen import replace
from pivet.judge.verdict import Verdict
from pivet.listening import events as ev
from pivet.listening.asking.conversation import Levels
from pivet.listening.asking.floor import Floor
from pivet.listening.heard_wire import HeardWire
from pivet.listening.setup import WireSetup
from pivet.listening.stream import LiveWire
from pivet.sources.link.clock import Clocks
from pivet.sources.replay import ReplaySource
from tests.base import PivetTest
from tests.listening.test_stream import begin, between
from tests.night import demo_night

S = 10**9


class Telling(PivetTest):
    """Told once, and again only when it has changed; in short chapters, so that many close."""

    def setUp(self) -> None:
        super().setUp()
        short = partial(LiveWire, chapter=8)
        self.enterContext(mock.patch("pivet.listening.heard_wire.LiveWire", short))

    def told(self, label: str, step_ns: int, seconds: int) -> tuple[HeardWire, list[ev.Event]]:
        """A wire of the night, heard in small steps."""
        capture = demo_night()
        wire = next(row for row in capture.wires if label in row.label)
        names = tuple(line.name for line in wire.lines)
        setup = WireSetup(label, names, wire.sheet, choices=replace(wire.choices))
        source = ReplaySource("night", capture.trace)
        listened = HeardWire(setup, source, wire.resolution_ns, Levels(), {}, Floor())
        found: list[ev.Event] = list(listened.hear([begin(line, 0) for line in wire.lines], ()))
        for at in range(0, seconds * S, step_ns):
            pieces = [between(line, at, at + step_ns) for line in wire.lines]
            found += listened.hear(pieces, ())
            found += listened.tell()
        return listened, found

    def silences(self, wire: Wire, count: int) -> set[tuple[str, str, int]]:
        """Whose readings failed twice in a row, and came again, in the first exchanges."""
        found, failed = set(), dict[str, int]()
        given: dict[tuple[int, str], bool] = {}
        for track in wire.tracks:
            for at, one in zip(track.at.tolist(), track.given.tolist(), strict=True):
                given.setdefault((at, track.rom), one)
        for (at, rom), one in sorted(row for row in given.items() if row[0][0] < count):
            before = failed.get(rom, 0)
            failed[rom] = 0 if one else before + 1
            if failed[rom] == 2:
                found.add(("Silent", rom, at + 1))
            elif one and before > 1:
                found.add(("Back", rom, 0))
        return found

    def test_numbers_and_counts(self) -> None:
        """Each exchange is told new exactly once, in order; counts are those of the last word."""
        for label, step_ns, seconds in (
            ("wheels", 7_000_000, 60),
            ("wheels", 1_500_000_000, 7200),
            ("brine_vat", 40_000_000, 60),
            ("brine_vat", 800_000_000, 1400),
            ("cellar_door", 4_000_000_000, 20_000),
        ):
            with self.subTest(label):
                listened, found = self.told(label, step_ns, seconds)
                heard = [row for row in found if isinstance(row, ev.Heard)]
                new = [row.number for row in heard if not row.revised]
                self.assertEqual([*range(1, len(new) + 1)], new)
                last = {row.number: int(row.shown.verdicts[row.index]) for row in heard}
                counts = np.bincount([*last.values()], minlength=len(Verdict)).tolist()
                self.assertEqual(counts, listened.counts.by_verdict)
                self.assertEqual(len(new), listened.counts.exchanges)
                said = {
                    (type(row).__name__, row.code, getattr(row, "number", 0))
                    for row in found
                    if isinstance(row, ev.Silent | ev.Back)
                }
                wire = next(row for row in demo_night().wires if label in row.label)
                self.assertEqual(self.silences(wire, len(new)), said)

    def test_a_jump_is_told_when_it_shows(self) -> None:
        """A jump of an echo is known by the shots behind it: it is told again, as revised."""
        _, found = self.told("brine_vat", 500_000_000, 760)
        heard = [row for row in found if isinstance(row, ev.Heard)]
        revised = [row.report() for row in heard if row.revised]
        codes = {finding.code for report in revised for finding in report.findings}
        self.assertIn("jumped", codes)


class ClockTest(PivetTest):
    """Two clocks side by side."""

    def test_a_clock_that_goes_slowly(self) -> None:
        """That of a simulated chip on a busy computer is followed at once."""
        clocks = Clocks()
        for beat in range(100):
            clocks.beat(beat * S // 16, beat * S // 10)
            ahead = clocks.ahead_ns
            assert ahead is not None
            self.assertLessEqual((beat * S // 10 - beat * S // 16) - ahead, S // 5)

    def test_the_fastest_beat_counts(self) -> None:
        """Beats that travelled slowly change nothing, and a slow clock is followed."""
        clocks = Clocks()
        self.assertIsNone(clocks.ahead_ns)
        random = np.random.default_rng(2)
        for beat in range(1200):
            probe = beat * S // 10
            late = int(random.integers(0, 30_000_000)) if beat % 7 else 1_000_000
            clocks.beat(probe, probe + probe // 20_000 + 5 * S + late)
            if beat in (100, 1199):
                ahead = clocks.ahead_ns
                assert ahead is not None
                self.assertAlmostEqual(5 + probe / S / 20_000, ahead / S, delta=0.0015)
