"""What a person gives to readings: marks, corrections, limits, references."""

import contextlib
import json
from collections.abc import Mapping

import msgspec
import numpy as np
import numpy.typing as npt

from pivet.errors import InputError
from pivet.files.benchfile.checked import decoded
from pivet.files.benchfile.given import given_rows, put_rows, replace_rows
from pivet.files.benchfile.reading import BenchReader
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import FrozenObject, FrozenValue, replace
from pivet.person.roles import NO_ROLES, Roles
from pivet.readings.correction import Correction
from pivet.readings.limits import Crossing, Limit, Side
from pivet.readings.series import Sensor
from pivet.readings.units import QUANTITIES


class Mark(FrozenValue, order=True):
    """A moment at which something happened.

    Attributes:
        at_ns: on the time axis of the readings.
        text: what happened.
        wire: where; empty for all.
    """

    at_ns: int
    text: str
    wire: str = ""


class Reference(FrozenObject):
    """What another instrument said.

    Attributes:
        name: as people read it.
        quantity: what it measured.
        times_ns: rising, int64 (n,), on the time axis of the readings.
        values: float64 (n,), in the kept unit.
        accuracy: that it promises, plus or minus, in the kept unit; None when nobody knows.
    """

    name: str
    quantity: str
    times_ns: npt.NDArray[np.int64]
    values: npt.NDArray[np.float64]
    accuracy: float | None = None


class Annotations(FrozenObject):
    """All that was given; every change gives a new object."""

    marks: tuple[Mark, ...] = ()
    corrections: Mapping[Sensor, Correction] = msgspec.field(default_factory=dict)
    limits: Mapping[Sensor, Limit] = msgspec.field(default_factory=dict)
    references: tuple[Reference, ...] = ()

    def marked(self, mark: Mark) -> "Annotations":
        """With one mark more.

        Args:
            mark: the moment, and what happened.
        """
        return replace(self, marks=tuple(sorted((*self.marks, mark))))

    def unmarked(self, mark: Mark) -> "Annotations":
        """Without a mark.

        Args:
            mark: the moment, and what happened.
        """
        return replace(self, marks=tuple(one for one in self.marks if one != mark))

    def corrected(self, sensor: Sensor, correction: Correction | None) -> "Annotations":
        """With another correction of a sensor, or none.

        Args:
            sensor: wire, device and quantity.
            correction: None takes it away.
        """
        rows = {key: correction for key, correction in self.corrections.items() if key != sensor}
        return replace(
            self, corrections=rows if correction is None else rows | {sensor: correction}
        )

    def limited(self, sensor: Sensor, limit: Limit | None) -> "Annotations":
        """With another limit of a sensor, or none.

        Args:
            sensor: wire, device and quantity.
            limit: None takes it away.
        """
        rows = {key: limit for key, limit in self.limits.items() if key != sensor}
        return replace(self, limits=rows if limit is None else rows | {sensor: limit})

    def referred(self, reference: Reference) -> "Annotations":
        """With one reference more; one of the same name and quantity goes.

        Args:
            reference: what another instrument said.
        """
        return replace(self, references=(*self.without(reference).references, reference))

    def without(self, reference: Reference) -> "Annotations":
        """Without the reference of this name and quantity.

        Args:
            reference: what another instrument said.
        """
        key = (reference.name, reference.quantity)
        rows = tuple(other for other in self.references if (other.name, other.quantity) != key)
        return replace(self, references=rows)


NOTHING = Annotations()


class Labels(FrozenObject):
    """What is to be known of readings as they come: roles and annotations at this moment."""

    roles: Roles = NO_ROLES
    annotations: Annotations = NOTHING


