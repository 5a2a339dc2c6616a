"""Numbers out of a buffer, all at once: what ``int`` says of each word alone."""

import unittest

import numpy as np
from hypothesis import example, given
from hypothesis import strategies as st

from pivet.files.tokens import LARGEST, MOST_DIGITS, decimals, split_words, whole_numbers

DIGITS = st.text("0123456789", min_size=1, max_size=MOST_DIGITS + 2)
ODD = st.text("0123456789/:!#aF.-\x7f", min_size=1, max_size=MOST_DIGITS + 2)


class Whole(unittest.TestCase):
    """Eight digits at a time, where so many bytes are there."""

    @given(
        st.lists(st.one_of(DIGITS, ODD), min_size=1, max_size=30),
        st.integers(0, 9),
        st.integers(0, 9),
    )
    @example(["1" * length for length in range(1, MOST_DIGITS + 3)], 0, 0)
    @example(["9" * length for length in range(1, MOST_DIGITS + 3)], 0, 20)
    @example(["0", "00000000", "0000000000000000"], 1, 1)
    @example(["12345678", "123456789", "1234567812345678"], 0, 0)
    def test_as_int(self, words: list[str], ahead: int, behind: int) -> None:
        """Whatever stands before and behind them in the buffer."""
        text = " " * ahead + " ".join(words) + "\n" * behind
        found = split_words(np.frombuffer(text.encode(), dtype=np.uint8))
        values, bad = whole_numbers(found)
        self.assertEqual(len(words), values.size)
        for word, value, wrong in zip(words, values.tolist(), bad.tolist(), strict=True):
            fits = word.isdigit() and len(word) <= MOST_DIGITS
            self.assertEqual(not fits, wrong, word)
            if fits:
                self.assertEqual(int(word), value)

    @given(st.integers(1, MOST_DIGITS), st.data())
    def test_of_one_length(self, length: int, data: st.DataObject) -> None:
        """As neighbours mostly are; one that is none is found among them."""
        letters = st.text("0123456789", min_size=length, max_size=length)
        strange = st.text("0123456789/:!\x7f", min_size=length, max_size=length)
        words = data.draw(st.lists(letters, min_size=1, max_size=9))
        words.append(data.draw(letters | strange))
        found = split_words(np.frombuffer((" ".join(words) + " " * 20).encode(), dtype=np.uint8))
        values, bad = whole_numbers(found)
        wanted = [word.isdigit() for word in words]
        self.assertEqual(wanted, (~bad).tolist())
        self.assertEqual([int(word) for word in words if word.isdigit()], values[wanted].tolist())

    @given(
        st.sampled_from(["", "-", "+"]),
        st.integers(0, 10**15),
        st.text("0123456789", min_size=1, max_size=22),
    )
    @example("-", 0, "9" * 22)
    def test_decimals(self, sign: str, whole: int, part: str) -> None:
        """Exact, as far as they can be held; the rest is cut off."""
        word = f"{sign}{whole}.{part}"
        found = decimals(split_words(np.frombuffer(word.encode(), dtype=np.uint8)), ".")
        self.assertFalse(found.bad[0])
        places = int(found.places[0])
        held = f"{sign}{whole}{part[:places]}"
        self.assertEqual(int(held), int(found.digits[0]))
        self.assertTrue(places == len(part) or abs(int(held)) >= LARGEST)

    def test_none(self) -> None:
        """Nothing gives nothing."""
        for text in (b"", b"   "):
            values, bad = whole_numbers(split_words(np.frombuffer(text, dtype=np.uint8)))
            self.assertEqual((0, 0), (values.size, bad.size))
