"""Bytes become values: the worked examples, and every value there and back."""

import numpy as np

from pivet.readings.forms import byte_names
from pivet.readings.values import quantity
from pivet.sheets.load import all_sheets, find_sheet
from pivet.standin.encode import encode
from tests.base import PivetTest


def values(sheet_id: str, text: str) -> list[float]:
    """The values of one frame given in hex."""
    packed = np.frombuffer(bytes.fromhex(text), dtype=np.uint8)[:, None]
    return [float(quantity(rule, packed).values[0]) for rule in find_sheet(sheet_id).values]


class Worked(PivetTest):
    """Figures that stand in data sheets, not made by our own encoder."""

    def test_examples(self) -> None:
        """The domain's worked frames, and negative temperatures."""
        cases = {
            ("dht22", "028c015fee"): [65.2, 35.1],
            ("dht22", "028c806573"): [65.2, -10.1],
            ("dht22", "039c007615"): [92.4, 11.8],
            ("dht11", "3500180451"): [53.0, 24.4],
            ("dht11", "350018844d"): [53.0, -24.4],
            ("dht11-early", "59000c0065"): [89.0, 12.0],
        }
        for (sheet_id, text), expected in cases.items():
            self.assertEqual(expected, values(sheet_id, text), text)

    def test_an_11_type_read_as_22_type_is_nonsense(self) -> None:
        """53 %RH becomes 1356.8, which is not possible."""
        packed = np.frombuffer(bytes.fromhex("3500180451"), dtype=np.uint8)[:, None]
        row = quantity(find_sheet("dht22").values[0], packed)
        self.assertEqual((1356.8, False), (float(row.values[0]), bool(row.possible[0])))

    def test_tenth_of_more_than_nine_is_no_number(self) -> None:
        """The 11-type's second byte is one decimal."""
        packed = np.array([[50], [11], [20], [0], [81]], dtype=np.uint8)
        self.assertFalse(quantity(find_sheet("dht11").values[0], packed).possible[0])

    def test_early_parts_send_whole_numbers(self) -> None:
        """A decimal cannot come from an early 11-type."""
        packed = np.array([[50], [3], [20], [0], [73]], dtype=np.uint8)
        self.assertFalse(quantity(find_sheet("dht11-early").values[0], packed).possible[0])
        self.assertTrue(quantity(find_sheet("dht11").values[0], packed).possible[0])


class ThereAndBack(PivetTest):
    """Encoder and reader agree on every value that a sensor can send."""

    def test_every_value(self) -> None:
        """All steps of all quantities of all sheets."""
        for sheet in all_sheets().values():
            for number, rule in enumerate(sheet.values):
                with self.subTest(sheet=sheet.id, quantity=rule.quantity):
                    steps = np.arange(
                        round(rule.least / rule.step), round(rule.most / rule.step) + 1
                    )
                    wanted = np.round(steps * rule.step, 3)
                    sent = {row.quantity: np.full(wanted.size, row.low) for row in sheet.values}
                    sent[rule.quantity] = wanted
                    frames = encode(sheet, sent)
                    row = quantity(sheet.values[number], frames.T)
                    np.testing.assert_allclose(wanted, row.values, atol=1e-9)
                    self.assertTrue(row.possible.all())

    def test_names_of_bytes(self) -> None:
        """Each byte is named by what it holds."""
        self.assertEqual(
            (
                "humidity, high",
                "humidity, low",
                "temperature, high",
                "temperature, low",
                "check sum",
            ),
            byte_names(find_sheet("dht22")),
        )
