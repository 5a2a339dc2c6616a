"""Printed values: each mistake is made, with many wordings, and told for what it is."""

import re
from collections.abc import Callable
from contextlib import suppress

import numpy as np

from pivet.errors import Cancelled, InputError
from pivet.insight.printed.check import CODES, Crosscheck, crosscheck
from pivet.insight.printed.facts import Fact
from pivet.insight.printed.lines import printed_lines
from pivet.insight.registry import insight_of
from tests.base import PivetTest
from tests.insight.signals import echo_wire, humidity_wire, slow_air, thermometer_wire
from tests.physics.echo import flight_us
from tests.physics.humidity import ELEVEN, frame_11, frame_22

COUNT = 50
AIR = slow_air(COUNT)
Says = Callable[[float, float], str]


def sign_and_tenths(celsius: float) -> int:
    """The two bytes of a 22-type, as one number."""
    return round(abs(celsius) * 10) | (0x8000 if celsius < 0 else 0)


class Humidity(PivetTest):
    """A 22-type below zero."""

    facts: list[Fact]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        wire = humidity_wire([frame_22(damp, warm) for damp, warm in AIR])
        cls.facts = insight_of(wire).facts(wire)

    def checked(self, says: Says, rows: list[tuple[float, float]] | None = None) -> Crosscheck:
        """What is found of a line an exchange."""
        text = "\n".join(says(damp, warm) for damp, warm in rows or AIR)
        return crosscheck(self.facts, text)

    def test_the_same_in_any_wording(self) -> None:
        """Words, signs, order, times in front, commas, two lines: all the same."""
        wordings: tuple[Says, ...] = (
            lambda h, t: f"Humidity: {h:.1f} %\tTemperature: {t:.1f} *C",
            lambda h, t: f"T={t:.2f}C RH={h:.2f}%",
            lambda h, t: f"{h:.1f};{t:.1f}",
            lambda h, t: f"{t:.1f} {h:.1f}",
            lambda h, t: f"Luft {t:.1f} °C bei {h:.1f} %".replace(".", ","),
            lambda h, t: f"hum: {h:.1f}\ntemp: {t:.1f}\n",
            lambda h, t: f"[22:15:07.250] node 3 ok: temp {t:.1f} hum {h:.1f}",
            lambda h, t: f'{{"t": {t:.1f}, "rh": {h:.1f}}}',
            lambda h, t: f"Temp {t * 1.8 + 32:.1f} F, hum {h:.1f}",
        )
        for says in wordings:
            found = self.checked(says)
            self.assertEqual((COUNT, COUNT), (found.paired, found.count("same")), says(50.5, -3.2))

    def test_mistakes(self) -> None:
        """Each is made, and explains all lines that it changes."""
        mistakes: dict[str, tuple[Says, ...]] = {
            "sign-as-magnitude": (
                lambda h, t: f"h {h:.1f} t {sign_and_tenths(t) / 10:.1f}",
                lambda h, t: f"h {h:.1f} t {-t:.1f}",
            ),
            "twos-complement": (
                lambda h, t: f"h {h:.1f} t {(sign_and_tenths(t) - 0x10000) / 10:.1f}",
            ),
            "bytes-swapped": (
                lambda h, t: f"h {int.from_bytes(round(h * 10).to_bytes(2, 'little')) / 10} t {t}",
            ),
            "whole-part-only": (lambda h, t: f"h {int(h)} t {int(t)}",),
            "tenths-lost": (
                lambda h, t: f"h {int(h)}.0 t {int(t)}.0",
                lambda h, t: f"hum {round(h * 10)} temp {round(t * 10)}",
            ),
            "other-type": (
                lambda h, t: f"hum {round(h * 10) >> 8} temp {sign_and_tenths(t) >> 8}",
                lambda h, t: (
                    f"hum {(round(h * 10) >> 8) + (round(h * 10) & 255) / 10:.1f} temp {t}"
                ),
            ),
            "fahrenheit": (lambda h, t: f"hum {h:.1f} temp {t * 1.8 + 32:.1f}",),
            "rounded": (lambda h, t: f"hum {h:.0f} temp {t:.0f}",),
        }
        for code, ways in mistakes.items():
            for says in ways:
                found = self.checked(says)
                with self.subTest(code, line=says(50.5, -3.2)):
                    self.assertEqual([code], [row[0] for row in found.explained])
                    self.assertEqual(COUNT, found.paired)
                    changed = found.explained[0][1]
                    self.assertEqual(COUNT, changed + found.count("same"))
                    self.assertGreater(changed, COUNT * 0.8)
                    example = found.explained[0][2]
                    self.assertTrue(example.printed and example.wire and example.line)

    def test_some_lines_only(self) -> None:
        """A mistake in a few lines is told of these."""
        turns = iter(range(COUNT))
        found = self.checked(
            lambda h, t: f"h {h:.1f} t {t * 1.8 + 32 if next(turns) % 10 == 4 else t:.1f}"
        )
        self.assertEqual(("fahrenheit", 5), found.explained[0][:2])
        self.assertEqual(45, found.count("same"))

    def test_stale(self) -> None:
        """Always one behind, and now and then."""
        late = self.checked(lambda h, t: f"h {h:.1f} t {t:.1f}", [AIR[0], *AIR[:-1]])
        self.assertEqual((1, COUNT - 1), (late.count("same"), late.count("stale")))
        some = [AIR[at - (at % 8 == 5)] for at in range(COUNT)]
        found = self.checked(lambda h, t: f"h {h:.1f} t {t:.1f}", some)
        self.assertEqual((44, 6), (found.count("same"), found.count("stale")))

    def test_stale_and_mistaken(self) -> None:
        """An older value with a mistake of its own is stale."""
        rows = [AIR[at - (at % 8 == 5)] for at in range(COUNT)]
        found = self.checked(lambda h, t: f"h {h:.1f} t {sign_and_tenths(t) / 10:.1f}", rows)
        self.assertEqual((44, 6), (found.count("sign-as-magnitude"), found.count("stale")))

    def test_times_tell(self) -> None:
        """Lines with times: the first is missing, and each other is one behind."""
        ends = [fact.end_s for fact in self.facts]
        for scale, form in ((1, "{:.3f} h {} t {}"), (1000, "[{:.0f}] h {} t {}")):
            rows = zip(ends[1:], AIR[:-1], strict=True)
            text = "\n".join(form.format((end + 0.02) * scale, *row) for end, row in rows)
            found = crosscheck(self.facts, text)
            self.assertEqual((COUNT - 1, 1), (found.count("stale"), found.count("missing")))
        elsewhere = "\n".join(
            f"{end + 9000:.2f} h {h} t {t}" for end, (h, t) in zip(ends, AIR, strict=True)
        )
        self.assertEqual(COUNT, crosscheck(self.facts, elsewhere).count("same"))

    def test_missing_and_invented(self) -> None:
        """Lines that are not there, and lines of which the wire knows nothing."""
        few = [row for at, row in enumerate(AIR) if at % 7]
        found = self.checked(lambda h, t: f"h {h:.1f} t {t:.1f}", few)
        self.assertEqual((len(few), 8), (found.count("same"), found.count("missing")))
        more = [row for at, row in enumerate(AIR) for _ in range(2 if at % 10 == 5 else 1)]
        found = self.checked(lambda h, t: f"h {h:.1f} t {t:.1f}", more)
        self.assertEqual((COUNT, 5), (found.count("same"), found.count("invented")))
        odd = [*AIR[:20], (11.1, 99.9), *AIR[20:]]
        found = self.checked(lambda h, t: f"h {h:.1f} t {t:.1f}", odd)
        self.assertEqual((COUNT, 1), (found.count("same"), found.count("invented")))
        self.assertEqual(0, found.count("unexplained"))

    def test_unexplained(self) -> None:
        """What nothing explains is said so."""
        wrong = [(h, t + 5.3) if at == 30 else (h, t) for at, (h, t) in enumerate(AIR)]
        found = self.checked(lambda h, t: f"h {h:.1f} t {t:.1f}", wrong)
        self.assertEqual((COUNT - 1, 1), (found.count("same"), found.count("unexplained")))

    def test_failed_reads(self) -> None:
        """A wire without a reading beside a line that says so, or that repeats the last one."""
        frames = [bytearray(frame_22(h, t)) for h, t in AIR]
        for at in (7, 23, 40):
            frames[at][4] ^= 0x11
        wire = humidity_wire([bytes(data) for data in frames])
        facts = insight_of(wire).facts(wire)
        said = [
            "read failed: checksum" if at in (7, 23, 40) else f"h {h:.1f} t {t:.1f}"
            for at, (h, t) in enumerate(AIR)
        ]
        found = crosscheck(facts, "\n".join(said))
        self.assertEqual((COUNT - 3, 3), (found.count("same"), found.count("nothing")))
        repeats = [AIR[at - (at in (7, 23, 40))] for at in range(COUNT)]
        found = crosscheck(facts, "\n".join(f"h {h:.1f} t {t:.1f}" for h, t in repeats))
        self.assertEqual((COUNT - 3, 3), (found.count("same"), found.count("stale")))
        nan = re.sub(r"read.*", "h nan t nan", "\n".join(said))
        self.assertEqual(3, crosscheck(facts, nan).count("nothing"))
        lost = [f"h {h} t {t}" if at % 9 else "error" for at, (h, t) in enumerate(AIR)]
        self.assertEqual(6, self.checked(lambda *_: lost.pop(0)).count("missing"))

    def test_said_by_the_person(self) -> None:
        """Numbers that are bound by hand, where nothing else could tell."""
        text = "\n".join(f"{t + 1:.1f} {t:.1f} {h:.1f}" for h, t in AIR)
        found = crosscheck(self.facts, text, {"humidity": 3, "temperature": 2})
        self.assertEqual(COUNT, found.count("same"))

    def test_nothing_to_bind(self) -> None:
        """Text without such numbers, and a wire without a reading, are refused in a sentence."""
        for text in ("node is up\n", "", "no numbers here\n" * 9):
            with self.assertRaisesRegex(InputError, "--bind"):
                crosscheck(self.facts, text)
        with self.assertRaisesRegex(InputError, "gave no reading"):
            crosscheck([], "h 50.1 t 3.2")

    def test_told_while_lines_are_read(self) -> None:
        """Every 64 lines, first while it is seen how numbers are written."""
        shares: list[float] = []
        printed_lines("\n".join(f"h={number},5" for number in range(640)), shares.append)
        wanted = [*(0.02 * at for at in range(10)), *(0.2 + 0.08 * at for at in range(10))]
        np.testing.assert_allclose(wanted, shares)
        shares.clear()
        printed_lines("\n".join(f"h={number}.5" for number in range(640)), shares.append)
        self.assertEqual(11, len(shares))

    def test_any_text(self) -> None:
        """Lines of one shape have as many numbers, whatever else stands in them; no text is bad."""
        random = np.random.default_rng(8)
        parts = np.array(["#", "5", "7.25", "12#", "#1", " ", " ", "\t", "x", "%", "!", "nan"])
        for _ in range(40):
            text = "\n".join("".join(random.choice(parts, random.integers(1, 9))) for _ in AIR)
            numbers: dict[str, int] = {}
            for line in printed_lines(text):
                self.assertEqual(
                    len(line.numbers), numbers.setdefault(line.shape, len(line.numbers)), line
                )
            with suppress(InputError):
                crosscheck(self.facts, text)

    def test_progress(self) -> None:
        """It rises to the end, and stops the work wherever it is."""
        text = "\n".join(f"{'ab'[n % 2] * (n % 70)} {n}" for n in range(900))
        shares: list[float] = []

        def told(share: float) -> None:
            shares.append(share)
            if len(shares) in ends:
                raise Cancelled

        ends: list[int] = []
        with suppress(InputError):
            crosscheck(self.facts, text, progress=told)
        self.assertEqual((sorted(shares), 0.0), (shares, shares[0]))
        self.assertTrue(len(shares) > 15 and 0.5 < shares[-1] <= 1.0)
        for end in (1, len(shares) // 2, len(shares)):
            ends = [end]
            shares.clear()
            with self.assertRaises(Cancelled):
                crosscheck(self.facts, text, progress=told)

    def test_every_cause_has_words(self) -> None:
        """The causes that JSON names."""
        self.assertEqual(12, len(CODES))


class Others(PivetTest):
    """The other sensors."""

    def test_eleven(self) -> None:
        """An 11-type whose tenths, or whose sign, are not looked at; or read as a 22-type."""
        air = [(h, abs(t) + 10) for h, t in AIR]
        wire = humidity_wire([frame_11(h, t) for h, t in air], ELEVEN, ask=18_000)
        facts = insight_of(wire).facts(wire)
        for code, says in (
            ("same", lambda h, t: f"h {h:.1f} t {t:.1f}"),
            ("tenths-lost", lambda h, t: f"h {int(h)}.0 t {int(t + 1e-9)}.0"),
            (
                "other-type",
                lambda h, t: f"h {(int(h) * 256 + round(h * 10) % 10) / 10:.1f} t {t:.1f}",
            ),
        ):
            found = crosscheck(facts, "\n".join(says(h, t) for h, t in air))
            self.assertGreater(found.count(code), COUNT * 0.7, code)
            self.assertEqual(COUNT, found.count(code) + found.count("same") * (code != "same"))

    def test_thermometers(self) -> None:
        """Two of them: exchanged, without two's complement, as half degrees, in °F, rounded."""
        random = np.random.default_rng(4)
        drift = np.cumsum(random.normal(0, 0.5, (15, 2)), axis=0)
        warm = np.round((drift + np.array([-9, 14])) * 16) / 16
        wire = thermometer_wire(warm.tolist())
        facts = insight_of(wire).facts(wire)

        def text(says: Callable[[float, float], float], form: str = "{:.4f}") -> str:
            return "\n".join(
                f"probe {at}: {form.format(says(row[at], row[1 - at]))}"
                for row in warm
                for at in (0, 1)
            )

        def raw(celsius: float) -> int:
            return round(celsius * 16) & 0xFFFF

        cases = (
            ("same", 30, text(lambda own, _: own)),
            ("index-swapped", 30, text(lambda _, other: other)),
            ("sign-as-magnitude", 15, text(lambda own, _: raw(own) / 16)),
            ("other-type", 30, text(lambda own, _: own * 8)),
            ("fahrenheit", 30, text(lambda own, _: own * 1.8 + 32)),
            (
                "bytes-swapped",
                30,
                text(lambda own, _: int.from_bytes(raw(own).to_bytes(2, "little")) / 16),
            ),
        )
        for code, number, said in cases:
            found = crosscheck(facts, said)
            self.assertEqual(number, found.count(code), (code, found.as_json()))
        rounded = crosscheck(facts, text(lambda own, _: own, "{:.1f}"))
        self.assertGreater(rounded.count("rounded"), 15)
        self.assertEqual(30, rounded.count("rounded") + rounded.count("same"))

    def test_bits_not_masked(self) -> None:
        """At 9 bits the lowest three say nothing."""
        warm = [[value] for value in (11.3125, 4.1875, 6.4375, 9.0625, 2.9375, 7.8125) * 3]
        wire = thermometer_wire(warm, bits=9)
        facts = insight_of(wire).facts(wire)
        text = "\n".join(f"T: {row[0]:.4f}" for row in warm)
        found = crosscheck(facts, text)
        self.assertEqual([("bits-not-masked", 18)], [row[:2] for row in found.explained])

    def test_echoes(self) -> None:
        """There and back, a fixed speed, any unit."""
        metres = np.random.default_rng(3).uniform(0.4, 2.5, 30)
        wire = echo_wire(metres)
        facts = insight_of(wire).facts(wire)
        flights = flight_us(metres)
        for form in ("Distance: {:.1f} cm", "{:.3f}"):
            scale = 100 if "cm" in form else 1
            for code, values in (
                ("same", metres),
                ("one-way-distance", 2 * metres),
                ("fixed-speed", flights * 331.3 / 2e6),
            ):
                text = "\n".join(form.format(value * scale) for value in values)
                found = crosscheck(facts, text)
                self.assertEqual(30, found.count(code), (code, form, found.as_json()))


class Lines(PivetTest):
    """Numbers in lines."""

    def test_what_is_a_number(self) -> None:
        """Not those in names, times and codes."""
        for text, wanted in (
            ("DHT22 says 45.2", ["45.2"]),
            ("2026-03-07 22:15:07 T=-3.5C", ["-3.5"]),
            ("28-0000051b2c7d 11.25", ["11.25"]),
            ("0x28 .5 −7", [".5", "−7"]),
            ("h nan", ["nan"]),
            ("1,5;2,5 °C", ["1.5", "2.5"]),
            ("45,23", ["45", "23"]),
        ):
            (line,) = printed_lines(text)
            self.assertEqual(wanted, [number.text for number in line.numbers], text)
        (line,) = printed_lines("12:00:01.5 T -127.00")
        self.assertEqual((43201.5, None), (line.clock_s, line.numbers[0].value))
