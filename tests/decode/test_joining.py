"""One trigger has one answer: gaps, strays and pieces of echoes, made by physics of our own."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.decode.echo import DecodeMark
from pivet.families import FAMILIES
from pivet.signal.trace import Level
from tests.base import PivetTest, feed_in_pieces
from tests.physics import truth
from tests.physics.truth import ECHO

SHOTS = 300


class Answers(PivetTest):
    """Annotations distances are right, on two lines and on one."""

    def test_every_damage(self) -> None:
        """What cannot be told is refused; where nothing is the matter, nothing is lost."""
        random = np.random.default_rng(21)
        for lines in (2, 1):
            for name, damage in ECHO.items():
                with self.subTest(name, lines=lines):
                    score = truth.echo_score(name, damage, random, SHOTS, lines)
                    self.assertLessEqual(score.wrong, score.right // 50 if "900" in name else 0)
                    self.assertGreater(score.right, SHOTS // 2)
                    if name in ("clean", "reflections of 3 µs"):
                        self.assertEqual(SHOTS, score.right)


def spans(*rows: tuple[int, int]) -> np.ndarray:
    """Highs (start, width), µs, as edges, ns."""
    pairs = [(start, start + width) for start, width in rows]
    return np.array(pairs, dtype=np.int64).ravel() * 1000


class Pieces(PivetTest):
    """Shots in pieces, one by one and however they are cut into batches."""

    def marks(self, *lines: np.ndarray) -> list[list[int]]:
        """Marks and lengths (µs) of all shots."""
        found = feed_in_pieces(FAMILIES["echo-pulse"], lines, 2 * 10**9, initial=Level.LOW)
        return [found.marks.tolist(), (found.flight_ns // 1000).tolist()]

    def test_shared_line(self) -> None:
        """A short high close to an echo is a piece of it; farther away it is a trigger."""
        for piece, marks, flights in (
            ((900, 50), [DecodeMark.RAGGED], [4000]),
            ((830, 50), [DecodeMark.RAGGED], [4000]),
            ((5100, 50), [DecodeMark.RAGGED], [4000]),
            ((5150, 50), [DecodeMark.RAGGED], [4000]),
            ((5250, 50), [0, 0], [4000, -1]),
        ):
            rows = sorted([(0, 5), (1000, 4000), piece])
            line = spans(*rows, (100_000, 5), (101_000, 3000))
            with self.subTest(piece):
                found = self.marks(line)
                self.assertEqual([*marks, 0], found[0])
                self.assertEqual([*flights, 3000], found[1])

    def test_as_many_but_not_in_turn(self) -> None:
        """As many echoes as triggers, and yet they do not belong together."""
        unseen = int(DecodeMark.TRIGGER_UNSEEN)
        for triggers, echoes, marks, flights in (
            ([(0, 10)], [(80_000, 700)], [0, unseen], [-1, 700]),
            ([(9000, 10)], [(1000, 700)], [unseen, 0], [700, -1]),
            ([(0, 10), (100_000, 10)], [(500, 300), (900, 20)], [DecodeMark.RAGGED, 0], [300, -1]),
            ([(0, 10), (9000, 10)], [(500, 9000), (9900, 20)], [0, DecodeMark.ECHO_UP], [9000, 20]),
        ):
            with self.subTest(echoes):
                self.assertEqual([marks, flights], self.marks(spans(*triggers), spans(*echoes)))

    def test_what_stands_out(self) -> None:
        """The others at most 250 µs long, and half as long: to the microsecond."""
        for beside, echo, mark in (
            (250, 600, DecodeMark.STRAYS),
            (251, 600, DecodeMark.SEVERAL),
            (250, 500, DecodeMark.STRAYS),
            (250, 499, DecodeMark.SEVERAL),
        ):
            echoes = spans((500, echo), (20_000, beside))
            self.assertEqual([[mark], [echo]], self.marks(spans((0, 10)), echoes))
        for away, mark in (
            (249, DecodeMark.RAGGED),
            (250, DecodeMark.RAGGED),
            (251, DecodeMark.STRAYS),
        ):
            for first, width in ((500 - away - 40, 40), (1500 + away, 40)):
                rows = sorted([(500, 1000), (first, width)])
                self.assertEqual([[mark], [1000]], self.marks(spans((0, 10)), spans(*rows)))
        for gap, found in ((25, [DecodeMark.BROKEN, 4025]), (26, [DecodeMark.SEVERAL, 2500])):
            rows = [(500, 1500), (2000 + gap, 2500)]
            self.assertEqual([[row] for row in found], self.marks(spans((0, 10)), spans(*rows)))
        for piece, mark in ((17, DecodeMark.BROKEN), (18, DecodeMark.RAGGED)):
            rows = [(500, piece - 5), (500 + piece, 3000)]
            self.assertEqual([mark], self.marks(spans((0, 10)), spans(*rows))[0])

    def test_stuck(self) -> None:
        """An echo that is up for longer than any sensor keeps it, and triggers while it is."""
        trigger = spans((0, 10), (100_000, 10), (200_000, 10), (900_000, 10))
        echo = spans((500, 700_000), (900_500, 900))
        found = self.marks(trigger, echo)
        stuck, up = int(DecodeMark.STUCK), int(DecodeMark.STUCK | DecodeMark.ECHO_UP)
        self.assertEqual([stuck, up, up, 0], found[0])
        self.assertEqual([700_000, -1, -1, 900], found[1])
        short = self.marks(trigger, spans((500, 290_000), (900_500, 900)))
        self.assertEqual([0, DecodeMark.ECHO_UP, DecodeMark.ECHO_UP, 0], short[0])

    @given(st.data())
    def test_any_cut(self, data: st.DataObject) -> None:
        """Gaps, strays and triggers, cut into batches anywhere: the same shots."""
        random = np.random.default_rng(data.draw(st.integers(0, 1000)))
        rows, at = [], 1000
        for _ in range(6):
            for width in random.choice([4, 12, 40, 200, 300, 900, 5000], random.integers(1, 5)):
                rows.append((at, int(width)))
                at += int(width) + int(random.choice([3, 20, 26, 120, 180, 240, 500, 70_000]))
        line = spans(*rows)
        cuts = tuple(sorted(data.draw(st.lists(st.integers(0, line.size), max_size=6))))
        other = spans(*((start + 40_000, 10) for start, _ in rows[::3]))
        for lines in ((line,), (other, line)):
            end = int(line[-1]) + 100_000_000
            one = feed_in_pieces(FAMILIES["echo-pulse"], lines, end, initial=Level.LOW)
            cut = feed_in_pieces(FAMILIES["echo-pulse"], lines, end, cuts, initial=Level.LOW)
            self.assert_same_exchanges(one, cut)
