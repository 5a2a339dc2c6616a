"""The stand-ins of 1-Wire and echo behave as their sheets say."""

import math
import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.decode.checks import crc8_of
from pivet.errors import InputError
from pivet.sheets.load import find_sheet
from pivet.sheets.onewire import CONVERSION_US, code_bytes, code_text
from pivet.signal.trace import Level
from pivet.standin.echo import EchoFault, EchoScene, echo_lines
from pivet.standin.onewire import Conditions, Host, Thermometer, make_code
from pivet.standin.onewire.host import bits_of
from pivet.standin.onewire.thermometer import pad_bytes
from pivet.standin.steps import seen_in_steps
from tests.base import PivetTest

CODE, OTHER = make_code(0x28, 0x51B2C7D), make_code(0x22, 77)


def warm(_: float) -> float:
    """A temperature that never changes."""
    return 21.5


def value_of(pad: bytes) -> float:
    """Temperature of a 12-bit scratchpad."""
    return int.from_bytes(pad[:2], "little", signed=True) / 16


class Device(unittest.TestCase):
    """One thermometer."""

    def test_code(self) -> None:
        """Family first, CRC last, written as the kernel does."""
        self.assertEqual("28-0000051b2c7d", code_text(CODE))
        self.assertEqual("287d2c1b0500008c", code_bytes(CODE).hex())
        self.assertEqual(0, crc8_of(code_bytes(OTHER)))

    @given(st.integers(-880, 2000), st.sampled_from([9, 10, 11, 12]))
    def test_scratchpad(self, sixteenths: int, resolution: int) -> None:
        """Nine bytes whose CRC holds, low bits cut at low resolution."""
        pad = pad_bytes(sixteenths, 0x28, resolution, (75, 70))
        self.assertEqual((9, 0), (len(pad), crc8_of(pad)))
        self.assertLessEqual(0, sixteenths / 16 - value_of(pad))
        self.assertLess(sixteenths / 16 - value_of(pad), 2 ** (12 - resolution) / 16)

    def test_converts_in_its_time(self) -> None:
        """85 °C until the first conversion is over; then the temperature at its start."""
        device = Thermometer(CODE, lambda t: 10 + t)
        self.assertEqual(85.0, value_of(device.read(0.0)))
        device.convert(1.0)
        self.assertEqual((85.0, False), (value_of(device.read(1.5)), device.done(1.5)))
        self.assertEqual((11.0, True), (value_of(device.read(1.7)), device.done(1.7)))

    def test_resolutions_take_their_times(self) -> None:
        """Each as long as the sheet allows at most."""
        for resolution, us in CONVERSION_US.items():
            device = Thermometer(CODE, warm, resolution, takes=1.0)
            self.assertAlmostEqual(us / 1e6, device.conversion_s)
        self.assertAlmostEqual(0.75, Thermometer(make_code(0x10, 1), warm, 9, takes=1).conversion_s)

    def test_power_loss(self) -> None:
        """A dip, and a plug pulled and put back, forget value and unkept settings."""
        device = Thermometer(CODE, warm, dips=(5.0,), away=((8.0, 9.0),))
        device.write(bytes([1, 2, 0x1F]), 0.0)
        device.convert(0.0)
        self.assertEqual((21.5, 9), (value_of(device.read(1.0)), device.resolution))
        self.assertEqual((85.0, 12), (value_of(device.read(6.0)), device.resolution))
        device.convert(6.0)
        self.assertEqual([True, False, True], [device.plugged(t) for t in (7.9, 8.5, 9.0)])
        self.assertEqual(85.0, value_of(device.read(10.0)))

    def test_copy_and_recall(self) -> None:
        """What was copied survives power loss; recall takes it back."""
        device = Thermometer(CODE, warm, dips=(5.0,))
        device.write(bytes([40, 20, 0x3F]), 0.0)
        device.copy()
        self.assertEqual((40, 20), tuple(device.read(6.0)[2:4]))
        device.write(bytes([1, 2, 0x7F]), 6.0)
        device.recall()
        self.assertEqual(((40, 20), 10), (device.limits, device.resolution))

    def test_parasite_power(self) -> None:
        """A conversion on a line that does not stay quiet is lost."""
        device = Thermometer(CODE, warm, parasite=True)
        device.convert(0.0)
        device.disturb(0.1)
        self.assertEqual(85.0, value_of(device.read(2.0)))
        device.convert(2.0)
        device.disturb(3.0)
        self.assertEqual(21.5, value_of(device.read(3.0)))

    def test_alarm(self) -> None:
        """At or beyond either limit, signed."""
        device = Thermometer(CODE, lambda _: -10.0)
        device.convert(0.0)
        for limits, alarmed in (((30, 0xF6), True), ((30, 0xF5), False), ((0xF6, 0x80), True)):
            device.limits = limits
            self.assertEqual(alarmed, device.alarmed(2.0), limits)

    def test_search_for_alarms(self) -> None:
        """Only those in alarm answer it; all answer the other search."""
        codes = [make_code(0x28, number) for number in (3, 5, 9)]
        devices = [Thermometer(code, lambda _: -10.0) for code in codes]
        for device, low in zip(devices, (0xEC, 0xF6, 0xEC), strict=True):
            device.limits = (30, low)
        host = Host(devices)
        host.reset()
        host.skip()
        host.convert()
        self.assertEqual([codes[1]], host.search(alarm=True))
        self.assertEqual(set(codes), set(host.search()))


