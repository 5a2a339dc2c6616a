"""What is told of the demo night, word by word: each cause once, as text and as JSON."""

from collections.abc import Iterator

from pivet.bench.demo import DEMO_ROLES
from pivet.captures.causes import not_sound_lines, table_lines
from pivet.captures.devices import devices_of
from pivet.captures.last_readings import given_before, last_given, last_reading
from pivet.captures.text import exchange_lines, summary_lines
from pivet.captures.wire import Wire
from pivet.files.jsonl import exchange_object, json_text
from pivet.person.display import Display
from tests.base import PivetTest
from tests.night import demo_night
from tests.pages import Page, one_of_each

PAGE = Page(__file__)


def lines() -> Iterator[str]:
    """The page."""
    capture = demo_night()
    yield from summary_lines(capture)
    yield from table_lines(capture)
    for wire in capture.wires:
        yield f"# {wire.label}"
        shown = Display(roles=DEMO_ROLES)
        yield f"  last: {last_reading(wire, shown, wire.label)!r}"
        yield f"  last given: {last_given(wire, shown, wire.label)}"
        yield from (f"  {device}" for device in devices_of(wire, DEMO_ROLES, shown, wire.label))
        yield from _walk(wire)
        yield from _causes(wire)
    yield "# heads"
    yield from (
        line for line in not_sound_lines(capture, {}) if not line or line.endswith("sound:")
    )


def _walk(wire: Wire) -> Iterator[str]:
    """Where one comes to from some exchanges: the next that is not sound, and the nearest."""
    starts, ends = wire.exchanges.start_ns.tolist(), wire.exchanges.end_ns.tolist()
    for at in (0, 1, len(wire) // 2, len(wire) - 2, len(wire) - 1):
        between = (ends[at] + starts[min(at + 1, len(wire) - 1)]) // 2
        moments = (starts[at] - 1, starts[at], between, between + 1, ends[at] + 10**10)
        steps = [wire.next_not_sound(at, step) for step in (-1, 1)]
        yield f"  at {at}: not sound {steps}, nearest {[wire.nearest(now) for now in moments]}"


def _causes(wire: Wire) -> Iterator[str]:
    """The first sound exchange, then the first of each cause."""
    names = DEMO_ROLES.names
    for at in one_of_each(wire):
        report = wire.report(at, names)
        yield from exchange_lines(report)
        yield json_text(exchange_object(report))
        before = given_before(wire, at, Display(roles=DEMO_ROLES), wire.label)
        yield f"  before: {before.text!r} {before.end_ns}"


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_word_by_word(self) -> None:
        PAGE.same(self, lines())
