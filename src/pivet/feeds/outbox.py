"""What a feed is to send next: exchanges of the bench as rows, under the person's names."""

import time
from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from pivet.families import find_family
from pivet.families.family import AnyFamily
from pivet.files.benchfile.columns import clock_columns
from pivet.files.benchfile.feeds import Change, OutgoingRow, SentExchange, sent_exchanges
from pivet.files.benchfile.notice_bits import Moves, moves_of, one_moved
from pivet.files.benchfile.reading import BenchReader
from pivet.files.benchfile.rows import CaptureRow, WireRow
from pivet.files.readings_table import Cell, TableRow
from pivet.frozen import FrozenValue
from pivet.history.derived_cells import derived_cells
from pivet.history.series import reason_words
from pivet.history.table import FINE_DECIMALS
from pivet.history.times import iso_time, utc_time
from pivet.history.wire import decimals_of
from pivet.judge.notices import bits_of
from pivet.judge.verdict import WORDS
from pivet.person.annotations import Labels
from pivet.person.wire_settings import read_wire_settings
from pivet.readings.series import Sensor
from pivet.readings.sound import Vessel
from pivet.sheets.families import known_as

TAKEN_BACK = "taken back: it was no exchange after all"
CLOCK_S = 30.0
"""How often it is looked what the calendar said of a capture."""


class Sent(FrozenValue):
    """A row that is to be sent: what one device gave in one exchange.

    Attributes:
        seq: its exchange's place among all that was ever outgoing.
        ident: tells it from all other rows of the bench; the same when it is sent again.
        at_ns: when the exchange began, ns since 1970.
        row: names, values in their kept units, verdict, reason.
        change: what became of the exchange.
    """

    seq: int
    ident: str
    at_ns: int
    row: TableRow
    change: Change = Change.NEW


@dataclass(slots=True)
class _Wire:
    """A wire of the bench, with all that rows need of it."""

    row: WireRow
    capture: CaptureRow
    family: AnyFamily
    vessel: Vessel | None
    moves: Moves
    times: tuple[list[int], list[int]]
    looked: float


