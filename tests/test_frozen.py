"""What stays as it is, and how another is made of it."""

import unittest

import numpy as np

from pivet.decode.onewire import OneWireDecoder
from pivet.frozen import FrozenObject, FrozenValue, replace
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level, Line


class Named(FrozenValue):
    """With a default."""

    name: str
    number: int = 0


class Held(FrozenObject):
    """With an array."""

    values: np.ndarray


class Frozen(unittest.TestCase):
    """Both kinds."""

    def test_equal(self) -> None:
        """By their fields; with arrays only to themselves."""
        self.assertEqual(Named("a", 1), Named("a", 1))
        self.assertEqual(hash(Named("a")), hash(Named("a", 0)))
        self.assertNotEqual(Named("a"), Named("a", 2))
        one = Held(np.zeros(3))
        self.assertNotEqual(one, Held(one.values))
        self.assertEqual({one: 1}[one], 1)

    def test_nothing_changes(self) -> None:
        """Another is made instead, of fields that there are."""
        one = Named("a", 1)
        with self.assertRaises(AttributeError):
            one.number = 2  # type: ignore[misc]
        self.assertEqual((Named("a", 2), Named("a", 1)), (replace(one, number=2), one))
        with self.assertRaises(TypeError):
            replace(one, colour="red")

    def test_made_anew(self) -> None:
        """What is checked, or worked out of the fields, is so again."""
        window = find_sheet("dht22").windows["zero_high"]
        with self.assertRaisesRegex(ValueError, "must have 0 < min"):
            replace(window, min_us=0.0)
        line = replace(Line("x", Level.LOW, np.array([1, 2])), edges_ns=np.array([3, 4]))
        self.assertFalse(line.edges_ns.flags.writeable)
        decoder = OneWireDecoder((Level.HIGH,), 0)
        none = decoder.finish()
        self.assertEqual(0, none.rows(0, 0).first_slot.size)
        more = replace(none, slot_count=np.array([8, 5]))
        self.assertEqual((slice(0, 8), slice(8, 13)), (more.slots_of(0), more.slots_of(1)))
