"""``pivet readings`` and ``pivet stats``, as one types them."""

import csv
import json

from pivet.judge.verdict import WORDS
from tests.base import CAPTURES, PivetTest
from tests.cli.running import Done, pivet
from tests.night import night_file


class ReadingsCommand(PivetTest):
    """Readings of files."""

    def run_cli(self, *words: object, code: int = 0) -> Done:
        """Runs the command line."""
        done = pivet(*words)
        self.assertEqual(code, done.exit_code, done.output)
        return done

    def rows(self, *words: object) -> list[dict[str, str]]:
        """The rows of a CSV."""
        return list(csv.DictReader(self.run_cli("readings", *words).stdout.splitlines()))

    def test_a_part_of_the_night(self) -> None:
        """By the clock, of one wire, in °F, with what follows from it."""
        words = ("--wire", "wash_room", "--unit", "°F", "--derived")
        rows = self.rows(night_file(), *words, "--from", "10m", "--to", "20m")
        self.assertEqual(101, len(rows))
        self.assertEqual({"wash_room"}, {row["wire"] for row in rows})
        self.assertAlmostEqual(56.0, float(rows[0]["temperature_°F"]), delta=2.0)
        self.assertIn("dew_point_°F", rows[0])

    def test_times_are_inclusive_and_checked(self) -> None:
        """A moment of the file itself is in; nonsense is one sentence."""
        rows = self.rows(night_file(), "--wire", "shelf_A")
        again = self.rows(
            night_file(), "--wire", "shelf_A", "--from", rows[5]["time"], "--to", rows[9]["time"]
        )
        self.assertEqual(rows[5:10], again)
        for words, said in (
            (("--from", "soon"), "is no time"),
            (("--from", "20m", "--to", "10m"), "before"),
            (("--wire", "attic"), "no wire"),
            (("--unit", "furlong"), "no unit"),
        ):
            done = self.run_cli("readings", night_file(), *words, code=2)
            self.assertIn(said, done.stderr)
        done = self.run_cli("readings", CAPTURES / "av_dht22.vcd", "--from", "02:30", code=2)
        self.assertIn("calendar", done.stderr)

    def test_capture_and_output(self) -> None:
        """Seconds since it began; into a file."""
        path = self.folder / "out.jsonl"
        self.run_cli("readings", CAPTURES / "av_dht22.vcd", "--format", "jsonl", "-o", path)
        rows = [json.loads(line) for line in path.read_text(encoding="utf-8").splitlines()]
        self.assertEqual(4, len(rows))
        self.assertEqual("the sum is wrong", rows[2]["reason"])
        self.assertIsInstance(rows[0]["time_s"], float)

    def test_stats(self) -> None:
        """The hour of trouble, in words and as JSON."""
        text = self.run_cli("stats", night_file(), "--wire", "wash_room").stdout
        for part in ("unsound 9 %", "no answer", "in the hour from", "plug", "%RH, mean 78.0"):
            self.assertIn(part, text)
        lines = self.run_cli("stats", night_file(), "--json").stdout.splitlines()
        rows = {row["wire"]: row for row in map(json.loads, lines)}
        self.assertEqual(5, len(rows))
        self.assertEqual(4800, rows["wash_room"]["exchanges"])
        self.assertEqual(6.0, rows["wash_room"]["every_s"])
        humidity = rows["wash_room"]["readings"][0]
        self.assertLess(humidity["least"], humidity["median"])
        self.assertGreater(rows["wash_room"]["reasons"]["no answer"], 300)
        hours = rows["wash_room"]["hours"]
        worst = max(hours, key=lambda hour: hour["unsound"])
        self.assertEqual("no answer", worst["reason"])
        self.assertEqual(
            4800, sum(sum(hour[word] for word in WORDS) for hour in rows["wash_room"]["hours"])
        )

    def test_stats_as_a_table(self) -> None:
        """A row a quantity, the same figures, in a unit."""
        import pandas

        path = self.folder / "stats.csv"
        path.write_text(self.run_cli("stats", night_file(), "--csv", "--unit", "K").stdout, "utf-8")
        table = pandas.read_csv(path)
        row = table[(table.wire == "wash_room") & (table.quantity == "temperature")].iloc[0]
        self.assertEqual(4800, row["exchanges"])
        self.assertEqual("K", row["unit"])
        self.assertAlmostEqual(288, row["mean"], delta=5)
        self.assertIn("plug", row["advice"])
