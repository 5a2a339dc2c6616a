"""What sensors say at a moment: a value, or why there is none."""

from pivet.bench.demo import DEMO_ROLES
from pivet.bench.glance import GlanceRow, glimpses
from pivet.captures.wire import Wire
from pivet.person.display import Display
from tests.base import PivetTest
from tests.night import demo_night

SHOWN = Display(roles=DEMO_ROLES)
SAID = (
    ("cave.shelf_A", "92.4 %RH, 12.1 °C", 3591),
    ("cave.wash_room", "78.0 %RH, 14.3 °C", 3464),
    ("cave.wheels, brine", "10.25 °C", 3573),
    ("cave.wheels, 28-00000a41d9b2", "11.31 °C", 3573),
    ("cave.wheels, wheel 2, core", "12.81 °C", 3573),
    ("cave.wheels, wheel 1, core", "12.56 °C", 3574),
    ("cave.wheels, wheel 3, core", "a device has left", 1323),
    ("cave.brine_vat", "0.870 m", 3595),
    ("cave.blast_chiller", "61.0 %RH, -18.0 °C", 3574),
    ("cave.cellar_door", "wrong sensor type chosen", None),
    ("cave.shelf_node", "91.1 %RH, 12.5 °C", 3594),
)


def plain(row: GlanceRow) -> tuple[str, str, int | None]:
    """A row as text, with the whole second of its values."""
    values = ", ".join(f"{value.text} {value.unit}" for value in row.values)
    assert not (values and row.reason)
    return row.name, values or row.reason, None if row.end_ns is None else row.end_ns // 10**9


class Moments(PivetTest):
    """The demo night, whose figures were made up."""

    def wire(self, name: str) -> Wire:
        """A wire by its label."""
        return next(wire for wire in demo_night().wires if wire.label == name)

    def said(self, wire: Wire, silent: dict[str, str], now_s: float | None) -> list[str]:
        """What is said of a wire."""
        now_ns = None if now_s is None else round(now_s * 1e9)
        return [plain(row)[1] for row in glimpses(wire, wire.label, SHOWN, silent, now_ns)]

    def test_every_sensor(self) -> None:
        """Its last values, or why there are none; the first reading of a quantity leads."""
        rows = [
            plain(row)
            for wire in demo_night().wires
            for row in glimpses(wire, wire.label, SHOWN, {})
        ]
        self.assertEqual(list(SAID), rows)
        labels = [row.label for row in glimpses(self.wire("cave.wheels"), "wheels", SHOWN, {})]
        self.assertEqual("brine", labels[0])

    def test_old_values(self) -> None:
        """Three of the usual intervals after a value nothing stands for a new one."""
        vat = self.wire("cave.brine_vat")
        (row,) = glimpses(vat, vat.label, SHOWN, {})
        assert row.end_ns is not None
        last_s = row.end_ns / 1e9
        self.assertEqual(["0.870 m"], self.said(vat, {}, last_s + 29.9))
        self.assertEqual(["nothing comes any more"], self.said(vat, {}, last_s + 30.1))

    def test_silence(self) -> None:
        """What listening says of a device, or of the whole wire, goes before its value."""
        wheels = self.wire("cave.wheels")
        code = "28-00000a41d9b2"
        self.assertEqual("gone", self.said(wheels, {code: "gone"}, None)[1])
        self.assertEqual("10.25 °C", self.said(wheels, {code: "gone"}, None)[0])
        self.assertEqual({"cut"}, {*self.said(wheels, {"": "cut"}, None)})
