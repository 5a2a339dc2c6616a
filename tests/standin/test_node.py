"""The shelf node: its wire is sound, and its firmware fails one read in five."""

from pivet.insight.outcomes import Outcome
from pivet.insight.readers import Reader
from pivet.insight.rehearsal import rehearse
from pivet.insight.side import Side
from pivet.judge.verdict import Verdict
from pivet.standin.node import NAME, THRESHOLD_US
from tests.base import PivetTest
from tests.night import demo_night


class Node(PivetTest):
    """As the story has it."""

    def test_one_in_five(self) -> None:
        """Every exchange is sound; its threshold fails 15 to 25 % of them, another none."""
        capture = demo_night()
        (wire,) = (wire for wire in capture.wires if wire.name == NAME)
        self.assertEqual(len(wire), wire.count(Verdict.SOUND))
        found = rehearse(Side(wire), Reader("width", THRESHOLD_US))
        failed = 1 - found.right[0]
        self.assertTrue(0.15 < failed < 0.25, failed)
        self.assertLess(0, found.count(Outcome.WRONG))
        better = found.suggested.value
        self.assertEqual(1.0, rehearse(Side(wire), Reader("width", better)).right[0])
        self.assertTrue(any("one read in five" in note for note in capture.notes))
