"""A monkey plays with the window: nothing it does may be a mistake of Pivet."""

from tests.base import PivetTest
from tests.ui.monkey import Monkey

ACTIONS, LIVE = 1400, 600


class Played(PivetTest):
    """Two thousand things, on two seeds; ``./run bench monkey`` does ten times as many on ten."""

    def play(self, seed: int, actions: int, live: bool = False) -> None:
        """Neither exceptions nor messages of Qt; what there is, is told whole."""
        self.maxDiff = None
        self.draw_few()
        monkey = Monkey(seed, self.folder, live)
        seen = monkey.play(actions)
        self.assertEqual([], seen.mistakes[:2])
        self.assertEqual([], seen.messages[:2])
        self.assertEqual(actions, sum(seen.done.values()))

    def test_files_and_views(self) -> None:
        """Captures of 0 to 60 wires, a bench, rubbish; every view, menu and dialog."""
        self.play(1, ACTIONS)

    def test_the_live_cave(self) -> None:
        """The same while the simulated cave may be started, disturbed and stopped."""
        self.play(2, LIVE, live=True)
