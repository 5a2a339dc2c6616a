"""What all tests share: warnings fail a test, and places to find and put files."""

import gzip
import json
import os
import tempfile
import time
import unittest
import warnings
from contextlib import AbstractContextManager
from functools import partialmethod
from itertools import pairwise
from pathlib import Path
from typing import Any, TypeVar
from unittest import mock

import numpy as np
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st

from pivet.captures.decoding import decode_lines
from pivet.captures.wire import Wire, make_wire
from pivet.decode.echo import EchoExchanges
from pivet.decode.humidity import HumidityDecoder, HumidityExchanges
from pivet.decode.humidity.columns import join
from pivet.decode.onewire import OneWireExchanges
from pivet.families import FAMILIES
from pivet.families.family import AnyFamily
from pivet.insight.humidity import HumidityInsight
from pivet.judge.echo import JudgedShots
from pivet.judge.humidity import JudgedFrames
from pivet.judge.onewire import JudgedTransactions
from pivet.judge.report import Report
from pivet.person.choices import WireChoices
from pivet.sheets.load import recognisable
from pivet.sheets.model import Sheet
from pivet.signal.trace import Int64Array, Level, Line, Trace

D = TypeVar("D")

HUMIDITY = tuple(sheet.id for sheet in recognisable("humidity-frame"))
"""Ids of the humidity sheets that can be told by their signals."""

CAPTURES = Path(__file__).parent / "material"
FEW = 400

EXAMPLES = 20
"""Of a property; those whose examples cost next to nothing, or that are sharp, say more."""

WRITABLE = st.characters(exclude_categories=("Cs",))
"""All that UTF-8 can say; told so, nobody tries a million characters out."""

settings.register_profile(
    "pivet",
    deadline=None,
    max_examples=EXAMPLES,
    derandomize=True,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
settings.load_profile("pivet")


def few_drawn() -> AbstractContextManager[object]:
    """Meanwhile maps of humidity frames are drawn from few exchanges."""
    few = partialmethod(HumidityInsight.map_of, drawn=FEW)
    return mock.patch.object(HumidityInsight, "map_of", few)


class PivetTest(unittest.TestCase):
    """A test that fails on any warning; it has a folder, and a person's own things in it."""

    def in_zone(self, zone: str) -> None:
        """The local time is that of a zone, up to the end of the test."""
        before = os.environ.get("TZ")
        self.addCleanup(time.tzset)
        if before is None:
            self.addCleanup(os.environ.pop, "TZ")
        else:
            self.addCleanup(os.environ.__setitem__, "TZ", before)
        os.environ["TZ"] = zone
        time.tzset()

    def draw_few(self) -> None:
        """Maps of humidity frames are drawn from few exchanges, up to the end of the test."""
        self.enterContext(few_drawn())

    def setUp(self) -> None:
        catcher = warnings.catch_warnings()
        catcher.__enter__()
        self.addCleanup(catcher.__exit__, None, None, None)
        warnings.simplefilter("error")
        folder = tempfile.TemporaryDirectory(prefix="pivet-test-")
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        mine = mock.patch.dict(os.environ, {"XDG_DATA_HOME": str(self.folder / "data")})
        mine.start()
        self.addCleanup(mine.stop)

    def assert_same_exchanges(self, one: Any, other: Any) -> None:
        """Every column of both, of any family, is the same."""
        for name in (name for name in one.__struct_fields__ if not name.startswith("_")):
            np.testing.assert_array_equal(getattr(one, name), getattr(other, name), err_msg=name)


def expected_captures(sensor_part: str) -> list[dict[str, Any]]:
    """What the list of captures says of those whose sensor holds ``sensor_part``."""
    listed = json.loads((CAPTURES / "expected.json").read_text(encoding="utf-8"))
    return [row for row in listed["captures"] if sensor_part in row["sensor"]]


def feed_in_pieces(
    family: AnyFamily,
    lines: tuple[Int64Array, ...],
    end_ns: int,
    cuts: tuple[int, ...] = (),
    initial: Level = Level.HIGH,
    start_ns: int = 0,
) -> Any:
    """Decodes lines, cut into pieces at the edges of number ``cuts`` of all lines together."""
    decoder = family.decoder((initial,) * len(lines), start_ns)
    every = np.sort(np.concatenate(lines))
    batches, done = [], [0] * len(lines)
    for cut in [*sorted(cuts), every.size]:
        last = cut == every.size
        until = end_ns if last else max(int(every[cut]) - 1, start_ns)
        upto = [len(row) if last else int(np.searchsorted(row, until, "right")) for row in lines]
        pieces = [row[a:b] for row, a, b in zip(lines, done, upto, strict=True)]
        batches.append(decoder.feed(tuple(pieces), until))
        done = upto
    batches.append(decoder.finish())
    return family.join(batches)


def decode(
    edges_ns: Int64Array,
    end_ns: int,
    cuts: tuple[int, ...] = (),
    initial: Level = Level.HIGH,
    start_ns: int = 0,
) -> HumidityExchanges:
    """Decodes edges, cut into pieces before the edges of number ``cuts``."""
    decoder = HumidityDecoder(initial, start_ns)
    batches = []
    bounds = [0, *sorted(cuts), edges_ns.size]
    for first, last in pairwise(bounds):
        piece = edges_ns[first:last]
        known = end_ns if last == edges_ns.size else int(edges_ns[last]) - 1
        batches.append(decoder.feed((piece,), max(known, start_ns)))
    batches.append(decoder.finish())
    return join(batches)


def older_bench(version: int, folder: Path) -> Path:
    """A bench file as the program of then wrote it, to be written."""
    path = folder / f"version{version}.pivet"
    kept = CAPTURES / "benchfiles" / f"{path.name}.gz"
    path.write_bytes(gzip.decompress(kept.read_bytes()))
    return path


def detail_of(report: Report, kind: type[D]) -> D:
    """What only one family's reports have."""
    assert isinstance(report.detail, kind)
    return report.detail


def frames_of(wire: Wire) -> JudgedFrames:
    """What the judge says of a humidity sensor."""
    return wire.columns(HumidityExchanges, JudgedFrames)[1]


def transactions_of(wire: Wire) -> JudgedTransactions:
    """What the judge says of a 1-Wire line."""
    return wire.columns(OneWireExchanges, JudgedTransactions)[1]


def shots_of(wire: Wire) -> JudgedShots:
    """What the judge says of an echo sensor."""
    return wire.columns(EchoExchanges, JudgedShots)[1]


def decode_line(line: Line, trace: Trace) -> HumidityExchanges:
    """Humidity exchanges of one line."""
    found = decode_lines(FAMILIES["humidity-frame"], (line,), trace)
    assert isinstance(found, HumidityExchanges)
    return found


def humidity_wire(
    line: Line, trace: Trace, exchanges: HumidityExchanges, sheet: Sheet | None
) -> Wire:
    """A humidity wire from a decoded line."""
    return make_wire(
        FAMILIES["humidity-frame"], (line,), trace, exchanges, WireChoices(sheet=sheet)
    )


def wire_of(family: AnyFamily, lines: tuple[Line, ...], resolution_ns: int = 100) -> Wire:
    """A wire of some lines, decoded and judged."""
    last = max(int(line.edges_ns[-1]) for line in lines)
    trace = Trace(lines, 0, last + 10**9, resolution_ns)
    return make_wire(family, lines, trace, decode_lines(family, lines, trace))
