"""What a sensor says at this moment, for large figures: a value, or why there is none.

An old value never stands for a new one: a reading that failed, a device that left, and a sensor
that nobody asks any more are said in its place.
"""

from collections.abc import Iterator, Mapping

import numpy as np

from pivet.captures.wire import Wire
from pivet.frozen import FrozenValue
from pivet.history.series import reason_words
from pivet.person.display import Display, DisplayedValue
from pivet.readings.track import Track

MOST_VALUES = 2
STALE = 3.0
"""A value is old when nothing came for so many usual intervals."""

LEAST_STALE_S = 5.0


class GlanceRow(FrozenValue):
    """A sensor at this moment.

    Attributes:
        name: the name of the wire, and the device on it.
        values: as they are shown; empty when there are none now.
        reason: why there are none; empty when there are.
        end_ns: when the values were read, or the last ones were, on the wire's clock; None when
            none ever were.
    """

    name: str
    values: tuple[DisplayedValue, ...]
    reason: str
    end_ns: int | None

    @property
    def label(self) -> str:
        """The device, or the wire where there is none."""
        return self.name.partition(", ")[2] or self.name


def glimpses(
    wire: Wire,
    name: str,
    shown: Display,
    silent: Mapping[str, str],
    now_ns: int | None = None,
) -> Iterator[GlanceRow]:
    """What the sensors of a wire say.

    Args:
        wire: with its latest exchanges.
        name: its short name.
        shown: in which units, under which corrections.
        silent: by code of the device, why it gives no reading any more.
        now_ns: this moment on the wire's clock; None for a wire that is not live.
    """
    by_rom: dict[str, list[Track]] = {}
    for track in wire.tracks:
        rows = by_rom.setdefault(track.rom, [])
        if all(known.quantity != track.quantity for known in rows):
            rows.append(track)
    if not by_rom:
        yield GlanceRow(name, (), silent.get("", "no reading yet"), None)
    for rom, tracks in by_rom.items():
        label = f"{name}, {shown.who(rom)}" if rom else name
        yield _glimpse(wire, label, name, tracks, shown, silent.get(rom) or silent.get(""), now_ns)


def _glimpse(
    wire: Wire,
    label: str,
    name: str,
    tracks: list[Track],
    shown: Display,
    silent: str | None,
    now_ns: int | None,
) -> GlanceRow:
    lead = tracks[0]
    given = np.flatnonzero(lead.given)
    last_ns = int(wire.exchanges.end_ns[lead.at[given[-1]]]) if given.size else None
    reason = silent or _why(wire, lead, last_ns, now_ns)
    if reason:
        return GlanceRow(label, (), reason, last_ns)
    values = tuple(
        shown.value(name, track.quantity, float(track.values[-1]), track.decimals, track.rom)
        for track in tracks[:MOST_VALUES]
        if track.given[-1]
    )
    return GlanceRow(label, values, "", last_ns)


def _why(wire: Wire, track: Track, last_ns: int | None, now_ns: int | None) -> str:
    if not track.at.size:
        return "no reading yet"
    if not track.given[-1]:
        return reason_words(wire.family, int(wire.judged.notices[track.at[-1]]))
    if now_ns is not None and last_ns is not None:
        starts = wire.exchanges.start_ns[track.at]
        usual_s = float(np.median(np.diff(starts))) / 1e9 if starts.size > 1 else 0.0
        if (now_ns - last_ns) / 1e9 > max(STALE * usual_s, LEAST_STALE_S):
            return "nothing comes any more"
    return ""
