"""A report of an open capture."""

from collections.abc import Mapping
from pathlib import Path
from typing import IO, cast

from pivet.captures.capture import Capture
from pivet.captures.text import wire_names
from pivet.files import disk
from pivet.insight.material import Studied
from pivet.insight.readers import Reader
from pivet.insight.report.gather import WireReport, source_of, wire_report
from pivet.insight.report.write import report_html
from pivet.progress import Progress, each_whole, part
from pivet.ui.printing import print_beside


def write_report(
    capture: Capture, firmware: Mapping[str, Reader], path: Path, progress: Progress
) -> None:
    """Writes the report of a capture, as HTML or PDF.

    Args:
        capture: the open capture.
        firmware: readers that were rehearsed, by the name of the wire.
        path: where to; .pdf, else HTML.
        progress: called with the share done, 0 to 1.

    Raises:
        InputError: a wire cannot be read.
        OutputError: the file cannot be written.
        Cancelled: ``progress`` raised it.
    """
    html = capture_html(capture, firmware, part(progress, 0.0, 0.8))
    if path.suffix.lower() == ".pdf":
        print_beside(html, path)
        return
    with disk.writing(path) as stream:
        cast(IO[str], stream).write(html)


def capture_html(capture: Capture, firmware: Mapping[str, Reader], progress: Progress) -> str:
    """The report of a capture as HTML.

    Args:
        capture: the open capture.
        firmware: readers that were rehearsed, by the name of the wire.
        progress: called with the share done, 0 to 1.

    Raises:
        InputError: a wire cannot be read.
        Cancelled: ``progress`` raised it.
    """
    wires = [wire for wire in capture.wires if len(wire)]
    names = dict(zip((wire.name for wire in capture.wires), wire_names(capture), strict=True))
    found: list[WireReport] = []
    for wire, share in each_whole(wires, progress):
        own, began, notes = wire, None, []
        if capture.kept is not None:
            own = capture.kept.everything(wire, part(share, 0.0, 0.4))
            began = capture.kept.began_ns
            every = range(own.first, own.end)
            notes = [
                (number, text) for number in every if (text := capture.kept.note(wire, number))
            ]
        studied = Studied(capture.name, names[wire.name], own, began, tuple(notes))
        reader = firmware.get(wire.name)
        found.append(wire_report(studied, reader, part(share, 0.4, 1.0)))
    return report_html([source_of(capture.path, capture.name)], found, capture.name, progress)
