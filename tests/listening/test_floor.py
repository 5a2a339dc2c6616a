"""No wire's ask runs into the answer that another waits for."""

import unittest

from pivet.listening.asking.floor import Floor


class Speaker:
    """Somebody who wants to ask."""


class Floors(unittest.TestCase):
    """Given to one at a time."""

    def test_in_their_order(self) -> None:
        """Who came first has it until it leaves; who asks again keeps its place."""
        floor, one, two, three = Floor(), Speaker(), Speaker(), Speaker()
        self.assertEqual([True, False, False], [floor.take(row) for row in (one, two, three)])
        self.assertEqual([False, True], [floor.take(row) for row in (three, one)])
        floor.leave(one)
        self.assertEqual([False, True], [floor.take(row) for row in (three, two)])
        self.assertFalse(floor.take(one))
        floor.leave(three)
        floor.leave(two)
        self.assertTrue(floor.take(one))

    def test_who_is_gone(self) -> None:
        """Somebody who was dropped holds up nobody."""
        floor, one, two = Floor(), Speaker(), Speaker()
        floor.take(one)
        self.assertFalse(floor.take(two))
        del one
        self.assertTrue(floor.take(two))
