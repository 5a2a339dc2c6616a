"""The history of a wire: its exchanges and readings over time, as columns."""

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

from pivet.captures.wire import Wire
from pivet.families.family import AnyFamily
from pivet.frozen import FrozenObject, replace
from pivet.readings.sound import Vessel

FloatArray = npt.NDArray[np.float64]
Int64Array = npt.NDArray[np.int64]

DECIMALS = {"humidity": 1, "temperature": 1, "distance": 3, "level": 3}
"""With so many a quantity is shown where nothing finer is known."""

DEVICE_DECIMALS = 2


class TrackHistory(FrozenObject):
    """Readings of one quantity of one sensor.

    Attributes:
        quantity: what is measured.
        rom: code of the 1-Wire device in kernel form; empty for other families.
        decimals: with which values are shown.
        at: rows of the exchanges that should have given a value, rising, int64 (k,).
        values: float64 (k,), in the kept unit; NaN where none was given.
    """

    quantity: str
    rom: str
    decimals: int
    at: Int64Array
    values: FloatArray

    def between(self, first: int, last: int) -> "TrackHistory":
        """What belongs to exchanges ``first`` up to ``last`` of the wire.

        Args:
            first: a row of the wire, from 0.
            last: the same, not with it.
        """
        begin, end = np.searchsorted(self.at, (first, last))
        return replace(self, at=self.at[begin:end] - first, values=self.values[begin:end])


class WireHistory(FrozenObject):
    """All exchanges of one wire of one capture, a row each.

    Attributes:
        name: the name of the wire.
        family: the family of its exchanges.
        sheet: id of its sensor type.
        part: number of its capture among those that are looked at.
        number: of the exchanges, rising, int64 (n,).
        times_ns: their beginnings, rising, int64 (n,); since 1970, or since the capture began.
        verdict: uint8 (n,).
        notices: bits of the family, int64 (n,).
        attempt: 0 asked by others, 1 by Pivet, 2 and more retries; int16 (n,).
        margin: the least, as a share of the way from limit to typical; float32 (n,), NaN where
            it is not known.
        tracks: the readings.
        vessel: that an echo sensor looks into; None without one.
    """

    name: str
    family: AnyFamily
    sheet: str
    part: int
    number: Int64Array
    times_ns: Int64Array
    verdict: npt.NDArray[np.uint8]
    notices: npt.NDArray[np.int64]
    attempt: npt.NDArray[np.int16]
    margin: npt.NDArray[np.float32]
    tracks: tuple[TrackHistory, ...]
    vessel: Vessel | None = None

    def __len__(self) -> int:
        return int(self.number.size)

    def between(self, from_ns: int, to_ns: int) -> "WireHistory":
        """The exchanges from one time up to, and with, another.

        Args:
            from_ns: as in ``times_ns``.
            to_ns: the same.
        """
        first = int(np.searchsorted(self.times_ns, from_ns))
        last = max(int(np.searchsorted(self.times_ns, to_ns, side="right")), first)
        if first == 0 and last == len(self):
            return self
        rows = slice(first, last)
        return replace(
            self,
            number=self.number[rows],
            times_ns=self.times_ns[rows],
            verdict=self.verdict[rows],
            notices=self.notices[rows],
            attempt=self.attempt[rows],
            margin=self.margin[rows],
            tracks=tuple(track.between(first, last) for track in self.tracks),
        )


def wire_history(wire: Wire, part: int) -> WireHistory:
    """The history of a wire of which all exchanges are there.

    Args:
        wire: the wire of a capture from a file; times count from the beginning of the capture.
        part: number of the capture.
    """
    size = len(wire)
    return WireHistory(
        name=wire.label,
        family=wire.family,
        sheet=wire.sheet.id,
        part=part,
        number=np.arange(wire.first, wire.first + size, dtype=np.int64),
        times_ns=np.asarray(wire.exchanges.start_ns, dtype=np.int64),
        verdict=wire.verdicts,
        notices=wire.judged.notices,
        attempt=np.zeros(size, dtype=np.int16),
        margin=wire.family.margins(wire.judged).share.astype(np.float32),
        tracks=_tracks(wire),
        vessel=wire.choices.vessel,
    )


def _tracks(wire: Wire) -> tuple[TrackHistory, ...]:
    """Of several tracks of the same quantity and device the first: single shots of an echo."""
    found: dict[tuple[str, str], TrackHistory] = {}
    for track in wire.tracks:
        values = np.where(track.given, track.values, np.nan)
        key = (track.quantity, track.rom)
        found.setdefault(key, TrackHistory(*key, track.decimals, track.at, values))
    return tuple(found.values())


def decimals_of(quantity: str, rom: str) -> int:
    """With how many decimals readings of a file are shown.

    Args:
        quantity: as in a track.
        rom: code of the device; empty where there is none.
    """
    return DEVICE_DECIMALS if rom else DECIMALS.get(quantity, 1)


def by_wire(histories: Iterable[WireHistory]) -> dict[str, list[WireHistory]]:
    """Histories by name of their wire, in their order.

    Args:
        histories: the histories of any number of wires.
    """
    found: dict[str, list[WireHistory]] = {}
    for history in histories:
        found.setdefault(history.name, []).append(history)
    return found
