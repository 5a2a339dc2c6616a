"""Exchanges as plain text, for the terminal and the clipboard."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from datetime import datetime

from pivet.captures.capture import Capture, Kept
from pivet.captures.offers import Offer
from pivet.captures.wire import NO_NAMES, Wire
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report, Value
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count, limits_of, seconds, span, us
from pivet.sheets.model import Window

MARKS = {
    Verdict.SOUND: "●",
    Verdict.NEAR: "▲",
    Verdict.UNKNOWN: "○",
    Verdict.UNSOUND: "✗",
}
"""A shape for each verdict."""


def capture_lines(capture: Capture, names: Mapping[str, str] = NO_NAMES) -> Iterator[str]:
    """A whole capture as a table with its findings.

    Args:
        capture: decoded and judged.
        names: the person's names, by code of the device.
    """
    yield from summary_lines(capture)
    if not capture.wires:
        yield "  No exchange was found. To decode a line all the same, give --wire and --sensor."
    for wire in capture.wires:
        yield ""
        yield wire_line(wire)
        yield from wire_lines(wire, range(len(wire)), names)


def wire_lines(wire: Wire, rows: Iterable[int], names: Mapping[str, str]) -> Iterator[str]:
    """Exchanges of a wire with their findings; a remark that goes on is told once.

    Args:
        wire: the wire that is told.
        rows: which of its exchanges, rising.
        names: the person's names of devices.
    """
    told: set[str] = set()
    for index in rows:
        report = wire.report(index, names)
        yield from exchange_lines(report, told)
        told = {finding.code for finding in report.findings if finding.weight is Verdict.SOUND}


def summary_lines(capture: Capture) -> Iterator[str]:
    """What a capture holds, and what had to be assumed or left out.

    Args:
        capture: the open capture.
    """
    if capture.trace is not None:
        trace = capture.trace
        length = (trace.end_ns - trace.start_ns) / 1e9
        yield f"{capture.name}: {length:.3f} s, captured in steps of {_step(trace.resolution_ns)}"
    elif capture.kept is not None:
        yield from _kept_lines(capture, capture.kept)
    for note in capture.notes:
        yield f"  note: {note}"
    for wire in capture.wires:
        for note in wire.leftovers():
            yield f"  note: {wire.label}: {note}"
    if capture.others:
        shown = ", ".join(capture.others[:8]) + (" …" if len(capture.others) > 8 else "")
        yield f"  no known sensor on: {shown}"
    for line in offer_lines(capture):
        yield f"  {line}"


def offer_lines(capture: Capture) -> Iterator[str]:
    """What lines may be that nobody recognised, and how to decode them.

    Args:
        capture: the open capture.
    """
    for offer in capture.offers:
        yield f"{offer.names}: {offer.says}; {how_to_take(offer)}"


def how_to_take(offer: Offer) -> str:
    """What to write to decode it all the same.

    Args:
        offer: what a line may be.
    """
    invert = " --invert" if offer.inverted else ""
    sensor = "" if offer.inverted else f" --sensor {offer.sheet.id if offer.sheet else '…'}"
    return f"decode it with --wire {offer.names}{sensor}{invert}"


def _step(resolution_ns: int) -> str:
    return f"{resolution_ns} ns" if resolution_ns < 100 else us(resolution_ns / 1000)


def _kept_lines(capture: Capture, kept: Kept) -> Iterator[str]:
    began = datetime.fromtimestamp(kept.began_ns / 1e9).astimezone()
    yield f"{capture.name}, recorded from {began:%Y-%m-%d %H:%M:%S} in {capture.path}"
    for wire in capture.wires:
        number = count(kept.count(wire), "exchange")
        step = _step(wire.resolution_ns)
        yield f"  {wire.label}: {wire.sheet.name}, {number}, captured in steps of {step}"


def short_names(names: Sequence[str]) -> list[str]:
    """Dotted names without the parts at either end that all of them share.

    Args:
        names: the names of lines, with dots between their parts.
    """
    parts = [name.split(".") for name in names]
    if len(set(names)) < 2:
        return list(names)
    ahead = _shared(parts)
    rest = [part[ahead:] for part in parts]
    behind = _shared([row[::-1] for row in rest])
    return [".".join(row[: len(row) - behind]) for row in rest]


def wire_names(capture: Capture) -> list[str]:
    """The names of a capture's wires, short; those of a recording stay as they are.

    Args:
        capture: the open capture.
    """
    labels = [wire.label for wire in capture.wires]
    return labels if capture.kept is not None else short_names(labels)


def clock_text(capture: Capture | None, t_ns: int) -> str:
    """A moment of a recording by the calendar; empty for other captures.

    Args:
        capture: None where there is none.
        t_ns: time in the capture.
    """
    kept = capture.kept if capture is not None else None
    if kept is None:
        return ""
    at = datetime.fromtimestamp((kept.began_ns + t_ns) / 1e9)
    days = "" if at.date() == datetime.now().date() else f"{at:%Y-%m-%d} "
    return f"{days}{at:%H:%M:%S}"


def _shared(rows: Sequence[Sequence[str]]) -> int:
    """How many parts at the beginning all rows share; each keeps at least one."""
    most = min(len(row) for row in rows) - 1
    alike = (all(row[n] == rows[0][n] for row in rows) for n in range(most))
    return next((n for n, same in enumerate(alike) if not same), most)


def wire_line(wire: Wire) -> str:
    """A wire and how its exchanges stand.

    Args:
        wire: the wire to look at.
    """
    how = "recognised" if wire.recognised else "chosen"
    how += ", turned over" if any(line.turned for line in wire.lines) else ""
    counts = ", ".join(
        f"{wire.count(verdict)} {verdict.title}" for verdict in Verdict if wire.count(verdict)
    )
    number = count(len(wire), "exchange")
    return f"{wire.label} · {wire.sheet.name} ({how}) · {number}: {counts or 'none'}"


def exchange_lines(report: Report, told: Collection[str] = ()) -> Iterator[str]:
    """One exchange: its row, then what was noticed, but for what is sound and in ``told``.

    Args:
        report: the exchange.
        told: codes of notices that were told before.
    """
    sent = report.data.hex(" ") or "-"
    values = "  ".join(value_text(reading) for reading in report.readings)
    yield (
        f"  {MARKS[report.verdict]} {report.number:>4}  {seconds(report.start_ns):>13}  "
        f"{report.verdict.title:<12}  {sent:<14}  {report.check.word:<9}  "
        f"{values or _nothing(report)}"
    ).rstrip()
    for finding in report.findings:
        if finding.weight is Verdict.SOUND and finding.code in told:
            continue
        yield f"         {MARKS[finding.weight]} {finding.says}"
        if finding.advice:
            yield f"           {finding.advice}"


def value_text(value: Value) -> str:
    """A value with its unit, and what else is to be known of it.

    Args:
        value: read from an exchange.
    """
    told = value.told()
    about = f" ({told})" if told else ""
    return f"{value.text} {value.unit}{about}"


def _nothing(report: Report) -> str:
    """What stands where there is no reading."""
    return "no reading" if report.due else report.headline


def exchange_text(report: Report) -> str:
    """One exchange in full, as it is copied to the clipboard.

    Args:
        report: the report of the exchange.
    """
    lines = [
        f"Exchange {report.number} · {report.wire} · {report.sheet.name}",
        *exchange_lines(report),
        *([f"         {report.check.says}"] if report.check.says else []),
        "",
        "  window                 count   shortest    longest     margin   allowed",
    ]
    for used in report.windows.values():
        window = used.window
        limits = limits_words(window)
        lines.append(
            f"  {window.label:<22} {used.number:>5} {us(used.min_us):>10} {us(used.max_us):>10} "
            f"{us(used.worst_margin_us):>10}   {limits}"
        )
    return "\n".join(lines) + "\n"


def pulse_text(report: Report, columns: frozenset[int]) -> str:
    """The pulses in some columns: width, margin and window in one line.

    Args:
        report: the exchange.
        columns: the columns of the classes in its report.
    """
    pulses = [pulse for pulse in report.pulses if pulse.column in columns]
    if not pulses:
        return ""
    if len(pulses) == 1:
        return _one_pulse(pulses[0])
    if len({pulse.window.key for pulse in pulses}) > 1:
        total = sum(pulse.width_us for pulse in pulses)
        worst = min(pulses, key=lambda pulse: pulse.share)
        return f"{len(pulses)} pulses, {us(total)} · tightest: {_one_pulse(worst)}"
    widths = [pulse.width_us for pulse in pulses]
    worst = min(pulses, key=lambda pulse: pulse.margin_us)
    return (
        f"{len(pulses)} pulses “{worst.window.label}”: {min(widths):.1f} to {max(widths):.1f} µs · "
        f"tightest: {_one_pulse(worst)}"
    )


def limits_words(window: Window) -> str:
    """The limits of a window, and how far copies of the part are known to go beyond.

    Args:
        window: the window of the sheet.
    """
    limits = limits_of(window)
    if window.common_us is None:
        return limits
    return f"{limits}; in copies {span(*window.common_us)}"


def _one_pulse(pulse: Pulse) -> str:
    window = pulse.window
    place = pulse.name
    if pulse.bound:
        return f"{place} · at least {us(pulse.width_us)}"
    limits = limits_words(window)
    if pulse.margin_us >= 0:
        stands = f"{us(pulse.margin_us)} inside"
    else:
        stands = f"{us(-pulse.margin_us)} outside"
    return f"{place} · {us(pulse.width_us)} · {stands} {limits}"
