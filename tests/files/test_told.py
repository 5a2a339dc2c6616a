"""What is written into files, letter by letter: tables of readings, logs, roles, exchanges."""

import tempfile
from collections.abc import Iterator
from pathlib import Path

from pivet.captures.capture import open_capture
from pivet.errors import PivetError
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

LOGS = (
    "time,RH %,degC\n2026-11-23T02:30:00Z,91.5,11.8\n2026-11-23T02:31:00Z,,12.1\n",
    "Date;Time;Temp (°F);note\n2026-11-23;02:30:00;53,6;dry\n2026-11-23;02:31:00;54,5;-\n",
    "1;2\n3;4\n",
    "Time,RH %\n11/23/2026 12:30:00 AM,91\n11/23/2026 12:30 p.m.,92\n11/23/2026 1:05 PM,93\n",
    "time,x\n",
    "t,RH\n1984-12-31T23:00Z,1\n1985-01-01T01:00Z,2\n2129-12-31T01:00Z,3\n2130-01-01T01:00Z,4\n",
    "t,RH %\n1795380300.25,91\n1795380301.75,92\n",
    "day,RH %\n2026-11-23,91\n2026-11-24,92\n",
    "time,RH %\n2026-11-23T02:30:00+05:45,91\n2026-11-24T02:30:00-03:30,92\n",
    "one\n",
    "time,note\n2026-11-23T02:30:00Z,dry\n",
    "time,a,b\n2026-11-23T02:31:00Z,1,2\n2026-11-23T02:30:00Z,3\n",
    "time,degC\r2026-11-23T02:30:00,1.5\r2026-11-23T02:31:00,2.5\r",
    "time,degC\r\n2026-11-23T02:30:00,1.5\r\n2026-11-23T02:31:00,2.5\r\n",
    f"time,degC\n2026-11-23T02:30:00,1\n2026-11-23T02:31:00,{'9' * 200_000}\n",
    "time,degC\n"
    + "".join(f"2026-11-23T02:{at}:00Z,{at}\n" for at in range(10, 40))
    + "9999-12-31T23:59:59Z,50\n0001-01-01T00:00:00Z,60\n1950-01-01T00:00:00Z,70\n",
)
HEADINGS = (
    "RH %|RH|RH [%]|Humidity %|Hum. (%RH)|r.H. %|humidity_%RH|absolute humidity g/m3|T [°C]|temp C"
    "|Temp|t_degC|Temp. F|Temperature/K|Dew point °C|DewPt(C)|level (mm)|Distance in|fill %|%"
    "|Celsius|Channel C|x m|T (C)|CO2 ppm|volume l"
)
ROLES = (
    '{"pivet_roles": 9, "roles": []}',
    '{"pivet_roles": 1, "roles": [{"name": "", "codes": []}]}',
    '{"pivet_roles": 1, "roles": [{"name": "wheel", "codes": ["28"]}]}',
    '{"pivet_roles": 1, "roles": 4}',
    '{"pivet_roles": 1, "roles": null}',
    '{"pivet_roles": 1, "roles": [null]}',
    '{"pivet_roles": "1", "roles": []}',
    '{"pivet_roles": 1, "roles": [{"name": "core", "codes": "28-0000051b2c7d"}]}',
    "null",
    "5",
    "[",
    "[" * 100_000,
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
    """Logs of instruments and roles, those that are refused too."""
    for number, text in enumerate(LOGS):
        path = folder / f"log{number}.txt"
        path.write_text(text, encoding="utf-8", newline="")
        try:
            for column in read_reference(path):
                rows = zip(column.times_ns.tolist(), column.values.tolist(), strict=True)
                yield f"{path.name} {column.name}, {column.quantity}: {[*rows]}"
        except PivetError as error:
            yield f"{path.name}: {error}"
    path = folder / "headings.csv"
    heads = HEADINGS.replace("|", ";")
    path.write_text(f"time;{heads}\n2026-11-23T02:30:00Z{';50' * 26}\n", encoding="utf-8")
    for column in read_reference(path):
        yield f"{column.name}: {column.quantity} {column.values.round(3).tolist()}"
    path = folder / "sub" / "own" / "roles.json"
    write_roles([("Käse, wheel 1", ("28-0000051b2c7d", "10-000802b3a1c4"))], path)
    yield path.read_text(encoding="utf-8")
    yield f"{read_roles(path)}"
    for text in ROLES:
        path.write_text(text, encoding="utf-8")
        try:
            yield f"{read_roles(path)}"
        except PivetError as error:
            yield f"{error}"


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
