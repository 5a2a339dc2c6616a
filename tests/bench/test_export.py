"""Readings of several files as one table."""

import io
import json
import unittest

from pivet.bench.export import write_table, write_tables
from pivet.files.readings_table import Form
from pivet.history.open import open_readings
from pivet.person.roles import NO_ROLES
from pivet.readings.series import Series
from tests.base import CAPTURES, PivetTest

NAMES = ("av_dht22.vcd", "av_echo.vcd", "iv_ow_basic.vcd")


class Tables(PivetTest):
    """Each file's rows are those of its own table, with the file before them."""

    def series(self) -> dict[str, list[Series]]:
        """Of some captures."""
        found = {}
        for name in NAMES:
            with open_readings(CAPTURES / name, NO_ROLES) as readings:
                found[name] = readings.series(derived=False)
        return found

    def test_csv(self) -> None:
        """One head with all columns; what a file does not have stays empty."""
        series, whole = self.series(), io.StringIO()
        write_tables(series, False, Form.WIDE, whole)
        head, *rows = [line.split(",") for line in whole.getvalue().splitlines()]
        self.assertEqual(["file", "time_s", "wire"], head[:3])
        self.assertEqual(1, sum(row[0] == "file" for row in [head, *rows]))
        for name in NAMES:
            one = io.StringIO()
            write_table(series[name], False, Form.WIDE, one)
            own_head, *own = [line.split(",") for line in one.getvalue().splitlines()]
            places = [head.index(column) for column in own_head]
            mine = [[row[place] for place in places] for row in rows if row[0] == name]
            self.assertEqual(own, mine)

    def test_objects(self) -> None:
        """No head; the file first."""
        whole = io.StringIO()
        write_tables(self.series(), False, Form.LINES, whole)
        rows = [json.loads(line) for line in whole.getvalue().splitlines()]
        self.assertEqual(set(NAMES), {row["file"] for row in rows})
        self.assertTrue(all(next(iter(row)) == "file" for row in rows))


if __name__ == "__main__":
    unittest.main()
