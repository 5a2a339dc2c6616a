"""What is decoded of lines on which anything may be as long as a limit: ``tests.physics.wild``."""

import zlib
from collections.abc import Iterator
from typing import Any

import numpy as np

from pivet.captures.decoding import decode_lines
from pivet.families import FAMILIES
from tests.base import PivetTest
from tests.pages import Page
from tests.physics.wild import capture

PAGE = Page(__file__)
SEEDS = 120


def told(seed: int) -> str:
    """How much was found, and a sum over all columns."""
    family, trace, _ = capture(seed)
    found: Any = decode_lines(FAMILIES[family], trace.lines, trace)
    columns = {
        name: getattr(found, name)
        for name in found.__struct_fields__
        if isinstance(getattr(found, name), np.ndarray)
    }
    every = b"".join(name.encode() + row.tobytes() for name, row in columns.items())
    sizes = f"spikes {found.spike_start_ns.size}, strays {found.stray_start_ns.size}"
    return f"{seed} {family}: {len(found)}, {sizes}, sum {zlib.crc32(every):x}"


def lines() -> Iterator[str]:
    """The page."""
    return map(told, range(SEEDS))


class Wild(PivetTest):
    """Against the page that was last looked through."""

    def test_seed_by_seed(self) -> None:
        PAGE.same(self, lines())
