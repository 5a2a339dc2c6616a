"""Several files at once, own sheets, quiet commands, names of wires, and completion."""

import gzip
import json
import os
import shutil
import subprocess
import sys
from pathlib import Path
from unittest import mock

from pivet.cli.choosing import take_own_sheets
from pivet.sheets.load import use_own
from tests.base import CAPTURES, PivetTest, older_bench
from tests.cli.running import pivet

DHT, ECHO = CAPTURES / "av_dht22.vcd", CAPTURES / "av_echo.vcd"


class ManyTest(PivetTest):
    """A folder of captures, and a data folder of its own."""

    def setUp(self) -> None:
        super().setUp()
        take_own_sheets()
        self.addCleanup(use_own, ())
        self.captures = self.folder / "captures"
        self.captures.mkdir()
        shutil.copy(DHT, self.captures / "b.vcd")
        (self.captures / "a.vcd.gz").write_bytes(gzip.compress(ECHO.read_bytes()))
        (self.captures / "notes.txt").write_text("no capture")

    def objects(self, *words: object) -> list[dict[str, object]]:
        """What a command prints as JSON."""
        done = pivet(*words)
        self.assertEqual(0, done.exit_code, done.stderr)
        return [json.loads(line) for line in done.stdout.splitlines()]


class Files(ManyTest):
    """Folders, patterns, several, standard input."""

    def test_a_folder_is_its_captures(self) -> None:
        """In order, each object with its file; the rest is what one file gives."""
        first = self.objects("decode", "--json", self.captures / "a.vcd.gz")
        second = self.objects("decode", "--json", self.captures / "b.vcd")
        self.assertNotIn("file", first[0])
        every = [{"file": str(self.captures / "a.vcd.gz")} | row for row in first]
        every += [{"file": str(self.captures / "b.vcd")} | row for row in second]
        for words in (
            [self.captures],
            [self.captures / "*.vcd*"],
            sorted(self.captures.glob("*.v*")),
        ):
            self.assertEqual(every, self.objects("decode", "--json", *words))

    def test_standard_input(self) -> None:
        """A pipe, also of what is compressed; it is called so."""
        program = [sys.executable, "-m", "pivet"]
        for content in (DHT.read_bytes(), gzip.compress(DHT.read_bytes())):
            done = subprocess.run(
                [*program, "decode", "-"], input=content, capture_output=True, check=True
            )
            self.assertTrue(done.stdout.startswith(b"standard input: 6.041 s"))
        done = subprocess.run([*program, "stats", "-"], input=b"", capture_output=True, check=False)
        self.assertEqual(
            b"pivet: standard input is empty: record the capture again.\n", done.stderr
        )

    def test_converting_a_folder(self) -> None:
        """Into another folder, each once; what is of the same name is refused."""
        (self.captures / "b.vcd.gz").write_bytes(gzip.compress(DHT.read_bytes()))
        target = self.folder / "made"
        done = pivet("convert", self.captures, target, "--to", "csv")
        self.assertEqual(2, done.exit_code)
        self.assertIn("of another source already", done.stderr)
        self.assertEqual(["a.csv", "b.csv"], sorted(path.name for path in target.iterdir()))
        again = self.objects("decode", "--json", target / "b.csv")
        self.assertEqual(len(self.objects("decode", "--json", DHT)), len(again))
        self.assertIn("--to vcd", pivet("convert", self.captures, target / "x").stderr)
        self.assertIn("is a file", pivet("convert", DHT, ECHO, DHT, "--to", "csv").stderr)


