"""The JSON form of a judged exchange, one object a line; see docs/json.md."""

from collections.abc import Iterable, Iterator
from typing import Any

import msgspec

from pivet.judge.report import Report, Value

ENCODER = msgspec.json.Encoder()


def exchange_object(report: Report) -> dict[str, Any]:
    """A judged exchange as a JSON object; times in s from the capture's zero.

    Args:
        report: the report of the exchange.
    """
    check = report.check
    return {
        "exchange": report.number,
        "wire": report.wire,
        "sensor": report.sheet.id,
        "start_s": report.start_ns / 1e9,  # exact to the nanosecond for 100 days
        "end_s": report.end_ns / 1e9,
        "verdict": report.verdict.word,
        "bytes": report.data.hex(),
        "check": {
            "kind": check.kind,
            "ok": check.ok,
            "sent": None if check.sent is None else f"{check.sent:02x}",
            "computed": None if check.computed is None else f"{check.computed:02x}",
        },
        **report.facts,
        "readings": [_value(reading) for reading in report.readings],
        "refused": [_refused(refused) for refused in report.refused],
        "findings": [
            {
                "code": finding.code,
                "says": finding.says,
                "advice": finding.advice,
                "at_s": finding.at_ns / 1e9,
            }
            for finding in report.findings
        ],
        "windows": {
            window.key: {
                "count": number,
                "min_us": least,
                "max_us": most,
                "worst_margin_us": margin,
            }
            for window, _, number, least, most, margin in report.make_windows()
        },
    }


def json_lines(reports: Iterable[Report], file: str = "") -> Iterator[str]:
    """Lines of JSON, each with its line end.

    Args:
        reports: the reports of exchanges.
        file: the file they belong to, where those of several stand together.
    """
    first = {"file": file} if file else {}
    for report in reports:
        found = exchange_object(report)
        yield json_text(first | found if first else found) + "\n"


def json_text(found: Any) -> str:
    """An object as JSON on one line, with a space after each comma and colon.

    Args:
        found: what is to be written.
    """
    return msgspec.json.format(ENCODER.encode(found), indent=0).decode()


def _value(row: Value) -> dict[str, Any]:
    value = row.value
    if value.is_integer():
        value = int(value)
    found: dict[str, Any] = {"quantity": row.quantity, "value": value, "unit": row.unit}
    if row.rom:
        found["rom"] = row.rom
    if row.flight_us is not None:
        found["flight_us"] = round(row.flight_us, 3)
    return found


def _refused(row: Value) -> dict[str, Any]:
    found = {**_value(row), "reason": row.reason}
    if row.doubt is not None:
        found["doubt"] = float(f"{row.doubt:.3g}")
    return found
