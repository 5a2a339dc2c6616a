"""Asking the cave's sensors through the probe link, at the level of edges."""

import itertools
from unittest import mock

import numpy as np

from pivet.errors import InputError
from pivet.frozen import replace
from pivet.judge.verdict import Verdict
from pivet.listening import events as ev
from pivet.listening.air import air_from, refuse_unknown_air
from pivet.listening.asking.conversation import Answer
from pivet.listening.asking.explore import _try_echo
from pivet.listening.setup import WireSetup, least_interval_s, refuse_hurry
from pivet.person.choices import WireChoices
from pivet.sheets.load import all_sheets
from pivet.sheets.onewire import code_text
from pivet.signal.trace import Level
from pivet.sources.source import SourceError
from pivet.standin.live.climate import Disturbance
from pivet.standin.onewire.thermometer import make_code
from pivet.standin.wheels import CODES
from tests.base import shots_of
from tests.listening.cave import STEP_S, CaveTest, wire


class Finding(CaveTest):
    """What answers there?"""

    def found(self, name: str) -> ev.Known:
        """What is found on a wire of which nothing is known."""
        self.listen(wire(name))
        known = self.until(lambda row: isinstance(row, ev.Known))
        assert isinstance(known, ev.Known)
        return known

    def test_humidity_sensors(self) -> None:
        """Both kinds are woken by the same ask, and told apart."""
        for name, sheet in (
            ("shelf_A", "dht22"),
            ("wash_room", "dht11"),
            ("blast_chiller", "dht22"),
        ):
            with self.subTest(name):
                self.setUp()
                found = self.found(name).found
                self.assertEqual(sheet, found.sheet.id if found.sheet else None)

    def test_own_asks_are_nobody_elses(self) -> None:
        """While a wire is found out, what is heard on it is what was asked from here."""
        self.listen(wire("shelf_A"))
        found_out = self.listener.wire("shelf_A")
        seen = []
        while not any(isinstance(row, ev.Known) for row in self.events):
            self.passes(STEP_S)
            seen.append((found_out.exploring, found_out.talking))
        self.assertEqual({(False, False), (True, False)}, set(seen[:-1]))
        self.assertFalse(found_out.exploring)
        (known,) = [row for row in self.events if isinstance(row, ev.Known)]
        self.assertNotIn("somebody else", known.found.says)
        self.until(lambda _: found_out.talking)

    def test_nothing_answers_and_it_is_tried_again(self) -> None:
        """Who finds nothing has given up, and may be asked to look once more."""
        self.listen(wire("spare"))
        for _ in range(2):
            known = self.until(lambda row: isinstance(row, ev.Known))
            assert isinstance(known, ev.Known)
            self.assertIsNone(known.found.sheet)
            self.assertFalse(self.listener.wire("spare").exploring)
            self.listener.change("spare", 0.0, 1)

    def test_a_look_at_lines_that_are_no_wire(self) -> None:
        """What is on them is told under the name that was given; then nobody hears them."""
        self.listen(wire("shelf_A", "dht22"))
        self.listener.look(WireSetup("guest", ("wash_room",), None, 0.0))
        known = self.until(lambda row: isinstance(row, ev.Known))
        assert isinstance(known, ev.Known)
        self.assertEqual("guest", known.wire)
        self.assertEqual("dht11", known.found.sheet.id)
        self.assertEqual(["shelf_A"], [row.name for row in self.listener.wires])
        self.passes(5.0)
        self.assertEqual([], self.heard("guest"))

    def test_a_look_at_nothing(self) -> None:
        """Lines on which nothing answers are let go as well, and can be looked at again."""
        self.listen(wire("shelf_A", "dht22"))
        for _ in range(2):
            self.listener.look(WireSetup("guest", ("spare",), None, 0.0))
            self.assertEqual(["cave.shelf_A", "cave.spare"], self.listener._lines())
            known = self.until(lambda row: isinstance(row, ev.Known))
            assert isinstance(known, ev.Known)
            self.assertIsNone(known.found.sheet)
            self.assertEqual(["cave.shelf_A"], self.listener._lines())

    def test_listened_to_before_it_is_asked(self) -> None:
        """A wire that comes later is left alone for three seconds: somebody may be asking there."""
        self.listen(wire("shelf_A", "dht22"))
        self.passes(5.0)
        self.listener.add(wire("spare"))
        added_s = self.clock.seconds()
        while not self.listener.wire("spare").exploring:
            self.passes(STEP_S)
            self.assertLess(self.clock.seconds() - added_s, 6.0)
        self.assertGreater(self.clock.seconds() - added_s, 2.9)

    def test_three_pins(self) -> None:
        """Trigger and echo on one line, and nothing else, are a three-pin sensor."""
        for edges_us, found in (
            ((0, 5, 755, 4200), "ping3"),
            ((0, 5, 30, 35), None),
            ((0, 5), None),
        ):
            talk = _try_echo("V", 500, ())
            next(talk)
            edges = np.array(edges_us) * 1000
            answer = Answer(0, 5000, 40_000_000, {"V": edges}, {"V": Level.LOW})
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

    def test_asked_by_others(self) -> None:
        """A line that other firmware asks is left to it."""
        known = self.found("cellar_door")
        self.assertIn("only listens", known.found.says)
        self.assertEqual("dht11-early", known.found.sheet.id if known.found.sheet else "")
        self.passes(12.0)
        heard = self.heard("cellar_door")
        self.assertGreaterEqual(len(heard), 5)
        self.assertEqual({0}, {row.attempt for row in heard})

    def test_a_probe_with_little_memory(self) -> None:
        """Long asks go in pieces; what cannot be asked at all is a note, and listening goes on."""
        self.listen(wire("wheels"), wire("spare"))
        about = self.source._i_am
        assert about is not None
        self.source._i_am = replace(about, most_steps=40)
        known = self.until(lambda row: isinstance(row, ev.Known) and bool(row.found.codes))
        assert isinstance(known, ev.Known)
        self.assertEqual({*CODES.values()}, {*known.found.codes})
        self.passes(6.0)
        self.assertTrue(any(row.report().readings for row in self.heard("wheels")))
        self.source._i_am = replace(about, most_steps=1)
        self.until(lambda row: isinstance(row, ev.Note) and "too long" in row.says)


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
        with self.assertRaisesRegex(InputError, "no wire 'cellar'"):
            refuse_unknown_air("cellar", ["shelf_A"])

    def test_asked_from_a_moment_on(self) -> None:
        """The next round begins then, and not before."""
        self.listen(wire("shelf_A", "dht22"))
        self.listener.wires[0].ask_from(self.source.now_ns() + 4 * 10**9)
        self.passes(3.5)
        self.assertEqual([], self.heard("shelf_A"))
        self.passes(2.0)
        self.assertEqual(1, len(self.heard("shelf_A")))

    def test_breath(self) -> None:
        """Humidity climbs within seconds; temperature takes its time."""
        self.listen(wire("shelf_A", "dht22"))
        self.passes(7.0)
        before = self.readings("shelf_A")[-1]
        self.cave.places["shelf_A"].humidity = 60.0
        self.passes(22.0)
        calm = self.readings("shelf_A")[-1]
        self.assertLess(calm["humidity"], before["humidity"] - 20)
        self.cave.disturb("shelf_A", Disturbance.BREATH, self.now_us / 1e6)
        self.passes(8.0)
        after = self.readings("shelf_A")[-1]
        self.assertGreater(after["humidity"], calm["humidity"] + 8)
        self.assertLess(abs(after["temperature"] - calm["temperature"]), 0.5)

    def test_gone_between_finding_and_asking(self) -> None:
        """Who was found, and was pulled off before it was ever read, is missed."""
        self.listen(wire("wheels"))
        self.until(lambda row: isinstance(row, ev.Known))
        self.cave.plug("wheel_3", False, self.now_us)
        silent = self.until(lambda row: isinstance(row, ev.Silent))
        assert isinstance(silent, ev.Silent)
        self.assertEqual(code_text(CODES["wheel 3, core"]), silent.code)

    def test_power_dip_of_thermometers(self) -> None:
        """A dip while a conversion runs brings 85 °C, which is refused."""
        self.listen(wire("wheels", "onewire"))
        self.passes(4.0)
        self.until(lambda row: isinstance(row, ev.Heard) and row.report().data == b"\xcc\x44")
        self.cave.circuits["wheels"].power_dips(self.now_us)
        self.passes(2.0)
        refused = [row.report().refused for row in self.heard("wheels")]
        self.assertIn(85.0, [value.value for row in refused for value in row])

    def test_swapped_probes(self) -> None:
        """Codes stay with the probes, temperatures with the places."""
        self.cave.places["wheel_1"].temperature = 30.0
        self.listen(wire("wheels", "onewire"))
        self.passes(5.0)
        self.cave.swap("wheel_1", "brine")
        self.passes(3.0)
        last = {
            value.rom: value.value
            for row in self.heard("wheels")
            for value in row.report().readings
        }
        self.assertGreater(last[code_text(CODES["brine"])], 25.0)
        self.assertLess(last[code_text(CODES["wheel 1, core"])], 15.0)


