"""What a firmware makes of exchanges."""

from enum import IntEnum

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject

UNDECIDED = -1


class Outcome(IntEnum):
    """What became of an exchange."""

    RIGHT = 0
    """The same bytes as on the wire."""
    REFUSED = 1
    """Other bytes, and their check fails."""
    WRONG = 2
    """Other bytes, and their check holds: taken although wrong."""
    TIMEOUT = 3
    """Given up, or waited for what never came."""

    @property
    def code(self) -> str:
        """Its name in JSON."""
        return self.name.lower()


class Outcomes(FrozenObject):
    """What became of n exchanges.

    Attributes:
        outcome: ``Outcome`` of each, uint8 (n,).
        decided: the pulse that decided it, by its column on the wire, int32 (n,);
            ``UNDECIDED`` for those that were read right, and where no single pulse did it.
        taken: bytes as the firmware took them, uint8 (b, n); of no meaning after a timeout.
    """

    outcome: npt.NDArray[np.uint8]
    decided: npt.NDArray[np.int32]
    taken: npt.NDArray[np.uint8]

    def count(self, outcome: Outcome) -> int:
        """How many exchanges ended so.

        Args:
            outcome: the outcome that is counted.
        """
        return int(np.count_nonzero(self.outcome == outcome))

    def __len__(self) -> int:
        return int(self.outcome.size)


def joined(parts: "list[Outcomes]") -> Outcomes:
    """The outcomes of exchanges that follow each other.

    Args:
        parts: the parts, in order of time, at least one.
    """
    return Outcomes(
        np.concatenate([part.outcome for part in parts]),
        np.concatenate([part.decided for part in parts]),
        np.concatenate([part.taken for part in parts], axis=1),
    )
