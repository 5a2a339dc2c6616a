"""The states of listening: each is reached, and no move is made that the tables do not have."""

import unittest
from enum import Enum
from typing import Any

from pivet.listening.states import (
    SOURCE,
    WIRE,
    Machine,
    SourceMove,
    SourceState,
    WireMove,
    WireState,
)

TABLES: list[tuple[Any, type[Enum], type[Enum], Enum]] = [
    (SOURCE, SourceState, SourceMove, SourceState.NEW),
    (WIRE, WireState, WireMove, WireState.UNKNOWN),
]


def reached(table: Any, start: Enum) -> set[Enum]:
    """All states to which moves lead from one."""
    found, open_ = {start}, [start]
    while open_:
        for state in table[open_.pop()].values():
            if state not in found:
                found.add(state)
                open_.append(state)
    return found


class Tables(unittest.TestCase):
    """Both tables."""

    def test_each_state_is_reached_and_each_move_made(self) -> None:
        """Nothing stands in them for nothing."""
        for table, states, moves, start in TABLES:
            self.assertEqual(set(states), set(table))
            self.assertEqual(set(states), reached(table, start))
            self.assertEqual(set(moves), {move for row in table.values() for move in row})

    def test_ends(self) -> None:
        """What was told once is over; a wire that is known never becomes unknown."""
        self.assertEqual({SourceState.TOLD}, reached(SOURCE, SourceState.TOLD))
        self.assertNotIn(SourceState.HERE, reached(SOURCE, SourceState.OVER))
        self.assertEqual({WireState.HEARD, WireState.ASKED}, reached(WIRE, WireState.HEARD))

    def test_a_move_that_is_not_there(self) -> None:
        """Is refused, and nothing has happened."""
        wire = Machine(WIRE, WireState.UNKNOWN)
        self.assertFalse(wire.may(WireMove.ASK))
        with self.assertRaisesRegex(AssertionError, "ASK in WireState.UNKNOWN"):
            wire.move(WireMove.ASK)
        self.assertIs(WireState.UNKNOWN, wire.state)
        wire.move(WireMove.KNOW)
        wire.move(WireMove.ASK)
        self.assertIs(WireState.ASKED, wire.state)
