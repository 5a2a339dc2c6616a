"""What is said of made faults, word by word, changes only when somebody means it."""

from tests.base import PivetTest
from tests.physics.said import PAGE, lines


class Said(PivetTest):
    """Against the page that was last looked through."""

    def test_said(self) -> None:
        PAGE.same(self, lines())
