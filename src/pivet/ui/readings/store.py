"""The readings that the views over time show: of the open bench, or of a capture from a file.

They are read when a view first needs them, and go on while something is listened to.
"""

import time
from collections.abc import Callable, Hashable, Mapping, Sequence

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from pivet.captures.capture import Capture
from pivet.captures.text import wire_names
from pivet.errors import Cancelled, PivetError
from pivet.files.benchfile.reading import BenchReader
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.history.attention import SensorState
from pivet.history.open import capture_histories
from pivet.history.readings_set import ReadingsSet, readings_set
from pivet.history.recorded import KeptHistory
from pivet.history.reliability import Reliability
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
from pivet.progress import Progress, silent
from pivet.readings.limits import Crossing
from pivet.readings.series import Sensor, Series
from pivet.ui.readings.changes import ChangeAnnotations
from pivet.ui.session.selection import WirePlace
from pivet.ui.session.session import Session
from pivet.ui.work.background import Background
from pivet.ui.work.jobs import JobBar
from pivet.ui.work.turns import turns

REFRESH_S = 0.7
READINGS = "readings"
BUSY_SHARE = 0.05
"""Reading what is new takes no more than this share of the time."""

AT_ONCE = 1_000
"""So few exchanges are looked at without leaving the window's thread: it takes about 2 ms."""

OF_A_WIRE = 100
"""A wire takes, besides its exchanges, as long as so many of them."""

Maker = Callable[[Sequence[WireHistory], Progress], ReadingsSet]


