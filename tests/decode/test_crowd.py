"""What is decoded of very many exchanges whose pulses are just at limits: ``physics.crowd``."""

from collections.abc import Iterator
from typing import Any
from unittest import mock

from pivet.captures.decoding import decode_lines
from pivet.decode.humidity import layout as humidity
from pivet.decode.onewire import layout as onewire
from pivet.families import FAMILIES
from tests.base import PivetTest
from tests.pages import Page, columns_of, sum_of
from tests.physics.crowd import Crowd, crowds

PAGE = Page(__file__)
SHORT = ("dht22 0.01 1", "bus False 0.01 1", "bus True 0.01 1")


def lines() -> Iterator[str]:
    """The page: how many, and a sum over each column; of some what is cut as too long."""
    for crowd in crowds():
        yield from told(crowd.name, crowd)
        if crowd.name in SHORT:
            short = mock.patch.multiple(humidity, MOST_LOWS=40)
            with short, mock.patch.multiple(onewire, MOST_SLOTS=60):
                yield from told(f"{crowd.name}, short", crowd)


def told(name: str, crowd: Crowd) -> Iterator[str]:
    """A sum over each column."""
    found: Any = decode_lines(FAMILIES[crowd.family], crowd.trace.lines, crowd.trace)
    yield f"# {name}: {len(found)}"
    for part, values in columns_of(found):
        yield f"{part} {values.shape} {sum_of(values):x}"


class Crowded(PivetTest):
    """Against the page that was last looked through."""

    def test_crowd_by_crowd(self) -> None:
        PAGE.same(self, lines())
