"""What feeds are to send of what is being recorded: it stands in the same transaction."""

from collections.abc import Collection, Mapping

from pivet.errors import InputError
from pivet.files.benchfile.feeds import Change, SentExchange, add_outgoing, sent_exchanges
from pivet.files.benchfile.reading import BenchReader
from pivet.files.benchfile.rows import ExchangeRow
from pivet.files.benchfile.store import BenchFile

Readings = Mapping[int, Collection[tuple[str, str, str, float | None]]]
"""Quantity, unit, device and value of what exchanges gave, by their number."""

Outgoing = tuple[int, int, int, Change]
"""Start in ns, wire, number and what became of an exchange."""


def has_feeds(bench: BenchReader) -> bool:
    """Whether anything that is recorded is to be sent; also where nobody can tell.

    Args:
        bench: the open bench file.
    """
    try:
        return bool(bench.rows("SELECT 1 FROM feed LIMIT 1"))
    except InputError:
        return True


def changes_of(
    bench: BenchReader,
    wire: int,
    rows: Mapping[int, ExchangeRow],
    readings: Readings,
    again: Collection[int],
    gone: Collection[int],
) -> list[Outgoing]:
    """What of a wire is to be sent; an exchange that was judged anew to the same is not.

    Args:
        bench: the file as it is before these are written.
        wire: its number in the file.
        rows: exchanges that are about to be written, by number.
        readings: what they gave.
        again: numbers of those that were told before.
        gone: numbers of exchanges that were none after all.
    """
    before = _before(bench, wire, {*again, *gone})
    found = [
        (before[number].start_ns, wire, number, Change.WITHDRAWN)
        for number in gone
        if number in before
    ]
    for number, row in rows.items():
        former = before.get(number) if number in again else None
        if former is None:
            found.append((row.start_ns, wire, number, Change.NEW))
            continue
        now = {(quantity, device, value) for quantity, _, device, value in readings[number]}
        if (row.verdict, now) != (former.verdict, set(former.readings)):
            found.append((row.start_ns, wire, number, Change.REVISED))
    return found


def _before(bench: BenchReader, wire: int, numbers: set[int]) -> dict[int, SentExchange]:
    """What the file says so far; where it cannot be read, too much is sent and nothing is lost."""
    try:
        return sent_exchanges(bench, wire, sorted(numbers)) if numbers else {}
    except InputError:
        return {}


def put_outgoing(bench: BenchFile, rows: Collection[Outgoing]) -> None:
    """Lets feeds send exchanges, in order of time; within ``writing``.

    Args:
        bench: a file open for writing.
        rows: of any wires of one capture.
    """
    add_outgoing(bench, (row[1:] for row in sorted(rows)))
