"""Notices: one bit a kind of finding, kept as columns; what all families' have in common."""

from collections.abc import Iterable, Mapping
from enum import IntFlag

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import Exchanges
from pivet.judge.verdict import Verdict

Flags = npt.NDArray[np.uint32]


class NoticeBit(IntFlag):
    """Base of each family's notices."""

    @property
    def code(self) -> str:
        """Its name in JSON and in ui/help/findings.md."""
        return str(self.name).lower().replace("_", "-")

    @property
    def weight(self) -> Verdict:
        """The verdict that this notice alone calls for."""
        raise NotImplementedError


def weigh(
    every: Iterable[NoticeBit],
    unsound: Iterable[NoticeBit],
    unknown: Iterable[NoticeBit],
    near: Iterable[NoticeBit],
) -> dict[NoticeBit, Verdict]:
    """The weight of each of a family's notices; those not named weigh nothing."""
    return {
        **dict.fromkeys(every, Verdict.SOUND),
        **dict.fromkeys(unsound, Verdict.UNSOUND),
        **dict.fromkeys(unknown, Verdict.UNKNOWN),
        **dict.fromkeys(near, Verdict.NEAR),
    }


def flag(condition: npt.NDArray[np.bool_], notice: NoticeBit) -> Flags:
    """A notice for the exchanges of which a condition holds, uint32 (n,)."""
    return condition.astype(np.uint32) * np.uint32(notice)


def spiked(exchanges: Exchanges) -> npt.NDArray[np.bool_]:
    """Whether spikes were taken out of each exchange, bool (n,)."""
    starts = exchanges.spike_start_ns
    if not starts.size:
        return np.zeros(len(exchanges), dtype=bool)
    first, last = np.searchsorted(starts, (exchanges.start_ns, exchanges.end_ns))
    found: npt.NDArray[np.bool_] = last > first
    return found


def first_words(bits: int, kind: type[NoticeBit], words: Mapping[str, str]) -> str:
    """A few words for the gravest of some notices; of equals for the first."""
    found = [notice for notice in kind if bits & notice and notice.code in words]
    worst = max((notice.weight for notice in found), default=None)
    return next((words[row.code] for row in found if row.weight is worst), "")


def mask_of(weights: Mapping[NoticeBit, Verdict], verdict: Verdict) -> int:
    """All notices that call for this verdict, as bits."""
    return sum(int(notice) for notice, weight in weights.items() if weight is verdict)


def verdicts_of(notices: Flags, weights: Mapping[NoticeBit, Verdict]) -> npt.NDArray[np.uint8]:
    """The worst verdict that the notices of each exchange call for, uint8 (n,)."""
    verdict = np.zeros(notices.size, dtype=np.uint8)
    for level in (Verdict.NEAR, Verdict.UNKNOWN, Verdict.UNSOUND):
        verdict[(notices & np.uint32(mask_of(weights, level))) != 0] = level
    return verdict