class ReadingsStore(QObject):
    """Readings over time for the views.

    Args:
        session: what is shown.
        jobs: reads what takes long.
        bench: the open bench file, if there is one.

    Attributes:
        owner: of what is given to the readings: the open bench file, or the key of a capture.
        background: where views, too, let do what takes longer than a frame.
        version: counts what of all this has changed.
        crossings: of limits, each with its sensor.

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
        self.version = 0
        self.changed.connect(self._count)
        self.annotations_changed.connect(self._count)
        self._viewers: set[object] = set()
        self._subject: Hashable = None
        self.owner: Hashable = None
        self.background = Background(self)
        self.background.failed.connect(self._on_failed)
        self._kept: KeptHistory | None = None
        self._reader: BenchReader | None = None
        self._loading = self._reading = False
        self._asked = 0
        self._latest: tuple[Hashable, Sequence[WireHistory]] = (None, ())
        self._waiting: list[Callable[[], None]] = []
        self._readings = ReadingsSet()
        self._derived: set[Sensor] = set()
        self._annotations: dict[Hashable, Annotations] = {}
        self._made_under: tuple[Roles, Annotations] = (session.roles, NOTHING)
        self.crossings: list[tuple[Sensor, Crossing]] = []
        self._watching = Watching()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._go_on)
        session.captures_changed.connect(self._on_captures)
        session.wire_changed.connect(self._on_captures)
        session.roles_changed.connect(lambda: turns().add(self, self._take_roles))

    @property
    def clock(self) -> bool:
        """Times are by the calendar, not since a capture began."""
        return self._kept is not None

    @property
    def readings(self) -> ReadingsSet:
        """All that is known of them now."""
        return self._readings

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
        return self._readings.sensors

    def is_derived(self, sensor: Sensor) -> bool:
        """Whether it follows from other readings."""
        return self._readings.is_derived(sensor)

    def series(self, sensor: Sensor) -> Series | None:
        """A series; None while one that is derived is being made, ``changed`` tells when it is."""
        readings = self._readings
        if readings.is_made(sensor) or self.is_little:
            return readings.series_of(sensor)
        self._derived.add(sensor)
        self.background.ask(
            sensor, lambda _: readings.series_of(sensor), lambda _: self.changed.emit(False)
        )
        return None

    @property
    def span_ns(self) -> tuple[int, int] | None:
        """From the first to the last exchange; None without any."""
        return self._readings.span_ns

    def reliability(self, wire: str) -> Reliability | None:
        """How reliable a wire was; None when there is no such wire, or no exchange of it."""
        found = self._readings.reliability.get(wire)
        return found if found is not None and found.count else None

    def states(self) -> Sequence[SensorState]:
        """Every sensor, the one that needs attention most first."""
        return self._readings.states

    @property
    def is_little(self) -> bool:
        """Whether what is made of all of them takes no longer than a frame."""
        return _is_little(len(self._readings), len(self._readings.histories))

    def _count(self) -> None:
        self.version += 1

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
        if self._kept is not None and self._bench() is not self._subject:
            self._begin(None, None)
            self._readings = ReadingsSet()
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
            self._take(ReadingsSet(), True)

    def _begin(self, subject: Hashable, owner: Hashable) -> None:
        self._subject, self.owner, self._kept = subject, owner, None
        self.close()
        self.crossings, self._watching = [], Watching()
        self._loading, self._reading = False, False
        self._derived = set()
        self.background.forget_all()
        self._show_corrections()

    def close(self) -> None:
        """Reads no bench file any more."""
        if self._reader is not None:
            self._reader.close_reader()
            self._reader = None

    def _begin_capture(self, capture: Capture, subject: Hashable) -> None:
        # Judged anew it is the same capture: what was given to it stays.
        self._begin(subject, capture.key)
        make = self._maker()

        def work(progress: Progress = silent) -> ReadingsSet:
            return make(capture_histories(capture, progress), progress)

        if _is_little(sum(len(wire) for wire in capture.wires), len(capture.wires)):
            self._take(work(), True)
        else:
            self._start(f"Looking through {capture.name}", work, subject)

    def _maker(self) -> Maker:
        """Makes the readings under what is wanted now, in any thread."""
        roles, given, watching = self._session.roles, self.annotations, self._watching
        clock, wanted = self.clock, tuple(self._derived)
        self._made_under = (roles, given)

        subject = self._subject

        def make(histories: Sequence[WireHistory], progress: Progress) -> ReadingsSet:
            self._latest = (subject, histories)
            return readings_set(histories, roles, given, watching, clock, wanted, progress)

        return make

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
        try:
            self._reader = BenchReader(bench.path)
        except PivetError as error:
            # Who asks next makes it begin anew.
            self._subject = None
            self._session.refuse(str(error))
            return
        self._kept = kept = KeptHistory(self._reader)
        make = self._maker()

        def work(progress: Progress) -> ReadingsSet:
            try:
                return make(kept.read(progress), progress)
            except PivetError as error:
                if self._subject is bench:
                    raise
                # It was closed while it was read: nobody waits for it.
                raise Cancelled from error

        self._start(f"Reading {bench.path.name}", work, bench)
        self.annotations_changed.emit()

    def _start(
        self, label: str, work: Callable[[Progress], ReadingsSet], subject: Hashable
    ) -> None:
        self._loading = True

        def done(readings: ReadingsSet) -> None:
            if self._subject == subject:
                self._loading = False
                self._take(readings, True)
                if self._made_under != (self._session.roles, self.annotations):
                    self._renew()

        def over() -> None:
            if self._subject == subject and self._loading:
                # Cancelled, or unreadable: who asks next makes it begin anew.
                self._loading, self._subject, self._waiting = False, None, []

        self._jobs.start(label, work, done, over)

    def _show_corrections(self) -> None:
        shown = self._session.shown
        if shown.corrections != self.annotations.corrections:
            self._session.show_as(replace(shown, corrections=self.annotations.corrections))

    def _take(self, readings: ReadingsSet, others: bool) -> None:
        self._readings = readings
        for told in readings.crossed:
            self._tell_crossing(told)
        self.changed.emit(others)
        waiting, self._waiting = self._waiting, []
        for run in waiting:
            run()
        if self._viewers and self.live:
            self._timer.start(round(1000 * REFRESH_S))

    def _tell_crossing(self, told: LimitEvent) -> None:
        """A limit was crossed; who listens has told it already."""
        key = (told.sensor, told.crossing.side, told.crossing.since_ns)
        self.crossings = [
            crossing
            for crossing in self.crossings
            if (crossing[0], crossing[1].side, crossing[1].since_ns) != key
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
    def open_crossings(self) -> Mapping[Sensor, Crossing]:
        """The limits that are crossed at the end of the readings."""
        return self._readings.open_crossings

    def _go_on(self) -> None:
        """Reads what is new of the bench."""
        kept, reader, bench = self._kept, self._reader, self._bench()
        if kept is None or reader is None or not self._viewers:
            return
        if self._loading or self._reading or bench is None or bench is not self._subject:
            return
        make, began, path = self._maker(), time.monotonic(), bench.path

        def work(progress: Progress) -> ReadingsSet:
            if reader.path != path:
                reader.look_at(path)
            return make(kept.read(progress), progress)

        def over() -> None:
            self._reading = False
            if self.live:
                took = time.monotonic() - began
                self._timer.start(round(1000 * max(REFRESH_S, took / BUSY_SHARE)))

        self._reading = True
        self._make(work, over)

    def _make(self, work: Callable[[Progress], ReadingsSet], over: Callable[[], object]) -> None:
        """Makes the readings anew.  None is passed over: each tells which limits were crossed."""
        subject = self._subject
        self._asked += 1

        def done(readings: ReadingsSet) -> None:
            if self._subject == subject:
                self._take(readings, False)
                over()

        now = self.is_little and self._is_latest_little() and not self.background.busy
        self.background.ask((READINGS, self._asked), work, done, now)

    def _is_latest_little(self) -> bool:
        """What was read meanwhile may be more than what is shown."""
        subject, latest = self._latest
        return subject != self._subject or _is_little(sum(map(len, latest)), len(latest))

    def _on_failed(self, error: object) -> None:
        self._reading = False
        self._session.refuse(str(error))

    def _renew(self) -> None:
        """Roles, corrections or limits are others: the same readings under them."""
        if not self._readings.histories:
            return
        make, own, before = self._maker(), self._subject, self._readings.histories

        def work(progress: Progress) -> ReadingsSet:
            # What was read meanwhile counts; of something else it does not.
            subject, latest = self._latest
            return make(latest if subject == own else before, progress)

        self._make(work, lambda: None)

    def _take_roles(self) -> None:
        """Roles are others; what has come meanwhile may be made under them already."""
        if self._made_under != (self._session.roles, self.annotations):
            self._renew_series()

    def _renew_series(self) -> None:
        """Values are others: what was told of limits is not told again."""
        self._watching = Watching()
        self._renew()

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
        elif before.limits != given.limits:
            self._renew()
        self.annotations_changed.emit()
        return True

    def place_of(self, series: Series, row: int) -> tuple[WirePlace, int] | None:
        """Where the exchange of a reading stands: its wire, and its number on it."""
        part, number = int(series.part[row]), int(series.number[row])
        for at, capture in enumerate(self._session.captures):
            if self._kept is not None:
                mine = capture.kept is not None and capture.kept.id == self._kept_id(part)
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
        for history in self._readings.histories:
            if history.name != name or not len(history) or not self._is_part(history, capture):
                continue
            at = min(int(np.searchsorted(history.number, self._session.number)), len(history) - 1)
            if int(history.number[at]) == self._session.number or (
                self.live and at == len(history) - 1
            ):
                return int(history.times_ns[at])
        return None

    def _is_part(self, row: WireHistory, capture: Capture) -> bool:
        if self._kept is None:
            return True
        return capture.kept is not None and self._kept_id(row.part) == capture.kept.id

    def _kept_id(self, part: int) -> int | None:
        """The id of a capture of the open bench; None while what is shown is still of another."""
        captures = self._kept.captures if self._kept is not None else []
        return captures[part].id if part < len(captures) else None


def _is_little(exchanges: int, wires: int) -> bool:
    return exchanges + OF_A_WIRE * wires <= AT_ONCE