class Outbox:
    """Makes rows of exchanges.

    Args:
        bench: the open bench file.
        labels: roles and corrections at this moment.
        derived: with what follows from readings.
        clock: monotonic seconds.
    """

    def __init__(
        self,
        bench: BenchReader,
        labels: Callable[[], Labels],
        derived: bool = False,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self._bench, self._labels, self._derived = bench, labels, derived
        self._clock = clock
        self._wires: dict[int, _Wire] = {}

    def rows(self, outgoing: Sequence[OutgoingRow]) -> list[Sent]:
        """The rows of some exchanges, in their order; exchanges without readings have none.

        Args:
            outgoing: what is to be sent.

        Raises:
            InputError: the file cannot be read.
        """
        by_wire: dict[int, list[int]] = {}
        for one in outgoing:
            by_wire.setdefault(one.wire, []).append(one.number)
        found: dict[int, dict[int, SentExchange]] = {}
        for ident, numbers in by_wire.items():
            if self._wire(ident) is not None:
                found[ident] = sent_exchanges(self._bench, ident, numbers)
        labels = self._labels()
        rows: list[Sent] = []
        for one in outgoing:
            wire = self._wires.get(one.wire)
            exchange = found.get(one.wire, {}).get(one.number)
            if wire is not None and exchange is not None:
                rows += self._rows_of(wire, one, exchange, labels)
            elif wire is not None and one.change is Change.WITHDRAWN:
                rows += self._taken_back(wire, one, labels)
        return rows

    def _wire(self, ident: int) -> _Wire | None:
        known = self._wires.get(ident)
        now = self._clock()
        if known is not None and now - known.looked < CLOCK_S:
            return known
        row = next((row for row in self._bench.wires() if row.id == ident), None)
        if row is None:
            return None
        capture = next(one for one in self._bench.captures() if one.id == row.capture)
        family = find_family(row.family)
        times, walls = clock_columns(self._bench, capture.id)
        made = self._wires[ident] = _Wire(
            row,
            capture,
            family,
            read_wire_settings(row.setup).choices.vessel,
            moves_of(self._bench, known_as(family.key), bits_of(family.notices)),
            (times.tolist(), (walls - times).tolist()),
            now,
        )
        return made

    def _rows_of(
        self, wire: _Wire, one: OutgoingRow, exchange: SentExchange, labels: Labels
    ) -> list[Sent]:
        by_rom: dict[str, list[Cell]] = {}
        notices = one_moved(wire.moves, exchange.notices)
        for quantity, rom, value in exchange.readings:
            cells = by_rom.setdefault(rom, [])
            cells.append(_cell(wire.row.name, quantity, rom, value, labels))
        if not by_rom:
            if not notices & wire.family.silencing:
                return []
            by_rom[""] = []
        found = []
        for rom, cells in by_rom.items():
            failed = all(cell.value is None for cell in cells)
            if self._derived and not failed:
                cells += derived_cells(cells, wire.vessel)
            reason = reason_words(wire.family, notices) if failed else ""
            found.append(self._row(wire, one, exchange, rom, cells, reason, labels))
        return found

    def _row(
        self,
        wire: _Wire,
        one: OutgoingRow,
        exchange: SentExchange | None,
        rom: str,
        cells: Sequence[Cell],
        reason: str,
        labels: Labels,
    ) -> Sent:
        at_ns = _calendar_ns(wire, exchange.start_ns) if exchange is not None else time.time_ns()
        role = labels.roles.holding(rom) if rom else None
        ident = f"{wire.capture.id}-{wire.row.id}-{one.number}"
        row = TableRow(
            time=utc_time(at_ns),
            wire=wire.row.name,
            role="" if role is None else role.name,
            device=rom,
            exchange=one.number,
            cells=tuple(cells),
            verdict=WORDS[exchange.verdict] if exchange is not None else "",
            reason=reason,
            local=iso_time(at_ns),
        )
        return Sent(one.seq, f"{ident}-{rom}" if rom else ident, at_ns, row, one.change)

    def _taken_back(self, wire: _Wire, one: OutgoingRow, labels: Labels) -> list[Sent]:
        by_rom: dict[str, list[Cell]] = {}
        for quantity, rom in self._bench.rows(
            "SELECT quantity, device FROM track WHERE wire = ?", (wire.row.id,), tuple[str, str]
        ):
            by_rom.setdefault(rom, []).append(Cell(quantity, None, 0))
        return [
            self._row(wire, one, None, rom, cells, TAKEN_BACK, labels)
            for rom, cells in by_rom.items()
        ]


def _cell(wire: str, quantity: str, rom: str, value: float | None, labels: Labels) -> Cell:
    decimals = FINE_DECIMALS if rom else decimals_of(quantity, rom)
    if value is None:
        return Cell(quantity, None, decimals)
    role = labels.roles.holding(rom) if rom else None
    who = rom if role is None else role.name
    correction = labels.annotations.corrections.get(Sensor(wire, who, quantity))
    if correction is None:
        return Cell(quantity, value, decimals)
    return Cell(quantity, correction.applied(value), decimals, raw=value)


def _calendar_ns(wire: _Wire, start_ns: int) -> int:
    """A moment of a capture, ns since 1970: between two looks at the calendar in proportion."""
    times, off = wire.times
    if not times:
        return wire.capture.began_ns + start_ns
    after = bisect_right(times, start_ns)
    if after in (0, len(times)):
        return start_ns + off[min(after, len(times) - 1)]
    low, high = times[after - 1], times[after]
    share = (start_ns - low) / (high - low)
    return start_ns + off[after - 1] + round((off[after] - off[after - 1]) * share)
