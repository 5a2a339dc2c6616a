"""The workbook: what a spreadsheet of any language finds in it, and what cannot be one."""

import csv
import re
import zipfile
from datetime import datetime, timedelta
from pathlib import Path
from unittest import mock
from xml.etree import ElementTree

from pivet.errors import OutputError
from pivet.files import workbook
from pivet.files.readings_table import Form, Table, TableRow
from pivet.files.targets import Kind, refuse_target
from tests.base import CAPTURES, PivetTest, older_bench
from tests.cli.running import pivet

SPACE = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"


def cells_of(path: Path) -> list[dict[str, object]]:
    """Rows of the one sheet by column letter: numbers as numbers, texts as texts."""
    with zipfile.ZipFile(path) as book:
        sheet = ElementTree.fromstring(book.read("xl/worksheets/sheet1.xml"))
    rows = []
    for row in sheet.iter(f"{SPACE}row"):
        found: dict[str, object] = {}
        for cell in row.iter(f"{SPACE}c"):
            letter = re.sub(r"\d", "", cell.get("r", ""))
            text = "".join(part.text or "" for part in cell.iter() if part.tag != f"{SPACE}c")
            found[letter] = text if cell.get("t") == "inlineStr" else float(text)
        rows.append(found)
        assert row.get("r") == str(len(rows)), "no row is left out"
    return rows


class Workbooks(PivetTest):
    """Written by the command line."""

    def test_same_as_the_table(self) -> None:
        """Each number and text of the CSV, times as a spreadsheet counts them."""
        bench = older_bench(4, self.folder)
        table = list(csv.reader(pivet("readings", bench).stdout.splitlines()))
        path = self.folder / "night.xlsx"
        self.assertEqual(0, pivet("readings", bench, "-o", path).exit_code)
        rows = cells_of(path)
        self.assertEqual(len(table), len(rows))
        with zipfile.ZipFile(path) as book:
            sheet = book.read("xl/worksheets/sheet1.xml").decode()
        self.assertIn('<pane ySplit="1" topLeftCell="A2"', sheet)  # the head stays in sight
        self.assertEqual(["time (UTC)", "local time", "wire"], list(rows[0].values())[:3])
        letters = "ABCDEFGHIJKLMNOP"
        for line, row in zip(table[1:], rows[1:], strict=True):
            for letter, name, text in zip(letters, table[0], line, strict=False):
                if not text:
                    self.assertNotIn(letter, row)
                elif name in workbook.TIMES:
                    at = datetime.fromisoformat(text).replace(tzinfo=None)
                    days = row[letter]
                    assert isinstance(days, float)
                    shown = datetime(1899, 12, 30) + timedelta(days=days)
                    self.assertLess(abs((shown - at).total_seconds()), 0.002)
                elif name in workbook.TEXTS:
                    self.assertEqual(text, row[letter])
                else:
                    self.assertEqual(float(text), row[letter])

    def test_what_cannot_be(self) -> None:
        """Too many rows, the terminal, several files: a sentence, and nothing is written."""
        path = self.folder / "x.xlsx"
        dht = CAPTURES / "av_dht22.vcd"
        with mock.patch.object(workbook, "MOST_ROWS", 3):
            done = pivet("readings", dht, "-o", path)
        self.assertEqual(2, done.exit_code)
        self.assertIn("more than 3 rows", done.stderr)
        self.assertFalse(path.exists())
        self.assertIn("--output", pivet("readings", dht, "--format", "xlsx").stderr)
        echo = CAPTURES / "av_echo.vcd"
        self.assertIn("of one file", pivet("readings", dht, echo, "-o", path).stderr)

    def test_written_again(self) -> None:
        """Over an own one, over nobody else's."""
        path = self.folder / "x.xlsx"
        for _ in range(2):
            self.assertEqual(0, pivet("readings", CAPTURES / "av_dht22.vcd", "-o", path).exit_code)
        path.write_bytes(b"PK something else")
        with self.assertRaises(OutputError):
            refuse_target(path, Kind.READINGS)

    def test_a_formula_is_text(self) -> None:
        """A name that begins as a formula does nothing."""
        row = TableRow("0.5", "=1+1", "", "", 0, (), "sound", "")
        path = self.folder / "x.xlsx"
        with path.open("wb") as stream:
            workbook.write_workbook(Table(Form.WORKBOOK, [], clock=False), [row], stream, path)
        self.assertIn("=1+1", str(cells_of(path)[1]["B"]))