class Line(PivetTest):
    """Host and devices on one line."""

    def test_zeros_win(self) -> None:
        """Two devices that answer at once: each bit is the lower of both."""
        host = Host([Thermometer(CODE, warm), Thermometer(OTHER, warm)])
        got = host.read_rom()
        wanted = bits_of(code_bytes(CODE)) & bits_of(code_bytes(OTHER))
        np.testing.assert_array_equal(wanted, got)

    def test_nobody_reads_ones(self) -> None:
        """An unplugged device leaves the line high."""
        host = Host([Thermometer(CODE, warm, away=((0.0, math.inf),))])
        self.assertFalse(host.reset())
        self.assertEqual([], host.search())
        host.match(CODE)
        self.assertTrue(host.read_scratchpad().all())

    def test_edges_rise_and_alternate(self) -> None:
        """Whatever jitter and rise, in steps of the capture."""
        for rise in (0.0, 5.0, 9.0):
            host = Host([Thermometer(CODE, warm)], Conditions(0.5, rise, 500))
            host.search()
            host.skip()
            host.convert()
            edges = host.line("dq").edges_ns
            self.assertTrue((np.diff(edges) > 0).all())
            self.assertTrue((edges % 500 == 0).all())
            self.assertEqual(0, edges.size % 2)

    def test_same_seed_same_edges(self) -> None:
        """The stand-in is reproducible."""
        made = []
        for seed in (1, 1, 2):
            host = Host([Thermometer(CODE, warm)], seed=seed)
            host.read_rom()
            made.append(host.line("dq").edges_ns.tolist())
        self.assertEqual(made[0], made[1])
        self.assertNotEqual(made[0], made[2])

    def test_search_while_plugging(self) -> None:
        """A search finds who is there at its time."""
        late = Thermometer(OTHER, warm, away=((-math.inf, 5.0),))
        host = Host([Thermometer(CODE, warm), late])
        self.assertEqual([CODE], host.search())
        host.wait_until(6.0)
        self.assertEqual({CODE, OTHER}, set(host.search()))


class Shots(PivetTest):
    """The echo stand-in."""

    def scene(self, sensor: str = "hc-sr04", **options: Any) -> EchoScene:
        """Five shots at one metre."""
        air = np.full(5, 20.0)
        return EchoScene("v", find_sheet(sensor), np.ones(5), air, 0.1, **options)

    def test_lines(self) -> None:
        """Two lines or one, low at rest."""
        for sensor, names in (("hc-sr04", ["v.trigger", "v.echo"]), ("ping3", ["v"])):
            lines = echo_lines(self.scene(sensor), 1)
            self.assertEqual(names, [line.name for line in lines])
            self.assertEqual({Level.LOW}, {line.initial for line in lines})
            self.assertTrue(all((np.diff(line.edges_ns) > 0).all() for line in lines))

    def test_flight(self) -> None:
        """There and back at the speed of sound."""
        echo = echo_lines(self.scene(jitter_us=0.0), 1)[1].edges_ns
        np.testing.assert_allclose(np.diff(echo)[::2] / 1000, 2e6 / 343.2, rtol=1e-3)

    def test_no_time(self) -> None:
        """An interval shorter than the echo is refused."""
        scene = EchoScene("v", find_sheet("ping3"), np.ones(2), np.zeros(2), 0.004)
        with self.assertRaises(InputError):
            echo_lines(scene, 1)

    def test_faults_leave_the_others(self) -> None:
        """A fault befalls its own shot."""
        plain = echo_lines(self.scene(jitter_us=0.0), 1)[1].edges_ns
        silent = echo_lines(self.scene(jitter_us=0.0, faults={2: (EchoFault.NO_ECHO,)}), 1)[1]
        np.testing.assert_array_equal(np.delete(plain, [4, 5]), silent.edges_ns)

    @given(st.lists(st.floats(0.0, 50.0), max_size=40), st.sampled_from([100, 1000, 7000]))
    def test_steps(self, widths: list[float], step: int) -> None:
        """Rising, on the step, an even number gone."""
        edges = np.cumsum(np.array(widths))
        seen = seen_in_steps(edges, step)
        self.assertTrue((np.diff(seen) > 0).all())
        self.assertEqual(0, (edges.size - seen.size) % 2)
