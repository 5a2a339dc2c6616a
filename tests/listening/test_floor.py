"""No wire's ask runs into the answer that another waits for."""

import unittest
from itertools import pairwise

from pivet.listening.asking.floor import Floor
from tests.listening.cave import CaveTest, wire


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


class Apart(CaveTest):
    """Five wires, as often as they may be asked."""

    def test_no_answer_is_disturbed(self) -> None:
        """Their exchanges never overlap, also while one does not answer; all have their turns."""
        names = ("shelf_A", "wash_room", "wheels", "brine_vat", "blast_chiller")
        self.listen(*(wire(name) for name in names))
        self.passes(8.0)
        self.cave.circuit("wash_room").plug(False, self.now_us)
        self.passes(8.0)
        spans = []
        for name in names:
            heard = {row.number: row for row in self.heard(name)}
            self.assertGreater(len(heard), 4, name)
            reports = [row.report() for row in heard.values()]
            spans += [(one.start_ns, one.end_ns, name) for one in reports]
        spans.sort()
        overlaps = [(before, after) for before, after in pairwise(spans) if after[0] < before[1]]
        self.assertEqual([], overlaps)
