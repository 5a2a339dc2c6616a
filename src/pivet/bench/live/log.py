"""The running log of what is heard: each exchange that was to give readings is a row."""

import json
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from pivet.bench.history.given import NOTHING, Given
from pivet.bench.history.series import reason_words
from pivet.bench.history.table import FINE_DECIMALS
from pivet.bench.history.times import iso_time
from pivet.bench.live.events import Event, Heard, Note
from pivet.bench.live.taker import Once, Taker
from pivet.bench.roles import NO_ROLES, Roles
from pivet.bench.wire import Wire
from pivet.errors import OutputError
from pivet.files.readings_log import RunningLog
from pivet.files.readings_table import Cell, Form, Table, TableRow
from pivet.judge.verdict import WORDS
from pivet.readings.correction import Correction
from pivet.readings.derived import RULES, Why, derive, why_words
from pivet.readings.series import Sensor
from pivet.readings.sound import Vessel
from pivet.readings.track import Track
from pivet.readings.units import AS_KEPT, QUANTITIES, UnitChoice

MEASURED = ("humidity", "temperature", "distance", "level")
"""The columns of a log; it does not know what comes later."""


@dataclass(frozen=True, slots=True)
class LogWish:
    """What a person wants of a log.

    Attributes:
        path: of the log.
        form: how it is written.
        derived: with dew point, heat index and the like.
        daily: a new file each day.
        units: in which values are written.
    """

    path: Path
    form: Form = Form.WIDE
    derived: bool = False
    daily: bool = True
    units: UnitChoice = AS_KEPT

    def text(self) -> str:
        """As JSON, for settings."""
        return json.dumps(
            {
                "path": str(self.path),
                "form": self.form,
                "derived": self.derived,
                "daily": self.daily,
                "units": list(self.units.chosen.values()),
            }
        )


def read_wish(text: str) -> LogWish | None:
    """A wish from JSON; None when it makes no sense."""
    try:
        rows = json.loads(text)
        units = AS_KEPT
        for symbol in rows["units"]:
            units = units.with_unit(str(symbol))
        path, form = Path(rows["path"]), Form(rows["form"])
        return LogWish(path, form, bool(rows["derived"]), bool(rows["daily"]), units)
    except (KeyError, TypeError, ValueError):
        return None


@dataclass(frozen=True, slots=True, eq=False)
class Names:
    """What a log must know beside what is heard: roles and corrections as they are now."""

    roles: Roles = NO_ROLES
    given: Given = NOTHING


@dataclass(slots=True)
class _Last:
    """The last row of a wire, to see whether it has changed."""

    number: int = -1
    rows: list[TableRow] = field(default_factory=list)


