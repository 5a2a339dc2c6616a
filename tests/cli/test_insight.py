"""margins, compare, rehearse, crosscheck and report, as a person types them."""

import hashlib
import json
import re
from pathlib import Path
from typing import Any

from pivet.files.vcd_write import write_vcd
from pivet.signal.trace import Trace
from tests.base import CAPTURES, PivetTest
from tests.cli.running import Done, pivet
from tests.insight.signals import cave_frames, humidity_wire, slow_air, widths_of
from tests.night import night_file
from tests.physics.humidity import AM, frame_22

CAVE = CAPTURES / "iv_dht22_cave.vcd"
ONE_WIRE = CAPTURES / "iv_ow_basic.vcd"


class Insight(PivetTest):
    """Commands about many exchanges."""

    def setUp(self) -> None:
        super().setUp()
        self.draw_few()

    def ran(self, *words: object) -> Done:
        """A command that ends well."""
        done = pivet(*words)
        self.assertEqual((0, ""), (done.exit_code, done.stderr))
        return done

    def objects(self, *words: object) -> list[dict[str, Any]]:
        """The JSON objects that a command prints."""
        return [json.loads(line) for line in self.ran(*words, "--json").stdout.splitlines()]

    def written(self, name: str, late: int = 0, count: int = 60) -> Path:
        """A capture of frames, some with a zero of 33 µs."""
        frames = cave_frames(count)
        widths = [widths_of(data, AM) for data in frames]
        for at in range(late):
            highs = widths[at * 5][4:84:2]
            highs[(highs == 26).argmax()] = 33
        wire = humidity_wire(frames, widths=widths)
        path = self.folder / name
        trace = Trace(wire.lines, 0, wire.end_ns, 10)
        write_vcd(trace, path)
        return path

    def test_margins(self) -> None:
        """A table by window for people; all figures as JSON."""
        text = self.ran("margins", CAVE).stdout
        self.assertIn("tb.data · 22-type · 4 exchanges", text)
        self.assertIn("anything from 26.0 to 70.0 µs tells them.", text)
        (found,) = self.objects("margins", CAVE)
        self.assertEqual(
            ("tb.data", "dht22", 4), (found["wire"], found["sensor"], found["exchanges"])
        )
        zero = next(row for row in found["classes"] if row["class"] == "zero_high")
        self.assertEqual(
            (105, 26.0, 4.0, 105),
            (zero["count"], zero["median_us"], zero["worst_margin_us"], zero["inside"]),
        )
        self.assertEqual(44.0, found["between"][0]["free_us"])

    def test_which_exchanges(self) -> None:
        """By time, by number, by device; and what is left out says so."""
        (some,) = self.objects("margins", CAVE, "--exchanges", "1..2")
        self.assertEqual(2, some["exchanges"])
        (late,) = self.objects("margins", CAVE, "--from", "3s")
        self.assertLess(late["exchanges"], 4)
        (device,) = self.objects("margins", ONE_WIRE, "--device", "28-0000051b2c7d")
        self.assertLess(0, device["exchanges"])
        none = pivet("margins", CAVE, "--from", "900s")
        self.assertEqual(2, none.exit_code)
        self.assertIn("no exchange is left", none.stderr)
        self.assertIn("100..200", pivet("margins", CAVE, "--exchanges", "x").stderr)

    def test_bench(self) -> None:
        """A bench file's wires, whole: as many exchanges as it has."""
        found = self.objects("margins", night_file(), "--wire", "shelf_A")
        (stats,) = [row for row in self.objects("stats", night_file()) if row["wire"] == "shelf_A"]
        self.assertEqual(stats["exchanges"], found[0]["exchanges"])
        (both,) = self.objects(
            "compare",
            night_file(),
            night_file(),
            "--wire",
            "shelf_A",
            "--before",
            "0s..3h",
            "--after",
            "4h..7h",
        )
        self.assertEqual(
            {"moved", "same", "too-few"} | {row["verdict"] for row in both["classes"]},
            {"moved", "same", "too-few"},
        )
        self.assertGreater(both["classes"][0]["before"]["count"], 500)

    def test_compare(self) -> None:
        """The form that others read."""
        before, after = self.written("a.vcd", late=12), self.written("b.vcd")
        (found,) = self.objects("compare", before, after)
        keys = {"class", "before", "after", "shift_us", "shift_low_us", "shift_high_us", "verdict"}
        self.assertEqual(keys, set(found["classes"][0]))
        sides = {"count", "median_us", "p1_us", "p99_us", "worst_margin_us"}
        self.assertEqual(sides, set(found["classes"][0]["before"]))
        self.assertEqual("better", found["sound"]["verdict"])
        self.assertEqual({"share", "low", "high"}, set(found["sound"]["before"]))
        self.assertEqual(
            [("pulse-outside", 12, 0)], [tuple(row.values()) for row in found["reasons"]]
        )
        text = self.ran("compare", before, after).stdout
        self.assertIn("Better.", text)
        self.assertIn("before  80.0% sound (48 of 60", text)
        strange = pivet("compare", before, ONE_WIRE)
        self.assertIn("compare wires of one kind", strange.stderr)
        self.assertIn("FROM..TO", pivet("compare", before, after, "--before", "3s").stderr)

    def test_rehearse(self) -> None:
        """What becomes of the exchanges, and what is suggested."""
        path = self.written("late.vcd", late=12)
        (found,) = self.objects("rehearse", path, "--reader", "width", "--threshold", "30us")
        self.assertEqual({"kind": "width", "threshold_us": 30.0}, found["reader"])
        self.assertEqual((60, 48), (found["exchanges"], found["right"]))
        self.assertEqual(12, found["refused"] + found["wrong"])
        self.assertEqual(
            (33.0, 70.0, 51.5),
            tuple(found["suggested"][key] for key in ("low_us", "high_us", "threshold_us")),
        )
        self.assertEqual(64, len(found["map"]["right"]))
        text = self.ran("rehearse", path, "--threshold", "30").stdout
        self.assertIn("80.0% read right", text)
        self.assertIn("take threshold: 51.5 µs", text)
        stalled = self.objects("rehearse", path, "--stall", "40us@200/s", "--seed", "3")[0]
        again = self.objects("rehearse", path, "--stall", "40us@200/s", "--seed", "3")[0]
        self.assertEqual(stalled, again)
        self.assertLess(stalled["right"], 60)

    def test_suggest(self) -> None:
        """For all files together; as C."""
        paths = (self.written("one.vcd", late=3), self.written("two.vcd"))
        (found,) = self.objects("rehearse", "--suggest", *paths)
        self.assertEqual((120, 33.0), (found["exchanges"], found["suggested"]["low_us"]))
        header = self.ran("rehearse", "--suggest", "--header", *paths).stdout
        self.assertRegex(header, r"#define SENSOR_THRESHOLD_US (51|52)u")
        self.assertEqual(header.count("/*"), header.count("*/"))
        self.assertIn("Of 120 exchanges", self.ran("rehearse", "--suggest", *paths).stdout)
        for words, says in (
            (("--stall", "often"), "40us@5/s"),
            (("--threshold", "wide"), "is no duration"),
            (("--reader", "host"), "there is no reader 'host'"),
        ):
            done = pivet("rehearse", paths[0], *words)
            self.assertEqual(2, done.exit_code)
            self.assertIn(says, done.stderr)

    def test_crosscheck(self) -> None:
        """A console beside its wire."""
        air = slow_air(30)
        wire = humidity_wire([frame_22(*row) for row in air])
        path, said = self.folder / "air.vcd", self.folder / "console.txt"
        write_vcd(Trace(wire.lines, 0, wire.end_ns, 10), path)
        said.write_text("\n".join(f"hum {h:.1f} temp {-t:.1f}" for h, t in air))
        (found,) = self.objects("crosscheck", path, said)
        self.assertEqual((30, 0), (found["pairs"], found["same"]))
        self.assertEqual("sign-as-magnitude", found["explained"][0]["code"])
        self.assertEqual(30, found["explained"][0]["count"])
        text = self.ran("crosscheck", path, said).stdout
        self.assertIn("30  sign-as-magnitude", text)
        (bound,) = self.objects("crosscheck", path, said, "--bind", "humidity=1")
        self.assertEqual(30, bound["same"])
        self.assertIn("QUANTITY=N", pivet("crosscheck", path, said, "--bind", "warm=1").stderr)
        empty = self.folder / "empty.txt"
        empty.write_text("")
        empty.write_bytes(bytes(range(256)) * 9)
        self.assertIn("is no text", pivet("crosscheck", path, empty).stderr)
        empty.write_text("")
        self.assertIn("is empty", pivet("crosscheck", path, empty).stderr)

    def test_report(self) -> None:
        """One file without anything from elsewhere; the same again; the hash is the file's."""
        out = self.folder / "r.html"
        done = self.ran("report", CAVE, "-o", out, "--threshold", "20us")
        self.assertEqual(f"{out} was written.\n", done.stdout)
        html = out.read_text(encoding="utf-8")
        self.assertIn(hashlib.sha256(CAVE.read_bytes()).hexdigest(), html)
        self.assertIn("refused by the check", html)
        self.assertEqual([], re.findall(r"<script|<link|src=|href=|url\(|@import", html))
        self.assertEqual(html.count("<svg"), html.count("</svg>"))
        self.ran("report", CAVE, "-o", out, "--threshold", "20us", "--force")
        self.assertEqual(html, out.read_text(encoding="utf-8"))
        self.ran("report", CAVE, "-o", out, "--threshold", "21us")  # a report may be replaced
        other = self.folder / "notes.html"
        other.write_text("mine")
        self.assertIn("is there already", pivet("report", CAVE, "-o", other).stderr)
        self.assertIn(".html or .pdf", pivet("report", CAVE, "-o", self.folder / "r.doc").stderr)

    def test_report_of_several_kinds(self) -> None:
        """Constants are for the wires that they fit; those that fit none are refused."""
        out = self.folder / "all.html"
        echo = CAPTURES / "iv_echo_range.vcd"
        self.ran("report", CAVE, echo, "-o", out, "--threshold", "20us")
        html = out.read_text(encoding="utf-8")
        self.assertEqual(1, html.count("threshold_us 20.0"))
        refused = pivet("report", echo, "-o", self.folder / "echo.html", "--threshold", "20us")
        self.assertEqual(2, refused.exit_code)
        self.assertIn("has no threshold", refused.stderr)

    def test_report_of_strange_names(self) -> None:
        """What stands in a name is text."""
        path = self.folder / "<b>&x.vcd"
        path.write_bytes(CAVE.read_bytes())
        out = self.folder / "r.html"
        self.ran("report", path, "-o", out, "--title", "<i>night</i>")
        html = out.read_text(encoding="utf-8")
        self.assertNotIn("<i>night", html)
        self.assertNotIn("<b>&x", html)
        self.assertIn("&lt;i&gt;night", html)