def read_annotations(bench: BenchReader) -> Annotations:
    """What a bench file holds; rows that make no sense are left out.

    Args:
        bench: the bench file.

    Raises:
        InputError: it cannot be read.
    """
    marks = [Mark(row[0], row[2], row[1]) for row in given_rows(bench, "mark")]
    corrections = {}
    for *who, gain, offset, text in given_rows(bench, "correction"):
        points = decoded(text, list[tuple[float, float]])
        if points is not None and who[-1] in QUANTITIES and np.isfinite((gain, offset)).all():
            corrections[Sensor(*who)] = Correction(gain, offset, tuple(points))
    limits = {}
    for *who, low, high, hysteresis, delay_s in given_rows(bench, "bound"):
        with contextlib.suppress(InputError):
            if who[-1] in QUANTITIES:
                limits[Sensor(*who)] = Limit(low, high, hysteresis, delay_s)
    return Annotations(tuple(sorted(marks)), corrections, limits, tuple(_references(bench)))


def _references(bench: BenchReader) -> list[Reference]:
    values: dict[int, list[tuple[int, float]]] = {}
    for ident, wall_ns, value in given_rows(bench, "reference_value"):
        values.setdefault(ident, []).append((wall_ns, value))
    found = []
    for ident, name, quantity, accuracy in given_rows(bench, "reference"):
        rows = sorted(values.get(ident, []))
        if rows and quantity in QUANTITIES:
            times = np.array([row[0] for row in rows], dtype=np.int64)
            found.append(
                Reference(name, quantity, times, np.array([row[1] for row in rows]), accuracy)
            )
    return found


def write_annotations(bench: BenchFile, before: Annotations, after: Annotations) -> None:
    """Writes what has changed.

    Args:
        bench: the bench file.
        before: what stands in it.
        after: what is to stand in it.

    Raises:
        OutputError: it cannot be written.
    """
    with bench.writing():
        if before.marks != after.marks:
            replace_rows(
                bench, "mark", [(mark.at_ns, mark.wire, mark.text) for mark in after.marks]
            )
        if before.corrections != after.corrections:
            replace_rows(
                bench, "correction", [_correction(*row) for row in after.corrections.items()]
            )
        if before.limits != after.limits:
            replace_rows(bench, "bound", [_limit(*row) for row in after.limits.items()])
        if before.references != after.references:
            _put_references(bench, after.references)


def _key(sensor: Sensor) -> tuple[str, str, str]:
    return sensor.wire, sensor.who, sensor.quantity


def _correction(sensor: Sensor, row: Correction) -> tuple[object, ...]:
    return (*_key(sensor), row.gain, row.offset, json.dumps(row.points))


def _limit(sensor: Sensor, row: Limit) -> tuple[object, ...]:
    return (*_key(sensor), row.low, row.high, row.hysteresis, row.delay_s)


def _put_references(bench: BenchFile, references: tuple[Reference, ...]) -> None:
    rows = list(enumerate(references, start=1))
    replace_rows(bench, "reference", [(at, r.name, r.quantity, r.accuracy) for at, r in rows])
    values = [
        (at, when, value)
        for at, row in rows
        for when, value in zip(row.times_ns.tolist(), row.values.tolist(), strict=True)
    ]
    replace_rows(bench, "reference_value", values)


def read_crossings(bench: BenchReader) -> list[tuple[Sensor, Crossing]]:
    """The crossings that a bench file holds, in order of time.

    Args:
        bench: the bench file.

    Raises:
        InputError: they cannot be read.
    """
    found = []
    for wire, who, quantity, side, since, told, value, worst, until in given_rows(
        bench, "crossing"
    ):
        if side in set(Side) and quantity in QUANTITIES:
            crossing = Crossing(Side(side), since, told, value, worst, until)
            found.append((Sensor(wire, who, quantity), crossing))
    return sorted(found, key=lambda row: row[1].told_ns)


def write_crossing(bench: BenchFile, sensor: Sensor, row: Crossing) -> None:
    """Adds a crossing, or puts it in place of the same one.

    Args:
        bench: the bench file.
        sensor: the sensor whose limit it is.
        row: the crossing.

    Raises:
        OutputError: it cannot be written.
    """
    values = (row.side, row.since_ns, row.told_ns, row.value, row.worst, row.until_ns)
    with bench.writing():
        put_rows(bench, "crossing", [(*_key(sensor), str(values[0]), *values[1:])])
