"""``pivet readings`` and ``pivet stats``, as one types them."""

import csv

from tests.base import PivetTest
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

    def test_times_are_inclusive(self) -> None:
        """A moment of the file itself is in."""
        rows = self.rows(night_file(), "--wire", "shelf_A")
        again = self.rows(
            night_file(), "--wire", "shelf_A", "--from", rows[5]["time"], "--to", rows[9]["time"]
        )
        self.assertEqual(rows[5:10], again)
