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
from pivet.errors import PivetError
from pivet.frozen import replace
from pivet.listening import events as ev
from pivet.listening.heard_wire import HeardWire
from pivet.listening.listener import Listener
from pivet.listening.setup import WireSetup
from pivet.person.choices import WireChoices
from pivet.sheets.load import find_sheet
from pivet.sources.ask import Ask
from pivet.sources.folder import FolderSource
from tests.base import CAPTURES
from tests.listening.cave import STEP_S, CaveTest, wire
from tests.pages import Page, plain

PAGE = Page(__file__)
MOST = 600
STEPS = Path(__file__).with_name("steps.txt")
"""What is done, a step a line; where a line is empty, another cave."""

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


def setup_of(word: str) -> WireSetup:
    """A wire as it is written: ``name=line:sheet:every:retries:pull-up``, or fewer of them."""
    name, sheet, every, retries, pull_up = (*word.split(":"), "", "", "", "")[:5]
    name, _, line = name.partition("=")
    made = wire(line or name, sheet or None, None if every == "-" else float(every or 0))
    lines = tuple(line.split("+")) if "+" in line else made.lines
    pulled = {"on": True, "off": False}.get(pull_up)
    return replace(made, name=name, lines=lines, retries=int(retries or 1), pull_up=pulled)


def told_of(wire: HeardWire) -> str:
    """How a wire stands."""
    marks = [name for name in ("resting", "exploring", "talking") if getattr(wire, name)]
    said = plain(
        {
            "sheet": wire.sheet,
            "asks": wire.asks,
            "due": (wire.due_ns or 0) / 1e9,
            "edges": wire.heard_edges,
            "silent": [*wire.silent],
            "verdicts": wire.counts.by_verdict,
            "of": wire.counts.exchanges,
            "retries": wire.counts.retries,
            "codes": wire._bus.codes,
            "carries": getattr(wire.carries[0], "key", "?"),
        }
    )
    return f"= {wire.name} {' '.join(marks)} {said}"


class Session(CaveTest):
    """Every wire, asked, looked at or only heard, with all that can befall it."""

    def make_cave(self) -> None:
        """A cave, on an empty page."""
        super().make_cave()
        for path in self.folder.glob("*.vcd"):
            path.unlink()
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
        waits = self.listener.source is self.source  # A folder waits by another clock.
        while self.clock.seconds() < until:
            self.clock.sleep(0.0 if waits else 10 * STEP_S)
            for event in self.listener.step(STEP_S if waits else 0.0):
                self.events.append(event)
                self.edges += self.edges_of(event)
                if isinstance(event, ev.Opened):
                    self.assertIs(event.about, self.listener.about)
                if said := told(event):
                    self.page.append(f"{self.at} {said}")
        lines = self.listener._lines()
        self.page.append(f"{self.edges} edges on {lines}, waited for {next(self.waits)} times")
        self.page += (told_of(wire) for wire in self.listener.wires)

    def edges_of(self, event: ev.Event) -> int:
        """How many were heard."""
        pieces = event.pieces if isinstance(event, ev.Edges) else ()
        return sum(piece.edges_ns.size for piece in pieces)

    def test_line_by_line(self) -> None:
        page: list[str] = []
        for number, steps in enumerate(STEPS.read_text(encoding="utf-8").split("\n\n")):
            if number:
                self.make_cave()
            for step in steps.splitlines():
                self.page.append(f"# {step}")
                self.do(*step.split())
            page += shortened(self.page)
            if number == 0:
                page += [*self.for_people(), *self.as_json()]
        PAGE.same(self, page)

    def do(self, what: str, *words: str) -> None:
        """A step: a word, and what goes with it."""
        ways: dict[str, Callable[..., object]] = {
            "listen": self.begin,
            "folder": self.watch,
            "put": self.put,
            "add": lambda word: self.listener.add(setup_of(word)),
            "look": lambda word: self.listener.look(setup_of(word)),
            "rest": lambda name, on="": self.listener.rest(name, not on),
            "change": lambda name, every, retries: self.listener.change(
                name, float(every) if every != "-" else None, int(retries)
            ),
            "choose": lambda name, sheet: self.listener.wire(name).choose(
                WireChoices(sheet=find_sheet(sheet))
            ),
            "now": lambda name: self.listener.wire(name).ask_now(),
            "later": lambda name, s: self.listener.wire(name).ask_from(
                self.source.now_ns() + int(s) * 10**9
            ),
            "plug": lambda name, on: self.cave.plug(name, on == "on", self.now_us),
            "warm": lambda name, celsius: self.cave.set_rest(name, "temperature", float(celsius)),
            "few": self.few_steps,
            "swap": lambda one, other: self.cave.swap(one, other),
            "dip": lambda name: self.cave.circuits[name].power_dips(self.now_us),
            "trouble": lambda name, what: setattr(self.cave.circuits[name].troubles, what, True),
            "drop": lambda count: self.drop_bytes(int(count)),
            "crash": lambda: self.loop.crash(),
            "return": lambda: setattr(self.loop, "plugged", True),
            "close": lambda: self.source.close(),
            "hear": lambda seconds: self.hear(float(seconds)),
            "finish": self.finish,
        }
        try:
            ways[what](*words)
        except PivetError as error:
            self.page.append(f"! {error}")

    def begin(self, *words: str) -> None:
        """Listens to some wires."""
        self.listen(*map(setup_of, words))
        self.page += map(told, self.events)

    def watch(self) -> None:
        """Listens to what comes into a folder."""
        source, clock = FolderSource(self.folder, self.clock.seconds), self.clock
        self.listener = Listener(source, lambda _: [], clock.seconds, clock.sleep)
        self.page.append(told(self.listener.open()).replace(str(self.folder), "HERE"))

    def put(self, name: str, *lines: str) -> None:
        """A capture comes into the folder, some of its lines under other names."""
        text = (CAPTURES / f"{name}.vcd").read_text(encoding="utf-8")
        for one, _, other in (line.partition("=") for line in lines):
            text = text.replace(f" {one} $end", f" {other} $end")
        (self.folder / f"{name}.vcd").write_text(text, encoding="utf-8")

    def few_steps(self, count: str) -> None:
        """So many steps of an ask fit into the probe."""
        about = self.source._i_am
        assert about is not None
        self.source._i_am = replace(about, most_steps=int(count))

    def finish(self) -> None:
        """Listening ends; what never came here is told to printers beside it."""
        over = [*self.listener.finish(), *self.listener.finish()]
        self.page += map(told, over)
        fed = ev.Fed("broker", "cannot send", 12, 3.5, 340, "it cannot be reached.")
        self.events += [ev.Withdrawn("shelf_A", 400), fed, *over]

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
