"""All that is told, asked and printed in a few minutes in the cave: see ``tests.pages``."""

import contextlib
import io
import json
import re
from collections.abc import Callable, Iterable, Iterator
from datetime import datetime
from itertools import groupby
from pathlib import Path
from typing import Any
from unittest import mock

from pivet.cli.listen_print import JsonPrinter, Printer
from pivet.frozen import replace
from pivet.listening import events as ev
from pivet.sources.ask import Ask
from tests.listening.cave import STEP_S, CaveTest, wire
from tests.pages import Page, plain

PAGE = Page(__file__)
MOST = 600
DOCS = Path(__file__).parents[2] / "docs" / "json.md"


def told(event: ev.Event) -> str:
    """An event, the same on every machine; of edges only those that are not known."""
    if isinstance(event, ev.Heard):
        report = event.report()
        values = " ".join(f"{row.quantity}={row.text}" for row in report.readings)
        turn = f"{event.number} {'revised ' * event.revised}attempt {event.attempt}"
        return f"Heard {event.wire} {turn}, {report.start_ns}: {report.headline} {values}"
    if isinstance(event, ev.Edges):
        return "; ".join(f"{row.line}: {plain(row.gap)}" for row in event.pieces if row.gap)
    if isinstance(event, ev.Known):
        found = event.found
        return f"Known {event.wire}: {found.says} {plain(found.sheet)} {found.lines} {found.codes}"
    return plain(event)


def shortened(lines: Iterable[str]) -> Iterator[str]:
    """What comes several times one after the other once, with its first time and the last."""
    for _, group in groupby(lines, key=lambda line: line.partition(" ")[2] or line):
        first, *others = group
        last = others[-1].partition(" ")[0] if others else ""
        yield f"{first}, and {len(others)} more until {last}" if others else first


def documented() -> dict[str, set[str]]:
    """The keys that docs/json.md names for each event, besides those of an exchange."""
    text = DOCS.read_text(encoding="utf-8").partition("## Listening")[2]
    found: dict[str, set[str]] = {}
    for names, _what, keys in re.findall(r"^\| (`.*?) \| (.*?) \| (.*?) \|$", text, re.M):
        common, _, some = keys.partition("and for ")
        (for_whom, *more) = re.findall(r"`([\w-]+)`", some) or [""]
        for name in re.findall(r"`([\w-]+)`", names):
            found[name] = set(re.findall(r"`(\w+)`", common))
            found[name] |= set(more) if name == for_whom else set()
    return found


class Session(CaveTest):
    """Every wire, asked, looked at or only heard, with all that can befall it."""

    def setUp(self) -> None:
        super().setUp()
        self.page: list[str] = []
        self.edges = 0
        for name in ("ask", "listen", "pull_up"):
            self.enterContext(mock.patch.object(self.source, name, self.noted(name)))

    def noted(self, name: str) -> Callable[..., Any]:
        """The method of the source, that writes on the page what it is called with."""
        method = getattr(self.source, name)

        def call(*what: object) -> object:
            said = " ".join(
                f"{row.line}, {row.drive.name}, {len(row.steps_us)} steps in {row.length_us} µs"
                if isinstance(row, Ask)
                else plain(row)
                for row in what
            )
            self.page.append(f"{self.at} {name} {said}")
            return method(*what)

        return call

    @property
    def at(self) -> str:
        """This moment."""
        return f"{self.clock.seconds():.3f}"

    def hear(self, seconds: float) -> None:
        """Time passes, and what is told goes on the page."""
        until = self.clock.seconds() + seconds
        while self.clock.seconds() < until:
            for event in self.listener.step(STEP_S):
                self.events.append(event)
                self.edges += self.edges_of(event)
                if said := told(event):
                    self.page.append(f"{self.at} {said}")
        self.page.append(f"{self.edges} edges")

    def edges_of(self, event: ev.Event) -> int:
        """How many were heard."""
        pieces = event.pieces if isinstance(event, ev.Edges) else ()
        return sum(piece.edges_ns.size for piece in pieces)

    def mishaps(self) -> Iterator[str]:
        """What happens one after the other; each is told of as it is done."""
        circuits, listener = self.cave.circuits, self.listener
        yield "all begin"
        self.cave.plug("shelf_A", False, self.now_us)
        yield "a sensor is pulled off"
        self.cave.plug("wheel_1", False, self.now_us)
        yield "a probe is pulled off"
        self.cave.plug("shelf_A", True, self.now_us)
        self.cave.plug("wheel_1", True, self.now_us)
        yield "both are back"
        circuits["wash_room"].troubles.weak = True
        circuits["blast_chiller"].troubles.noisy = True
        yield "a weak pull-up, a noisy line"
        listener.change("wash_room", 5.0, 0)
        listener.look(replace(wire("blast_chiller"), name="guest"))
        yield "asked less often; a guest"
        listener.rest("wash_room", True)
        listener.add(wire("spare", None, None))
        yield "one rests, one comes"
        self.drop_bytes(900)
        yield "bytes are lost"
        self.loop.crash()
        yield "the probe is gone"
        self.loop.plugged = True
        yield "and back"

    def test_line_by_line(self) -> None:
        self.listen(
            replace(wire("shelf_A", "dht22"), pull_up=True, retries=1),
            replace(wire("wash_room", "dht11", 2.0), retries=2),
            wire("wheels"),
            wire("brine_vat", "hc-sr04", 1.5),
        )
        self.page += map(told, self.events)
        for what in self.mishaps():
            self.page.append(f"# {what}")
            self.hear(7.0)
        over = [*self.listener.finish()]
        self.page += map(told, over)
        taken_back = ev.Withdrawn("shelf_A", 400)
        fed = ev.Fed("broker", "cannot send", 12, 3.5, 340, "it cannot be reached.")
        self.events += [taken_back, fed, *over]
        PAGE.same(self, [*shortened(self.page), *self.for_people(), *self.as_json()])

    def printed(self, printer: Printer) -> list[str]:
        """All that is printed of what happened."""
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            printer.take(self.events)
        return out.getvalue().splitlines()

    def for_people(self) -> Iterator[str]:
        """What is said between exchanges, under the person's names."""
        printer = Printer(self.listener.calendar)
        printer.names = {"28-0000051b2c7d": "wheel 1, core"}
        yield "# for people"
        yield from (
            line for line in self.printed(printer) if line[0] in "▶⏸●" or "xchanges" in line
        )

    def as_json(self) -> Iterator[str]:
        """The first of each event; each has the keys that docs/json.md names, and times a zone."""
        wanted, found = documented(), dict[str, dict[str, Any]]()
        for row in map(json.loads, self.printed(JsonPrinter(self.listener.calendar))):
            name = row["event"]
            if "at" in row:
                self.assertIsNotNone(datetime.fromisoformat(row["at"]).tzinfo)
            row |= dict.fromkeys(("at", "from", "to") & row.keys(), "")
            found.setdefault(name, row)
            if name in ("exchange", "end"):
                self.assertLessEqual(wanted[name], set(row))
            else:
                self.assertEqual(wanted[name] | {"event"} - {"says"}, set(row), name)
        self.assertLessEqual(set(wanted) - {"note"}, set(found))
        yield "# as JSON"
        yield from (json.dumps(row, ensure_ascii=False)[:MOST] for row in found.values())
