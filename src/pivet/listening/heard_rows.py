"""An exchange that was heard as rows of a table: one a device, mostly a single one."""

from pivet.files.readings_table import Cell, TableRow
from pivet.history.derived_cells import derived_cells
from pivet.history.series import reason_words
from pivet.history.table import FINE_DECIMALS
from pivet.history.times import iso_time, utc_time
from pivet.judge.verdict import WORDS
from pivet.listening.events import Heard
from pivet.person.annotations import Annotations, Labels
from pivet.readings.series import Sensor
from pivet.readings.track import Track


def heard_rows(event: Heard, at_ns: int, labels: Labels, derived: bool) -> list[TableRow]:
    """The rows of one exchange: one a device, mostly a single one.

    Args:
        event: an exchange that was heard.
        at_ns: when, by the calendar, ns since 1970.
        labels: names of wires and devices.
        derived: with what follows from the readings.
    """
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
    time, local = utc_time(at_ns), iso_time(at_ns)
    rows = []
    for rom, tracks in by_rom.items():
        role = labels.roles.holding(rom) if rom else None
        who = rom if role is None else role.name
        cells = [_cell(event.wire, who, *found, labels.annotations) for found in tracks.values()]
        failed = all(cell.value is None for cell in cells)
        reason = ""
        if failed:
            reason = reason_words(wire.family, int(wire.judged.notices[index]))
        elif derived:
            cells += derived_cells(cells, wire.choices.vessel)
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
                local=local,
            )
        )
    return rows


def _cell(wire: str, who: str, track: Track, place: int, given: Annotations) -> Cell:
    decimals = FINE_DECIMALS if track.rom else track.decimals
    if not track.given[place]:
        return Cell(track.quantity, None, decimals)
    value = float(track.values[place])
    corrections = given.corrections
    correction = corrections.get(Sensor(wire, who, track.quantity)) if corrections else None
    if correction is None:
        return Cell(track.quantity, value, decimals)
    return Cell(track.quantity, correction.applied(value), decimals, raw=value)
