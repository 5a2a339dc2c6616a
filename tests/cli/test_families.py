"""The command line with 1-Wire and echo: decode, explain, roles, stand-ins."""

import csv
from unittest import mock

import numpy as np

from pivet.bench.export import export_readings
from pivet.captures.capture import open_capture
from pivet.files.captures import write_capture
from pivet.standin.echo import EchoFault
from pivet.standin.onewire.session import OneWireFault
from tests.base import CAPTURES
from tests.cli.test_cli import Cli
from tests.physics import humidity
from tests.physics.line import jitter, joined, traced


class Families(Cli):
    """Sensors that are no humidity sensors."""

    def setUp(self) -> None:
        super().setUp()
        self.config = self.folder / "config"
        patch = mock.patch("click.get_app_dir", return_value=str(self.config))
        patch.start()
        self.addCleanup(patch.stop)

    def codes_of(self, path: object, *words: str) -> set[str]:
        """Codes of all findings in a capture."""
        rows = self.objects("decode", path, "--json", *words)
        return {finding["code"] for row in rows for finding in row["findings"]}

    def test_echo_with_air(self) -> None:
        """Trigger and echo named, air given; a wrong air is refused."""
        words = ("--sensor", "hc-sr04", "--wire", "TRIG,ECHO", "--json")
        path = CAPTURES / "av_echo.vcd"
        found = self.objects("decode", path, *words, "--air-temperature", "12")[1]
        self.assertEqual("logic.TRIG,logic.ECHO", found["wire"])
        self.assertAlmostEqual(0.31, found["readings"][0]["value"], 4)
        self.assertEqual(("m", 12.0), (found["readings"][0]["unit"], found["air_c"]))
        self.assertAlmostEqual(1831.615, found["readings"][0]["flight_us"], delta=0.2)
        done = self.run_cli("decode", path, *words, "--air-temperature", "-400")
        self.assertEqual(2, done.exit_code)
        self.assertIn("an air temperature of -400 °C cannot be used", done.stderr)

    def test_reach_by_hand(self) -> None:
        """Beyond what is given a distance is none, and what cannot be is refused."""
        path = CAPTURES / "av_echo.vcd"
        every = self.objects("decode", path, "--json")
        far = max(row["value"] for found in every for row in found["readings"])
        near = self.objects("decode", path, "--json", "--farthest", str(far / 2))
        self.assertIn("too-far", {row["code"] for found in near for row in found["findings"]})
        short = self.objects("decode", path, "--json", "--timeout", "1")
        self.assertEqual([], [row for found in short[1:] for row in found["readings"]])
        done = self.run_cli("decode", path, "--timeout", "0")
        self.assertEqual(2, done.exit_code)
        self.assertIn("0 ms is no timeout of an echo sensor", done.stderr)

    def test_inverted(self) -> None:
        """Said with what to write, on standard error beside JSON; then decoded."""
        path = self.folder / "over.vcd"
        frames = [humidity.exchange(humidity.frame_22(60, 12), 2e4 + 2.1e6 * n) for n in range(3)]
        write_capture(traced({"cave.data": (joined(frames), False)}), path)
        done = self.run_cli("decode", path, "--json")
        self.assertEqual("", done.stdout)
        self.assertIn("decode it with --wire cave.data --invert", done.stderr)
        found = self.objects("decode", path, "--json", "--invert")
        self.assertEqual([60.0] * 3, [row["readings"][0]["value"] for row in found])

    def test_doubt(self) -> None:
        """A value that is refused for its doubt comes with the figure."""
        path, random = self.folder / "noisy.vcd", np.random.default_rng(3)
        frames = [
            jitter(random, humidity.exchange(humidity.frame_22(60, 12), 2e4 + 2.1e6 * n), 7.0)
            for n in range(30)
        ]
        write_capture(traced({"data": (joined(frames), True)}), path)
        found = self.objects("decode", path, "--json", "--sensor", "dht22", "--wire", "data")
        doubted = [row for exchange in found for row in exchange["refused"] if "doubt" in row]
        self.assertTrue(doubted)
        for row in doubted:
            self.assertGreaterEqual(row["doubt"], 1e-4)
            self.assertIn("too doubtful", row["reason"])

    def test_wire_that_is_none(self) -> None:
        """Sentences for names that fit nothing."""
        path = CAPTURES / "av_echo.vcd"
        cases = {
            ("--wire", "TRIG,NONE"): "has no line 'NONE'",
            ("--wire", "TRIG,TRIG"): "names the same line twice",
            ("--wire", "A,B,C"): "names no wire",
            ("--wire", "TRIG,ECHO", "--sensor", "dht22"): "names two lines",
        }
        for words, part in cases.items():
            done = self.run_cli("decode", path, *words)
            self.assertEqual((2, True), (done.exit_code, part in done.stderr), done.stderr)

    def test_table(self) -> None:
        """Readings with device and age; a search in words; what repeats is told once."""
        text = self.run_cli("decode", CAPTURES / "av_ow_search.vcd").stdout
        self.assertIn("Sound: search, 4 devices so far", text)
        self.assertIn("-0.9375 °C (10-000802b3a1c4, converted", text)
        echo = self.run_cli("decode", CAPTURES / "av_echo.vcd").stdout
        self.assertEqual(1, echo.count("20 °C is assumed"))

    def test_explain(self) -> None:
        """Status 0 when the bytes check, 1 when they do for no type, 2 when they are none."""
        done = self.run_cli("explain", "02", "8c", "01", "5f", "ee")
        self.assertEqual(0, done.exit_code)
        self.assertIn("65.2 %RH, 35.1 °C", done.stdout)
        self.assertEqual(1, self.run_cli("explain", "028c015fef").exit_code)
        self.assertEqual(2, self.run_cli("explain", "02").exit_code)

    def test_roles(self) -> None:
        """Named, listed, told in the table, replaced; bad codes are refused."""
        code, other = "28-0000051b2c7d", "28-00000a41d9b2"
        self.assertEqual(0, self.run_cli("roles", "name", code, "wheel 1, core").exit_code)
        self.assertIn("wheel 1, core", self.run_cli("decode", CAPTURES / "av_ow_read.vcd").stdout)
        self.assertEqual(0, self.run_cli("roles", "replace", code.upper(), other).exit_code)
        listed = self.run_cli("roles", "list").stdout
        self.assertEqual(f"{other}  wheel 1, core  before: {code}\n", listed)
        self.assertEqual(2, self.run_cli("roles", "name", "28-1", "x").exit_code)
        self.assertEqual(2, self.run_cli("roles", "replace", code, other).exit_code)

    def test_stand_ins(self) -> None:
        """Each fault of 1-Wire and echo can be asked for, and is found."""
        path = self.folder / "s.vcd"
        words = ("--sensor", "onewire", "--devices", "2", "--count", "3", "--fault")
        for fault in OneWireFault:
            done = self.run_cli("standin", path, *words, f"{fault}@1")
            self.assertEqual(0, done.exit_code, done.output)
            told = {"weak-pull-up": "pulse-near", "no-presence": "device-left"}.get(fault, fault)
            self.assertIn(told, self.codes_of(path), fault)
        for fault in EchoFault:
            words = ("--sensor", "hc-sr04", "--count", "15", "--fault", f"{fault}@7")
            self.assertEqual(0, self.run_cli("standin", path, *words).exit_code)
            told = {"soft-target": "jumped"}.get(fault, fault)
            self.assertIn(told, self.codes_of(path, "--air-temperature", "12"), fault)

    def test_stand_ins_refuse(self) -> None:
        """What cannot be: too hot, too far, no time."""
        path = self.folder / "s.vcd"
        cases = {
            ("onewire", "--temperature", "200"): "cannot measure 200 °C",
            ("onewire", "--interval", "0.1"): "leaves no time to convert",
            ("hc-sr04", "--distance", "9"): "cannot measure 9 m",
            ("ping3", "--interval", "0.001"): "leaves no time for the echo",
            ("onewire", "--fault", "spike"): "there is no fault 'spike'",
        }
        for (sensor, *words), part in cases.items():
            done = self.run_cli("standin", path, "--sensor", sensor, *words)
            self.assertEqual((2, True), (done.exit_code, part in done.stderr), done.stderr)

    def test_overdrive(self) -> None:
        """At the other speed the same temperature comes out."""
        path = self.folder / "s.csv"
        words = ("--overdrive", "--step", "10", "--count", "2", "--devices", "1")
        self.assertEqual(0, self.run_cli("standin", path, "--sensor", "onewire", *words).exit_code)
        rows = self.objects("decode", path, "--json")
        values = [value["value"] for row in rows for value in row["readings"]]
        self.assertEqual([12, 12], values)
        self.assertIn("overdrive", {row["speed"] for row in rows})

    def test_sheet(self) -> None:
        """The sheets of all families can be shown."""
        for sensor, part in (("onewire", "written 0, low"), ("ping3", "0.02 to 3 m")):
            self.assertIn(part, self.run_cli("sheet", "show", sensor).stdout)

    def test_readings_csv(self) -> None:
        """A row for each exchange that was to give a reading, with its device."""
        path = self.folder / "r.csv"
        export_readings(open_capture(CAPTURES / "av_ow_search.vcd"), path)
        rows = list(csv.DictReader(path.read_text(encoding="utf-8").splitlines()))
        self.assertEqual(4, len(rows))
        self.assertEqual(
            ("10-000802b3a1c4", "-0.9375"), (rows[0]["device"], rows[0]["temperature_°C"])
        )
