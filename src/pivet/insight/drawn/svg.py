"""A picture as SVG, the open format for vector drawings (SVG 1.1)."""

from collections.abc import Iterator, Mapping
from html import escape

from pivet.insight.drawn.picture import Box, Cross, Kind, Picture, Shape, Stroke, Words

ARM = 3.5
FILLED = 0.45

ON_PAPER: Mapping[Kind, str] = {
    Kind.PAPER: "#fffdf7",
    Kind.BAND: "#e4dccb",
    Kind.COMMON: "#f2ecdf",
    Kind.AXIS: "#9a8f9c",
    Kind.INK: "#2a2430",
    Kind.QUIET: "#6f6673",
    Kind.BEFORE: "#2a2430",
    Kind.AFTER: "#7a3a78",
    Kind.SECOND: "#332a63",
    Kind.GOOD: "#3d6e2c",
    Kind.BAD: "#ab2c25",
    Kind.NEAR: "#a86405",
    Kind.MINE: "#c07d12",
    Kind.CELL: "#ddd3c0",
    Kind.LOW: "#dcd5e6",
    Kind.ZERO: "#bccbe6",
    Kind.ONE: "#ead0a2",
}
"""Colours of the kinds of shapes, on paper."""


def svg_text(picture: Picture) -> str:
    """The picture as an element that stands in HTML or in a file of its own.

    Args:
        picture: the picture to be written.
    """
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {_n(picture.width)} '
        f'{_n(picture.height)}" width="{_n(picture.width)}" height="{_n(picture.height)}" '
        f'font-family="DejaVu Sans, Verdana, sans-serif" role="img" '
        f'aria-label="{escape(picture.says)}">'
    )
    return "\n".join(
        [head, *(line for shape in picture.shapes for line in _shape(shape)), "</svg>"]
    )


def _n(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


def _shape(shape: Shape) -> Iterator[str]:
    colour = ON_PAPER[shape.kind]
    if isinstance(shape, Box):
        strength = "" if shape.strength == 1 else f' fill-opacity="{_n(shape.strength)}"'
        yield (
            f'<rect fill="{colour}" x="{_n(shape.x)}" y="{_n(shape.y)}" '
            f'width="{_n(shape.width)}" height="{_n(shape.height)}"{strength}/>'
        )
    elif isinstance(shape, Stroke):
        points = " ".join(f"{_n(x)},{_n(y)}" for x, y in shape.points)
        area = f'fill="{colour}" fill-opacity="{FILLED}"' if shape.filled else 'fill="none"'
        yield (
            f'<polyline {area} stroke="{colour}" points="{points}" '
            f'stroke-width="{_n(shape.width)}"/>'
        )
    elif isinstance(shape, Words):
        weight = ' font-weight="bold"' if shape.bold else ""
        yield (
            f'<text fill="{colour}" x="{_n(shape.x)}" y="{_n(shape.y)}" '
            f'text-anchor="{shape.anchor}" font-size="{_n(shape.size)}"{weight}>'
            f"{escape(shape.text)}</text>"
        )
    else:
        yield from _cross(shape, colour)


def _cross(shape: Cross, colour: str) -> Iterator[str]:
    x, y = shape.x, shape.y
    path = (
        f"M{_n(x - ARM)},{_n(y - ARM)}L{_n(x + ARM)},{_n(y + ARM)}"
        f"M{_n(x - ARM)},{_n(y + ARM)}L{_n(x + ARM)},{_n(y - ARM)}"
    )
    yield (
        f'<path fill="none" stroke="{colour}" d="{path}" stroke-width="1.8"><title>'
        f"{escape(shape.says)}</title></path>"
    )
