"""The running log of what is heard: each exchange that was to give readings is a row."""

import json
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from pivet.errors import OutputError
from pivet.files.readings_log import RunningLog
from pivet.files.readings_table import Form, Table, TableRow
from pivet.frozen import FrozenValue
from pivet.listening.events import Event, Heard, Note
from pivet.listening.heard_rows import heard_rows
from pivet.listening.taker import Once, Taker
from pivet.person.annotations import Labels
from pivet.readings.correction import Correction
from pivet.readings.series import Sensor
from pivet.readings.units import AS_KEPT, QUANTITIES, UnitChoice

MEASURED = ("humidity", "temperature", "distance", "level")
"""The columns of a log; it does not know what comes later."""


class LogWish(FrozenValue):
    """What a person wants of a log.

    Attributes:
        path: the path of the log.
        form: how it is written.
        derived: with dew point, heat index and the like.
        daily: a new file each day.
        units: the units in which values are written.
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
    """A wish from JSON; None when it makes no sense.

    Args:
        text: as somebody wrote it.
    """
    try:
        rows = json.loads(text)
        units = AS_KEPT
        for symbol in rows["units"]:
            units = units.with_unit(str(symbol))
        path, form = Path(rows["path"]), Form(rows["form"])
        return LogWish(path, form, bool(rows["derived"]), bool(rows["daily"]), units)
    except (KeyError, TypeError, ValueError):
        return None


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
        labels: roles and corrections at this moment.
        clock: monotonic seconds.
    """

    what = "the log"

    def __init__(
        self,
        wish: LogWish,
        wall_ns: Callable[[int], int],
        labels: Callable[[], Labels] = Labels,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self.wish, self._wall_ns, self._labels = wish, wall_ns, labels
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
        """Takes what the listener told; a trouble is said once until it changes.

        Args:
            events: the events, in the order in which they were told.
        """
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
        labels = self._labels()
        at_ns = self._wall_ns(int(event.shown.exchanges.start_ns[event.index]))
        rows = heard_rows(event, at_ns, labels, self.wish.derived)
        last = self._last.setdefault(event.wire, _Last())
        # An exchange that went on is told again: its later rows count.
        if event.number == last.number:
            cells = [(row.cells, row.verdict) for row in last.rows]
            rows = [row for row in rows if (row.cells, row.verdict) not in cells]
        last.number, last.rows = event.number, rows
        corrections = labels.annotations.corrections
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
