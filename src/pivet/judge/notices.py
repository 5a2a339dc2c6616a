"""Notices: one bit a kind of finding, kept as columns; what all families' have in common."""

from collections.abc import Iterable, Mapping, Sequence
from enum import IntFlag
from functools import cache, cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import Exchanges
from pivet.judge.verdict import Verdict

Flags = npt.NDArray[np.int64]


class NoticeBit(IntFlag):
    """Base of each family's notices."""

    @cached_property
    def code(self) -> str:
        """Its name in JSON and in ui/help/findings.md."""
        return str(self._name_).lower().replace("_", "-")

    @cached_property
    def weight(self) -> Verdict:
        """The verdict that this notice alone calls for.

        Raises:
            NotImplementedError: the family gave its notices no weights.
        """
        raise NotImplementedError

    @property
    def explains(self) -> int:
        """Notices, as bits, that are its symptoms: it then weighs as much as they do."""
        return _EXPLAINS[type(self)].get(self, 0)

    @classmethod
    def told(cls) -> "Sequence[NoticeBit]":
        """All of them, causes before their symptoms: the order in which they are told."""
        return _TOLD[cls]


_EXPLAINS: dict[type[NoticeBit], Mapping[NoticeBit, int]] = {}
_TOLD: dict[type[NoticeBit], Sequence[NoticeBit]] = {}


def order(kind: type[NoticeBit], explains: Mapping[Any, int], told: Sequence[NoticeBit]) -> None:
    """Says of a family's notices which explain which, and in which order they are told.

    Args:
        kind: the family's notices.
        explains: the symptoms that each cause brings with it, as bits.
        told: all of them, causes before their symptoms.

    Raises:
        ValueError: a notice is told twice, or never.
    """
    if len(set(told)) != len(kind):
        raise ValueError(f"each notice of {kind.__module__} must be told once")
    _EXPLAINS[kind], _TOLD[kind] = explains, told


def bits_of(kind: type[NoticeBit]) -> dict[str, int]:
    """The bit of each of a family's notices, by code.

    Args:
        kind: the notices of the family.
    """
    return {notice.code: int(notice) for notice in kind}


def raised(bits: int, notice: NoticeBit) -> Verdict:
    """What a notice weighs among others: as much as the gravest of those that it explains.

    Args:
        bits: notices of one exchange.
        notice: one of them.
    """
    symptoms = notice.explains & bits
    if not symptoms:
        return notice.weight
    explained = (cause.weight for cause in type(notice) if cause & symptoms)
    return max(notice.weight, *explained)


@cache
def leading(bits: int, kind: type[NoticeBit]) -> NoticeBit | None:
    """The first cause that some notices name: the one that is told first.

    Args:
        bits: notices of one exchange.
        kind: the notices of its family.
    """
    there = [notice for notice in kind.told() if bits & notice]
    return max(there, key=lambda notice: raised(bits, notice), default=None)


def weigh(
    every: Iterable[NoticeBit],
    unsound: Iterable[NoticeBit],
    unknown: Iterable[NoticeBit],
    near: Iterable[NoticeBit],
) -> dict[NoticeBit, Verdict]:
    """The weight of each of a family's notices; those not named weigh nothing.

    Args:
        every: all of them.
        unsound: those that make an exchange unsound.
        unknown: those that leave open what it is.
        near: those that bring it near a limit.
    """
    return {
        **dict.fromkeys(every, Verdict.SOUND),
        **dict.fromkeys(unsound, Verdict.UNSOUND),
        **dict.fromkeys(unknown, Verdict.UNKNOWN),
        **dict.fromkeys(near, Verdict.NEAR),
    }


def note(notices: Flags, condition: npt.NDArray[np.bool_], notice: NoticeBit) -> None:
    """Adds a notice where a condition holds; hardly any do, and those cost next to nothing.

    Args:
        notices: bits, int64 (n,); are changed.
        condition: bool (n,).
        notice: the notice that is added.
    """
    if condition.any():
        np.bitwise_or(notices, np.int64(notice), out=notices, where=condition)


def noted(*rows: tuple[npt.NDArray[np.bool_], NoticeBit]) -> Flags:
    """Notices for the exchanges of which their conditions hold, int64 (n,).

    Args:
        rows: conditions, bool (n,), each with its notice; one at least.
    """
    notices: Flags = np.zeros(rows[0][0].size, dtype=np.int64)
    for condition, notice in rows:
        note(notices, condition, notice)
    return notices


def spiked(exchanges: Exchanges) -> npt.NDArray[np.bool_]:
    """Whether spikes were taken out of each exchange, bool (n,).

    Args:
        exchanges: decoded, columns of n exchanges.
    """
    starts = exchanges.spike_start_ns
    if not starts.size:
        return np.zeros(len(exchanges), dtype=bool)
    first, last = np.searchsorted(starts, (exchanges.start_ns, exchanges.end_ns))
    found: npt.NDArray[np.bool_] = last > first
    return found


def first_named(bits: int, kind: type[NoticeBit], words: Mapping[str, str]) -> NoticeBit | None:
    """The first cause that some notices name, of those that have words.

    Args:
        bits: notices of one exchange.
        kind: the notices of its family.
        words: for each, by its code; a notice without words is passed over.
    """
    known = sum(int(notice) for notice in kind if notice.code in words)
    return leading(bits & known, kind)


def first_words(bits: int, kind: type[NoticeBit], words: Mapping[str, str]) -> str:
    """A few words for ``first_named``; empty where there is none.

    Args:
        bits: notices of one exchange.
        kind: the notices of its family.
        words: for each, by its code; a notice without words is passed over.
    """
    found = first_named(bits, kind, words)
    return words[found.code] if found is not None else ""


def as_seen(
    notices: Flags, blind: npt.NDArray[np.bool_], unseen: NoticeBit, coarse: NoticeBit
) -> Flags:
    """Notices, without what a capture too coarse for bits cannot know.

    Args:
        notices: bits, int64 (n,).
        blind: exchanges that were captured so coarsely, bool (n,).
        unseen: what only seems so there.
        coarse: what is said instead.
    """
    if not blind.any():
        return notices
    seen: Flags = np.where(blind, notices & ~np.int64(unseen), notices)
    note(seen, blind, coarse)
    return seen


def mask_of(weights: Mapping[NoticeBit, Verdict], verdict: Verdict) -> int:
    """All notices that call for this verdict, as bits.

    Args:
        weights: the weights of each notice.
        verdict: the verdict that is asked for.
    """
    return sum(int(notice) for notice, weight in weights.items() if weight is verdict)


def verdicts_of(notices: Flags, weights: Mapping[NoticeBit, Verdict]) -> npt.NDArray[np.uint8]:
    """The worst verdict that the notices of each exchange call for, uint8 (n,).

    Args:
        notices: the notices of each exchange, int64 (n,).
        weights: the weights of each notice.
    """
    verdict = np.zeros(notices.size, dtype=np.uint8)
    there = int(np.bitwise_or.reduce(notices))
    for level in (Verdict.NEAR, Verdict.UNKNOWN, Verdict.UNSOUND):
        mask = mask_of(weights, level)
        if there & mask:
            verdict[(notices & np.int64(mask)) != 0] = level
    return verdict
