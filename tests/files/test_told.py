"""What is written into files, letter by letter: tables of readings, logs, roles, exchanges."""

import tempfile
from collections.abc import Iterator
from pathlib import Path
from unittest import mock

from pivet.captures.capture import open_capture
from pivet.files.jsonl import json_lines
from pivet.files.readings_log import RunningLog
from pivet.files.readings_table import Cell, Form, Table, TableRow
from pivet.files.reference_csv import read_reference
from pivet.files.roles_json import read_roles, write_roles
from pivet.readings.units import AS_KEPT
from tests.base import CAPTURES, PivetTest
from tests.pages import Page

PAGE = Page(__file__)

AT = ("2026-11-23T02:30:00.250+00:00", "2026-11-23T03:30:00.250+01:00")
ROWS = (
    TableRow(
        AT[0],
        "shelf_A",
        "",
        "",
        0,
        (Cell("humidity", 92.04, 1, raw=91.0), Cell("temperature", -0.04, 1)),
        "sound",
        "",
        AT[1],
    ),
    TableRow(
        AT[0],
        "wheels",
        "=wheel, 1",
        "28-0000051b2c7d",
        7,
        (Cell("temperature", 12.0625, 4),),
        "near",
        "",
        AT[1],
    ),
    TableRow(
        AT[0],
        "wash_room",
        "",
        "",
        3,
        (Cell("humidity", None, 0, "too damp"), Cell("temperature", None, 0)),
        "unsound",
        "no answer",
        AT[1],
    ),
    TableRow(AT[0], "brine_vat", "", "", 9, (Cell("distance", 0.6084, 3),), "sound", "", AT[1]),
)
QUANTITIES = ("humidity", "temperature", "distance", "dew point")

HEADINGS = (
    "RH %|RH|RH [%]|Humidity %|Hum. (%RH)|r.H. %|humidity_%RH|absolute humidity g/m3|T [°C]|temp C"
    "|Temp|t_degC|Temp. F|Temperature/K|Dew point °C|DewPt(C)|level (mm)|Distance in|fill %|%"
    "|Celsius|Channel C|x m|T (C)|CO2 ppm|volume l"
)


def tables() -> Iterator[str]:
    """Every form, in other units, with raw values, without a calendar, of several files."""
    units = AS_KEPT.with_unit("°F").with_unit("mm")
    capture = [row._replace(time=f"{row.exchange}.25", local="", file="a.vcd") for row in ROWS]
    for form in (Form.WIDE, Form.LONG, Form.LINES):
        for table, rows in (
            (Table(form, QUANTITIES, raw=["humidity"]), ROWS),
            (Table(form, QUANTITIES, units, clock=False, files=True), capture),
        ):
            yield f"# {form.value}"
            yield table.header()
            yield from (table.lines(row) for row in rows)


def logs(folder: Path) -> Iterator[str]:
    """A running log over midnight, with another table from then on, gone on with after a crash."""
    path, table = folder / "night.csv", Table(Form.WIDE, QUANTITIES)
    day_ns = 86_400 * 10**9
    log = RunningLog(path, table)
    for at_ns in (day_ns - 10**9, day_ns, day_ns + 1):
        log.add(at_ns, table.lines(ROWS[0]))
    log.close()
    with (folder / "night-1970-01-02.csv").open("a") as cut:
        cut.write("2026-11-23T02")
    log = RunningLog(path, table)
    with mock.patch("pivet.files.readings_log.TAIL", 20):
        log.add(day_ns, table.lines(ROWS[1]))
    log.use(Table(Form.LONG, QUANTITIES))
    log.add(day_ns, log.table.lines(ROWS[3]))
    log.close()
    whole = RunningLog(folder / "one.csv", table, daily=False)
    for at_ns in (0, day_ns):
        whole.add(at_ns, table.lines(ROWS[3]))
    whole.close()
    for written in sorted(folder.glob("*.csv")):
        yield f"# {written.name}"
        yield written.read_text(encoding="utf-8")


def read_back(folder: Path) -> Iterator[str]:
    """What headings mean, and roles."""
    path = folder / "headings.csv"
    heads = HEADINGS.replace("|", ";")
    path.write_text(f"time;{heads}\n2026-11-23T02:30:00Z{';50' * 26}\n", encoding="utf-8")
    for column in read_reference(path):
        yield f"{column.name}: {column.quantity} {column.values.round(3).tolist()}"
    path = folder / "sub" / "own" / "roles.json"
    write_roles([("Käse, wheel 1", ("28-0000051b2c7d", "10-000802b3a1c4"))], path)
    yield path.read_text(encoding="utf-8")
    yield f"{read_roles(path)}"


def lines() -> Iterator[str]:
    """The page."""
    with tempfile.TemporaryDirectory() as name:
        for part in (tables(), logs(Path(name)), read_back(Path(name))):
            yield from (text.rstrip("\n").replace(name, "HERE") for text in part)
    for name, file in (("av_dht22.vcd", ""), ("av_echo.vcd", "echo"), ("av_ow_read.vcd", "")):
        wire = open_capture(CAPTURES / name).wires[0]
        reports = (wire.report(number) for number in range(min(len(wire), 3)))
        yield from (line.rstrip("\n") for line in json_lines(reports, file))


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_letter_by_letter(self) -> None:
        self.in_zone("UTC")
        PAGE.same(self, lines())
