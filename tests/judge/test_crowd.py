"""What is said of very many exchanges whose pulses are just at limits: see ``physics.crowd``."""

import zlib
from collections.abc import Iterator
from contextlib import ExitStack
from itertools import pairwise
from typing import Any
from unittest import mock

import numpy as np

from pivet.captures.decoding import decode_lines
from pivet.captures.wire import Wire, make_wire
from pivet.families import FAMILIES
from pivet.frozen import replace
from pivet.judge.echo import judged as echo
from pivet.judge.echo import shots
from pivet.judge.humidity import judged as humidity
from pivet.judge.onewire import classes
from pivet.person.choices import WireChoices
from pivet.readings.sound import Vessel, fixed_air
from pivet.sheets.load import find_sheet
from tests.base import PivetTest
from tests.judge.test_anything import NOTICES
from tests.judge.test_edits import told
from tests.pages import Page, columns_of, sum_of
from tests.physics.crowd import Crowd, crowds

PAGE = Page(__file__)
CHOSEN = {
    "hc-sr04": WireChoices(air=fixed_air(5.0)),
    "echo-6m": WireChoices(vessel=Vessel(1.25, 1.2, 0.5)),
}
"""What the person chose beside the sensor."""

PIECES = ((classes, "AT_ONCE"), (humidity, "BLOCK"), (echo, "BLOCK"), (shots, "BLOCK"))
"""How much is worked out at once."""

SHOWN, OTHERS, FINE, LEAST_DOUBT = 12, 29, 10_000, 1e-6
"""Reports of so many kinds are told; values count with four digits, doubts with their nines."""


def judged(crowd: Crowd) -> Wire:
    """The whole crowd."""
    family, lines = FAMILIES[crowd.family], crowd.trace.lines
    found = decode_lines(family, lines, crowd.trace)
    chosen = CHOSEN.get(crowd.sensor, WireChoices())
    chosen = replace(chosen, sheet=find_sheet(crowd.sensor))
    return make_wire(family, lines, crowd.trace, found, chosen)


def columns(found: Any) -> Iterator[str]:
    """A sum over each column."""
    for name, values in columns_of(found):
        if values.dtype.kind == "f":
            doubt = name in ("doubt", "doubts")
            scaled = np.log10(np.maximum(values, LEAST_DOUBT)) if doubt else values * FINE
            values = np.nan_to_num(scaled, nan=-1.0)
            values = np.floor(values) if doubt else np.round(values)
        yield f"{name} {sum_of(values):x}"


def lines() -> Iterator[str]:
    """The page: how often each thing was noticed, sums over the columns, one report of a kind."""
    for crowd in crowds():
        wire = judged(crowd)
        yield f"# {crowd.name}: {len(wire)}, {wire.sheet and wire.sheet.id}"
        notices = wire.judged.notices
        counts = [
            f"{row.code} {int(np.count_nonzero(notices & np.int64(row)))}"
            for row in NOTICES[crowd.family]
        ]
        yield ", ".join(row for row in counts if not row.endswith(" 0"))
        yield f"{', '.join(columns(wire.judged))}"
        for track in wire.tracks:
            yield f"{track.name} {track.quantity}: {', '.join(columns(track))}"
        kinds, first = np.unique(notices, return_index=True)
        for at in first[np.linspace(0, kinds.size - 1, min(kinds.size, SHOWN)).astype(int)]:
            report = wire.report(int(at))
            said = zlib.crc32("\n".join(told(report)).encode())
            yield f"  {at} {'+'.join(row.code for row in report.findings)} {said:x}"
        some = [row for at in range(0, len(wire), OTHERS) for row in told(wire.report(at))]
        yield f"  every {OTHERS}th {zlib.crc32(chr(10).join(some).encode()):x}"


class Crowded(PivetTest):
    """Against the page that was last looked through."""

    def test_crowd_by_crowd(self) -> None:
        PAGE.same(self, lines())

    def test_chapter_by_chapter(self) -> None:
        """What went before is known in the next chapter: how long ago the last was asked."""
        for crowd in crowds():
            if crowd.family == "one-wire" or " 0.08" not in crowd.name:
                continue
            wire, family = judged(crowd), FAMILIES[crowd.family]
            whole, before = wire.judged.since_last_ns, None  # type: ignore[attr-defined]
            for first, last in pairwise([0, 300, 301, 307, 600]):
                part = family.rows(wire.exchanges, first, last)
                found: Any = family.judge(part, len(wire.lines), 1, wire.choices, before)
                np.testing.assert_array_equal(whole[first:last], found.since_last_ns, crowd.name)
                before = family.after(part, found, last - first, before)

    def test_in_pieces(self) -> None:
        """Worked out in however small pieces it is the same."""
        for crowd in crowds():
            whole = [*columns(judged(crowd).judged)]
            with ExitStack() as small:
                for module, name in PIECES:
                    small.enter_context(mock.patch.object(module, name, 97))
                self.assertEqual(whole, [*columns(judged(crowd).judged)], crowd.name)
            if crowd.name.startswith("echo-18ms 0.08"):
                break
