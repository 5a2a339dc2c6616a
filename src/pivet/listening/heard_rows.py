"""An exchange that was heard as rows of a table: one a device, mostly a single one."""

import numpy as np

from pivet.captures.wire import Wire
from pivet.files.readings_table import Cell, TableRow
from pivet.history.series import reason_words
from pivet.history.table import FINE_DECIMALS
from pivet.history.times import iso_time, utc_time
from pivet.judge.verdict import WORDS
from pivet.listening.events import Heard
from pivet.person.annotations import Annotations, Labels
from pivet.readings.derived import RULES, Why, derive, why_words
from pivet.readings.series import Sensor
from pivet.readings.sound import Vessel
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
