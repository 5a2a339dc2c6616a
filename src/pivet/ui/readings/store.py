"""The readings that the views over time show: of the open bench, or of a capture from a file.

They are read when a view first needs them, and go on while something is listened to.
"""

import time
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from pivet.captures.capture import Capture
from pivet.captures.text import wire_names
from pivet.errors import PivetError
from pivet.files.benchfile.store import BenchFile
from pivet.history.attention import SensorState, states
from pivet.history.open import capture_histories
from pivet.history.recorded import KeptHistory
from pivet.history.reliability import Reliability, reliability
from pivet.history.series import all_series, derivable, derived_series
from pivet.history.watching import LimitEvent, Watching
from pivet.history.wire import WireHistory
from pivet.person.annotations import (
    NOTHING,
    Annotations,
    read_annotations,
    read_crossings,
    write_annotations,
    write_crossing,
)
from pivet.person.roles import Roles
from pivet.progress import Progress
from pivet.readings.limits import Crossing
from pivet.readings.series import Sensor, Series
from pivet.readings.units import QUANTITIES
from pivet.ui.jobs import JobBar
from pivet.ui.readings.changes import ChangeAnnotations
from pivet.ui.session.selection import WirePlace
from pivet.ui.session.session import Session

REFRESH_S = 0.7
BUSY_SHARE = 0.05
"""Reading what is new takes no more than this share of the time."""

AT_ONCE = 60_000
"""A capture with fewer exchanges is looked at without a job."""


@dataclass(frozen=True, slots=True, eq=False)
class Loaded:
    """Readings as they were at a moment.

    Attributes:
        histories: wire by wire.
        series: what was measured, under its corrections.
        derivable: the sensors of what would follow from it.
    """

    histories: tuple[WireHistory, ...] = field(default=(), repr=False)
    series: tuple[Series, ...] = field(default=(), repr=False)
    derivable: tuple[Sensor, ...] = ()


def load(histories: Sequence[WireHistory], roles: Roles, given: Annotations) -> Loaded:
    """Makes series of histories."""
    series = all_series(histories, roles, given.corrections, derived=False)
    return Loaded(tuple(histories), tuple(series), tuple(derivable(series, histories)))


