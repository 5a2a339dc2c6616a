"""What follows from the readings of one exchange, as further cells of its row."""

from collections.abc import Sequence

import numpy as np

from pivet.files.readings_table import Cell
from pivet.readings.derived import RULES, Why, derive, why_words
from pivet.readings.sound import Vessel


def derived_cells(cells: Sequence[Cell], vessel: Vessel | None) -> list[Cell]:
    """Dew point, heat index and the like, or what a vessel holds.

    Args:
        cells: what an exchange gave, under its corrections.
        vessel: that an echo sensor looks into; None without one.
    """
    values = {cell.quantity: cell.value for cell in cells}
    found = []
    warm, damp = values.get("temperature"), values.get("humidity")
    if warm is not None and damp is not None:
        for rule in RULES.values():
            made = derive(rule, np.array([warm]), np.array([damp]))
            why = Why(int(made.why[0]))
            value = float(made.values[0]) if why is Why.GIVEN else None
            found.append(Cell(rule.quantity, value, rule.decimals, why_words(rule, why)))
    distance, level = values.get("distance"), values.get("level")
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
