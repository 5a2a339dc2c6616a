"""A series: one quantity of one sensor over time, with gaps and their reasons."""

import numpy as np
import numpy.typing as npt

from pivet.frozen import FrozenObject, FrozenValue, replace

FloatArray = npt.NDArray[np.float64]
Int64Array = npt.NDArray[np.int64]

GIVEN = 0
"""The number of the empty reason: the value was given."""


class Sensor(FrozenValue):
    """Who measures a series.

    Attributes:
        wire: name of the wire.
        who: role of the 1-Wire device, or its code in kernel form while it has none; empty for
            other families.
        quantity: what is measured.
    """

    wire: str
    who: str
    quantity: str


class Series(FrozenObject):
    """Values over time.

    Attributes:
        sensor: whose.
        label: for people, without the quantity.
        sheet: id of the sensor type's sheet.
        times_ns: rising, int64 (n,); since 1970, or since the beginning of a capture.
        values: float64 (n,), in the kept unit of the quantity; NaN where none was given.
        why: number in ``reasons`` of each, int16 (n,); ``GIVEN`` for a value.
        reasons: why there is no value, in a few words; the first is empty.
        number: of the exchange, int64 (n,).
        verdict: the verdict of the exchange, uint8 (n,).
        part: number of the capture in which the exchange stands, int32 (n,).
        decimals: with which values are shown in the kept unit.
        rom: code of the 1-Wire device that measures now, in kernel form.
        raw: before a correction, float64 (n,); None when nothing was corrected.
        correction: what it does, in a few words; empty without one.
        derived: it follows from other readings.
    """

    sensor: Sensor
    label: str
    sheet: str
    times_ns: Int64Array
    values: FloatArray
    why: npt.NDArray[np.int16]
    reasons: tuple[str, ...]
    number: Int64Array
    part: npt.NDArray[np.int32]
    verdict: npt.NDArray[np.uint8]
    decimals: int = 1
    rom: str = ""
    raw: FloatArray | None = None
    correction: str = ""
    derived: bool = False

    def __len__(self) -> int:
        return int(self.times_ns.size)

    @property
    def quantity(self) -> str:
        """What is measured."""
        return self.sensor.quantity

    @property
    def given(self) -> npt.NDArray[np.bool_]:
        """Which rows have a value, bool (n,)."""
        found: npt.NDArray[np.bool_] = self.why == GIVEN
        return found

    def rows(self, first: int, last: int) -> "Series":
        """Rows ``first`` up to ``last``.

        Args:
            first: index of the first.
            last: one past the index of the last.
        """
        cut = slice(first, last)
        return replace(
            self,
            times_ns=self.times_ns[cut],
            values=self.values[cut],
            why=self.why[cut],
            number=self.number[cut],
            part=self.part[cut],
            verdict=self.verdict[cut],
            raw=None if self.raw is None else self.raw[cut],
        )

    def between(self, from_ns: int, to_ns: int) -> "Series":
        """The rows from one time up to, and with, another.

        Args:
            from_ns: begin of the time, ns.
            to_ns: its end, ns.
        """
        first = int(np.searchsorted(self.times_ns, from_ns))
        last = int(np.searchsorted(self.times_ns, to_ns, side="right"))
        return self.rows(first, max(first, last))

    def nearest(self, t_ns: int) -> int | None:
        """The row nearest to a time; None when there is none.

        Args:
            t_ns: the moment, ns.
        """
        if not len(self):
            return None
        after = int(np.searchsorted(self.times_ns, t_ns))
        if after == 0:
            return 0
        if after == len(self):
            return after - 1
        before_ns = t_ns - int(self.times_ns[after - 1])
        return after - 1 if before_ns <= int(self.times_ns[after]) - t_ns else after

    def why_text(self, row: int) -> str:
        """Why a row has no value; empty for a value.

        Args:
            row: number of the row.
        """
        return self.reasons[int(self.why[row])]
