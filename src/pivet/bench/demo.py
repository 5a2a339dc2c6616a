"""The demo night as an open capture."""

from pathlib import Path

from pivet.captures.air_sources import air_sources
from pivet.captures.capture import Capture, capture_of
from pivet.captures.wire import Wire
from pivet.frozen import replace
from pivet.person.roles import Role, Roles
from pivet.progress import Progress, part, silent
from pivet.readings.sound import Vessel, round_area
from pivet.sheets.load import find_sheet
from pivet.sheets.onewire import code_text
from pivet.standin.demo import DEPTH_M, WRONGLY_CHOSEN, cave_night
from pivet.standin.node import SAYS as NODE_SAYS
from pivet.standin.wheels import CODES

NAME = Path("cave-night.vcd")
VAT = Vessel(depth_m=DEPTH_M, full_m=1.1, area_m2=round_area(0.9))

DEMO_ROLES = Roles(tuple(Role(name, (code_text(code),)) for name, code in CODES.items()))
"""What the people of the cave call their probes."""


def demo_capture(progress: Progress = silent) -> Capture:
    """The cave night, with what its people chose: a wrong type, the vat, its air.

    Args:
        progress: called with the share done, 0 to 1.
    """
    trace = cave_night(part(progress, 0.0, 0.5))
    capture = capture_of(NAME, trace, progress=part(progress, 0.5, 1.0))
    shelf = next(wire for wire in capture.wires if wire.name == "cave.shelf_A")
    wires = tuple(_as_chosen(wire, shelf) for wire in capture.wires)
    return replace(capture, wires=wires, notes=(*capture.notes, NODE_SAYS))


def _as_chosen(wire: Wire, shelf: Wire) -> Wire:
    if wire.name in WRONGLY_CHOSEN:
        return wire.judged_as(find_sheet(WRONGLY_CHOSEN[wire.name]))
    if wire.sheet.echo is not None:
        air = air_sources([("shelf_A", shelf, shelf.tracks)])[0].air()
        return wire.chosen(replace(wire.choices, air=air, vessel=VAT))
    return wire
