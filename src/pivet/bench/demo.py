"""The demo night as an open capture."""

from dataclasses import replace
from pathlib import Path

from pivet.bench.capture import Capture, capture_of
from pivet.progress import Progress, part, silent
from pivet.sheets.load import find_sheet
from pivet.standin.demo import WRONGLY_CHOSEN, cave_night

NAME = Path("cave-night.vcd")


def demo_capture(progress: Progress = silent) -> Capture:
    """The cave night, with one wire on which somebody chose the wrong type."""
    trace = cave_night()
    progress(0.3)
    capture = capture_of(NAME, trace, progress=part(progress, 0.3, 1.0))
    wires = tuple(
        wire.judged_as(find_sheet(WRONGLY_CHOSEN[wire.name]))
        if wire.name in WRONGLY_CHOSEN
        else wire
        for wire in capture.wires
    )
    return replace(capture, wires=wires)
