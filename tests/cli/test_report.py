"""Reports, as a person types them."""

import hashlib
import re

from tests.base import CAPTURES, PivetTest
from tests.cli.running import Done, pivet

CAVE = CAPTURES / "iv_dht22_cave.vcd"


class Reports(PivetTest):
    """What is written."""

    def setUp(self) -> None:
        super().setUp()
        self.draw_few()

    def ran(self, *words: object) -> Done:
        """A command that ends well."""
        done = pivet(*words)
        self.assertEqual((0, ""), (done.exit_code, done.stderr))
        return done

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

    def test_report_of_several_kinds(self) -> None:
        """Constants are for the wires that they fit."""
        out = self.folder / "all.html"
        echo = CAPTURES / "iv_echo_range.vcd"
        self.ran("report", CAVE, echo, "-o", out, "--threshold", "20us")
        html = out.read_text(encoding="utf-8")
        self.assertEqual(1, html.count("threshold_us 20.0"))

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
