"""At a limit itself: what is decided by *from here on* is decided there."""

from unittest import mock

import numpy as np

from pivet.captures.capture import capture_of
from pivet.frozen import replace
from pivet.judge.belief import LIMIT
from pivet.judge.echo.judged import UNASKED_NS
from pivet.judge.echo.notices import Notice as EchoNotice
from pivet.judge.humidity import judged as humidity_judged
from pivet.judge.humidity.notices import Notice as FrameNotice
from pivet.judge.onewire import judged as onewire_judged
from pivet.judge.onewire.notices import Notice as BusNotice
from pivet.readings.sound import FIXED_SPEED, ZERO_C_SPEED, fixed_air
from tests.base import PivetTest, frames_of, shots_of, transactions_of
from tests.physics import echo, humidity, onewire
from tests.physics.line import joined, traced

BELOW = np.nextafter(LIMIT, 0)


class Met(PivetTest):
    """Each limit, and the number next to it."""

    def test_doubt(self) -> None:
        """A value is refused from the limit on, whatever its family."""
        rows = [humidity.exchange(humidity.frame_22(60, 20), 2.1e6 * n) for n in range(2)]
        frames = traced({"d": (joined(rows), True)})
        bus = traced({"q": (onewire.Bus().convert().scratchpad(onewire.pad_28(20)).edges(), True)})
        for doubt, refused in ((LIMIT, True), (BELOW, False)):
            with mock.patch.object(
                humidity_judged, "doubts", lambda found, *_, d=doubt: np.full(len(found), d)
            ):
                (wire,) = capture_of(self.folder / "x", frames).wires
                bits = frames_of(wire).notices & np.int64(FrameNotice.TOO_DOUBTFUL)
                self.assertEqual([refused] * 2, (bits != 0).tolist())
            with mock.patch.object(
                onewire_judged,
                "doubts",
                lambda _, __, pads, *___, d=doubt: np.full(pads.at.size, d),
            ):
                (wire,) = capture_of(self.folder / "x", bus).wires
                bits = transactions_of(wire).notices & np.int64(BusNotice.TOO_DOUBTFUL)
                self.assertEqual(refused, bool(bits.any()))

    def test_nobody_asked(self) -> None:
        """A pulse without a trigger is told as one from a millisecond on no more."""
        made = echo.shots(np.random.default_rng(1), np.array([0.5, 0.9, 1.2]))
        alone = 400_000.0
        for length, told in ((UNASKED_NS - 1_000, 1), (UNASKED_NS, 0)):
            echoes = np.append(made.echoes.ravel(), (alone, alone + length / 1000))
            lines = {"t": (made.triggers.ravel(), False), "e": (echoes, False)}
            capture = capture_of(self.folder / "x", traced(lines), None, "t,e")
            shots = shots_of(capture.wires[0])
            bits = shots.notices & np.int64(EchoNotice.NOBODY_ASKED)
            self.assertEqual(([0, 0, 0, told], 4), ((bits != 0).tolist(), len(shots.notices)))

    def test_fixed_speed(self) -> None:
        """Told where firmware that ignores the air is off by half a percent, either way."""
        made = echo.shots(np.random.default_rng(1), np.array([0.5, 0.9, 1.2]))
        lines = {"t": (made.triggers.ravel(), False), "e": (made.echoes.ravel(), False)}
        for share, told in (
            (0.0, False),
            (0.0049, False),
            (0.0051, True),
            (-0.0049, False),
            (-0.0051, True),
        ):
            speed = FIXED_SPEED / (1 + share)
            air = fixed_air(((speed / ZERO_C_SPEED) ** 2 - 1) * 273.15)
            capture = capture_of(self.folder / "x", traced(lines), None, "t,e", air=air)
            shots = shots_of(capture.wires[0])
            bits = shots.notices[shots.given] & np.int64(EchoNotice.FIXED_SPEED)
            self.assertEqual({told}, {bool(bit) for bit in bits.tolist()}, share)
            self.assertFalse((shots.notices & np.int64(EchoNotice.AIR_ASSUMED)).any())
            over_time = replace(air, times_ns=np.array([0, 1]), values=np.repeat(air.values, 2))
            capture = capture_of(self.folder / "x", traced(lines), None, "t,e", air=over_time)
            np.testing.assert_array_equal(shots.notices, shots_of(capture.wires[0]).notices)
