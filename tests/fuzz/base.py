"""What all fuzzers share."""

import math
import time
from abc import ABC, abstractmethod
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from pivet.errors import PivetError

HOSTILE_NUMBERS = (
    0, -1, 1, 2**31 - 1, 2**31, 2**32 - 1, 2**53, 2**62, 2**63 - 1, -(2**63), 10**18,
)  # fmt: skip
HOSTILE_TEXTS = (
    "", "\0", "\x1b[2J\x1b]0;owned\x07", "<b>bold</b><img src=x>", "=1+1", "@SUM(A1)",
    "a" * 5000, "\u202eevil", "../../etc/passwd", "NaN", "null", "\ud800", "é" * 70, "[" * 3000,
)  # fmt: skip
SLOW_S = 5.0
"""No case may work longer: whatever strangers send ends quickly."""


class Fuzzer(ABC):
    """Makes cases for one reader; a case that finds a fault raises.

    Attributes:
        name: of the reader.
        few: so many cases are a look of a second or two.
    """

    name: str
    few: int

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.refused = self.taken = 0

    @abstractmethod
    def case(self, rng: np.random.Generator) -> None:
        """One case: reads something made up; counts whether it was refused or taken."""

    def run(self, seeds: Sequence[int] | range, seconds: float = math.inf) -> int:
        """Runs cases until the time is over; gives their number.

        Raises:
            AssertionError: a case found a fault; names its seed.
        """
        until, done = time.monotonic() + seconds, 0
        for seed in seeds:
            if time.monotonic() >= until:
                break
            began = time.process_time()
            try:
                self.case(np.random.default_rng(seed))
            except Exception as error:
                raise AssertionError(f"{self.name}, seed {seed}: {error!r}") from error
            took = time.process_time() - began
            assert took < SLOW_S, f"{self.name}, seed {seed}: took {took:.1f} s"
            done += 1
        return done

    def refuse(self, error: PivetError) -> None:
        """Something was refused: in one sentence of bounded length."""
        text = str(error)
        assert text.endswith("."), text
        assert len(text) < 1000, text
        assert "Traceback" not in text, text
        self.refused += 1
