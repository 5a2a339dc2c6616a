"""The exchange that findings are told of, and how they are told."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from operator import attrgetter
from typing import Generic, TypeVar

from pivet.decode.interface import Exchanges
from pivet.frozen import FrozenObject, replace
from pivet.judge.finding import Finding
from pivet.judge.judgement import Judgement
from pivet.judge.notices import NoticeBit, raised
from pivet.judge.pulses import Pulse
from pivet.judge.verdict import Verdict
from pivet.signal.uncertainty import at

E = TypeVar("E", bound=Exchanges)
J = TypeVar("J", bound=Judgement)
N = TypeVar("N", bound=NoticeBit)


class Case(FrozenObject, Generic[E, J]):
    """One exchange, as the sentences need it; families add what only they have."""

    exchanges: E
    judged: J
    index: int
    make_pulses: Callable[[], tuple[Pulse, ...]]

    @property
    def pulses(self) -> tuple[Pulse, ...]:
        """Every pulse, in the order on the wire."""
        return self.make_pulses()

    @property
    def bits(self) -> int:
        """Its notices, as bits."""
        return int(self.judged.notices[self.index])

    def has(self, notice: NoticeBit) -> bool:
        """Whether the exchange bears this notice.

        Args:
            notice: the notice of its family.
        """
        return self.bits & int(notice) != 0

    @property
    def uncertain_ns(self) -> int:
        """Uncertainty of its widths, ns."""
        return at(self.judged.resolution_ns, self.index)

    @property
    def start_ns(self) -> int:
        """Start of the exchange, ns."""
        return int(self.exchanges.start_ns[self.index])

    def finding(
        self, notice: NoticeBit, says: str, advice: str, at_ns: int | None = None, *columns: int
    ) -> Finding:
        """A finding of a kind; without a time it is about the whole exchange.

        Args:
            notice: of which it tells.
            says: what is wrong, a sentence.
            advice: what to do, a sentence; may be empty.
            at_ns: where it is seen, ns; None for the whole exchange.
            *columns: of the stack that show it.
        """
        at = self.start_ns if at_ns is None else at_ns
        return Finding(notice.code, notice.weight, says, advice, at, columns)

    def first_words(
        self, notices: Sequence[NoticeBit], words: Mapping[str, str], otherwise: str
    ) -> str:
        """The words for the first of some notices that the exchange bears.

        Args:
            notices: the notices, in the order in which they are asked.
            words: for each notice.
            otherwise: when none of them is there.
        """
        return next((words[notice.code] for notice in notices if self.has(notice)), otherwise)


C = TypeVar("C", bound=Case)  # type: ignore[type-arg]


def findings_of(
    case: C, tellers: Mapping[N, Callable[[C], Iterator[Finding]]]
) -> tuple[Finding, ...]:
    """All findings of an exchange, the gravest first.

    Args:
        case: the exchange.
        tellers: what tells each notice, in the order in which findings of the same weight
            are told.
    """
    bits = case.bits
    if not bits:
        return ()
    found = [
        finding if weight <= finding.weight else replace(finding, weight=weight)
        for weight, tell in _asked(bits, tellers)
        for finding in tell(case)
    ]
    if len(found) > 1:
        found.sort(key=_weight, reverse=True)
    return tuple(found)


_weight = attrgetter("weight")


_ASKED: dict[tuple[int, int], Sequence[tuple[Verdict, Callable[..., Iterator[Finding]]]]] = {}
"""Of a family's tellers, by these and the notices: few combinations come again and again."""


def _asked(
    bits: int, tellers: Mapping[N, Callable[[C], Iterator[Finding]]]
) -> Sequence[tuple[Verdict, Callable[[C], Iterator[Finding]]]]:
    """What tells some notices, and how much each finding weighs at least."""
    key = (id(tellers), bits)
    if key not in _ASKED:
        _ASKED[key] = [
            (raised(bits, notice) if notice.explains & bits else Verdict.SOUND, tell)
            for notice, tell in tellers.items()
            if bits & notice
        ]
    return _ASKED[key]
