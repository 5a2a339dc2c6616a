"""One trigger has one answer: which of the highs after it, and what stood beside."""

import numpy as np
import numpy.typing as npt

from pivet.decode.echo import columns, layout
from pivet.decode.echo.columns import DecodeMark, EchoExchanges
from pivet.decode.echo.joining import Highs
from pivet.decode.interface import ABSENT
from pivet.signal.trace import Int64Array


def in_turn(triggers: Highs, echoes: Highs) -> EchoExchanges:
    """Each trigger with the echo of the same number.

    Args:
        triggers: of m shots.
        echoes: as many, in the same order.
    """
    return columns.made(
        start_ns=triggers.start_ns,
        end_ns=echoes.end_ns,
        trigger_ns=triggers.width_ns,
        rise_ns=echoes.start_ns,
        flight_ns=echoes.width_ns,
        marks=np.zeros(triggers.size, dtype=np.uint8),
    )


def gaps(highs: Highs) -> npt.NDArray[np.uint8]:
    """What gaps that were closed say of echoes, as marks.

    Args:
        highs: those of one line.
    """
    ragged = highs.ragged_ns > layout.RAGGED_NS
    marks: npt.NDArray[np.uint8] = np.where(highs.broken, DecodeMark.BROKEN, 0).astype(np.uint8)
    marks[ragged] = DecodeMark.RAGGED
    marks[highs.width_ns >= layout.STUCK_NS] |= np.uint8(DecodeMark.STUCK)
    return marks


def answers(echoes: Highs, owner: Int64Array) -> tuple[Int64Array, Highs, npt.NDArray[np.uint8]]:
    """The one answer to each trigger that has any.

    Args:
        echoes: the echoes, in order of time.
        owner: number of the trigger that each follows, rising, int64 (e,).

    Returns:
        the triggers, their echoes, and marks that say what stood beside them.
    """
    first = np.flatnonzero(np.diff(owner, prepend=-1) > 0)
    shot = owner[first]
    if first.size == echoes.size:
        return shot, echoes, np.zeros(shot.size, dtype=np.uint8)
    group = np.repeat(np.arange(first.size), np.diff(np.append(first, owner.size)))
    longest = np.maximum.reduceat(echoes.width_ns, first)
    is_longest = np.flatnonzero(echoes.width_ns == longest[group])
    chosen = is_longest[np.diff(group[is_longest], prepend=-1) > 0]
    others = echoes.width_ns.copy()
    others[chosen] = 0
    second = np.maximum.reduceat(others, first)
    stands_out = (second <= layout.STRAY_NS) & (longest >= layout.CLEARLY * second)
    beside = np.where(_touching(echoes, chosen, group), DecodeMark.RAGGED, DecodeMark.STRAYS)
    marks = np.where(second == 0, 0, np.where(stands_out, beside, DecodeMark.SEVERAL))
    mask = np.zeros(echoes.size, dtype=bool)
    mask[chosen] = True
    return shot, echoes.chosen(mask), marks.astype(np.uint8)


def _touching(echoes: Highs, chosen: Int64Array, group: Int64Array) -> npt.NDArray[np.bool_]:
    """Whether other highs stand so near an answer that they may be torn off it, by answer."""
    own_start, own_end = echoes.start_ns[chosen][group], echoes.end_ns[chosen][group]
    apart = np.maximum(own_start - echoes.end_ns, echoes.start_ns - own_end)
    other = np.ones(echoes.size, dtype=bool)
    other[chosen] = False
    near = other & (apart <= layout.TORN_NS)
    found: npt.NDArray[np.bool_] = np.bincount(group[near], minlength=chosen.size) > 0
    return found


def with_alone(found: EchoExchanges, alone: Highs) -> EchoExchanges:
    """Measurements with those echoes that no trigger brought among them, in order of time.

    Args:
        found: measurements that have a trigger.
        alone: echoes that have none.
    """
    none = np.full(alone.size, ABSENT, dtype=np.int64)
    marks = gaps(alone) | np.uint8(DecodeMark.TRIGGER_UNSEEN)
    every = columns.join(
        [
            found,
            columns.made(
                start_ns=alone.start_ns,
                end_ns=alone.end_ns,
                trigger_ns=none,
                rise_ns=alone.start_ns,
                flight_ns=alone.width_ns,
                marks=marks,
            ),
        ]
    )
    return every.pick(np.argsort(every.start_ns, kind="stable"))
