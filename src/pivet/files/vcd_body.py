"""The value changes of a VCD file, all words of a slab at once."""

from dataclasses import dataclass, field

import numpy as np

from pivet.errors import InputError
from pivet.files.tokens import (
    MOST_DIGITS,
    SPACE,
    ByteArray,
    IntArray,
    Words,
    split_words,
    whole_numbers,
)
from pivet.files.vcd_header import Header
from pivet.files.vcd_plain import plain_lines
from pivet.frozen import FrozenObject
from pivet.progress import Progress
from pivet.signal.trace import BoolArray

SLAB = 2 << 20
LONGEST_WORD = 1 << 20
CODE_BYTES = 8

LOW, HIGH, UNDEFINED, FLOATING = range(4)

VALUES = np.full(256, 255, dtype=np.uint8)
for _letters, _value in (("0lL", LOW), ("1hH", HIGH), ("xXuUwW-", UNDEFINED), ("zZ", FLOATING)):
    VALUES[list(_letters.encode())] = _value
VECTORS = np.zeros(256, dtype=bool)
VECTORS[list(b"bBrRsS")] = True
KEYWORDS = frozenset(
    [
        *("$comment", "$end", "$dumpall", "$dumpoff", "$dumpon", "$dumpvars"),
        *("$dumpports", "$dumpportsall", "$dumpportsoff", "$dumpportson", "$vcdclose"),
    ]
)
"""Of value changes, the second row of the extended form."""


class Changes(FrozenObject):
    """Value changes of one-bit signals, in the order of the file.

    Attributes:
        signal: index into ``Header.signals``, int32 (n,).
        stamp: time stamp in steps of the time scale, int64 (n,); -1 before the first.
        value: LOW, HIGH, UNDEFINED or FLOATING, uint8 (n,).
    """

    signal: np.ndarray[tuple[int], np.dtype[np.int32]]
    stamp: IntArray
    value: ByteArray


@dataclass(slots=True)
class Body:
    """What the value changes of a file hold.

    Attributes:
        changes: slab by slab.
        first_stamp, last_stamp: of the file, in steps; None without any.
        off: stamps at which recording was switched off and on again (None: not again).
        notes: what had to be passed over.
    """

    changes: list[Changes]
    first_stamp: int | None = None
    last_stamp: int | None = None
    off: list[tuple[int, int | None]] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