class ReadingsLog(Taker):
    """Writes a log.

    Args:
        wish: what is wanted.
        wall_ns: the calendar at a moment of the source, ns since 1970.
        names: roles and corrections at this moment.
        clock: monotonic seconds.
    """

    what = "the log"

    def __init__(
        self,
        wish: LogWish,
        wall_ns: Callable[[int], int],
        names: Callable[[], Names] = Names,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self.wish, self._wall_ns, self._names = wish, wall_ns, names
        self._raw: frozenset[str] = frozenset()
        self._corrections: Mapping[Sensor, Correction] = {}
        self._log = RunningLog(wish.path, self._table(), wish.daily)
        self._last: dict[str, _Last] = {}
        self._once = Once(clock)

    @property
    def file(self) -> Path:
        """The file that is written now."""
        return self._log.file

    def _table(self) -> Table:
        quantities = list(QUANTITIES) if self.wish.derived else MEASURED
        return Table(self.wish.form, quantities, self.wish.units, self._raw)

    def take(self, events: Sequence[Event]) -> None:
        """Takes what the listener told; a trouble is said once until it changes."""
        for event in events:
            if isinstance(event, Heard):
                try:
                    self._write(event)
                except OutputError as error:
                    says = self._once.failed(f"The log is behind: {error}")
                    if says:
                        self.say(Note(says))
                else:
                    self._once.worked()

    def _write(self, event: Heard) -> None:
        names = self._names()
        at_ns = self._wall_ns(int(event.shown.exchanges.start_ns[event.index]))
        rows = heard_rows(event, at_ns, names, self.wish.derived)
        last = self._last.setdefault(event.wire, _Last())
        # An exchange that went on is told again: its later rows count.
        if event.number == last.number:
            cells = [(row.cells, row.verdict) for row in last.rows]
            rows = [row for row in rows if (row.cells, row.verdict) not in cells]
        last.number, last.rows = event.number, rows
        corrections = names.given.corrections
        if corrections is not self._corrections:
            self._corrections = corrections
            raw = frozenset(sensor.quantity for sensor in corrections)
            if raw != self._raw:
                self._raw = raw
                self._log.use(self._table())
        if rows:
            self._log.add(at_ns, "".join(self._log.table.lines(row) for row in rows))

    def close(self) -> None:
        """Ends it."""
        self._log.close()


def heard_rows(event: Heard, at_ns: int, names: Names, derived: bool) -> list[TableRow]:
    """The rows of one exchange: one a device, mostly a single one."""
    wire, index = event.shown, event.index
    by_rom: dict[str, dict[str, tuple[Track, int]]] = {}
    for track in wire.tracks:
        # The method is half the price of the function, and this is done for every track heard.
        place = int(track.at.searchsorted(index))
        if place < track.at.size and track.at[place] == index:
            by_rom.setdefault(track.rom, {}).setdefault(track.quantity, (track, place))
    if not by_rom:
        if not int(wire.judged.notices[index]) & wire.family.silencing:
            return []
        by_rom[""] = {}
    verdict = WORDS[wire.verdicts[index]]
    time = iso_time(at_ns)
    rows = []
    for rom, tracks in by_rom.items():
        role = names.roles.holding(rom) if rom else None
        who = rom if role is None else role.name
        cells = [_cell(event.wire, who, *found, names.given) for found in tracks.values()]
        failed = all(cell.value is None for cell in cells)
        reason = ""
        if failed:
            reason = reason_words(wire.family, int(wire.judged.notices[index]))
        elif derived:
            cells += _derived_cells(cells, wire)
        rows.append(
            TableRow(
                time=time,
                wire=event.wire,
                role="" if role is None else role.name,
                device=rom,
                exchange=event.number - 1,
                cells=tuple(cells),
                verdict=verdict,
                reason=reason,
            )
        )
    return rows


def _cell(wire: str, who: str, track: Track, place: int, given: Given) -> Cell:
    decimals = FINE_DECIMALS if track.rom else track.decimals
    if not track.given[place]:
        return Cell(track.quantity, None, decimals)
    value = float(track.values[place])
    corrections = given.corrections
    correction = corrections.get(Sensor(wire, who, track.quantity)) if corrections else None
    if correction is None:
        return Cell(track.quantity, value, decimals)
    return Cell(track.quantity, correction.applied(value), decimals, raw=value)


def _derived_cells(cells: list[Cell], wire: Wire) -> list[Cell]:
    values = {cell.quantity: cell.value for cell in cells}
    found = []
    warm, damp = values.get("temperature"), values.get("humidity")
    if warm is not None and damp is not None:
        for rule in RULES.values():
            made = derive(rule, np.array([warm]), np.array([damp]))
            why = Why(int(made.why[0]))
            value = float(made.values[0]) if why is Why.GIVEN else None
            found.append(Cell(rule.quantity, value, rule.decimals, why_words(rule, why)))
    vessel, distance, level = wire.choices.vessel, values.get("distance"), values.get("level")
    if vessel is not None:
        found += _vessel_cells(vessel, distance, level)
    return found


def _vessel_cells(vessel: Vessel, distance: float | None, level: float | None) -> list[Cell]:
    found = []
    if level is None and distance is not None:
        level = vessel.level_m(distance)
        found.append(Cell("level", level, 3))
    if level is not None:
        found.append(Cell("fill", 100 * vessel.share(level), 1))
        litres = vessel.litres(level)
        if litres is not None:
            found.append(Cell("volume", litres, 0))
    return found
