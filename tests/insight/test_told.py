"""What is told and drawn of many exchanges of the demo night, word by word and shape by shape."""

import hashlib
import json
import re
from collections.abc import Iterator
from unittest import mock

import numpy as np

from pivet.captures.wire import Wire
from pivet.errors import Cancelled
from pivet.insight.compare import compare
from pivet.insight.drawn.course import track_picture
from pivet.insight.drawn.lanes import lane_picture, lanes_of
from pivet.insight.drawn.picture import Picture, Words
from pivet.insight.drawn.svg import svg_text
from pivet.insight.follows import what_follows
from pivet.insight.forms import comparison_json, margins_json
from pivet.insight.margins import margins_of
from pivet.insight.material import Studied
from pivet.insight.outcomes import Outcome
from pivet.insight.printed.check import crosscheck
from pivet.insight.printed.tell import crosscheck_lines
from pivet.insight.readers import Reader
from pivet.insight.registry import insight_of
from pivet.insight.rehearsal import rehearse, suggest
from pivet.insight.report.gather import Source, wire_report
from pivet.insight.report.write import report_html
from pivet.insight.side import Side
from pivet.insight.stalls import Stall
from pivet.insight.tell import (
    comparison_lines,
    header_lines,
    margin_lines,
    rehearsal_lines,
    suggestion_lines,
)
from pivet.progress import Progress, silent
from tests.base import PivetTest
from tests.night import demo_night
from tests.pages import Page, one_of_each

PAGE = Page(__file__)
AWAY = Stall(40.0, 60.0)
READERS = (
    Reader("width", 28.0, timeout_us=90.0),
    Reader("width", 45.0, resolution_us=4.0, stall=AWAY),
    Reader("sample", 30.0, stall=AWAY),
    Reader("sample", 77.0),
    Reader("poll", period_us=3.0, jitter_us=0.3, work_us=2.0, limit=60, stall=AWAY),
    Reader("poll", period_us=2.0, number=14),
    Reader("host", 5.0),
    Reader("host", rise_us=12.0, slot_us=74.0, recovery_us=2.0, presence_us=60.0),
    Reader("timer", resolution_us=10.0, timeout_us=9000.0, pause_us=60_000.0),
    Reader("poll", period_us=25.0, speed_m_s=331.0, stall=AWAY),
)


def lines() -> Iterator[str]:
    """The page."""
    wires = demo_night().wires
    for wire in wires:
        yield f"# {wire.label}"
        yield from _margins(wire)
        yield from _rehearsals(wire)
        yield from _pictures(wire)
        yield from _printed(wire)
    shelf, chiller, node = wires[0], wires[4], wires[6]
    for one, other in ((shelf, node), (chiller, shelf), (node, node)):
        found = compare(Side(one), Side(other))
        yield f"# {one.label} and {other.label}"
        yield from comparison_lines(found)
        yield json.dumps(comparison_json(found), ensure_ascii=False)
        margins, before = margins_of(other), margins_of(one)
        for lane in lanes_of(margins, before, found.shifts)[4:6]:
            yield from _shapes(lane_picture(lane, 700.0, [("mine", 40.0)]))
    yield "# report"
    yield from _report(node)


def _margins(wire: Wire) -> Iterator[str]:
    margins, follows = margins_of(wire), what_follows(wire)
    yield from margin_lines(wire.label, margins, follows, insight_of(wire).position)
    yield json.dumps(margins_json(margins, follows), ensure_ascii=False)
    for lane in lanes_of(margins):
        yield from _shapes(lane_picture(lane, 800.0))