class BodyReader:
    """Reads the value changes slab by slab.

    Args:
        content: the whole file.
        header: its declarations.
        where: its name, for messages.
    """

    def __init__(self, content: bytes, header: Header, where: str) -> None:
        self._bytes = np.frombuffer(content, dtype=np.uint8)
        self._header = header
        self._where = where
        self._codes = _CodeTable(header)
        self._in_comment = False
        self._vector_open = False
        self._body = Body([])

    def read(self, progress: Progress) -> Body:
        """Reads all changes.

        Args:
            progress: called with the share done, 0 to 1.

        Raises:
            InputError: a word is no value change, names no signal, or time goes back.
        """
        at, size = self._header.body, self._bytes.size
        while at < size and self._bytes[at] <= SPACE:
            at += 1
        while at < size:
            end = self._slab_end(at)
            self._slab(at, end)
            at = end
            progress(at / size)
        if self._vector_open:
            self._body.notes.append("it ends in the middle of a value: read up to there")
        return self._body

    def _slab_end(self, at: int) -> int:
        end = at + SLAB
        if end >= self._bytes.size:
            return int(self._bytes.size)
        gap = np.flatnonzero(self._bytes[at + SLAB - LONGEST_WORD : end] <= SPACE)
        if not gap.size:
            raise self._fault(end, "a word of over a million characters", "export it again")
        return at + SLAB - LONGEST_WORD + int(gap[-1]) + 1

    def _slab(self, start: int, end: int) -> None:
        if not self._plain(self._bytes[start:end]):
            self._by_words(start, end)

    def _plain(self, slab: ByteArray) -> bool:
        """Reads a slab of plain lines; False, and nothing is changed, when it is another."""
        if self._in_comment or self._vector_open or not self._codes.are_letters:
            return False
        plain = plain_lines(slab)
        if plain is None:
            return False
        value, signal = VALUES[plain.value], self._codes.of_letters(plain.code)
        before = -1 if self._body.last_stamp is None else self._body.last_stamp
        stamps = np.concatenate(([before], plain.stamps))
        undeclared = (signal == _CodeTable.UNDECLARED).any()
        if undeclared or (value == 255).any() or (stamps[1:] < stamps[:-1]).any():
            return False
        if self._body.first_stamp is None:
            self._body.first_stamp = int(stamps[1])
        self._body.last_stamp = int(stamps[-1])
        found = Changes(signal, stamps[plain.stamped], value)
        if self._codes.has_others:
            wanted = signal >= 0
            found = Changes(signal[wanted], found.stamp[wanted], value[wanted])
        self._body.changes.append(found)
        return True

    def _by_words(self, start: int, end: int) -> None:
        words = split_words(self._bytes[start:end])
        if not words.starts.size:
            return
        skip = self._comments(words)
        if skip is not None:
            words = Words(words.buffer, words.starts[~skip], words.lengths[~skip])
            if not words.starts.size:
                return
        first = words.character(0)
        vector, identifier = self._vectors(first)
        is_time = (first == ord("#")) & ~identifier
        value = VALUES[first]
        is_scalar = (value != 255) & ~identifier & ~vector
        is_keyword = (first == ord("$")) & ~identifier
        known = is_time | is_scalar | is_keyword | vector | identifier
        ends_cut = end == self._bytes.size and self._bytes[-1] > SPACE
        if ends_cut and self._is_broken(words, is_time, is_scalar, vector | identifier):
            self._body.notes.append("its last line is not ended and was passed over")
            for kind in (is_time, is_scalar, is_keyword):
                kind[-1] = False
            known[-1] = True
        strange = np.flatnonzero(~known)
        if strange.size:
            at = int(strange[0])
            raise self._fault(
                start + int(words.starts[at]),
                f"{words.text(at)[:40]!r}, which is no value change",
                "export the capture again",
            )
        stamps = self._stamps(words, is_time, start)
        self._switches(words, is_keyword, stamps, start)
        self._collect(words, is_scalar, vector, identifier, value, stamps, start)

    def _comments(self, words: Words) -> BoolArray | None:
        """Which words are comment; None when there is none.  Comments may span slabs."""
        marks = np.flatnonzero((words.character(0) == ord("$")) & (words.lengths >= 4))
        if not marks.size and not self._in_comment:
            return None
        texts = [(int(mark), words.text(int(mark))) for mark in marks]
        if not self._in_comment and all(text != "$comment" for _, text in texts):
            return None
        skip = np.zeros(words.starts.size, dtype=bool)
        since = 0
        for mark, text in texts:
            if not self._in_comment and text == "$comment":
                self._in_comment, since = True, mark
            elif self._in_comment and text == "$end":
                self._in_comment = False
                skip[since : mark + 1] = True
        if self._in_comment:
            skip[since:] = True
        return skip

    def _vectors(self, first: ByteArray) -> tuple[BoolArray, BoolArray]:
        """Which words are vector or real values, and which are the codes after them."""
        looks = VECTORS[first]
        if self._vector_open:
            looks[0] = False
        numbers = np.arange(first.size)
        before_run = np.maximum.accumulate(np.where(looks, -1, numbers))
        vector = looks & ((numbers - before_run) % 2 == 1)
        identifier = np.empty(first.size, dtype=bool)
        identifier[0] = self._vector_open
        identifier[1:] = vector[:-1]
        self._vector_open = bool(vector[-1])
        return vector, identifier

    def _is_broken(
        self, words: Words, is_time: BoolArray, is_scalar: BoolArray, of_vector: BoolArray
    ) -> bool:
        """Whether the very last word, not ended by white space, was cut off in its middle."""
        text = words.text(words.starts.size - 1)
        if is_time[-1]:
            before = np.flatnonzero(is_time[:-1])
            said = words.text(int(before[-1]))[1:] if before.size else str(self._body.last_stamp)
            readable = text[1:].isdecimal() and len(text) <= MOST_DIGITS
            return not readable or (_is_short_number(said) and int(text[1:]) < int(said))
        if is_scalar[-1]:
            return not self._codes.knows(text[1:].encode())
        return not of_vector[-1] and text not in KEYWORDS

    def _stamps(self, words: Words, is_time: BoolArray, start: int) -> IntArray:
        """Time stamp that holds at each word, int64; -1 before the first of the file."""
        at = np.flatnonzero(is_time)
        before = -1 if self._body.last_stamp is None else self._body.last_stamp
        if not at.size:
            return np.full(is_time.size, before, dtype=np.int64)
        numbers = Words(words.buffer, words.starts[at] + 1, words.lengths[at] - 1)
        stamps, bad = whole_numbers(numbers)
        if bad.any():
            wrong = int(at[np.flatnonzero(bad)[0]])
            raise self._fault(
                start + int(words.starts[wrong]),
                f"{words.text(wrong)[:40]!r}, which is no time stamp",
                "export the capture again",
            )
        back = np.flatnonzero(np.diff(stamps, prepend=before) < 0)
        if back.size:
            wrong = int(at[back[0]])
            raise self._fault(
                start + int(words.starts[wrong]),
                f"time stamp {words.text(wrong)[:40]}, which is earlier than the one before",
                "sort or export the capture again",
            )
        if self._body.first_stamp is None:
            self._body.first_stamp = int(stamps[0])
        self._body.last_stamp = int(stamps[-1])
        return np.concatenate(([before], stamps))[np.cumsum(is_time)]

    def _switches(self, words: Words, is_keyword: BoolArray, stamps: IntArray, start: int) -> None:
        """Notes where recording was switched off and on."""
        for at in np.flatnonzero(is_keyword):
            text = words.text(int(at))
            if text not in KEYWORDS:
                raise self._fault(
                    start + int(words.starts[at]),
                    f"{text[:40]!r}, which is no keyword",
                    "export the capture again",
                )
            off = self._body.off
            if text == "$dumpoff":
                off.append((int(stamps[at]), None))
            elif text == "$dumpon" and off and off[-1][1] is None:
                off[-1] = (off[-1][0], int(stamps[at]))

    def _collect(
        self,
        words: Words,
        is_scalar: BoolArray,
        vector: BoolArray,
        identifier: BoolArray,
        value: ByteArray,
        stamps: IntArray,
        start: int,
    ) -> None:
        one_bit = np.flatnonzero(vector[:-1] & (words.lengths[:-1] == 2))
        scalar = np.flatnonzero(is_scalar)
        signals = self._codes.find(words, scalar, 1)
        lost = np.flatnonzero(signals == _CodeTable.UNDECLARED)
        if lost.size:
            at = int(scalar[lost[0]])
            raise self._fault(
                start + int(words.starts[at]),
                f"a change of {words.text(at)[1:40]!r}, which was never declared",
                "export the capture again",
            )
        values = value[scalar]
        if one_bit.size:
            signals = np.concatenate((signals, self._codes.find(words, one_bit + 1, 0)))
            values = np.concatenate((values, VALUES[words.character(1)[one_bit]]))
            places = np.concatenate((scalar, one_bit))
            order = np.argsort(places, kind="stable")
            scalar, signals, values = places[order], signals[order], values[order]
        wanted = (signals >= 0) & (values != 255)
        self._body.changes.append(Changes(signals[wanted], stamps[scalar[wanted]], values[wanted]))

    def _fault(self, offset: int, what: str, todo: str) -> InputError:
        line = int(np.count_nonzero(self._bytes[:offset] == 10)) + 1
        return InputError(f"{self._where}, line {line}, has {what}", todo)


