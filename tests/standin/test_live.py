"""The live cave: what circuits answer, slot by slot; and the climate."""

import numpy as np

from pivet.listening.asking.conversation import in_pieces
from pivet.listening.asking.slots import Program
from pivet.sheets.load import find_sheet
from pivet.sheets.onewire import Function, Rom
from pivet.signal.trace import Level, Line
from pivet.sources.ask import Ask
from pivet.sources.source import Source
from pivet.standin.live.bus import LiveBus
from pivet.standin.live.cave import make_cave
from pivet.standin.live.climate import ClimatePlace, Disturbance, Felt
from pivet.standin.onewire.thermometer import Thermometer, make_code
from tests.base import FAMILIES, PivetTest, wire_of

CODE = make_code(0x28, 0x051B2C7D)


def lows_of(program: Program, start_us: float) -> list[tuple[float, float]]:
    """When a program's ask pulls low."""
    ends = start_us + np.cumsum(program.steps)
    return [
        (float(ends[at] - program.steps[at]), float(program.steps[at]))
        for at in range(0, len(program.steps), 2)
    ]


class Bus(PivetTest):
    """A 1-Wire line at the level of edges."""

    def setUp(self) -> None:
        super().setUp()
        self.device = Thermometer(CODE, lambda _: 25.0625)
        self.bus = LiveBus(("dq",), Level.HIGH, devices=[self.device])
        self.edges: list[np.ndarray] = []

    def say(self, program: Program, at_s: float) -> None:
        """The host says something."""
        self.edges += self.bus.driven(0, lows_of(program, at_s * 1e6), Level.LOW)

    def reports(self) -> list:
        """What Pivet makes of the line."""
        edges = np.rint(np.concatenate(self.edges) * 1000).astype(np.int64)
        wire = wire_of(FAMILIES["one-wire"], (Line("dq", Level.HIGH, edges),))
        return [wire.report(index) for index in range(len(wire))]

    def test_convert_and_read(self) -> None:
        """A whole round, at standard speed: the sheet's example value comes out."""
        self.say(Program().reset().data(bytes([Rom.SKIP, Function.CONVERT])).read(3), 0.1)
        self.say(Program().reset().data(bytes([Rom.READ])).read(64), 1.0)
        self.say(Program().reset().data(bytes([Rom.SKIP, Function.READ_SCRATCHPAD])).read(72), 2.0)
        found = self.reports()
        self.assertEqual([25.0625], [value.value for value in found[2].readings])
        self.assertEqual("28-0000051b2c7d", found[1].device)
        self.assertEqual("9101", found[2].data.hex()[4:8])

    def test_write_copy_and_power_loss(self) -> None:
        """9 bits, written and copied, stand after the supply was gone."""
        begin = Program().reset().data(bytes([Rom.SKIP]))
        self.say(begin.data(bytes([Function.WRITE_SCRATCHPAD, 0x10, 0x05, 0x1F])), 0.1)
        self.assertEqual(9, self.device.resolution)
        self.bus.power_dips(0.15e6)
        self.say(begin.data(bytes([Function.READ_SCRATCHPAD])).read(72), 0.2)
        self.assertEqual(12, self.device.resolution)
        self.say(begin.data(bytes([Function.WRITE_SCRATCHPAD, 0x10, 0x05, 0x1F])), 0.3)
        self.say(begin.data(bytes([Function.COPY])), 0.4)
        self.bus.power_dips(0.45e6)
        self.say(begin.data(bytes([Function.READ_SCRATCHPAD])).read(72), 0.5)
        self.assertEqual(9, self.device.resolution)
        self.assertEqual([85.0], [value.value for value in self.reports()[1].refused])

    def test_two_devices_speak_at_once(self) -> None:
        """Zeros win on the line, so the code that comes is nobody's."""
        other = Thermometer(make_code(0x28, 0x1234), lambda _: 1.0)
        self.bus = LiveBus(("dq",), Level.HIGH, devices=[self.device, other])
        self.say(Program().reset().data(bytes([Rom.READ])).read(64), 0.1)
        report = self.reports()[0]
        self.assertEqual(False, report.check.ok)
        heard = int.from_bytes(report.data[1:9], "little")
        self.assertEqual(CODE & other.code, heard)

    def test_nobody(self) -> None:
        """Unplugged: no presence."""
        self.bus.plug(False, 0.0)
        self.say(Program().reset(), 0.1)
        self.assertEqual(2, self.edges[0].size)

    def test_back_before_the_next_reset(self) -> None:
        """Who was away at the reset does not go on with what it said before."""
        self.say(Program().reset().data(bytes([Rom.READ])).read(10), 0.1)
        self.bus.plug(False, 0.0)
        self.say(Program().reset(), 0.2)
        self.bus.plug(True, 0.0)
        self.edges.clear()
        self.say(Program().read(54), 0.21)
        self.assertLess(np.diff(np.concatenate(self.edges))[::2].max(), 15.0)

    def test_a_short_reset(self) -> None:
        """Only devices at overdrive speed take it for one; they answer, and listen anew."""
        for at_s, program, edges in (
            (0.1, Program().reset(), 2),
            (0.2, Program().reset().data(bytes([Rom.FAST_SKIP])), 4),
            (0.3, Program().reset(), 2),
            (0.4, Program().reset().data(bytes([Rom.FAST_SKIP])), 4),
        ):
            self.say(program, at_s)
            (found,) = self.bus.driven(0, [(at_s * 1e6 + 5e4, 60.0)], Level.LOW)
            self.assertEqual(edges, found.size)
        bits = [Rom.READ >> at & 1 for at in range(8)] + [1] * 8
        lows = [(4.6e5 + 12 * at, 1.0 if bit else 8.0) for at, bit in enumerate(bits)]
        (found,) = self.bus.driven(0, lows, Level.LOW)
        told = np.diff(found)[::2][8:] < 1.5
        self.assertEqual(0x28, int(np.packbits(told, bitorder="little")[0]))


