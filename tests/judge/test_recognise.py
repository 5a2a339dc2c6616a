"""Which lines are taken for a wire of which family, and which for none."""

import unittest
from pathlib import Path

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.captures.capture import capture_of
from pivet.families import FAMILIES
from pivet.judge.humidity.classes import sort_pulses
from pivet.judge.humidity.recognise import _differing
from pivet.judge.judgement import Likeness
from pivet.judge.onewire.recognise import _by_resets
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level, Line, Trace
from pivet.standin.onewire import Host, Thermometer, make_code
from tests.base import PivetTest, decode_line, feed_in_pieces
from tests.decode.frames import edges_from, frame_widths, with_sum
from tests.decode.slots import RESET_ALONE, edges_of, written
from tests.physics import humidity
from tests.physics.line import traced

END_NS = 3 * 10**9


def families(*lines: tuple[np.ndarray, Level]) -> list[str]:
    """Families of the wires found on some lines."""
    made = tuple(Line(f"l{at}", level, edges) for at, (edges, level) in enumerate(lines))
    trace = Trace(made, 0, END_NS, 100)
    return [wire.family.key for wire in capture_of(Path("t.vcd"), trace).wires]


def clock(period_us: float, high_us: float, count: int) -> np.ndarray:
    """A line that ticks."""
    rises = np.arange(count) * period_us
    edges = np.stack((rises, rises + high_us), axis=1).ravel() + 500
    return (edges * 1000).astype(np.int64)


def serial(data: bytes, bit_us: float) -> np.ndarray:
    """An asynchronous serial line, idle high, 8N1."""
    levels = []
    for byte in data:
        levels += [0, *(byte >> at & 1 for at in range(8)), 1, 1]
    changes = np.flatnonzero(np.diff([1, *levels]))
    return ((changes * bit_us + 700) * 1000).astype(np.int64)


class Others(PivetTest):
    """Lines of other kinds."""

    def test_clocks_and_pulse_widths(self) -> None:
        """Ticks of many lengths are no sensor, high or low at rest."""
        for period, high in ((1, 0.5), (10, 5), (70, 6), (100, 60), (1000, 500), (560, 500)):
            for level in Level:
                with self.subTest(period=period, high=high, level=level):
                    self.assertEqual([], families((clock(period, high, 600), level)))

    def test_answers_unlike_any(self) -> None:
        """Frames whose answer is high for too short are no sensor's."""
        for high, found in ((39.9, []), (40, ["humidity-frame"])):
            rows = [frame_widths(with_sum(b"\2\x8c\1\x5f")) for _ in range(3)]
            for widths in rows:
                widths[3] = high
            edges = [edges_from(widths, 5e4 + 2.1e6 * at) for at, widths in enumerate(rows)]
            self.assertEqual(found, families((np.concatenate(edges), Level.HIGH)), high)

    def test_serial_lines(self) -> None:
        """Text at several rates."""
        for rate in (9600, 19200, 115200):
            edges = serial(b"cheese ages slowly in a cave " * 30, 1e6 / rate)
            self.assertEqual([], families((edges, Level.HIGH)), rate)

    @given(st.lists(st.integers(2_000, 200_000), min_size=20, max_size=200))
    def test_noise_is_no_onewire_line(self, widths: list[int]) -> None:
        """Whatever widths: presence and commands of the standard do not come by chance."""
        edges = np.cumsum(np.array(widths))
        self.assertNotIn("onewire", families((edges, Level.HIGH)))


class Asked(PivetTest):
    """Lines on which nobody answers."""

    def test_lone_resets_and_lone_asks(self) -> None:
        """A reset of 500 µs is 1-Wire, an ask of 1 ms or 18 ms a humidity sensor's."""
        resets = edges_of(5 * [(500.0, 99_500.0)])
        self.assertEqual(["one-wire"], families((resets, Level.HIGH)))
        self.assertEqual(["one-wire"], families((edges_of(RESET_ALONE), Level.HIGH)))
        for ask in (1000.0, 18_000.0):
            asks = edges_of(5 * [(ask, 300_000.0)])
            self.assertEqual(["humidity-frame"], families((asks, Level.HIGH)))

    def test_coarse_resets(self) -> None:
        """Where bits have fallen through, what follows a reset must last, less the step."""
        for rest, found in ((250.0, Likeness.ANSWERED), (249.9, Likeness.POSSIBLE)):
            edges = edges_of([(500.0, 30.0), (120.0, rest), *written(b"\xcc\x44")])
            exchanges = feed_in_pieces(FAMILIES["one-wire"], (edges,), END_NS)
            self.assertIs(found, _by_resets(exchanges, 20_000), rest)

    def test_echo_without_trigger(self) -> None:
        """Echoes alone may be anything: they are offered, and taken when the person says so."""
        echo = (clock(60_000, 2900, 12), Level.LOW)
        self.assertEqual([], families(echo))
        frame = edges_from(frame_widths(with_sum(b"\2\x8c\1\x5f")), 50_000.0)
        self.assertEqual(["humidity-frame"], families(echo, (frame, Level.HIGH)))


class Drivers(PivetTest):
    """Lines that a simulator records beside the wire."""

    def test_host_side_of_a_onewire_line(self) -> None:
        """The line on which only the host pulls is no second wire."""
        host = Host([Thermometer(make_code(0x28, 5), lambda _: 12.0)])
        host.search()
        host.skip()
        host.convert(0.1)
        whole = host.line("dq").edges_ns
        lows = whole.reshape(-1, 2)
        short = lows[:, 1] - lows[:, 0] < 45_000
        presence = (lows[:, 1] - lows[:, 0] > 100_000) & (lows[:, 1] - lows[:, 0] < 150_000)
        driver = lows.copy()
        driver[short, 1] = driver[short, 0] + 5_000
        own = driver[~presence].ravel()
        self.assertEqual(["one-wire"], families((whole, Level.HIGH), (own, Level.HIGH)))


class Differing(unittest.TestCase):
    """In what frames of nobody differ from a sheet."""

    def test_on_the_limits(self) -> None:
        """Of pulses on the limit nothing is said; then only the sums can differ."""
        sheet = find_sheet("dht22")
        keys = ("bit_low", "zero_high", "one_high")
        part = humidity.Part((80, 80), *(sheet.windows[key].max_us for key in keys))
        edges = humidity.exchange(humidity.frame_22(50, 20), 20_000.0, part)
        trace = traced({"d": (edges, True)}, step_ns=1)
        classes = sort_pulses(decode_line(trace.lines[0], trace))
        rows = _differing(classes, sheet)
        self.assertEqual([(0.0, "its sums, of which none holds")], rows)
