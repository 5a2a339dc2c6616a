"""Readings of several files as one table."""

import io
import json
import re
import zipfile

from pivet.bench.export import table_for, write_readings, write_table, write_tables
from pivet.files.readings_table import Form
from pivet.frozen import replace
from pivet.history.open import open_readings
from pivet.history.table import table_rows
from pivet.person.roles import NO_ROLES
from pivet.progress import silent
from pivet.readings.series import Series
from pivet.readings.units import AS_KEPT
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

    def test_files(self) -> None:
        """In each form: the head and every row, text as a table is, a workbook as a package."""
        series = self.series()["av_dht22.vcd"]
        for form in (Form.WIDE, Form.LONG, Form.LINES):
            stream, path = io.StringIO(), self.folder / f"out.{form.name}"
            write_table(series, False, form, stream)
            write_readings(series, False, form, path)
            text = path.read_text(encoding="utf-8")
            self.assertEqual(stream.getvalue(), text.replace("\r\n", "\n"))
            self.assertGreater(text.count("\n"), 3)
        self.assertTrue(text.startswith("{"))
        path = self.folder / "out.xlsx"
        write_readings(series, False, Form.WORKBOOK, path)
        with zipfile.ZipFile(path) as book:
            rows = re.findall("<row ", book.read("xl/worksheets/sheet1.xml").decode())
        count = sum(1 for _ in table_rows(series, False, silent))
        self.assertEqual(count + 1, len(rows))

    def test_raw_beside_corrected(self) -> None:
        """A column for the raw value stands where something was corrected, and only there."""
        plain = self.series()["av_dht22.vcd"]
        quantity = plain[0].quantity
        table = table_for(plain, False, Form.WIDE, AS_KEPT)
        self.assertNotIn("raw", table.header())
        corrected = [replace(one, raw=one.values) if one is plain[0] else one for one in plain]
        head = table_for(corrected, False, Form.WIDE, AS_KEPT).header()
        self.assertEqual(1, head.count("raw"))
        self.assertIn(quantity.split()[0], head[: head.index("raw") + 40])

    def test_objects(self) -> None:
        """No head; the file first."""
        whole = io.StringIO()
        write_tables(self.series(), False, Form.LINES, whole)
        rows = [json.loads(line) for line in whole.getvalue().splitlines()]
        self.assertEqual(set(NAMES), {row["file"] for row in rows})
        self.assertTrue(all(next(iter(row)) == "file" for row in rows))