class Climate(PivetTest):
    """Truth and what sensors feel."""

    def test_breath_fades(self) -> None:
        """Up within seconds, gone within minutes."""
        place = ClimatePlace(60.0, 12.0, swing_c=0.0)
        place.disturb(Disturbance.BREATH, 100.0)
        self.assertEqual(60.0, place.humidity_at(99.0))
        self.assertGreater(place.humidity_at(103.0), 80.0)
        self.assertLess(place.humidity_at(220.0), 60.5)

    def test_what_was_done_is_forgotten(self) -> None:
        """Fifteen minutes after it nothing is left of it; until then it counts."""
        place = ClimatePlace(60.0, 12.0, swing_c=0.0)
        for now_s in (0.0, 899.0, 901.0, 950.0):
            place.disturb(Disturbance.HAND, now_s)
        self.assertEqual([899.0, 901.0, 950.0], [start for _, start in place.disturbed])
        place.disturb(Disturbance.HAND, 1799.0)
        self.assertEqual([901.0, 950.0, 1799.0], [start for _, start in place.disturbed])
        self.assertEqual(12.0, place.temperature_at(-1.0))

    def test_lag_is_of_first_order(self) -> None:
        """63 % after one time constant, however often one looks."""
        for looks in (1, 7, 400):
            felt = Felt(lambda t: (t > 0).astype(float), 20.0)
            felt.at(0.0)
            for look in range(1, looks + 1):
                value = felt.at(20.0 * look / looks)
            self.assertAlmostEqual(0.632, value, delta=0.004)

    def test_swap(self) -> None:
        """Two probes change what they feel, and change back."""
        cave = make_cave()
        before = {name: row.course(10.0) for name, row in cave.probes.items()}
        cave.swap("wheel_1", "brine")
        self.assertAlmostEqual(before["brine"], cave.probes["wheel_1"].course(10.0), places=2)
        cave.swap("wheel_1", "brine")
        self.assertAlmostEqual(before["brine"], cave.probes["brine"].course(10.0), places=2)


class SmallProbe(PivetTest):
    """Asks for a probe with little memory."""

    def test_pieces(self) -> None:
        """Each piece fits, ends with the line let go, and together they are the ask."""

        class Small(Source):
            name = open = listen = read = now_ns = close = None  # type: ignore[assignment]

            def fits(self, ask: Ask) -> bool:
                return len(ask.steps_us) <= 40

        program = Program().reset().data(bytes([Rom.MATCH, *range(8), 0xBE])).read(72)
        ask = program.say("dq").ask
        pieces = in_pieces(ask, Small())  # type: ignore[abstract]
        self.assertEqual(ask.steps_us, tuple(step for row in pieces for step in row.steps_us))
        self.assertTrue(all(len(row.steps_us) <= 40 for row in pieces))
        self.assertTrue(all(len(row.steps_us) % 2 == 0 for row in pieces))
        self.assertEqual("one-wire", find_sheet("onewire").family)
