"""Bytes copied from elsewhere: every type that they could be, and sentences for the rest."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from pivet.bench.by_hand import explain_bytes, explained_lines
from pivet.decode.checks import crc8_of
from pivet.errors import InputError
from pivet.judge.copied import Meaning, read_copied
from pivet.judge.verdict import Verdict
from pivet.sheets.load import find_sheet
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

    def test_ranges_of_frames(self) -> None:
        """What the sensor promises, what it may send, and what it cannot: each told so."""
        sheet = find_sheet("dht22")
        for humidity, words, verdict in (
            (0, "0.0 %RH", Verdict.SOUND),
            (1000, "100.0 %RH", Verdict.SOUND),
            (1001, "100.1 %RH (impossible)", Verdict.UNSOUND),
        ):
            body = bytes((humidity >> 8, humidity & 0xFF, 0, 123))
            data = body + bytes([sum(body) & 0xFF])
            row = next(row for row in explain_bytes(data.hex()) if sheet.id in row.title)
            self.assertEqual((f"{words}, 12.3 °C", verdict), (row.says, row.verdict))
        for celsius, words, verdict in (
            (800, "80.0 °C", Verdict.SOUND),
            (0x8000 | 400, "-40.0 °C", Verdict.SOUND),
            (0x8000 | 405, "-40.5 °C", None),
        ):
            body = bytes((1, 244, celsius >> 8, celsius & 0xFF))
            data = body + bytes([sum(body) & 0xFF])
            row = next(row for row in explain_bytes(data.hex()) if sheet.id in row.title)
            self.assertIn(f"50.0 %RH, {words}", row.says)
            if verdict is not None:
                self.assertEqual(verdict, row.verdict)
            else:
                self.assertNotEqual(Verdict.SOUND, row.verdict)
                self.assertTrue(row.says.endswith(")"))
        self.assertEqual(Verdict.UNSOUND, first("00 00 00 00 00").verdict)
        self.assertIn("nothing was sent", first("00 00 00 00 00").says)
        said = " ".join(row.says for row in explain_bytes("02 8C 01 5F EF"))
        self.assertIn("the sum is wrong; it would say 65.2 %RH, 35.1 °C", said)

    def test_codes(self) -> None:
        """As bytes, in the other order, and as the kernel writes them."""
        self.assertIn("02-00000001b81c", first("021cb801000000a2").says)
        self.assertIn("28-0000051b2c7d", first("8c 00 00 05 1b 2c 7d 28").says)
        self.assertIn("its CRC is 8c", first("28-0000051B2C7D").says)
        self.assertIn("the CRC is wrong", first("28 7d 2c 1b 05 00 00 8d").says)
        # What a family is stands beside the code, of whatever serial number.
        for family, name in (
            (0x28, "thermometer, 9 to 12 bit"),
            (0x05, "switch"),
            (0x1D, "counter"),
        ):
            for serial in (0x01, 0x28, 0x05):
                body = bytes((family, serial, 0, 0, 0, 0, 9))
                says = first((body + bytes([crc8_of(body)])).hex()).says
                self.assertTrue(says.partition(", ")[2].startswith(name), says)

    def test_what_the_kernel_says_beside(self) -> None:
        """Its reading may differ by the last digit, no more; its check must be the same."""
        for kernel_t, same in (
            (10124, True),
            (10125, True),
            (10126, True),
            (10127, False),
            (10123, False),
        ):
            text = f"{PAD} : crc=74 YES\n{PAD} t={kernel_t}"
            rows = dict(first(text).rows)
            self.assertEqual(same, rows[f"t={kernel_t}"].endswith("the same"), kernel_t)
            self.assertIn("as worked out here", rows["crc=74 YES"])
        wrong = dict(first(f"{PAD} : crc=75 NO\n{PAD} t=10125").rows)
        self.assertIn("not what the bytes give", wrong["crc=75 NO"])

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

    def test_ranges_of_scratchpads(self) -> None:
        """What such a thermometer can measure, ends included; family 10 with count per degree."""
        for celsius, possible in ((125, True), (126, False), (-55, True), (-56, False)):
            pad = (celsius * 16).to_bytes(2, "little", signed=True) + bytes.fromhex("4b467fff0c10")
            row = next(
                row
                for row in explain_bytes((pad + bytes([crc8_of(pad)])).hex())
                if "family 10" not in row.title
            )
            self.assertEqual(possible, row.verdict is Verdict.SOUND, celsius)
            self.assertEqual(possible, "cannot come" not in row.says)
        for per, possible in ((0x10, True), (0, False)):
            pad = bytes((0x32, 0, 0x4B, 0x46, 0xFF, 0xFF, 0x0C, per))
            row = next(
                row
                for row in explain_bytes((pad + bytes([crc8_of(pad)])).hex())
                if "family 10" in row.title
            )
            self.assertEqual(possible, "cannot come" not in row.says)

    def test_codes_in_the_other_order(self) -> None:
        """Only where they check that way, and not this way; zeros check either way."""
        code = bytes.fromhex("287d2c1b0500008c")
        self.assertEqual(0, crc8_of(code))
        titles = [row.title for row in explain_bytes(code.hex())]
        self.assertEqual(["ROM code"], titles)
        titles = [row.title for row in explain_bytes(code[::-1].hex())]
        self.assertEqual({"ROM code", "ROM code, bytes in the other order"}, set(titles))
        spoiled = bytes((code[0], *code[1:7], code[7] ^ 1))
        for data, says in (
            (spoiled, "the CRC is wrong"),
            (spoiled[::-1], "the CRC is wrong"),
            (bytes(8), "all zeros"),
            (b"\xff" * 8, "all ones"),
        ):
            (row,) = explain_bytes(data.hex())
            self.assertEqual(("ROM code", Verdict.UNSOUND), (row.title, row.verdict))
            self.assertIn(says, row.says)

    def test_kernel_lines(self) -> None:
        """Both lines of the kernel's file; a reading or check of it that does not agree."""
        good = f"{PAD} : crc=74 YES\n{PAD} t=10125\n"
        said = "\n".join(explained_lines(explain_bytes(good)))
        self.assertIn("crc=74 YES         the kernel's check, as worked out here", said)
        self.assertIn("the kernel's reading in 1/1000 °C, the same", said)
        bad = "\n".join(explained_lines(explain_bytes(good.replace("10125", "85000"))))
        self.assertIn("not the same: the bytes give 10125", bad)
        self.assertIn("not what the bytes give", str(explain_bytes(good.replace("YES", "NO"))))

    def test_one_kernel_line(self) -> None:
        """Either of the two lines alone tells what it tells."""
        for text, said, not_said in (
            (f"{PAD} : crc=74 YES", "crc=74 YES", "t="),
            (f"{PAD} t=10125", "t=10125", "crc="),
        ):
            (row, *_) = explain_bytes(text)
            parts = " ".join(part for part, _ in row.rows)
            self.assertEqual("10.125 °C, 12 bit", row.says)
            self.assertIn(said, parts)
            self.assertNotIn(not_said, parts)


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
