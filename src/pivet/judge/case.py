"""The exchange that findings are told of, and how they are told."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Generic, TypeVar

from pivet.decode.interface import Exchanges
from pivet.judge.finding import Finding
from pivet.judge.judgement import Judgement
from pivet.judge.notices import NoticeBit, raised
from pivet.judge.pulses import Pulse
from pivet.signal.uncertainty import at

E = TypeVar("E", bound=Exchanges)
J = TypeVar("J", bound=Judgement)
N = TypeVar("N", bound=NoticeBit)


@dataclass(frozen=True, slots=True)
class Case(Generic[E, J]):
    """One exchange, as the sentences need it; families add what only they have."""

    exchanges: E
    judged: J
    index: int
    pulses: tuple[Pulse, ...]

    def has(self, notice: NoticeBit) -> bool:
        """Whether the exchange bears this notice."""
        return bool(self.judged.notices[self.index] & notice)

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
            notices: in the order in which they are asked.
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
    bits = int(case.judged.notices[case.index])
    found = [
        replace(finding, weight=max(finding.weight, raised(bits, notice)))
        if notice.explains & bits
        else finding
        for notice, tell in tellers.items()
        if case.has(notice)
        for finding in tell(case)
    ]
    return tuple(sorted(found, key=lambda finding: -finding.weight))
