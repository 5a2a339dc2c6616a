"""How a wire is asked and what was chosen for it, as the bench file keeps it (JSON)."""

import json
from collections.abc import Mapping
from typing import Any

import numpy as np
from msgspec.structs import asdict

from pivet.errors import InputError
from pivet.files.benchfile.checked import decoded
from pivet.frozen import FrozenValue
from pivet.person.choices import NO_CHOICE, WireChoices
from pivet.readings.sound import MEDIAN_OVER, Air, Vessel, fixed_air
from pivet.sheets.reach import AS_IN_SHEET, Reach, reach_of

OVERS = range(1, 100)
MOST_EVERY_S = 1e6
MOST_RETRIES = 2
MOST_RESOLUTION_NS = 1_000_000_000
MOST_AIR = 4096
"""How many temperatures of the air are kept at most, evenly taken from those that there are."""


class WireSettings(FrozenValue):
    """What a person wants of a wire beside its sensor.

    Attributes:
        every_s: asks so often, s; 0 as often as is usual; None only listens.
        retries: how many further tries.
        choices: without a sheet.
        pull_up: the source's own pull-up is to be on or off; None leaves it as it is.
        resolution_ns: so far its widths may be from the truth, ns; 0 where it is its capture's
            step.
    """

    every_s: float | None = None
    retries: int = 1
    choices: WireChoices = NO_CHOICE
    pull_up: bool | None = None
    resolution_ns: int = 0


def wire_settings_text(settings: WireSettings) -> str:
    """Settings of a wire as JSON.

    Args:
        settings: as the person chose them.
    """
    rows: dict[str, Any] = {"every_s": settings.every_s, "retries": settings.retries}
    choices = settings.choices
    if choices.air is not None:
        rows["air"] = _air_row(choices.air)
    if choices.vessel is not None:
        vessel = choices.vessel
        rows["vessel"] = {
            "depth_m": vessel.depth_m,
            "full_m": vessel.full_m,
            "area_m2": vessel.area_m2,
        }
    if choices.reach != AS_IN_SHEET:
        rows["reach"] = asdict(choices.reach)
    if choices.over != MEDIAN_OVER:
        rows["median_over"] = choices.over
    if settings.pull_up is not None:
        rows["pull_up"] = settings.pull_up
    if settings.resolution_ns:
        rows["resolution_ns"] = settings.resolution_ns
    return json.dumps(rows)


def _air_row(air: Air) -> Any:
    if air.values.size == 1:
        return float(air.values[0])
    step = -(-air.values.size // MOST_AIR)
    return {
        "from": air.label,
        "t_ns": air.times_ns[::step].tolist(),
        "celsius": air.values[::step].tolist(),
    }


def read_wire_settings(text: str) -> WireSettings:
    """Settings of a wire from JSON; what makes no sense is as if it had not been said.

    Args:
        text: as somebody wrote it.
    """
    rows = decoded(text, dict[str, Any])
    if rows is None:
        return WireSettings()
    every, retries, over = (rows.get(key) for key in ("every_s", "retries", "median_over"))
    pull_up, exact = rows.get("pull_up"), rows.get("resolution_ns")
    return WireSettings(
        float(every) if isinstance(every, int | float) and 0 <= every < MOST_EVERY_S else None,
        retries if isinstance(retries, int) and 0 <= retries <= MOST_RETRIES else 1,
        WireChoices(
            air=_read_air(rows.get("air")),
            vessel=_read_vessel(rows.get("vessel")),
            reach=_read_reach(rows.get("reach")),
            over=over if isinstance(over, int) and over in OVERS else MEDIAN_OVER,
        ),
        pull_up if isinstance(pull_up, bool) else None,
        exact if isinstance(exact, int) and 0 < exact <= MOST_RESOLUTION_NS else 0,
    )


def _read_air(row: Any) -> Air | None:
    try:
        if isinstance(row, int | float):
            return fixed_air(float(row))
        if isinstance(row, Mapping):
            times = np.array(row["t_ns"], dtype=np.int64)
            values = np.array(row["celsius"], dtype=np.float64)
            if times.ndim == 1 and times.shape == values.shape and times.size:
                return Air(str(row["from"]), times, values)
    except (InputError, KeyError, OverflowError, TypeError, ValueError):
        pass
    return None


def _read_reach(row: Any) -> Reach:
    try:
        given = {key: None if value is None else float(value) for key, value in row.items()}
        return reach_of(given.get("timeout_ms"), given.get("farthest_m"))
    except (InputError, AttributeError, OverflowError, TypeError, ValueError):
        return AS_IN_SHEET


def _read_vessel(row: Any) -> Vessel | None:
    try:
        return Vessel(**{key: float(value) for key, value in row.items()})
    except (InputError, AttributeError, OverflowError, TypeError, ValueError):
        return None