def _is_short_number(text: str) -> bool:
    return text.isdecimal() and len(text) <= MOST_DIGITS


class _CodeTable:
    """Identifier codes -> signal numbers.

    Attributes:
        are_letters: every code is a single one.
        has_others: codes of vectors and the like are among them.
    """

    OTHER = -1
    UNDECLARED = -2

    def __init__(self, header: Header) -> None:
        entries = {signal.code: number for number, signal in enumerate(header.signals)}
        entries |= {code: self.OTHER for code in header.other_codes if code not in entries}
        self._entries = entries
        self._long = any(len(code) > CODE_BYTES for code in entries)
        packed = {int.from_bytes(code[:CODE_BYTES], "little"): n for code, n in entries.items()}
        self.are_letters = all(len(code) == 1 for code in entries)
        self.has_others = self.OTHER in entries.values()
        self._letters = np.full(256, self.UNDECLARED, dtype=np.int32)
        for code, number in entries.items() if self.are_letters else ():
            self._letters[code[0]] = number
        self._keys = np.array(sorted(packed), dtype=np.uint64)
        self._numbers = np.array([packed[key] for key in sorted(packed)], dtype=np.int32)

    def knows(self, code: bytes) -> bool:
        """Whether a code was declared."""
        return code in self._entries

    def of_letters(self, letters: ByteArray) -> np.ndarray[tuple[int], np.dtype[np.int32]]:
        """Signal numbers of codes that are single letters."""
        return self._letters[letters]

    def find(
        self, words: Words, at: IntArray, skip: int
    ) -> np.ndarray[tuple[int], np.dtype[np.int32]]:
        """Signal number of the code in each of the words ``at``, after ``skip`` characters."""
        chosen = Words(words.buffer, words.starts[at] + skip, words.lengths[at] - skip)
        if self._long:
            codes = (chosen.text(number).encode() for number in range(at.size))
            found = [self._entries.get(code, self.UNDECLARED) for code in codes]
            return np.array(found, dtype=np.int32)
        keys = np.zeros(at.size, dtype=np.uint64)
        longest = int(chosen.lengths.max(initial=0))
        for place in range(min(longest, CODE_BYTES)):
            character = chosen.character(place).astype(np.uint64)
            there = chosen.lengths > place
            keys |= np.where(there, character << np.uint64(8 * place), np.uint64(0))
        spot = np.minimum(np.searchsorted(self._keys, keys), self._keys.size - 1)
        known = (self._keys[spot] == keys) & (chosen.lengths > 0)
        known &= chosen.lengths <= CODE_BYTES
        return np.where(known, self._numbers[spot], np.int32(self.UNDECLARED))
