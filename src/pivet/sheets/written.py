"""Where in a TOML text each entry stands, so that a message can name its line."""

import re
from collections import Counter
from collections.abc import Mapping

Place = tuple[str | int, ...]
"""A way to an entry: ``("window", 3, "min_us")`` is of the fourth window."""

TABLE = re.compile(r"\s*\[\s*([\w-]+)\s*\]")
ONE_OF_SEVERAL = re.compile(r"\s*\[\[\s*([\w-]+)\s*\]\]")
ENTRY = re.compile(r"\s*(?:\"([\w-]+)\"|([\w-]+))\s*=")


def lines_of(text: str) -> Mapping[Place, int]:
    """The line, from 1, of each table and entry of a TOML text.

    Args:
        text: the text whose tables are no deeper than a sheet's.
    """
    found: dict[Place, int] = {}
    seen: Counter[str] = Counter()
    table: Place = ()
    for number, line in enumerate(text.splitlines(), 1):
        if several := ONE_OF_SEVERAL.match(line):
            table = (several[1], seen[several[1]])
            seen[several[1]] += 1
            found.setdefault((several[1],), number)
            found.setdefault(table, number)
        elif one := TABLE.match(line):
            table = (one[1],)
            found.setdefault(table, number)
        elif entry := ENTRY.match(line):
            found.setdefault((*table, entry[1] or entry[2]), number)
    return found


def line_of(place: Place, lines: Mapping[Place, int]) -> int | None:
    """The line of an entry, or of what it would stand in; None for the whole text.

    Args:
        place: the place of the entry.
        lines: as ``lines_of`` gives them.
    """
    while place:
        if place in lines:
            return lines[place]
        place = place[:-1]
    return None
