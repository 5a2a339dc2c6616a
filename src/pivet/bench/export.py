"""Writing what was found: readings and captures."""

from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import IO, cast

from pivet.captures.capture import Capture
from pivet.captures.wire import NO_NAMES
from pivet.errors import OutputError
from pivet.files import disk
from pivet.files.captures import write_capture
from pivet.files.jsonl import json_lines
from pivet.files.readings_table import Form, Table
from pivet.files.targets import refuse_target
from pivet.history.open import capture_histories
from pivet.history.series import all_series
from pivet.history.table import quantities_of, table_rows
from pivet.judge.report import Report
from pivet.person.roles import NO_ROLES, Roles
from pivet.progress import Progress, part, silent
from pivet.readings.series import Series
from pivet.readings.units import AS_KEPT, UnitChoice


def reports(
    capture: Capture, names: Mapping[str, str] = NO_NAMES, progress: Progress = silent
) -> Iterator[Report]:
    """Every exchange of every wire, wire by wire; ``names`` are those of devices.

    Args:
        capture: the open capture.
        names: the person's names of devices.
        progress: called with the share done, 0 to 1.
    """
    total, done = max(sum(len(wire) for wire in capture.wires), 1), 0
    for wire in capture.wires:
        for index in range(len(wire)):
            if done % 256 == 0:
                progress(done / total)
            yield wire.report(index, names)
            done += 1


def write_table(
    series: Sequence[Series],
    clock: bool,
    form: Form,
    stream: IO[str],
    progress: Progress = silent,
    units: UnitChoice = AS_KEPT,
) -> None:
    """Writes series as a table, see docs/readings.md.

    Args:
        series: the series of any number of sensors.
        clock: whether their times are by the calendar.
        form: of the table.
        stream: open for text.
        progress: called with the share done, 0 to 1.
        units: the units in which values are written.

    Raises:
        Cancelled: ``progress`` raised it.
    """
    table = table_for(series, clock, form, units)
    stream.write(table.header())
    for row in table_rows(series, clock, progress):
        stream.write(table.lines(row))


def table_for(
    series: Sequence[Series], clock: bool, form: Form, units: UnitChoice, files: bool = False
) -> Table:
    """A table with a column for each quantity of some series.

    Args:
        series: the series of any number of sensors.
        clock: whether their times are by the calendar.
        form: of the table.
        units: the units in which values are written.
        files: each row says its file.
    """
    raw = {one.quantity for one in series if one.raw is not None}
    return Table(form, quantities_of(series), units, raw, clock, files)


def write_tables(
    of_files: Mapping[str, Sequence[Series]],
    clock: bool,
    form: Form,
    stream: IO[str],
    units: UnitChoice = AS_KEPT,
) -> None:
    """Writes the series of several files as one table, file by file.

    Args:
        of_files: series of any sensors, by name of their file.
        clock: whether their times are by the calendar.
        form: of the table.
        stream: open for text.
        units: the units in which values are written.
    """
    every = [one for series in of_files.values() for one in series]
    table = table_for(every, clock, form, units, files=True)
    stream.write(table.header())
    for file, series in of_files.items():
        for row in table_rows(series, clock, file=file):
            stream.write(table.lines(row))


def write_readings(
    series: Sequence[Series],
    clock: bool,
    form: Form,
    path: Path,
    progress: Progress = silent,
    units: UnitChoice = AS_KEPT,
) -> None:
    """Writes series to a file, as a table or as a workbook.

    Args:
        series: the series of any number of sensors.
        clock: whether their times are by the calendar.
        form: of the table.
        path: the file.
        progress: called with the share done, 0 to 1.
        units: the units in which values are written.

    Raises:
        OutputError: it cannot be written; what stood at ``path`` still stands.
        Cancelled: ``progress`` raised it.
    """
    if form is not Form.WORKBOOK:
        with disk.writing(path) as stream:
            write_table(series, clock, form, cast(IO[str], stream), progress, units)
        return
    from pivet.files.workbook import write_workbook

    table = table_for(series, clock, form, units)
    with disk.writing(path, binary=True) as stream:
        write_workbook(table, table_rows(series, clock, progress), cast(IO[bytes], stream), path)


def export_readings(
    capture: Capture,
    path: Path,
    progress: Progress = silent,
    roles: Roles = NO_ROLES,
) -> None:
    """Writes the readings as CSV, or all exchanges as JSON Lines, by the ending of ``path``.

    Args:
        capture: the open capture.
        path: the file.
        progress: called with the share done, 0 to 1.
        roles: the person's names of devices.

    Raises:
        OutputError: it cannot be written; what stood at ``path`` still stands.
        Cancelled: ``progress`` raised it.
    """
    ending = path.suffix.lower()
    if ending not in (".csv", ".jsonl"):
        raise OutputError(f"{path} has an ending that names no format", "end it in .csv or .jsonl")
    refuse_target(path, None, (capture.path,), force=True)
    with disk.writing(path) as stream:
        text = cast(IO[str], stream)
        if ending == ".csv":
            series = all_series(capture_histories(capture), roles, {}, derived=False)
            write_table(series, False, Form.WIDE, text, progress)
        else:
            text.writelines(json_lines(reports(capture, roles.names, progress)))


def export_capture(capture: Capture, path: Path, progress: Progress = silent) -> None:
    """Writes the capture's lines, see ``pivet.files.captures.write_capture``.

    Args:
        capture: the open capture.
        path: the file.
        progress: called with the share done, 0 to 1.
    """
    refuse_target(path, None, (capture.path,), force=True)
    write_capture(capture.whole(part(progress, 0.0, 0.5)), path, part(progress, 0.5, 1.0))
