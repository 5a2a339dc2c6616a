"""The live cave under orders: each is given, and what is heard of the wires afterwards is kept."""

from collections.abc import Iterator

from pivet.errors import InputError
from pivet.listening import events as ev
from pivet.standin.live.cave import make_cave
from pivet.standin.probe.orders import Mishaps, carry_out
from tests.listening.cave import CaveTest, wire
from tests.pages import Page

PAGE = Page(__file__)
SECONDS = 2.5

ORDERS = """
set shelf_A humidity 70
hand shelf_A
unplug wheel_3
swap wheel_1 wheel_2
clock shelf_A 4
pull-up wash_room weak
noise blast_chiller on
unplug wash_room
brown-out wheels
set brine_vat level 0.4
cold shelf_A
breathe wash_room
plug wash_room
noise blast_chiller off
clock shelf_A 0
plug wheel_3
drop 30
state
"""

WRONG = """
dance
set shelf_A
set shelf_A humidity wet
set shelf_A humidity 101
set brine_vat level 9
clock shelf_A 31
noise shelf_A loud
hand nowhere
swap wheel_1 wheel_9
pull-up wheel_1 weak
drop many
"""


class Cave(CaveTest):
    """Five wires, asked every other second, the wheels more seldom."""

    def heard_now(self, seconds: float) -> Iterator[str]:
        """What is told meanwhile, in a few words; what is told again counts."""
        events = self.passes(seconds)
        told = {(row.wire, row.number): row for row in events if isinstance(row, ev.Heard)}
        for (name, number), row in sorted(told.items()):
            report = row.report()
            values = " ".join(f"{one.text}{one.unit}" for one in report.readings)
            yield f"  {name} {number} {report.data.hex()} {report.headline} {values}".rstrip()

    def lines(self) -> Iterator[str]:
        """The page."""
        self.listen(
            wire("shelf_A", "dht22", 2.0),
            wire("wash_room", "dht11", 2.0),
            wire("blast_chiller", "dht22", 2.0),
            wire("wheels", "onewire", 6.0),
            wire("brine_vat", "hc-sr04", 2.0),
        )
        yield from self.heard_now(SECONDS)
        mishaps = Mishaps()
        for order in ORDERS.strip().splitlines():
            yield f"{order}: {carry_out(order, self.cave, mishaps, self.now_us / 1e6)}"
            self.drop_bytes(mishaps.drop)
            mishaps.drop = 0
            yield from self.heard_now(SECONDS)
        for order in ("crash", "crash 0.5"):
            yield f"{order}: {carry_out(order, self.cave, mishaps, 0.0)} {mishaps.crash_s} s"

    def test_orders(self) -> None:
        PAGE.same(self, self.lines())

    def test_what_makes_no_sense(self) -> None:
        """Each wrong order gets a sentence with what to write, and the cave stays as it is."""
        before = repr(make_cave().places)
        for order in WRONG.strip().splitlines():
            with self.subTest(order), self.assertRaises(InputError) as caught:
                carry_out(order, self.cave, Mishaps(), 0.0)
            self.assertRegex(str(caught.exception), "take|write")
        self.assertEqual(before, repr(self.cave.places))
