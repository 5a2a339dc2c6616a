"""What is known beside what is heard: the calendar, the air, how a line rests."""

import itertools
import unittest
from collections.abc import Sequence
from unittest import mock

import numpy as np

from pivet.errors import InputError
from pivet.frozen import replace
from pivet.listening.air import _joined, refuse_unknown_air
from pivet.listening.calendar import Calendar
from pivet.listening.heard_wire import _look
from pivet.listening.listener import LOOK_BURST_S, LOOK_S, LOOK_SHARE, Listener
from pivet.readings.sound import Air
from pivet.signal.trace import Level
from pivet.sources.replay import ReplaySource
from tests.night import demo_night, night_part


class Calendars(unittest.TestCase):
    """What was when."""

    def test_held_against_each_other(self) -> None:
        """A live source again and again, a recording when it is opened only."""
        wall = itertools.count(10**18, 10**9)
        calendar = Calendar(lambda: next(wall))
        source = mock.Mock(replays=True, now_ns=lambda: 7 * 10**9)
        calendar.look(source)
        self.assertEqual(10**18 + 5, calendar.wall_ns(5))
        calendar.look(source, opened=True)
        self.assertEqual(10**18 - 6 * 10**9 + 5, calendar.wall_ns(5))
        source.replays = False
        calendar.look(source)
        self.assertEqual(10**18 - 5 * 10**9, calendar.zero_ns)

    def test_local_time(self) -> None:
        """Ns since 1970, with the zone."""
        at = Calendar(lambda: 10**18).wall_time(500_000_000)
        self.assertEqual((10**9 + 0.5, True), (at.timestamp(), at.tzinfo is not None))


class Paces(unittest.TestCase):
    """How often new exchanges are looked for."""

    def pause(self, costs_s: Sequence[float]) -> tuple[float, float]:
        """Looks as soon as it may, each taking so long; how long all took, and how long it was."""
        source = ReplaySource("made.vcd", night_part("shelf_A", 0.01))
        looks, began = Listener(source, lambda _: []), 50.0
        now = began
        for cost in costs_s:
            start = max(now, looks._look_at)
            now = start + cost
            looks._pause(start, now)
        return sum(costs_s), now - began

    def test_share(self) -> None:
        """Dear looks take no more than their share of the time, cheap ones come at once."""
        for cost in (0.02, 0.1, 0.5):
            spent, passed = self.pause([cost] * 200)
            self.assertLess(spent, LOOK_SHARE * passed + LOOK_BURST_S + cost)
            self.assertGreater(spent, 0.9 * LOOK_SHARE * passed)
        spent, passed = self.pause([0.001] * 200)
        self.assertAlmostEqual(passed - spent, 199 * LOOK_S)
        # After a long rest a dear one is paid for.
        spent, passed = self.pause([0.1, *[0.0] * 100, 0.1])
        self.assertAlmostEqual(passed - spent, 101 * LOOK_S)


class Looks(unittest.TestCase):
    """What a line itself says of a sensor that gives no reading."""

    def test_level(self) -> None:
        """As it should rest, or held; how it is wired stands there."""
        for wire in demo_night().wires:
            other = tuple(replace(row, initial=Level(1 - row.initial)) for row in wire.lines)
            rests, should = ("low", "high") if wire.family.key == "echo-pulse" else ("high", "low")
            held = "held high" if rests == "low" else "held low, or its pull-up is missing"
            for index in (0, 1):
                said, turned = (_look(row, index) for row in (wire, replace(wire, lines=other)))
                self.assertIn(f"The line rests {rests}, as it should. Wiring: ", said)
                self.assertIn(f"The line rests {should}: it is {held}. Wiring: ", turned)


class Airs(unittest.TestCase):
    """What a thermometer has read before stays known."""

    def test_unknown(self) -> None:
        """The wire of a thermometer must be listened to, whichever of its devices is meant."""
        for label in ("wheels", "wheels, core", "wheels, 28-1, and more"):
            refuse_unknown_air(label, ["shelf_A", "wheels"])
        with self.assertRaisesRegex(InputError, "no wire 'wheel, core'.*take one of a, wheels"):
            refuse_unknown_air("wheel, core", ["a", "wheels"])

    def test_joined(self) -> None:
        """From where the newer begins only that counts; the name stays; what was assumed goes."""
        older = Air("wheels", np.array([10, 20, 30, 40]), np.array([1.0, 2.0, 3.0, 4.0]))
        newer = Air("wheels, core", np.array([20, 35, 50]), np.array([7.0, 8.0, 9.0]))
        found = _joined(older, newer)
        self.assertEqual("wheels", found.label)
        self.assertEqual([10, 20, 35, 50], found.times_ns.tolist())
        self.assertEqual([1.0, 7.0, 8.0, 9.0], found.values.tolist())
        assumed = _joined(Air("wheels", older.times_ns, older.values, given=False), newer)
        self.assertEqual(("wheels", 3), (assumed.label, assumed.values.size))
