"""What a wire gave last, in a few words."""

import numpy as np

from pivet.captures.wire import Wire
from pivet.frozen import FrozenValue
from pivet.person.display import PLAIN, Display
from pivet.readings.track import Track

FIXED = "*"
"""After a value that was corrected."""

MOST_VALUES = 2
MOST_DEVICES = 5


class LastReadings(FrozenValue):
    """The last readings of a wire that were given at all.

    Attributes:
        text: values with units; empty when there are none.
        end_ns: when the newest of them was read, ns.
    """

    text: str = ""
    end_ns: int = 0


def last_reading(wire: Wire, shown: Display = PLAIN, name: str = "") -> str:
    """What was measured last, or why the last exchange gave nothing.

    Args:
        wire: that gave it.
        shown: in which units, under which corrections.
        name: short name of the wire, by which its corrections are kept.
    """
    if not len(wire):
        return "no exchange"
    devices = [track for track in wire.tracks if track.rom]
    if devices:
        return _last_of_each(devices, shown, name) or "– no device answers"
    last = len(wire) - 1
    return _values(wire, last, shown, name) or f"– {why_none(wire, last)}"


def why_none(wire: Wire, index: int) -> str:
    """Why an exchange gave no reading, in a few words.

    Args:
        wire: its wire.
        index: number of the exchange, from 0.
    """
    report = wire.report(index)
    return report.headline.partition(": ")[2] or report.headline


def last_given(wire: Wire, shown: Display = PLAIN, name: str = "") -> LastReadings:
    """The last readings that were given, and when: they may be old; see ``last_reading``.

    Args:
        wire: the wire to look at.
        shown: units and corrections of readings.
        name: the name of the wire, by which its corrections are known.
    """
    devices = [track for track in wire.tracks if track.rom]
    tracks = [track for track in wire.tracks if track.given.any()]
    if not tracks:
        return LastReadings()
    last = max(int(track.at[track.given][-1]) for track in tracks)
    end_ns = int(wire.exchanges.end_ns[last])
    if devices:
        return LastReadings(_last_of_each(devices, shown, name), end_ns)
    return LastReadings(_values(wire, last, shown, name), end_ns)


def given_before(wire: Wire, index: int, shown: Display = PLAIN, name: str = "") -> LastReadings:
    """The last readings up to an exchange: what stands beside one that is to give none.

    Args:
        wire: the wire to look at.
        index: number of the exchange, from 0.
        shown: units and corrections of readings.
        name: the name of the wire, by which its corrections are known.
    """
    texts, last = list[str](), -1
    for track in wire.tracks:
        given = track.at[track.given]
        place = int(np.searchsorted(given, index, side="right")) - 1
        if place >= 0 and len(texts) < MOST_DEVICES:
            value = float(track.values[track.given][place])
            found = shown.value(name, track.quantity, value, track.decimals, track.rom)
            who = f"{shown.who(track.rom)}: " if track.rom else ""
            texts.append(f"{who}{found.text} {found.unit}{FIXED if found.correction else ''}")
            last = max(last, int(given[place]))
    if not texts:
        return LastReadings()
    return LastReadings("\n".join(texts), int(wire.exchanges.end_ns[last]))


def _values(wire: Wire, index: int, shown: Display, name: str) -> str:
    parts = []
    for reading in wire.report(index).readings[:MOST_VALUES]:
        value = shown.reading(name, reading)
        what = f"{reading.quantity} " if reading.derived else ""
        parts.append(f"{what}{value.text} {value.unit}{FIXED if value.correction else ''}")
    return "  ".join(parts)


def _last_of_each(devices: list[Track], shown: Display, name: str) -> str:
    """The last value of each device that still gives one."""
    values = [
        shown.value(name, track.quantity, float(track.values[-1]), 1, track.rom)
        for track in devices
        if track.given.size and track.given[-1]
    ]
    texts = [value.text + (FIXED if value.correction else "") for value in values[:MOST_DEVICES]]
    return f"{' · '.join(texts)} {values[0].unit}" if values else ""
