"""The states of listening, and all moves between them, as tables.

A move that is not in its table is a mistake of the program, never of a source or a sensor.
"""

from collections.abc import Mapping
from enum import Enum, auto
from typing import Generic, TypeVar


class SourceState(Enum):
    """Where a source stands."""

    NEW = auto()
    HERE = auto()
    AWAY = auto()
    """It was lost, and is looked for."""
    OVER = auto()
    """It has given all it has."""
    TOLD = auto()
    """Listening has ended, and how it went was told."""


class SourceMove(Enum):
    """What happens to a source."""

    OPEN = auto()
    LOSE = auto()
    END = auto()
    TELL = auto()


class WireState(Enum):
    """What is known of a wire, and whether it is asked."""

    UNKNOWN = auto()
    EXPLORED = auto()
    """Asks go over it to find out what it is."""
    HEARD = auto()
    """It is known what it carries."""
    ASKED = auto()
    """A round of asks is going on."""


class WireMove(Enum):
    """What happens to a wire."""

    EXPLORE = auto()
    GIVE_UP = auto()
    KNOW = auto()
    ASK = auto()
    REST = auto()


S = TypeVar("S", bound=Enum)
M = TypeVar("M", bound=Enum)

Table = Mapping[S, Mapping[M, S]]
"""By state, which moves there are, and where each leads."""

SOURCE: Table[SourceState, SourceMove] = {
    SourceState.NEW: {SourceMove.OPEN: SourceState.HERE},
    SourceState.HERE: {
        SourceMove.LOSE: SourceState.AWAY,
        SourceMove.END: SourceState.OVER,
        SourceMove.TELL: SourceState.TOLD,
    },
    SourceState.AWAY: {
        SourceMove.OPEN: SourceState.HERE,
        SourceMove.TELL: SourceState.TOLD,
    },
    SourceState.OVER: {SourceMove.TELL: SourceState.TOLD},
    SourceState.TOLD: {},
}

WIRE: Table[WireState, WireMove] = {
    WireState.UNKNOWN: {
        WireMove.EXPLORE: WireState.EXPLORED,
        WireMove.KNOW: WireState.HEARD,
    },
    WireState.EXPLORED: {
        WireMove.GIVE_UP: WireState.UNKNOWN,
        WireMove.KNOW: WireState.HEARD,
    },
    WireState.HEARD: {WireMove.ASK: WireState.ASKED},
    WireState.ASKED: {WireMove.REST: WireState.HEARD},
}


class Machine(Generic[S, M]):
    """A state that moves by a table.

    Args:
        table: the table of the moves.
        state: at the beginning.
    """

    def __init__(self, table: Table[S, M], state: S) -> None:
        self._table, self.state = table, state

    def may(self, move: M) -> bool:
        """Whether a move is open now.

        Args:
            move: what is wanted.
        """
        return move in self._table[self.state]

    def move(self, move: M) -> None:
        """Makes a move.

        Args:
            move: what is wanted.

        Raises:
            AssertionError: it is not open now.
        """
        assert self.may(move), f"{move} in {self.state}"
        self.state = self._table[self.state][move]
