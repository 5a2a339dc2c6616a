"""Readings as CSV: one row an exchange, a gap with its reason where there is no reading."""

import csv
from collections.abc import Iterable
from typing import IO

from pivet.judge.report import Report


def write_readings_csv(reports: Iterable[Report], stream: IO[str]) -> None:
    """Writes readings with a column a quantity.

    Args:
        reports: judged exchanges.
        stream: open for text.
    """
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow(
        [
            "time_s",
            "wire",
            "sensor",
            "exchange",
            "humidity_%RH",
            "temperature_°C",
            "verdict",
            "reason",
        ]
    )
    for report in reports:
        given = {row.quantity: row.text for row in report.readings}
        reason = "" if given else (report.refused[0].reason if report.refused else report.headline)
        writer.writerow(
            [
                f"{report.start_ns / 1e9:.9f}",
                report.wire,
                report.sheet.id,
                report.number,
                given.get("humidity", ""),
                given.get("temperature", ""),
                report.verdict.word,
                reason,
            ]
        )
