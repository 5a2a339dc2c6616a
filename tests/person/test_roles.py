"""Roles by code, their file, and the devices of a wire."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from pivet.bench.demo import DEMO_ROLES
from pivet.captures.air_sources import air_sources
from pivet.captures.devices import devices_of, shift_of
from pivet.errors import InputError
from pivet.person.roles import Role, Roles
from pivet.person.roles_file import load_roles
from tests.base import PivetTest
from tests.night import demo_night

A, B, C = "28-00000000000a", "28-00000000000b", "28-00000000000c"
codes = st.sampled_from([A, B, C])
steps = st.lists(st.tuples(st.booleans(), codes, codes, st.sampled_from(["", "x", "y"])))


class Names(unittest.TestCase):
    """Naming and replacing."""

    def test_name_rename_take_away(self) -> None:
        """By code; an empty name takes the role away."""
        roles = Roles().named(A, " wheel 1 ")
        self.assertEqual({A: "wheel 1"}, roles.names)
        self.assertEqual({A: "core"}, roles.named(A, "core").names)
        self.assertEqual({}, roles.named(A, "").names)

    def test_replace_and_back(self) -> None:
        """The role goes on with the new device, and back."""
        roles = Roles().named(A, "core").named(B, "spare").replaced(A, B)
        self.assertEqual({A: "core, before", B: "core"}, roles.names)
        self.assertEqual((Role("core", (B, A)),), roles.replaced(B, A).roles)

    @given(steps)
    def test_nobody_holds_two_roles(self, rows: list) -> None:
        """Whatever is done, a device holds one role at most, and roles have names."""
        roles = Roles()
        for replaces, one, other, name in rows:
            roles = roles.replaced(one, other) if replaces else roles.named(one, name)
            held = [role.code for role in roles.roles]
            self.assertEqual(len(held), len(set(held)))
            self.assertTrue(all(role.name for role in roles.roles))


class Files(PivetTest):
    """The file of roles."""

    def test_refused(self) -> None:
        """One sentence each; the test vectors of docs/roles.md among them."""
        cases = {
            "[]": "no file of roles",
            '{"pivet_roles": 2}': "no file of roles of version 1",
            '{"pivet_roles": 1, "roles": [{"name": ""}]}': "without name or codes",
            '{"pivet_roles": 1, "roles": [{"name": "a", "codes": ["28-51B2C7D"]}]}': "'28-51B2C7D'",
            "{": "no JSON",
        }
        path = self.folder / "roles.json"
        for text, part in cases.items():
            path.write_text(text, encoding="utf-8")
            with self.assertRaises(InputError) as caught:
                load_roles(path)
            self.assertIn(part, str(caught.exception))
        self.assertEqual(Roles(), load_roles(self.folder / "none.json"))


class Demo(PivetTest):
    """The devices of the demo night."""

    def test_devices(self) -> None:
        """In search order, the one that left last, since when it is silent."""
        wire = demo_night().wires[2]
        rows = devices_of(wire, DEMO_ROLES)
        self.assertEqual([0, 1, 2, 3, None], [row.order for row in rows])
        self.assertEqual("wheel 3, core", rows[-1].role)
        self.assertEqual(1353, rows[-1].silent_since_ns // 10**9)
        self.assertEqual((120, 1), (rows[0].reads, rows[0].failures))
        self.assertIsNotNone(shift_of(wire))
        self.assertEqual([], devices_of(demo_night().wires[0], DEMO_ROLES))

    def test_history_of_a_role(self) -> None:
        """After a replacement both devices' readings are one track, in order."""
        wire = demo_night().wires[2]
        roles = DEMO_ROLES.replaced("28-01193cf2e5d0", "28-00000a41d9b2")
        track = next(row for row in roles.told(wire.tracks) if row.name == "wheel 3, core")
        parts = [row for row in wire.tracks if row.rom in ("28-01193cf2e5d0", "28-00000a41d9b2")]
        self.assertEqual(sum(row.at.size for row in parts), track.at.size)
        self.assertTrue((track.at[1:] > track.at[:-1]).all())

    def test_air_from_a_probe(self) -> None:
        """Every thermometer of the capture can give the air."""
        capture = demo_night()
        rows = [(wire.label, wire, DEMO_ROLES.told(wire.tracks)) for wire in capture.wires]
        labels = [source.label for source in air_sources(rows)]
        self.assertIn("cave.wheels, brine", labels)
        self.assertIn("cave.shelf_A", labels)
