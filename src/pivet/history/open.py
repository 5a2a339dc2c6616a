"""The readings of a file, whatever it is: a bench file or a capture."""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from pivet.captures.capture import Capture, open_capture
from pivet.captures.text import short_names
from pivet.errors import InputError
from pivet.files.benchfile.beside import is_bench
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import FrozenObject, replace
from pivet.history.recorded import KeptHistory
from pivet.history.series import all_series
from pivet.history.wire import WireHistory, by_wire, wire_history
from pivet.person.annotations import NOTHING, Annotations, read_annotations
from pivet.person.roles import NO_ROLES, Roles
from pivet.person.stored import read_roles
from pivet.progress import Progress, each, silent
from pivet.readings.series import Series
from pivet.sheets.model import Sheet
from pivet.signal.naming import wires_meant


class Readings(FrozenObject):
    """All that was read, and what was given to it.

    Attributes:
        histories: wire by wire, in order of time.
        clock: times are by the calendar, not since a capture began.
        roles: the person's names of devices.
        given: marks, corrections, limits, references.
    """

    histories: tuple[WireHistory, ...]
    clock: bool
    roles: Roles = NO_ROLES
    given: Annotations = NOTHING

    def series(self, derived: bool = True) -> list[Series]:
        """Every series.

        Args:
            derived: also what follows from other readings.
        """
        return all_series(self.histories, self.roles, self.given.corrections, derived)

    def wires(self) -> dict[str, list[WireHistory]]:
        """The histories by name of the wire."""
        return by_wire(self.histories)

    def of_wires(self, names: Sequence[str]) -> "Readings":
        """Only some wires; all when none is named.

        Args:
            names: the names of wires; none means all.
        """
        rows = tuple(history for history in self.histories if not names or history.name in names)
        return replace(self, histories=rows)

    def meant(self, written: Sequence[str], where: str) -> list[str]:
        """The wires that are meant, see ``pivet.signal.naming``.

        Args:
            written: names as a person writes them; two lines with a comma are one wire.
            where: name of the file, for messages.

        Raises:
            InputError: there is no such wire, or a name can be several.
        """
        return wires_meant(written, [history.name for history in self.histories], where)


def capture_histories(capture: Capture, progress: Progress = silent) -> tuple[WireHistory, ...]:
    """The histories of a capture from a file, under the short names of its wires.

    Args:
        capture: the open capture.
        progress: called with the share done, 0 to 1.
    """
    names = short_names([wire.label for wire in capture.wires])
    wires = each(capture.wires, progress)
    return tuple(
        replace(wire_history(wire, 0), name=name) for wire, name in zip(wires, names, strict=True)
    )


@contextmanager
def open_readings(
    path: Path,
    roles: Roles,
    progress: Progress = silent,
    sheet: Sheet | None = None,
    where: str = "",
) -> Iterator[Readings]:
    """Reads the readings of a bench file or a capture; it stays open meanwhile.

    Args:
        path: the file.
        roles: this person's names of devices; those of a bench come first.
        progress: called with the share done, 0 to 1.
        sheet: the sheet of the person, for a capture; None recognises it.
        where: the file as the person named it, for messages.

    Raises:
        InputError: it cannot be used.
        Cancelled: ``progress`` raised it.
    """
    if not is_bench(path):
        sensor = None if sheet is None else sheet.id
        capture = open_capture(path, sensor, progress=progress, where=where)
        yield Readings(capture_histories(capture), False, roles)
        return
    if sheet is not None:
        raise InputError(
            f"{where or path.name} is a bench file, and knows its sensors", "leave the sheet out"
        )
    bench = BenchFile.open(path)
    try:
        histories = KeptHistory(bench).read(progress)
        own = read_roles(bench).joined(roles)
        yield Readings(tuple(histories), True, own, read_annotations(bench))
    finally:
        bench.close()
