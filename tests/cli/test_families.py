"""The command line with 1-Wire and echo: decode, explain, roles, stand-ins."""

from unittest import mock

import numpy as np

from pivet.files.captures import write_capture
from pivet.standin.echo import EchoFault
from pivet.standin.onewire.session import OneWireFault
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