class Sheets(ManyTest):
    """From a copy to a sensor that is judged by it."""

    def test_from_copy_to_verdict(self) -> None:
        """A window that is narrowed finds what the maker's does not; wrong ones say where."""
        mine = self.folder / "mine.toml"
        self.assertEqual(0, pivet("sheet", "copy", "dht22", mine).exit_code)
        self.assertIn("already", pivet("sheet", "copy", "dht22", mine).stderr)
        text = mine.read_text(encoding="utf-8")
        narrow = text.replace("min_us = 800\ntyp_us = 1000", "min_us = 2500\ntyp_us = 3000")
        mine.write_text(narrow, encoding="utf-8")
        done = pivet("sheet", "check", mine)
        self.assertEqual(0, done.exit_code, done.output)
        self.assertIn(str(self.folder / "data/pivet/sheets"), done.stdout)
        self.assertIn("all commands and the window", done.stdout)
        self.assertEqual(1, pivet("sheet", "check", mine, "-q").stdout.count("\n"))
        for row in self.objects("decode", DHT, "--json", "--sheet", mine):
            self.assertEqual("mine", row["sensor"])
            self.assertIn("ask-too-short", json.dumps(row["findings"]))
        self.assertIn("mine, ", pivet("stats", DHT, "--sheet", mine).stdout.replace(":", ","))
        mine.write_text(text.replace("typ_us = 50", "typ_us = 500"), encoding="utf-8")
        done = pivet("sheet", "check", mine)
        self.assertEqual((2, ""), (done.exit_code, done.stderr))
        self.assertRegex(done.stdout, rf"{mine}: line \d+: max_us of bit_low is below typ_us")
        done = pivet("decode", DHT, "--sheet", mine)
        self.assertEqual((2, 1), (done.exit_code, done.stderr.count("\n")))
        self.assertIn(
            "say the same", pivet("decode", DHT, "--sheet", mine, "--sensor", "dht22").stderr
        )

    def test_the_folder(self) -> None:
        """All commands know what stands there; what cannot be used is told once and left out."""
        folder = self.folder / "data/pivet/sheets"
        folder.mkdir(parents=True)
        for name in ("cave", "broken"):
            pivet("sheet", "copy", "dht22", folder / f"{name}.toml")
        (folder / "broken.toml").write_text("id = 3")
        program = [sys.executable, "-m", "pivet"]

        def ran(*words: object) -> subprocess.CompletedProcess[str]:
            line = [*program, *map(str, words)]
            return subprocess.run(line, capture_output=True, encoding="utf-8", check=False)

        listed = ran("sheet", "list")
        self.assertIn("cave", listed.stdout.partition("your own")[2])
        self.assertEqual(1, listed.stderr.count("left out"))
        self.assertIn("cave (from 22-type)", ran("sheet", "show", "cave").stdout)
        self.assertIn('"sensor": "cave"', ran("decode", DHT, "--json", "--sensor", "cave").stdout)
        made = ran("standin", self.folder / "x.vcd", "--sensor", "cave")
        self.assertEqual(0, made.returncode, made.stderr)
        asked = {"_PIVET_COMPLETE": "bash_complete", "COMP_CWORD": "3"}
        with mock.patch.dict(os.environ, asked | {"COMP_WORDS": "pivet sheet show ca"}):
            offered = ran()
        self.assertEqual(("plain,cave", ""), (offered.stdout.strip(), offered.stderr))


class Wires(ManyTest):
    """One rule for names, in files and live."""

    def test_the_same_everywhere(self) -> None:
        """As shown, by a last part, by the lines; an unknown one is told with those there are."""
        for name in ("TRIG+ECHO", "logic.TRIG+ECHO", "TRIG,ECHO", "logic.TRIG,logic.ECHO", "logic"):
            for command in (
                ("decode", ECHO),
                ("readings", ECHO) if name != "logic" else ("decode", ECHO),
                ("listen", "--source", f"replay:{ECHO}", "--pace", "max", "--only-listen"),
            ):
                done = pivet(*command, "--wire", name)
                self.assertEqual((0, ""), (done.exit_code, done.stderr), (name, command))
                self.assertTrue(len(done.stdout.splitlines()) > 2)
        for command in (("decode", ECHO), ("readings", ECHO), ("stats", ECHO)):
            done = pivet(*command, "--wire", "vat")
            self.assertEqual(2, done.exit_code)
            self.assertIn(f"{ECHO}", done.stderr)
            self.assertIn("choose one of", done.stderr)


class Completion(ManyTest):
    """What a shell is told; never a window."""

    def told(self, line: str) -> list[str]:
        """Proposals for the last word of a line."""
        words = line.split(" ")
        asks = {
            "_PIVET_COMPLETE": "bash_complete",
            "COMP_WORDS": line,
            "COMP_CWORD": str(len(words) - 1),
        }
        done = subprocess.run(
            [str(Path(sys.executable).parent / "pivet")],
            env=os.environ | asks | {"QT_QPA_PLATFORM": "none"},
            capture_output=True,
            text=True,
            check=True,
        )
        return [row.partition(",")[2] for row in done.stdout.splitlines()]

    def test_proposals(self) -> None:
        """Commands, options, sheets, wires, units, files."""
        self.assertEqual(["decode", "demo"], self.told("pivet de"))
        self.assertEqual(["--sensor", "--sheet", "--strict"], self.told("pivet decode --s"))
        self.assertEqual(["ping3"], self.told("pivet decode x --sensor pi"))
        self.assertEqual(
            ["logic.TRIG+ECHO", "logic.TRIG", "logic.ECHO"],
            [name for name in self.told(f"pivet decode {ECHO} --wire l") if "." in name],
        )
        self.assertEqual(["°C", "°F"], self.told(f"pivet readings {ECHO} --unit °"))
        self.assertEqual(["x"], self.told("pivet decode x"))
        bench = older_bench(4, self.folder)
        self.assertIn("wash_room", self.told(f"pivet readings {bench} --wire w"))

    def test_installed(self) -> None:
        """Where each shell looks; bash finds it whole."""
        with mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": str(self.folder / "config")}):
            for shell in ("bash", "zsh", "fish"):
                done = pivet("completion", shell)
                self.assertEqual(0, done.exit_code, done.output)
                self.assertEqual(shell == "zsh", "fpath" in done.stdout)
                path = Path(done.stdout.split(" was written")[0])
                self.assertTrue(path.is_relative_to(self.folder))
                self.assertEqual(
                    path.read_text(encoding="utf-8"),
                    pivet("completion", shell, "--print").stdout[:-1],
                )
        script = self.folder / "data/bash-completion/completions/pivet"
        shell = f"source {script}; complete -p pivet"
        done = subprocess.run(["bash", "-c", shell], capture_output=True, text=True, check=True)
        self.assertIn("_pivet_completion", done.stdout)
