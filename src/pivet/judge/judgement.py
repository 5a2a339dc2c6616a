"""What the judged exchanges of every family have."""

from enum import IntEnum
from typing import Protocol

import numpy as np
import numpy.typing as npt

from pivet.judge.notices import Flags
from pivet.readings.track import Track
from pivet.sheets.model import Sheet
from pivet.signal.uncertainty import Uncertainty


class Judgement(Protocol):
    """Judged exchanges of one wire, as columns."""

    @property
    def sheet(self) -> Sheet:
        """Against which they were judged."""
        ...

    @property
    def resolution_ns(self) -> Uncertainty:
        """Uncertainty of every width, or of those of each exchange, ns."""
        ...

    @property
    def verdict(self) -> npt.NDArray[np.uint8]:
        """``Verdict`` of each exchange, uint8 (n,)."""
        ...

    @property
    def notices(self) -> Flags:
        """``NoticeBit`` bits of the family, int64 (n,)."""
        ...

    @property
    def tracks(self) -> tuple[Track, ...]:
        """The readings over the exchanges."""
        ...

    def __len__(self) -> int: ...


class Likeness(IntEnum):
    """How much a wire looks like one of a family; only the most alike are shown."""

    ANSWERED = 0
    ASKED = 1
    OFFERED = 2
    """It may be, as well as many other things: the person must say so."""
    POSSIBLE = 3
    """Not at all; shown only if the person chose a sensor and nothing else was found."""
