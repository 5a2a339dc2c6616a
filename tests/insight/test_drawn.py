"""Where things stand in a stack, without a window."""

from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.decode.echo import EchoExchanges
from pivet.decode.humidity import layout
from pivet.families import FAMILIES
from pivet.insight.drawn.echo import ROW, ShotsLayout, median_us
from pivet.insight.drawn.humidity import FrameLayout
from pivet.insight.drawn.onewire import TransactionLayout
from pivet.insight.drawn.place import Rect
from pivet.insight.drawn.reset import ResetLayout, meant_words
from pivet.judge.echo import JudgedShots
from pivet.judge.onewire.detail import Transaction
from pivet.judge.verdict import Verdict
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level, Line
from tests.base import PivetTest, detail_of, wire_of
from tests.decode.slots import RESET, RESET_ALONE, edges_of, written
from tests.insight.signals import echo_wire, thermometer_wire

SIZES = st.tuples(st.floats(500, 2000), st.floats(300, 1200))


class Frames(PivetTest):
    """A row a byte, a cell a bit."""

    @given(SIZES, st.sampled_from(["dht22", "dht11"]))
    def test_places(self, size: tuple[float, float], sheet: str) -> None:
        """Inside the area, beside each other; what is under a middle is what stands there."""
        area = Rect(7.0, 11.0, *size)
        place = FrameLayout(area, find_sheet(sheet))
        for bit, cell in enumerate(place.cells):
            self.assertTrue(area.left < cell.left < cell.right < area.right)
            rise = place.x_of(bit, 0.0)
            self.assertEqual(
                {layout.low_column(bit)}, set(place.columns_at((cell.left + rise) / 2, cell.middle))
            )
            low, high = place.low_line(bit, 50.0), place.high_line(bit, 70.0)
            self.assertEqual(low[-1], high[0])
            self.assertEqual((rise, rise), (low[-1][0], high[1][0]))
            self.assertAlmostEqual(20 * place.px_per_us, high[2][0] - place.x_of(bit, 50.0))
            self.assertEqual(low, place.cut_line(bit, 50.0)[:4])
        self.assertEqual((True, False), place.goes_on(500.0, 20.0))
        self.assertEqual((False, True), place.goes_on(50.0, 500.0))


class Transactions(PivetTest):
    """Reset and presence, a row a byte."""

    def test_reset_and_presence(self) -> None:
        """Those that there are; that none answered is said, that nobody waited is not."""
        line = Line("dq", Level.HIGH, edges_of(RESET_ALONE + RESET + written(b"\xcc\x44")))
        wire = wire_of(FAMILIES["one-wire"], (line,), 10)
        box = Rect(0, 0, 700, 84)
        alone, answered = (ResetLayout(box, wire.report(number), False) for number in (0, 1))
        (_, text, _), (pulse, *said) = alone.names()
        self.assertRegex(text, "^reset ")
        self.assertEqual((None, ["no presence", Verdict.UNSOUND]), (pulse, said))
        self.assertEqual(3, len(list(answered.names())))
        self.assertEqual(3, len(list(answered.bands(wire.sheet))))
        parts = [part for _, part in answered.parts()]
        for one, other in pairwise(parts):
            self.assertAlmostEqual(one.right, other.left)
        detail = detail_of(wire.report(1), Transaction)
        self.assertEqual(["skip ROM", "standard speed"], meant_words(detail))

    def test_slots_under_the_pointer(self) -> None:
        """Each cell is found by its middle, each row by its name; scrolled rows move up."""
        wire = thermometer_wire([[12.5, 9.0]])
        for number in range(len(wire)):
            detail = detail_of(wire.report(number), Transaction)
            for top in (0.0, 40.0):
                place = TransactionLayout(Rect(10, 30, 720, 500), detail, top)
                for row in place.places:
                    self.assertEqual(row.row, place.row_at(*row.label.centre, detail))
                    for cell in row.cells:
                        self.assertIs(cell, place.cell_at(*cell.box.centre))
                        self.assertEqual(cell.fall_line()[-1], cell.low_line(30.0)[0])
            self.assertEqual(
                TransactionLayout(place.area, detail).places[0].box.top - 40,
                place.places[0].box.top,
            )


class Shots(PivetTest):
    """A row a shot."""

    def test_rows(self) -> None:
        """The chosen one in sight, each under its middle; the median where its echo would end."""
        wire = echo_wire(np.full(60, 1.25))
        exchanges, judged = wire.columns(EchoExchanges, JudgedShots)
        for index in (0, 3, 30, 59):
            place = ShotsLayout(
                Rect(0, 0, 700, 68 + 9 * ROW), exchanges.flight_ns, index, wire.sheet
            )
            self.assertEqual(9, len(place.numbers))
            self.assertIn(index, place.numbers)
            for number in place.numbers:
                self.assertEqual(number, place.number_at(*place.row(number).centre))
            self.assertIsNone(place.number_at(300, 10))
            middle = median_us(judged, index)
            assert middle is not None
            self.assertAlmostEqual(exchanges.flight_ns[index] / 1000, middle, delta=0.05)
            rise, *_, end, tail = place.line(index, middle)[1:]
            self.assertEqual(place.scale.x_of(0.0), rise[0])
            self.assertAlmostEqual(place.scale.x_of(middle), end[0])
            self.assertLessEqual(tail[0], place.scale.right)
