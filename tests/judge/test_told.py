"""Everything that is said of an exchange, field by field: of each cause of the demo night, once.

Beside them what bytes that were copied from elsewhere could mean.
"""

import tomllib
from collections.abc import Iterator
from pathlib import Path

from pivet.bench.by_hand import explain_bytes
from pivet.bench.demo import DEMO_ROLES
from pivet.errors import InputError
from pivet.judge.report import Report
from tests.base import PivetTest
from tests.night import demo_night
from tests.pages import Page, one_of_each, plain

PAGE = Page(__file__)
COPIED = Path(__file__).with_name("copied.toml")


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
    for row in tomllib.loads(COPIED.read_text(encoding="utf-8"))["copied"]:
        yield f"# {row['says']}"
        for text in row["texts"]:
            yield repr(text)
            try:
                yield from (f"  {plain(meaning)}" for meaning in explain_bytes(text))
            except InputError as error:
                yield f"  {error}"


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_word_by_word(self) -> None:
        PAGE.same(self, lines())
