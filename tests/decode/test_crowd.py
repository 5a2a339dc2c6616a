"""What is decoded of very many exchanges whose pulses are just at limits: ``physics.crowd``."""

import zlib
from collections.abc import Iterator
from typing import Any

import numpy as np

from pivet.captures.decoding import decode_lines
from pivet.families import FAMILIES
from tests.base import PivetTest
from tests.pages import Page
from tests.physics.crowd import crowds

PAGE = Page(__file__)


def lines() -> Iterator[str]:
    """The page: how many, and a sum over each column."""
    for crowd in crowds():
        found: Any = decode_lines(FAMILIES[crowd.family], crowd.trace.lines, crowd.trace)
        yield f"# {crowd.name}: {len(found)}"
        for name in found.__struct_fields__:
            values = getattr(found, name)
            if isinstance(values, np.ndarray):
                whole = zlib.crc32(np.ascontiguousarray(values.astype(np.int64)).tobytes())
                yield f"{name} {values.shape} {whole:x}"


class Crowded(PivetTest):
    """Against the page that was last looked through."""

    def test_crowd_by_crowd(self) -> None:
        PAGE.same(self, lines())
