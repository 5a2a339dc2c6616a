"""Bytes copied from elsewhere: every type that they could be, and sentences for the rest."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from pivet.bench.by_hand import explain_bytes, explained_lines
from pivet.decode.checks import crc8_of
from pivet.errors import InputError
from pivet.judge.copied import Meaning, read_copied
from pivet.judge.verdict import Verdict
from tests.base import PivetTest

PAD = "a2 00 4b 46 7f ff 0c 10 74"


def first(text: str) -> Meaning:
    """The likeliest meaning."""
    return explain_bytes(text)[0]


class Meanings(PivetTest):
    """What bytes mean."""

    def test_frames(self) -> None:
        """The worked frames of the domain page, as the type that they are of."""
        reading = first("02 8C 01 5F EE")
        self.assertEqual(("22-type (dht22)", "65.2 %RH, 35.1 °C"), (reading.title, reading.says))
        rows = explain_bytes("35 00 18 04 51")
        self.assertEqual("53.0 %RH, 24.4 °C", rows[0].says)
        self.assertIn("1356.8 %RH (impossible)", " ".join(row.says for row in rows))
        self.assertEqual(3, len(rows))

    def test_codes(self) -> None:
        """As bytes, in the other order, and as the kernel writes them."""
        self.assertIn("02-00000001b81c", first("021cb801000000a2").says)
        self.assertIn("28-0000051b2c7d", first("8c 00 00 05 1b 2c 7d 28").says)
        self.assertIn("its CRC is 8c", first("28-0000051B2C7D").says)
        self.assertIn("the CRC is wrong", first("28 7d 2c 1b 05 00 00 8d").says)

    def test_scratchpads(self) -> None:
        """Of the usual form and of family 10; 85; zeros and ones."""
        self.assertEqual("10.125 °C, 12 bit", first(PAD).says)
        half = first("fe ff 4b 46 ff ff 0b 10 e7")
        self.assertEqual(("thermometer of family 10", "-0.9375 °C"), (half.title, half.says))
        self.assertIn("power-on", first("50 05 4b 46 7f ff 0c 10 1c").says)
        self.assertIn("all zeros", first("00 " * 9).says)
        self.assertIn("all ones", first("ff" * 9).says)
        coarse = bytes.fromhex("a7004b461fff0c10")
        said = first((coarse + bytes([crc8_of(coarse)])).hex())
        self.assertEqual("10.0 °C, 9 bit", said.says)

    def test_kernel_lines(self) -> None:
        """Both lines of the kernel's file; a reading or check of it that does not agree."""
        good = f"{PAD} : crc=74 YES\n{PAD} t=10125\n"
        said = "\n".join(explained_lines(explain_bytes(good)))
        self.assertIn("crc=74 YES         the kernel's check, as reckoned here", said)
        self.assertIn("the kernel's reading in 1/1000 °C, the same", said)
        bad = "\n".join(explained_lines(explain_bytes(good.replace("10125", "85000"))))
        self.assertIn("not the same: the bytes give 10125", bad)
        self.assertIn("not what the bytes give", str(explain_bytes(good.replace("YES", "NO"))))


class Written(unittest.TestCase):
    """How bytes can be written."""

    def test_forms(self) -> None:
        """Spaces, commas, 0x, brackets, one word, upper and lower case."""
        wanted = bytes.fromhex("028c015fee")
        for text in (
            "02 8c 01 5f ee",
            "0x02, 0x8C, 0x01, 0x5F, 0xEE",
            "[2, 8c, 1, 5f, ee]",
            "028C015FEE",
            "0x028c015fee",
            "02:8c:01:5f:ee",
            "028c 015f ee",
        ):
            self.assertEqual(wanted, read_copied(text, "").data, text)

    def test_refused(self) -> None:
        """One sentence each."""
        cases = {
            "": "no bytes",
            "02 8c": "has 2 bytes",
            "02 xy": "'xy' is no byte",
            "1234 5": "3 b",
        }
        for text, part in cases.items():
            with self.assertRaises(InputError) as caught:
                explain_bytes(text)
            self.assertIn(part, str(caught.exception))

    @given(st.text(alphabet="0123456789abcdefxX ,:-\nt=crYESNO", max_size=60))
    def test_any_text(self, text: str) -> None:
        """A meaning or a sentence, nothing else."""
        try:
            found = explain_bytes(text)
        except InputError:
            return
        self.assertTrue(list(explained_lines(found)))

    @given(st.binary(min_size=5, max_size=9).filter(lambda data: len(data) in (5, 8, 9)))
    def test_any_bytes(self, data: bytes) -> None:
        """Sound only if the check holds."""
        for row in explain_bytes(data.hex()):
            if row.verdict is not Verdict.UNSOUND:
                self.assertTrue(row.check.ok)


if __name__ == "__main__":
    unittest.main()