def _rehearsals(wire: Wire) -> Iterator[str]:
    insight, mapped = insight_of(wire), set[str]()
    for reader in READERS:
        kinds = [kind for kind in insight.kinds if kind.name == reader.kind]
        given = {
            name for name in reader.as_json() if name.endswith(("_us", "_s", "limit", "number"))
        }
        fitting = {*(kinds[0].constants if kinds else ()), "stall_us", "stalls_per_s"}
        if not kinds or not given <= fitting:
            continue
        found = rehearse(Side(wire), reader)
        yield from rehearsal_lines(wire.label, found, kinds[0].does)
        yield json.dumps(found.as_json(), ensure_ascii=False)
        grid = None
        if reader.kind not in mapped:
            grid = insight.map_of(wire, np.arange(len(wire)), found.reader, 200)
        if grid is not None:
            mapped.add(reader.kind)
            sums = [round(float(row.sum()), 1) for row in grid.right[::9]]
            ends = f"{grid.x[0]:.2f} {grid.x[-1]:.2f} {grid.y[-1]:.1f}"
            yield f"  map {grid.across} {grid.up} {ends} {sums}"
        bad = found.at[found.found.outcome != Outcome.RIGHT]
        if bad.size:
            index = int(bad[0])
            place = int(np.searchsorted(found.at, index))
            report = wire.report(index)
            yield from _shapes(
                insight.taken_picture(wire, report, found.reader, found.found, place)
            )
    for kind in insight.kinds:
        suggested = suggest([Side(wire)], Reader(kind.name))
        yield from suggestion_lines(suggested)
        yield from header_lines(suggested, kind.name, wire.family.title)


def _pictures(wire: Wire) -> Iterator[str]:
    insight = insight_of(wire)
    for at in list(one_of_each(wire))[:4]:
        yield from _shapes(insight.picture(wire, wire.report(at), 600.0))
    for track in wire.tracks[:2]:
        picture = track_picture(track, wire.exchanges.start_ns, 500.0)
        if picture is not None:
            yield from _shapes(picture)


def _shapes(picture: Picture, most: int = 4) -> Iterator[str]:
    """The texts of a picture, its first shapes as SVG, and a sum over all of them."""
    rows = [re.sub(r"(\d+\.\d)\d+", r"\1", row) for row in svg_text(picture).splitlines()]
    said = [shape.text for shape in picture.shapes if isinstance(shape, Words)]
    every = hashlib.sha256("\n".join(rows).encode()).hexdigest()[:16]
    yield f"  {picture.width:.0f} x {picture.height:.0f} {every} {' ¦ '.join(said)[:300]}"
    yield from (f"    {row[:160]}" for row in rows[1 : most + 1])


def _printed(wire: Wire) -> Iterator[str]:
    facts = insight_of(wire).facts(wire)
    said = [
        " ".join(f"{name}: {int(truth.value)}" for name, truth in fact.truths.items()) or "failed"
        for fact in facts
    ]
    if not any(fact.truths for fact in facts):
        return
    found = crosscheck(facts, "\n".join(said))
    yield from crosscheck_lines(wire.label, found)
    for fact in facts[:3]:
        for truth in fact.truths.values():
            yield from (f"  {mistake}" for mistake in truth.mistakes)


def _report_of(wire: Wire, progress: Progress = silent) -> str:
    studied = Studied("node.vcd", wire.label, wire, 1_772_917_200 * 10**9, ((3, "looked at"),))
    told = wire_report(studied, Reader("width", 28.0))
    return report_html([Source("node.vcd", 12_345, "ab" * 32)], [told], "node", progress)


def _report(wire: Wire) -> Iterator[str]:
    html = _report_of(wire)
    text = re.sub(r"<svg.*?</svg>", "<svg>", html, flags=re.DOTALL)
    yield from (line for line in text.splitlines() if line.strip())


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_word_by_word(self) -> None:
        PAGE.same(self, lines())

    def test_a_report_stops(self) -> None:
        """While it is written, too, at the first piece or later."""
        wire, told = demo_night().wires[6], mock.Mock()
        whole = _report_of(wire, told)
        self.assertGreater(told.call_count, 10)
        self.assertEqual({1.0}, {call.args[0] for call in told.call_args_list})
        self.assertTrue(whole.rstrip().endswith("</html>"))
        for calls in (0, told.call_count - 1):
            with self.assertRaises(Cancelled):
                _report_of(wire, mock.Mock(side_effect=[None] * calls + [Cancelled]))
