"""What is decoded of very many exchanges whose pulses are just at limits: ``physics.crowd``."""

from collections.abc import Iterator
from typing import Any
from unittest import mock

from pivet.captures.decoding import decode_lines
from pivet.decode.echo import EchoExchanges
from pivet.decode.humidity import HumidityExchanges
from pivet.decode.humidity import layout as humidity
from pivet.decode.humidity.layout import bit_of
from pivet.decode.onewire import OneWireExchanges
from pivet.decode.onewire import layout as onewire
from pivet.families import FAMILIES
from tests.base import PivetTest
from tests.pages import Page, columns_of, sum_of
from tests.physics.crowd import Crowd, crowds

PAGE = Page(__file__)
SHORT = ("dht22 0.01 1", "bus False 0.01 1", "bus True 0.01 1")
FEW = 12
"""Of so many is told what is asked of single exchanges."""


def lines() -> Iterator[str]:
    """The page: how many, and a sum over each column; of some what is cut as too long."""
    yield f"{[bit_of(column) for column in range(85)]}"
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
    yield from alone(found.rows(len(found) // 3, len(found) // 3 + FEW))


def alone(found: Any) -> Iterator[str]:
    """What is asked of single exchanges."""
    yield f"starts {int(found.start_ns.sum())}, ended {found.ended.tolist()}"
    if isinstance(found, EchoExchanges):
        yield f"waits {found.wait_ns.tolist()}"
    elif isinstance(found, OneWireExchanges):
        yield f"slots {[found.slots_of(at).stop for at in range(len(found))]}"
        yield f"fast {int(found.slot_is_fast().sum())}"
    elif isinstance(found, HumidityExchanges):
        yield f"asks {found.ask_ns.tolist()} {sum_of(found.highs_ns):x} {sum_of(found.lows_ns):x}"
        for at in range(len(found)):
            spikes, bits = [side.tolist() for side in found.spikes_in(at)], found.bits(at)
            yield f"{at}: {sum_of(bits):x} {sum_of(found.pulse_starts_ns(at)):x} {spikes}"


class Crowded(PivetTest):
    """Against the page that was last looked through."""

    def test_crowd_by_crowd(self) -> None:
        PAGE.same(self, lines())
