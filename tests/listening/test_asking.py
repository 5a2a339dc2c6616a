"""Asking the cave's sensors through the probe link, at the level of edges."""

import itertools
from unittest import mock

import numpy as np

from pivet.errors import InputError
from pivet.frozen import replace
from pivet.listening import events as ev
from pivet.listening.air import air_from, refuse_unknown_air, renew_air
from pivet.listening.asking.conversation import Answer
from pivet.listening.asking.explore import _try_echo
from pivet.listening.setup import least_interval_s, refuse_hurry
from pivet.person.choices import WireChoices
from pivet.sheets.load import all_sheets
from pivet.sheets.onewire import code_text
from pivet.signal.trace import Level
from pivet.standin.onewire.thermometer import make_code
from pivet.standin.wheels import CODES
from tests.base import shots_of
from tests.listening.cave import CaveTest, wire


class Finding(CaveTest):
    """What answers there?"""

    def found(self, name: str) -> ev.Known:
        """What is found on a wire of which nothing is known."""
        self.listen(wire(name))
        known = self.until(lambda row: isinstance(row, ev.Known))
        assert isinstance(known, ev.Known)
        return known

    def test_three_pins(self) -> None:
        """Trigger and echo on one line, and nothing else, are a three-pin sensor."""
        for edges_us, others_us, found in (
            ((0, 5, 755, 4200), (), "ping3"),
            ((0, 5, 30, 35), (), None),
            ((0, 5), (), None),
            ((0, 10), (460, 3900), "hc-sr04"),
            ((0, 10), (2, 5), None),
            ((0, 10), (154, 5000), None),
            ((0, 10), (155, 5000), "hc-sr04"),
            ((0, 10), (460,), None),
        ):
            talk = _try_echo("V", 500, ("W",))
            next(talk)
            edges = {"V": np.array(edges_us) * 1000, "W": np.array(others_us, dtype=int) * 1000}
            answer = Answer(0, 5000, 40_000_000, edges, dict.fromkeys("VW", Level.LOW))
            with self.assertRaises(StopIteration) as ended:
                talk.send(answer)
            sheet = ended.exception.value.sheet
            self.assertEqual(found, sheet and sheet.id)

    def test_many_probes(self) -> None:
        """Codes that share long beginnings are found too."""
        wheels = self.cave.circuits["wheels"]
        base = make_code(0x28, 0x1234)
        extra = [make_code(0x28, 0x1234 ^ 1 << place) for place in (0, 1, 20, 47)] + [base]
        from pivet.standin.onewire.thermometer import Thermometer

        wheels.devices += [Thermometer(code, lambda _: 5.0) for code in extra]  # type: ignore[attr-defined]
        wheels.__post_init__()  # type: ignore[attr-defined]
        found = self.found("wheels").found
        self.assertEqual({*CODES.values(), *extra}, {*found.codes})


class Asking(CaveTest):
    """Readings, failures, retries."""

    def readings(self, name: str) -> list[dict[str, float]]:
        """What a wire's exchanges gave."""
        return [
            {value.quantity: value.value for value in row.report().readings}
            for row in self.heard(name)
        ]

    def test_the_sheet_is_kept(self) -> None:
        """However hastily a person asks, asks keep the sheet's interval."""
        with self.assertRaisesRegex(InputError, "2 s or more"):
            self.listen(wire("shelf_A", "dht22", 0.5))
        for sheet in all_sheets().values():
            with self.assertRaises(InputError):
                refuse_hurry(sheet, 0.01)

    def test_the_interval_holds_when_asks_come_late(self) -> None:
        """Late rounds, retries, and a person who wants it now: never too soon for the sheet."""
        names = {"shelf_A": "dht22", "wash_room": "dht11", "brine_vat": "hc-sr04"}
        setups = [replace(wire(name, sheet), retries=2) for name, sheet in names.items()]
        self.listen(*(replace(row, every_s=least_interval_s(row.sheet)) for row in setups))
        for plugged in (True, False, True):
            for name in names:
                self.cave.plug(name, plugged, self.now_us)
            for _ in range(9):
                self.passes(0.3)
                for row in self.listener.wires:
                    row.ask_now()
        for row in setups:
            starts = [e.report().start_ns / 1e9 for e in self.heard(row.name) if not e.revised]
            least = min(after - before for before, after in itertools.pairwise(starts))
            self.assertGreaterEqual(least, 0.999 * least_interval_s(row.sheet), row.name)

    def test_air_from_a_thermometer(self) -> None:
        """An echo sensor goes by the thermometer beside it, also when that one changes."""
        choices = WireChoices(air=air_from("shelf_A"))
        vat = replace(wire("brine_vat", "hc-sr04"), choices=choices)
        self.listen(vat, wire("shelf_A", "dht22"))
        self.passes(5.0)
        first = shots_of(self.heard("brine_vat")[-1].shown)
        self.assertAlmostEqual(11.8, float(first.air_c[-1]), delta=0.3)
        self.cave.set_rest("shelf_A", "temperature", 40.0)
        self.passes(18.0)
        last = shots_of(self.heard("brine_vat")[-1].shown)
        self.assertGreater(float(last.air_c[-1]), 15.0)
        self.assertLess(float(last.air_c[0]), float(last.air_c[-1]) - 3)
        with mock.patch.object(self.listener.wires[0], "learn") as learned:
            renew_air(self.listener.wires)
        learned.assert_not_called()
        with self.assertRaisesRegex(InputError, "no wire 'cellar'"):
            refuse_unknown_air("cellar", ["shelf_A"])

    def test_gone_between_finding_and_asking(self) -> None:
        """Who was found, and was pulled off before it was ever read, is missed."""
        self.listen(wire("wheels"))
        self.until(lambda row: isinstance(row, ev.Known))
        self.cave.plug("wheel_3", False, self.now_us)
        silent = self.until(lambda row: isinstance(row, ev.Silent))
        assert isinstance(silent, ev.Silent)
        self.assertEqual(code_text(CODES["wheel 3, core"]), silent.code)


class Trouble(CaveTest):
    """Between probe and host."""

    def test_noise_of_the_serial_line(self) -> None:
        """One byte in 1000 is wrong: readings go on, and every reading given is a true one."""
        self.listen(wire("shelf_A", "dht22"))
        seen = [0]

        def spoil(data: bytes) -> bytes:
            out = bytearray(data)
            for at in range(len(out)):
                seen[0] += 1
                if seen[0] % 1000 == 0:
                    out[at] ^= 0x11
            return bytes(out)

        self.loop.spoil = spoil
        self.passes(25.0)
        found = [value.value for row in self.heard("shelf_A") for value in row.report().readings]
        self.assertGreater(len(found), 10)
        self.assertTrue(all(88 < value < 95 or 11 < value < 13 for value in found))
