"""The command line, as a person or a script calls it."""

import contextlib
import io
import json
import subprocess
import sys
from unittest import mock

from pivet.cli.progress_line import progress_line
from tests.base import CAPTURES, PivetTest, expected_captures
from tests.cli.running import Done, pivet


class Cli(PivetTest):
    """Runs commands in this process; the window is a note in a list."""

    def setUp(self) -> None:
        super().setUp()
        self.opened: list[tuple] = []

    def open_window(self, files, demo: bool = False) -> int:
        """Stands in for the window."""
        self.opened.append((tuple(files), demo))
        return 0

    def show_demo(self, folder) -> int:
        """Stands in for the window with the demo."""
        self.opened.append(("demo", folder))
        return 0

    def run_cli(self, *words: object) -> Done:
        """Runs ``pivet`` with some words."""
        return pivet(*words, window=self.open_window, demo=self.show_demo)

    def objects(self, *words: object) -> list[dict]:
        """The JSON objects that a call prints."""
        done = self.run_cli(*words)
        self.assertEqual(0, done.exit_code, done.output)
        return [json.loads(line) for line in done.stdout.splitlines()]


class Decode(Cli):
    """``pivet decode``."""

    def test_json_form(self) -> None:
        """Every key of the documented form, in its order, with its kinds."""
        first = self.objects("decode", CAPTURES / "iv_dht22_cave.vcd", "--json")[0]
        self.assertEqual(
            [
                "exchange",
                "wire",
                "sensor",
                "start_s",
                "end_s",
                "verdict",
                "bytes",
                "check",
                "readings",
                "refused",
                "findings",
                "windows",
            ],
            list(first),
        )
        self.assertEqual(
            (0, "tb.data", "dht22", "sound", "039c007615"),
            tuple(first[k] for k in ("exchange", "wire", "sensor", "verdict", "bytes")),
        )
        self.assertEqual(
            {"kind": "sum8", "ok": True, "sent": "15", "computed": "15"}, first["check"]
        )
        self.assertEqual(
            {"quantity": "humidity", "value": 92.4, "unit": "%RH"}, first["readings"][0]
        )
        self.assertEqual(
            [
                "ask",
                "release",
                "answer_low",
                "answer_high",
                "bit_low",
                "zero_high",
                "one_high",
                "end_low",
            ],
            list(first["windows"]),
        )
        self.assertEqual(
            ["count", "min_us", "max_us", "worst_margin_us"], list(first["windows"]["bit_low"])
        )
        self.assertEqual(40, first["windows"]["bit_low"]["count"])

    def test_json_of_a_failed_exchange(self) -> None:
        """No reading, the refused values, and the finding."""
        third = self.objects("decode", CAPTURES / "av_dht22.vcd", "--json")[2]
        self.assertEqual(
            ([], "unsound", False), (third["readings"], third["verdict"], third["check"]["ok"])
        )
        self.assertEqual("the sum is wrong", third["refused"][0]["reason"])
        self.assertEqual({"code", "says", "advice", "at_s"}, set(third["findings"][0]))

    def test_nothing_to_check(self) -> None:
        """A cut frame has whole bytes only, and no check."""
        path = self.folder / "cut.vcd"
        self.run_cli("standin", path, "--sensor", "dht22", "--count", 1, "--fault", "cut-short")
        (only,) = self.objects("decode", path, "--json")
        self.assertEqual((None, None), (only["check"]["ok"], only["check"]["sent"]))
        self.assertLess(len(only["bytes"]), 10)

    def test_captures_of_the_list(self) -> None:
        """Sensor and line given as a script would."""
        for row in expected_captures("dht"):
            found = self.objects(
                "decode",
                CAPTURES / row["file"],
                "--sensor",
                row["sensor"],
                "--wire",
                row["lines"]["data"],
                "--json",
            )
            self.assertEqual(
                [t["bytes"] for t in row["transactions"]], [one["bytes"] for one in found]
            )

    def test_table(self) -> None:
        """Without --json people read it."""
        done = self.run_cli("decode", CAPTURES / "csv_edges_dht22.csv")
        self.assertIn("level · 22-type (recognised) · 2 exchanges: 2 sound", done.stdout)

    def test_strict(self) -> None:
        """1 only with --strict and an unsound exchange."""
        bad, good = CAPTURES / "av_dht22.vcd", CAPTURES / "iv_dht22_cave.vcd"
        codes = [
            self.run_cli("decode", path, *flags).exit_code
            for path in (bad, good)
            for flags in ((), ("--strict",))
        ]
        self.assertEqual([0, 1, 0, 0], codes)

    def test_nothing_found(self) -> None:
        """No exchange is no failure; it is said."""
        path = self.folder / "valve.csv"
        path.write_text("time_s,valve\n0,0\n1,1\n2,0\n3.5,1\n", encoding="utf-8")
        done = self.run_cli("decode", path, "--json")
        self.assertEqual((0, ""), (done.exit_code, done.stdout))
        self.assertIn("no exchange was found", done.stderr)
        self.assertIn("No exchange was found", self.run_cli("decode", path).stdout)

    def test_unusable(self) -> None:
        """2 and one sentence for unreadable input; 2 for wrong usage."""
        empty = self.folder / "empty.vcd"
        empty.write_bytes(b"")
        for words in (
            ("decode", empty),
            ("decode", self.folder / "no.vcd"),
            ("decode", CAPTURES / "av_dht22.vcd", "--wire", "nope"),
            ("sheet", "show", "dht33"),
            ("convert", CAPTURES / "av_dht22.vcd", self.folder / "a.xyz"),
            ("standin", self.folder / "a.vcd", "--sensor", "dht22", "--fault", "fire"),
            ("standin", self.folder / "a.vcd", "--sensor", "dht22", "--humidity", "400"),
            ("standin", self.folder / "a.vcd", "--sensor", "dht11", "--interval", "0.01"),
        ):
            with self.subTest(words):
                done = self.run_cli(*words)
                self.assertEqual((2, ""), (done.exit_code, done.stdout))
                self.assertEqual(1, len(done.stderr.splitlines()))
                self.assertTrue(done.stderr.startswith("pivet: "))
        wrong: list[tuple[str, ...]] = [("decode",), ("decode", "a", "--sensor", "dht33"), ("fly",)]
        for words in wrong:
            self.assertEqual(2, self.run_cli(*words).exit_code, words)