class ReadingsStore(QObject):
    """Readings over time for the views.

    Args:
        session: what is shown.
        jobs: reads what takes long.
        bench: the open bench file, if there is one.

    Signals:
        changed: there are other readings, or more of them; carries whether they are others.
        annotations_changed: marks, corrections, limits or references are others.
    """

    changed = Signal(bool)
    annotations_changed = Signal()

    def __init__(
        self, session: Session, jobs: JobBar, bench: Callable[[], BenchFile | None]
    ) -> None:
        super().__init__(session)
        self._session, self._jobs, self._bench = session, jobs, bench
        self._viewers: set[object] = set()
        self._subject: Hashable = None
        self.owner: Hashable = None
        self._kept: KeptHistory | None = None
        self._loading = False
        self._waiting: list[Callable[[], None]] = []
        self._loaded = Loaded()
        self._made: dict[Sensor, Series | None] = {}
        self._annotations: dict[Hashable, Annotations] = {}
        self.crossings: list[tuple[Sensor, Crossing]] = []
        self._watching = Watching()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._go_on)
        session.captures_changed.connect(self._on_captures)
        session.wire_changed.connect(self._on_captures)
        session.roles_changed.connect(self._renew_series)

    @property
    def clock(self) -> bool:
        """Times are by the calendar, not since a capture began."""
        return self._kept is not None

    @property
    def histories(self) -> tuple[WireHistory, ...]:
        """The wires."""
        return self._loaded.histories

    @property
    def live(self) -> bool:
        """Readings come all the time."""
        return self.clock and bool(self._session.live)

    @property
    def annotations(self) -> Annotations:
        """What the person gave to these readings."""
        return self._annotations.get(self.owner, NOTHING)

    @property
    def sensors(self) -> list[Sensor]:
        """Everything that can be shown, what was measured first."""
        order = list(QUANTITIES)
        measured = [row.sensor for row in self._loaded.series]
        rows = [*measured, *self._loaded.derivable]
        return sorted(rows, key=lambda row: order.index(row.quantity))

    def is_derived(self, sensor: Sensor) -> bool:
        """Whether it follows from other readings."""
        return sensor in self._loaded.derivable

    def series(self, sensor: Sensor) -> Series | None:
        """A series; what is derived is made when it is first asked for."""
        if sensor not in self._made:
            found = next((row for row in self._loaded.series if row.sensor == sensor), None)
            if found is None and sensor in self._loaded.derivable:
                made = derived_series(self._loaded.series, self._loaded.histories, sensor)
                found = made[0] if made else None
            self._made[sensor] = found
        return self._made[sensor]

    @property
    def span_ns(self) -> tuple[int, int] | None:
        """From the first to the last exchange; None without any."""
        rows = [row.times_ns for row in self._loaded.histories if len(row)]
        if not rows:
            return None
        return min(int(row[0]) for row in rows), max(int(row[-1]) for row in rows)

    def reliability(self, wire: str) -> Reliability | None:
        """How reliable a wire was; None when there is no such wire."""
        rows = [row for row in self._loaded.histories if row.name == wire and len(row)]
        if not rows:
            return None
        return reliability(rows, self.clock)

    def states(self) -> list[SensorState]:
        """Every sensor, the one that needs attention most first."""
        return states(self._loaded.histories, self._loaded.series, self.open_crossings, self.clock)

    def need(self, viewer: object, needed: bool) -> None:
        """A view is there to be seen, or no longer."""
        if needed:
            self._viewers.add(viewer)
            self._on_captures()
        else:
            self._viewers.discard(viewer)

    def once(self, run: Callable[[], object]) -> None:
        """Runs something as soon as the readings are there; now, if they are."""
        self.need(run, True)

        def ready() -> None:
            run()
            self.need(run, False)

        if self._loading:
            self._waiting.append(ready)
        else:
            ready()

    def _on_captures(self) -> None:
        """Something was opened, closed, judged anew: other readings may be meant."""
        if not self._viewers:
            return
        capture = self._session.capture
        bench = self._bench()
        if capture is not None and capture.kept is not None and bench is not None:
            if self._subject is not bench:
                self._begin_bench(bench)
            elif not self._timer.isActive() and not self._loading:
                self._timer.start(0)
        elif capture is not None and capture.kept is None:
            subject = (capture.key, tuple(id(wire) for wire in capture.wires))
            if subject != self._subject:
                self._begin_capture(capture, subject)
        elif self._subject is not None:
            self._begin(None, None)
            self._take(Loaded(), True)

    def _begin(self, subject: Hashable, owner: Hashable) -> None:
        self._subject, self.owner, self._kept = subject, owner, None
        self.crossings, self._watching = [], Watching()
        self._loading = False
        self._show_corrections()

    def _begin_capture(self, capture: Capture, subject: Hashable) -> None:
        # Judged anew it is the same capture: what was given to it stays.
        self._begin(subject, capture.key)
        roles = self._session.roles

        def work(_: Progress | None = None) -> Loaded:
            return load(capture_histories(capture), roles, self.annotations)

        if sum(len(wire) for wire in capture.wires) <= AT_ONCE:
            self._take(work(), True)
        else:
            self._start(f"Looking through {capture.name}", work, subject)

    def _begin_bench(self, bench: BenchFile) -> None:
        try:
            given = read_annotations(bench)
            crossings = read_crossings(bench)
        except PivetError as error:
            self._session.refuse(str(error))
            given, crossings = NOTHING, []
        self._annotations[bench] = given
        self._begin(bench, bench)
        self.crossings = crossings
        self._kept = kept = KeptHistory(bench)
        roles = self._session.roles

        def work(progress: Progress) -> Loaded:
            return load(kept.read(progress), roles, given)

        self._start(f"Reading {bench.path.name}", work, bench)
        self.annotations_changed.emit()

    def _start(self, label: str, work: Callable[[Progress], Loaded], subject: Hashable) -> None:
        self._loading = True

        def done(loaded: Loaded) -> None:
            if self._subject == subject:
                self._loading = False
                fresh = load(loaded.histories, self._session.roles, self.annotations)
                self._take(fresh, True)

        def over() -> None:
            if self._subject == subject and self._loading:
                # Cancelled, or unreadable: who asks next makes it begin anew.
                self._loading, self._subject, self._waiting = False, None, []

        self._jobs.start(label, work, done, over)

    def _show_corrections(self) -> None:
        shown = self._session.shown
        if shown.corrections != self.annotations.corrections:
            self._session.show_as(replace(shown, corrections=self.annotations.corrections))

    def _take(self, loaded: Loaded, others: bool) -> None:
        self._loaded, self._made = loaded, {}
        self._watch()
        self.changed.emit(others)
        waiting, self._waiting = self._waiting, []
        for run in waiting:
            run()
        if self._viewers and self.live:
            self._timer.start(round(1000 * REFRESH_S))

    def _watch(self) -> None:
        """Looks whether limits were crossed; who listens has told it already."""
        for told in self._watching.take(self.annotations.limits, self.series):
            key = (told.sensor, told.crossing.side, told.crossing.since_ns)
            self.crossings = [
                row for row in self.crossings if (row[0], row[1].side, row[1].since_ns) != key
            ]
            self.crossings.append((told.sensor, told.crossing))
            self._keep_crossing(told)

    def _keep_crossing(self, told: LimitEvent) -> None:
        bench = self._bench()
        if self._subject is bench and bench is not None and not bench.read_only:
            try:
                write_crossing(bench, told.sensor, told.crossing)
            except PivetError as error:
                self._session.refuse(str(error))

    @property
    def open_crossings(self) -> dict[Sensor, Crossing]:
        """The limits that are crossed at the end of the readings."""
        return self._watching.open

    def _go_on(self) -> None:
        """Reads what is new of the bench."""
        if self._kept is None or self._loading or not self._viewers:
            return
        if self._bench() is not self._subject:
            return
        began = time.monotonic()
        try:
            loaded = load(self._kept.read(), self._session.roles, self.annotations)
        except PivetError as error:
            self._session.refuse(str(error))
            return
        self._take(loaded, False)
        took = time.monotonic() - began
        if self.live:
            self._timer.start(round(1000 * max(REFRESH_S, took / BUSY_SHARE)))

    def _renew_series(self) -> None:
        """Roles or corrections are others: the same readings under other names."""
        if self._loaded.histories:
            loaded = load(self._loaded.histories, self._session.roles, self.annotations)
            # Limits are held against the values as they are shown now; what was is not told again.
            self._watching = Watching()
            self._take(loaded, False)

    def change(self, after: Annotations, name: str) -> None:
        """Gives something else to these readings.  Can be undone.

        What cannot be written is refused with a sentence, and all stays as it was.
        """
        self._session.undo.push(ChangeAnnotations(self, after, name))

    def put_annotations(self, owner: Hashable, given: Annotations) -> bool:
        """Gives something else to a bench or a capture, and keeps it in the bench.

        Args:
            owner: the open bench file, or the key of a capture from a file.
            given: all that is given to it now.

        Returns:
            Whether it was done: a bench that cannot be written stays as it was.
        """
        before = self._annotations.get(owner, NOTHING)
        bench = self._bench()
        if owner is bench and bench is not None and not bench.read_only:
            try:
                write_annotations(bench, before, given)
            except PivetError as error:
                self._session.refuse(str(error))
                return False
        self._annotations[owner] = given
        if owner != self.owner:
            return True
        if before.corrections != given.corrections:
            self._renew_series()
            self._show_corrections()
        if before.limits != given.limits:
            self._watch()
        self.annotations_changed.emit()
        return True

    def place_of(self, series: Series, row: int) -> tuple[WirePlace, int] | None:
        """Where the exchange of a reading stands: its wire, and its number on it."""
        part, number = int(series.part[row]), int(series.number[row])
        for at, capture in enumerate(self._session.captures):
            if self._kept is not None:
                own = self._kept.captures
                mine = capture.kept is not None and capture.kept.id == own[part].id
            else:
                mine = capture is self._session.capture
            names = wire_names(capture) if mine else []
            if series.sensor.wire in names:
                return (at, names.index(series.sensor.wire)), number
        return None

    @property
    def chosen_ns(self) -> int | None:
        """When the chosen exchange was, on the time axis of the readings.

        One that is so new that it has not been read yet counts as the last that was.
        """
        capture, name = self._session.capture, self._session.wire_name
        if capture is None or not name:
            return None
        for row in self._loaded.histories:
            if row.name != name or not len(row) or not self._is_part(row, capture):
                continue
            at = min(int(np.searchsorted(row.number, self._session.number)), len(row) - 1)
            if int(row.number[at]) == self._session.number or (self.live and at == len(row) - 1):
                return int(row.times_ns[at])
        return None

    def _is_part(self, row: WireHistory, capture: Capture) -> bool:
        if self._kept is None:
            return True
        return capture.kept is not None and self._kept.captures[row.part].id == capture.kept.id
