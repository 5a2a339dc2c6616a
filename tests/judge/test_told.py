"""Everything that is said of an exchange, field by field: of each cause of the demo night, once.

Beside them what bytes that were copied from elsewhere could mean.
"""

from collections.abc import Iterator

from pivet.bench.by_hand import explain_bytes
from pivet.bench.demo import DEMO_ROLES
from pivet.errors import InputError
from pivet.judge.report import Report
from tests.base import PivetTest
from tests.night import demo_night
from tests.pages import Page, one_of_each, plain

PAGE = Page(__file__)
COPIED = (
    "03 9c 00 79 18",
    "03 9c 00 79 19",
    "02 8c 80 65 73",
    "37 00 18 04 53",
    "00 00 00 00 00",
    "28 7d 2c 1b 05 00 00 8c",
    "28 7d 2c 1b 05 00 00",
    "8c 00 00 05 1b 2c 7d 28",
    "00 00 00 00 00 00 00 00",
    "ff ff ff ff ff ff ff ff",
    "10 a1 b3 02 08 00 00 77",
    "50 05 4b 46 7f ff 0c 10 1c",
    "50 05 4b 46 7f ff 0c 10 1d",
    "91 01 4b 46 7f ff 0f 10 25",
    "aa 00 4b 46 ff ff 0c 10 87",
    "00 00 00 00 00 00 00 00 00",
    "ff ff ff ff ff ff ff ff ff",
    "01 02 03",
)


def told(report: Report) -> Iterator[str]:
    """A report, a line a field."""
    for name in report.__struct_fields__:
        if not name.startswith("make_"):
            yield f"  {name}: {plain(getattr(report, name))}"
    yield f"  windows: {plain(report.windows)}"
    yield f"  stretches: {plain(report.stretches)}"
    yield f"  pulses: {plain(report.pulses[:6])} of {len(report.pulses)}"


def lines() -> Iterator[str]:
    """The page."""
    for wire in demo_night().wires:
        for at in one_of_each(wire):
            yield f"# {wire.label}, {at}"
            yield from told(wire.report(at, DEMO_ROLES.names))
    for text in COPIED:
        yield f"# {text}"
        try:
            yield from (f"  {plain(meaning)}" for meaning in explain_bytes(text))
        except InputError as error:
            yield f"  {error}"


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_word_by_word(self) -> None:
        PAGE.same(self, lines())