class Others(Cli):
    """The other commands."""

    def test_sheet(self) -> None:
        """List and show."""
        self.assertIn("AM2302, DHT22", self.run_cli("sheet", "list").stdout)
        shown = self.run_cli("sheet", "show", "dht11-early").stdout
        self.assertRegex(shown, r"0, high +23\.4 +27 +30\.8 +sensor +assumed")

    def test_convert_there_and_back(self) -> None:
        """VCD to CSV to VCD keeps every exchange."""
        source = CAPTURES / "iv_dht11_old.vcd"
        one, two = self.folder / "a.csv", self.folder / "b.vcd"
        self.assertEqual(0, self.run_cli("convert", source, one).exit_code)
        self.assertEqual(0, self.run_cli("convert", one, two).exit_code)
        before, after = (
            self.objects("decode", path, "--wire", "tb.d", "--json") for path in (source, two)
        )
        self.assertEqual(before, after)

    def test_standin_is_deterministic(self) -> None:
        """The same seed writes the same edges; values come back."""
        paths = [self.folder / name for name in ("a.csv", "b.csv")]
        for path in paths:
            done = self.run_cli(
                "standin",
                path,
                "--sensor",
                "dht11",
                "--humidity",
                47,
                "--temperature",
                21.5,
                "--count",
                3,
                "--seed",
                9,
            )
            self.assertIn("11-type, 3 times", done.stdout)
        self.assertEqual(paths[0].read_bytes(), paths[1].read_bytes())
        found = self.objects("decode", paths[0], "--json")
        self.assertEqual([47, 21.5], [row["value"] for row in found[1]["readings"]])

    def test_window(self) -> None:
        """No command, open and demo lead to the window."""
        self.assertEqual(0, self.run_cli().exit_code)
        self.run_cli("open", "a.vcd", "b.csv")
        self.assertEqual(((), False), self.opened[0])
        self.assertEqual(["a.vcd", "b.csv"], [path.name for path in self.opened[1][0]])
        self.assertEqual(3, pivet("open", "a.vcd", window=lambda _: 3).exit_code)
        for display, status in ((":7", 4), ("", 4)):
            shown = {"DISPLAY": display, "WAYLAND_DISPLAY": "", "QT_QPA_PLATFORM": ""}
            with mock.patch.dict("os.environ", shown), contextlib.chdir(self.folder):
                self.assertEqual(status, pivet("demo", demo=lambda _: 4).exit_code)

    def test_help_by_one_letter(self) -> None:
        """Of the program and of each command."""
        for words in (
            (),
            ("decode",),
            ("stats",),
            ("listen",),
            ("sheet", "show"),
            ("bench", "info"),
        ):
            short, whole = self.run_cli(*words, "-h"), self.run_cli(*words, "--help")
            self.assertEqual((0, whole.stdout), (short.exit_code, short.stdout), words)

    def test_demo(self) -> None:
        """With a display the window; without, what it holds, pictures and the capture."""
        with mock.patch.dict("os.environ", {"DISPLAY": ":7"}):
            self.run_cli("demo")
        self.assertEqual(("demo", None), self.opened[0])
        bare = {"DISPLAY": "", "WAYLAND_DISPLAY": "", "QT_QPA_PLATFORM": ""}
        with mock.patch.dict("os.environ", bare), contextlib.chdir(self.folder):
            done = self.run_cli("demo")
        self.assertIn("the sum is wrong", done.stdout)
        self.assertIn(str(self.folder / "pivet-demo"), done.stdout)
        self.assertLess(len(done.stdout.splitlines()), 50)
        self.assertEqual("pivet-demo", self.opened[1][1].name)
        self.assertTrue((self.folder / "pivet-demo" / "cave-night.vcd").exists())

    def test_progress_on_a_terminal_only(self) -> None:
        """A long job writes a line on a terminal, and takes it away; elsewhere nothing."""
        for terminal in (True, False):
            with mock.patch("sys.stderr", io.StringIO()) as written:
                written.isatty = lambda terminal=terminal: terminal
                clock = mock.patch("time.monotonic", side_effect=[0.0, 0.1, 0.7, 0.75, 0.9])
                with clock, progress_line("Opening") as progress:
                    for share in (0.1, 0.5, 0.6, 0.7):
                        progress(share)
            shown = written.getvalue()
            self.assertEqual(2 if terminal else 0, shown.count("Opening"))
            self.assertEqual(terminal, shown.endswith(" \r"))

    def test_as_a_program(self) -> None:
        """The installed module answers, whatever the locale."""
        done = subprocess.run(
            [sys.executable, "-m", "pivet", "decode", str(CAPTURES / "av_dht22.vcd"), "--strict"],
            capture_output=True,
            env={"LC_ALL": "C", "PATH": ""},
            check=False,
        )
        self.assertEqual(1, done.returncode)
        self.assertIn("11.8 °C", done.stdout.decode("utf-8"))