class Trouble(CaveTest):
    """Between probe and host."""

    def test_crash_and_return(self) -> None:
        """The probe goes, comes back, and listening goes on with a gap."""
        self.listen(wire("shelf_A", "dht22"))
        self.passes(5.0)
        before = len(self.heard("shelf_A"))
        self.loop.crash()
        with mock.patch.object(self.source, "close", wraps=self.source.close) as closed:
            away = self.until(lambda row: isinstance(row, ev.Away))
        closed.assert_called()
        self.assertIn("gone", away.says)  # type: ignore[union-attr]
        self.assertFalse(self.listener.here)
        for more in (self.listener.look, self.listener.add):
            with self.assertRaisesRegex(SourceError, "not there now"):
                more(WireSetup("guest", ("wash_room",), None, 0.0))
        self.passes(5.0)
        self.loop.plugged = True
        self.until(lambda row: isinstance(row, ev.Opened) and row.again)
        self.passes(6.0)
        heard = self.heard("shelf_A")
        self.assertGreater(len(heard), before + 1)
        self.assertEqual({Verdict.SOUND}, {row.report().verdict for row in heard})
        starts = [row.report().start_ns for row in heard]
        self.assertGreater(max(b - a for a, b in itertools.pairwise(starts)), 4e9)
        (missed,) = [row for row in self.events if isinstance(row, ev.Missed)]
        self.assertGreater(missed.gap.end_ns - missed.gap.start_ns, 4e9)
        self.assertIsNone(missed.gap.lost, "nobody knows what went by")

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
