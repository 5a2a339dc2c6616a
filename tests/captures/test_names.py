"""Names in a file, for completion: quickly, and nothing where they cannot be told."""

from pivet.captures.names import names_in
from pivet.files.benchfile.store import BenchFile
from tests.base import CAPTURES, PivetTest
from tests.night import copy_of_sparse_night

HEAD = "$timescale 1 us $end $scope module cave $end {} $upscope $end $enddefinitions $end #0 1! #1"
WIRE = "$var wire 1 {} {} $end"


class Names(PivetTest):
    """What ``--wire`` would understand."""

    def of(self, text: str, name: str = "x") -> list[str]:
        """The names in a file that holds a text."""
        path = self.folder / name
        path.write_text(text, encoding="utf-8")
        return names_in(path)

    def test_pairs(self) -> None:
        """What trigger and echo of one place share comes first; others have no pair."""
        for lines, wanted in {
            ("data",): ["cave.data"],
            ("vat_trig", "vat_echo"): ["cave.vat_trig", "cave.vat_echo"],
            ("trigger", "echo"): ["cave.trigger+echo", "cave.trigger", "cave.echo"],
            ("TRIG", "ECHO"): ["cave.TRIG+ECHO", "cave.TRIG", "cave.ECHO"],
            ("echo",): ["cave.echo"],
            ("trig", "data"): ["cave.trig", "cave.data"],
        }.items():
            rows = " ".join(WIRE.format(chr(33 + at), line) for at, line in enumerate(lines))
            found = self.of(HEAD.format(rows))
            self.assertEqual(wanted, found)

    def test_tables(self) -> None:
        """Columns behind the time, without quotes; whatever parts them; the first line alone."""
        for mark in ",;\t":
            head = mark.join(["time_s", ' "a b" ', "c", ""])
            self.assertEqual(["a b", "c"], self.of(f"{head}\n0{mark}1{mark}0\n"))
        self.assertEqual([], self.of("time_s\n1\n"))

    def test_bench(self) -> None:
        """Wires of all its captures, by the name that the person gave."""
        found = names_in(copy_of_sparse_night(self.folder))
        self.assertIn("shelf_A", found)
        self.assertIn("wheels", found)
        BenchFile.create(self.folder / "empty.pivet").close()
        self.assertEqual([], names_in(self.folder / "empty.pivet"))

    def test_what_cannot_be_told(self) -> None:
        """No file, a folder, rubbish, a head that is cut off."""
        self.assertEqual([], names_in(self.folder / "none.vcd"))
        self.assertEqual([], names_in(self.folder))
        self.assertEqual([], self.of("$timescale 1 us $end $var wire 1 ! a"))
        self.assertTrue(names_in(CAPTURES / "av_dht22.vcd"))
