"""Readings as CSV: one row an exchange, a gap with its reason where there is no reading.

Exchanges that are not to give a reading, as a 1-Wire search, have no row.
"""

import csv
from collections.abc import Iterable
from typing import IO

from pivet.judge.report import Report

COLUMNS = (
    ("humidity", "humidity_%RH"),
    ("temperature", "temperature_°C"),
    ("distance", "distance_m"),
    ("level", "level_m"),
)
"""A column a quantity."""


def write_readings_csv(reports: Iterable[Report], stream: IO[str]) -> None:
    """Writes readings with a column a quantity.

    Args:
        reports: judged exchanges.
        stream: open for text.
    """
    writer = csv.writer(stream, lineterminator="\n")
    names = [name for _, name in COLUMNS]
    writer.writerow(
        ["time_s", "wire", "sensor", "exchange", "rom", "role", *names, "verdict", "reason"]
    )
    for report in reports:
        given = {row.quantity: row.text for row in report.readings}
        if not report.due:
            continue
        reason = "" if given else (report.refused[0].reason if report.refused else report.headline)
        writer.writerow(
            [
                f"{report.start_ns / 1e9:.9f}",
                report.wire,
                report.sheet.id,
                report.number,
                report.device,
                report.role,
                *(given.get(quantity, "") for quantity, _ in COLUMNS),
                report.verdict.word,
                reason,
            ]
        )
