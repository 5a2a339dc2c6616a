"""Faults that a stand-in can be given."""

from collections.abc import Sequence
from enum import StrEnum
from typing import TypeVar

from pivet.errors import InputError


class Fault(StrEnum):
    """What goes wrong in an exchange, or (the last four) with the sensor or the capture."""

    NO_ANSWER = "no-answer"
    LINE_HELD_LOW = "line-held-low"
    CUT_SHORT = "cut-short"
    EXTRA_PULSES = "extra-pulses"
    SUM_WRONG = "sum-wrong"
    ALL_ZEROS = "all-zeros"
    IMPOSSIBLE_VALUE = "impossible-value"
    OUT_OF_RANGE = "out-of-range"
    SCALE_EDGE = "scale-edge"
    ASK_TOO_SHORT = "ask-too-short"
    LATE_ANSWER = "late-answer"
    PULSE_OUTSIDE = "pulse-outside"
    PULSE_NEAR = "pulse-near"
    SPIKE = "spike"
    TOO_SOON = "too-soon"
    SLOW_CLOCK = "slow-clock"
    FAST_CLOCK = "fast-clock"
    WEAK_PULL_UP = "weak-pull-up"
    WRONG_TYPE = "wrong-type"
    CAPTURE_BEGAN = "capture-began"
    CAPTURE_ENDED = "capture-ended"


OF_THE_CAPTURE = frozenset({Fault.WRONG_TYPE, Fault.CAPTURE_BEGAN, Fault.CAPTURE_ENDED})
"""These concern the whole capture, not one exchange of it."""


F = TypeVar("F", bound=StrEnum)


def parse_fault(text: str, kinds: type[F]) -> tuple[F, int | None]:
    """``sum-wrong`` or ``sum-wrong@3``: a fault, and the only exchange it befalls.

    Args:
        text: as written on the command line.
        kinds: the faults of the family.

    Raises:
        InputError: there is no such fault, or the place is no number.
    """
    name, _, place = text.partition("@")
    known = {str(kind): kind for kind in kinds}
    if name not in known:
        raise InputError(f"there is no fault {name!r}", f"choose one of {', '.join(known)}")
    if not place:
        return known[name], None
    if not place.isdecimal():
        raise InputError(f"{text!r} names no exchange", "write a number after @, from 0")
    return known[name], int(place)


def spread(chosen: Sequence[tuple[F, int | None]], count: int) -> dict[int, tuple[F, ...]]:
    """Faults by exchange; a fault without place hits all."""
    rows: dict[int, tuple[F, ...]] = {}
    for fault, place in chosen:
        for number in range(count) if place is None else (place,):
            if number < count:
                rows[number] = (*rows.get(number, ()), fault)
    return rows
