"""Timing sheets as plain text."""

from collections.abc import Iterable, Iterator

from pivet.sheets.model import Origin, Sheet, ValueRule


def sheet_rows(sheets: Iterable[Sheet]) -> Iterator[str]:
    """One row a sheet."""
    for sheet in sheets:
        yield f"{sheet.id:<12} {sheet.name:<42} {', '.join(sheet.parts)}"


def _promise(rule: ValueRule) -> str:
    if rule.accuracy is None:
        return ""
    origin = " (assumed)" if rule.accuracy_origin is Origin.ASSUMED else ""
    return f", accurate to ±{rule.accuracy:g} {rule.unit}{origin}"


def sheet_lines(sheet: Sheet) -> Iterator[str]:
    """One sheet with all its windows."""
    yield f"{sheet.id}: {sheet.name} ({', '.join(sheet.parts)})"
    yield f"source: {sheet.source}"
    if sheet.interval_s or sheet.interval_note:
        yield f"least time between asks: {sheet.interval_s:g} s; {sheet.interval_note}"
    yield ""
    yield f"{'window':<24}{'least µs':>10}{'typical µs':>12}{'most µs':>10}  {'driven by':<10}from"
    for window in sheet.windows.values():
        most = "-" if window.max_us is None else f"{window.max_us:g}"
        note = f"; {window.note}" if window.note else ""
        if window.common_us is not None:
            low, high = window.common_us
            note += f"; common in copies: {low:g} to {high:g} (assumed)"
        yield (
            f"{window.label:<24}{window.min_us:>10g}{window.typ_us:>12g}{most:>10}  "
            f"{window.driver:<10}{window.origin}{note}"
        )
    yield ""
    for rule in sheet.values:
        yield (
            f"{rule.quantity}: bytes {rule.first} and {rule.first + 1}, {rule.form}, "
            f"{rule.low:g} to {rule.high:g} {rule.unit} in steps of {rule.step:g}{_promise(rule)}"
        )
    if sheet.echo is not None:
        echo = sheet.echo
        yield (
            f"range: {echo.nearest_m:g} to {echo.farthest_m:g} m; an echo of "
            f"{echo.timeout_us / 1000:g} ms or more means nothing in range"
        )
    if sheet.wiring is not None:
        yield f"wiring: {sheet.wiring.text}"
    for note in sheet.notes:
        yield f"note: {note}"
