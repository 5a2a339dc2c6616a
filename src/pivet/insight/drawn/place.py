"""Where something stands, in plain numbers."""

from typing import NamedTuple


class Rect(NamedTuple):
    """A rectangle, in px.

    Attributes:
        left, top: its upper left corner.
        width, height: its size.
    """

    left: float
    top: float
    width: float
    height: float

    @property
    def right(self) -> float:
        """Its right edge."""
        return self.left + self.width

    @property
    def bottom(self) -> float:
        """Its lower edge."""
        return self.top + self.height

    @property
    def middle(self) -> float:
        """Half way down."""
        return self.top + self.height / 2

    @property
    def centre(self) -> tuple[float, float]:
        """Its middle."""
        return self.left + self.width / 2, self.middle

    def inside(self, left: float, top: float, right: float, bottom: float) -> "Rect":
        """A smaller one, by how much at each edge; a larger one by negative numbers.

        Args:
            left: at the left, px.
            top: at the top, px.
            right: at the right, px.
            bottom: at the bottom, px.
        """
        width, height = self.width - left - right, self.height - top - bottom
        return Rect(self.left + left, self.top + top, width, height)

    def holds(self, x: float, y: float) -> bool:
        """Whether a point is in it or on its edge.

        Args:
            x: how far to the right, px.
            y: how far down, px.
        """
        return self.left <= x <= self.right and self.top <= y <= self.bottom
