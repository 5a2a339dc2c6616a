"""Causes that lie in the line, at their limits to the nanosecond."""

import numpy as np

from pivet.captures.capture import capture_of
from pivet.captures.wire import Wire
from pivet.judge.humidity.notices import Notice as Humid
from pivet.judge.onewire.notices import Notice as OneWire
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level, Line, Trace
from tests.base import PivetTest
from tests.decode.frames import edges_from, frame_widths, with_sum
from tests.physics import onewire
from tests.physics.line import flipped, pulled_low, spans_at, traced

DATA = with_sum(b"\x02\x8c\x01\x5f")
ZERO, ONE = 5 + 2 * 0, 5 + 2 * 6
"""Places of the highs of a 0 and a 1 of ``DATA``."""


class Humidity(PivetTest):
    """Frames of which one thing is just so."""

    def wire(self, *parts: np.ndarray) -> Wire:
        """What stands on the line, ns, judged as a 22-type."""
        edges = np.concatenate(parts)
        trace = Trace((Line("d", Level.HIGH, edges),), 0, int(edges[-1]) + 10**9, 1)
        return capture_of(self.folder / "x", trace, find_sheet("dht22"), "d").wires[0]

    def frame(self, start_us: float = 50_000.0, **widths: float) -> np.ndarray:
        """One frame; ``w7=0.5`` makes the pulse of number 7 longer by that."""
        rows = frame_widths(DATA)
        for name, more in widths.items():
            rows[int(name[1:])] += more
        return edges_from(rows, start_us)

    def has(self, notice: Humid, *parts: np.ndarray) -> bool:
        """Whether the first exchange bears a notice."""
        return bool(self.wire(*parts).judged.notices[0] & notice)

    def test_scatter(self) -> None:
        """Lows and highs of one kind that differ by more than 9 µs."""
        for low, high, expected in ((9.0, 9.001, False), (9.001, 9.0, False), (9.001, 9.001, True)):
            frame = self.frame(w10=low, **{f"w{ONE}": high})
            self.assertEqual(expected, self.has(Humid.SCATTER, frame), (low, high))
        for low, high in ((9.001, 9.001),):
            frame = self.frame(w10=low, **{f"w{ZERO}": -high})
            self.assertTrue(self.has(Humid.SCATTER, frame))

    def test_interrupted(self) -> None:
        """An ask within 120 µs behind the last whole pulse of an answer that is not over."""
        whole = self.frame()
        for bits, gap, expected in ((20, 120.0, True), (20, 120.001, False), (0, 50.0, False)):
            cut = whole[: 5 + 2 * bits + 1]
            cut = cut[: cut.size // 2 * 2]
            ask = self.frame(float(cut[-1]) / 1000 + gap)
            self.assertEqual(expected, self.has(Humid.INTERRUPTED, cut, ask), (bits, gap))
        self.assertFalse(
            self.has(Humid.INTERRUPTED, whole, self.frame(float(whole[-1]) / 1e3 + 90))
        )

    def test_reflections(self) -> None:
        """Spikes at a quarter of the pulses, 21 of 84."""
        frame = self.frame()
        for count, expected in ((20, False), (21, True)):
            at = frame[10 : 10 + 3 * count : 3].astype(float) + 9000
            spiked = flipped(frame.astype(float), spans_at(at, np.full(at.size, 1000.0)))
            self.assertEqual(expected, self.has(Humid.REFLECTIONS, spiked.astype(np.int64)))

    def test_copies(self) -> None:
        """Beyond the maker's window, up to what is common, and not when anything is outside."""
        for low, expected in ((5.0, False), (5.01, True), (18.0, True), (18.01, False)):
            self.assertEqual(expected, self.has(Humid.COPY_HABITS, self.frame(w10=low)), low)
        self.assertFalse(self.has(Humid.COPY_HABITS, self.frame(w10=6.0, w14=20.0)))

    def test_slow_rise_of_an_answer(self) -> None:
        """Where bits are broken, an answer's low that gained what its high lost."""
        for rise, expected in ((9.9, False), (10.0, True), (16.0, True)):
            rows = {"w2": rise, "w3": -rise, **{f"w{n}": rise for n in range(4, 84, 2)}}
            frame = self.frame(**rows)[:50]
            self.assertEqual(expected, self.has(Humid.SLOW_RISE, frame), rise)


class Slots(PivetTest):
    """1-Wire reads of which one slot is just so."""

    def notices(self, change: object = None, **how: float) -> int:
        """Of a read, whose lows (start, end) are changed."""
        bus = onewire.Bus(at=1000.0, **how)  # type: ignore[arg-type]
        bus.convert().scratchpad(onewire.pad_28(21.5))
        lows = np.array(bus.spans)
        if change is not None:
            lows = change(lows)  # type: ignore[operator]
        trace = traced({"dq": (pulled_low(lows), True)}, step_ns=1)
        wire = capture_of(self.folder / "x", trace, find_sheet("onewire"), "dq").wires[0]
        return int(wire.judged.notices[-1])

    def test_split_slots(self) -> None:
        """A slot after less than 42 µs, or many of them."""

        def closer(by: float, every: int) -> object:
            def change(lows: np.ndarray) -> np.ndarray:
                rows = np.arange(len(lows) - 60, len(lows), every)
                lows[rows] -= by
                return lows

            return change

        self.assertFalse(self.notices(closer(28.0, 60)) & OneWire.SPLIT_SLOTS)
        found = self.notices(closer(28.01, 60))
        self.assertTrue(found & OneWire.SPLIT_SLOTS)
        self.assertFalse(found & OneWire.REFLECTIONS)
        found = self.notices(closer(28.01, 3))
        self.assertTrue(found & OneWire.REFLECTIONS)
        self.assertFalse(found & OneWire.SPLIT_SLOTS)

    def test_slow_rise(self) -> None:
        """Ones of 13 µs and more, read ones that come out as zeros."""
        for one, expected in ((15.01, True), (14.9, False)):
            found = self.notices(one=one, slot=90.0, zero=70.0, hold=40.0)
            self.assertEqual(expected, bool(found & OneWire.SLOW_RISE), one)

    def test_broken_off(self) -> None:
        """Two last bytes of ones, or a number of slots that is no whole byte."""
        pad = onewire.pad_28(21.5)
        for data, expected in (
            (pad[:7] + b"\xff\xff", True),
            (pad[:7] + b"\x10\xff", False),
            (pad, False),
            (b"\xff" * 9, False),
        ):
            bus = onewire.Bus(at=1000.0).convert().scratchpad(data).reset()
            trace = traced({"dq": (bus.edges(), True)})
            wire = capture_of(self.folder / "x", trace, find_sheet("onewire"), "dq").wires[0]
            found = bool(wire.judged.notices[1] & OneWire.BROKEN_OFF)
            self.assertEqual(expected, found, data.hex())
