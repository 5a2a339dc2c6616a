"""Where a person looks on a wire that grows, against a simple account of the same."""

from dataclasses import dataclass, replace
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from pivet.judge.chapter import CHAPTER
from pivet.ui.session.viewpoint import NOWHERE, Moved, Viewpoint
from tests.base import PivetTest

MOST = 2 * CHAPTER


@dataclass(frozen=True)
class Part:
    """As much of a wire as a viewpoint knows of."""

    first: int
    length: int

    def __len__(self) -> int:
        return self.length

    @property
    def end(self) -> int:
        """Number behind the last."""
        return self.first + self.length


steps = st.lists(
    st.tuples(st.just("grow"), st.integers(0, 700))
    | st.tuples(st.just("go"), st.integers(-3, 4000))
    | st.tuples(st.just("step"), st.sampled_from([-1, 1]))
    | st.tuples(st.just("end"), st.just(0)),
    max_size=60,
)


class Account:
    """The number looked at, and whether it is followed; the wire's newest part."""

    def __init__(self, unreadable: bool = False) -> None:
        self.newest = Part(0, 5)
        self.number, self.follows = 4, True
        self.reads: list[int] = []
        self.unreadable = unreadable

    def grow(self, more: int) -> None:
        """More exchanges come; the newest part keeps the last two chapters."""
        end = self.newest.end + more
        first = max(end - MOST, 0)
        self.newest = Part(first, end - first)
        if self.follows:
            self.number = end - 1

    def go(self, number: int) -> None:
        """The person goes to an exchange."""
        self.number = min(max(number, 0), self.newest.end - 1)
        self.follows = self.number == self.newest.end - 1

    def show(self, view: Viewpoint, number: int) -> None:
        """The person goes to a number, which is read when it is out of sight."""
        number = view.within(number)
        view.go(number, None if view.sees(number) else self.read(number))

    def read(self, number: int) -> Any:
        """A part around a number, as a bench file gives it."""
        self.reads.append(number)
        if self.unreadable:
            return None
        first = number // CHAPTER * CHAPTER
        return Part(first, min(first + 2 * CHAPTER, self.newest.end) - first)


class Looking(PivetTest):
    """Whatever comes, and wherever the person goes."""

    @given(steps)
    def test_the_same_exchange(self, taken: list[tuple[str, int]]) -> None:
        """The exchange that the person chose is the one that is shown, until he goes on."""
        account, view = Account(), Viewpoint()
        view.begin(replace(account.newest), at_end=True)  # type: ignore[arg-type]
        for what, value in taken:
            if what == "grow":
                account.grow(value)
                view.grow(replace(account.newest))  # type: ignore[arg-type]
            else:
                number = {"go": value, "step": view.number + value, "end": NOWHERE}[what]
                account.go(number)
                account.show(view, number)
            self.assertEqual(account.number, view.number)
            self.assertEqual(account.follows, view.follows)
            part: Any = view.wire
            self.assertTrue(0 <= view.index < len(part))

    @given(steps)
    def test_judged_as_heard(self, taken: list[tuple[str, int]]) -> None:
        """A part that was read is left as soon as more may be known of the exchange."""
        account, view = Account(), Viewpoint()
        view.begin(replace(account.newest), at_end=True)  # type: ignore[arg-type]
        for what, value in taken:
            if what == "grow":
                account.grow(value)
                view.grow(replace(account.newest))  # type: ignore[arg-type]
            elif what == "go":
                account.show(view, value)
                part: Any = view.part
                if part is not None and view.number < account.newest.first:
                    chapter = view.number // CHAPTER
                    end = min((chapter + 2) * CHAPTER, account.newest.end)
                    self.assertLessEqual(part.first, chapter * CHAPTER)
                    self.assertGreaterEqual(part.end, end)

    def test_steps_need_few_reads(self) -> None:
        """Stepping on and back does not read at each step."""
        account, view = Account(), Viewpoint()
        account.grow(3000)
        view.begin(replace(account.newest), at_end=True)  # type: ignore[arg-type]
        account.show(view, 1500)
        for step in (1,) * 25 + (-1,) * 50:
            account.show(view, view.number + step)
        self.assertEqual(1475, view.number)
        self.assertLessEqual(len(account.reads), 3)

    def test_a_chapter_of_which_more_is_known_is_read_anew(self) -> None:
        """Its second chapter was read for what it says of the first."""
        account, view = Account(), Viewpoint()
        account.grow(3000)
        view.begin(replace(account.newest), at_end=True)  # type: ignore[arg-type]
        first = 5 * CHAPTER
        for number in (first, first, first + CHAPTER - 1, first + CHAPTER, first, first + 7):
            account.show(view, number)
        self.assertEqual([first, first + CHAPTER, first], account.reads)

    def test_unreadable(self) -> None:
        """What cannot be read leaves the person at the oldest that there is."""
        account, view = Account(unreadable=True), Viewpoint()
        account.grow(3000)
        view.begin(replace(account.newest), at_end=True)  # type: ignore[arg-type]
        account.show(view, 7)
        self.assertEqual(account.newest.first, view.number)
        self.assertIsNone(view.part)

    def test_what_growing_did(self) -> None:
        """Told, so that no view is painted for nothing."""
        view = Viewpoint()
        wire: Any = Part(0, 5)
        view.begin(wire, at_end=True)
        self.assertIs(Moved.NOT, view.grow(wire))
        more: Any = Part(0, 9)
        self.assertIs(Moved.ON, view.grow(more))
        view.follows = False
        yet: Any = Part(2, 12)
        self.assertIs(Moved.STAYS, view.grow(yet))
        self.assertEqual(8, view.number)
        far: Any = Part(500, 512)
        self.assertIs(Moved.NOT, view.grow(far))
        self.assertEqual((8, yet), (view.number, view.wire))
