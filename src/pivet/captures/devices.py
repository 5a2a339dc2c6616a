"""The devices of a 1-Wire wire: who they are, what they said last, how they are."""

import numpy as np

from pivet.captures.wire import Wire
from pivet.frozen import FrozenValue
from pivet.judge.onewire.judged import JudgedTransactions
from pivet.judge.onewire.notices import Notice
from pivet.judge.verdict import Verdict
from pivet.person.display import PLAIN, Display
from pivet.person.roles import Roles
from pivet.readings.track import Track
from pivet.sheets.onewire import code_text, kind_name

LAST = 8
"""This many reads show how a device is."""


class DeviceRow(FrozenValue):
    """One device.

    Attributes:
        code: in kernel form.
        role: the person's name for it; may be empty.
        kind: what its family is.
        order: number in search order, as firmware counts; None when the last search did not
            find it.
        last: its last reading, as people read it; empty when it gave none.
        reads, failures: how often it was read, and how often in vain.
        verdicts: the verdicts of its last reads.
        silent_since_ns: since when it has not answered; None while it does.
        exchange: number of its last exchange.
    """

    code: str
    role: str
    kind: str
    order: int | None
    last: str
    reads: int
    failures: int
    verdicts: tuple[Verdict, ...]
    silent_since_ns: int | None
    exchange: int


def devices_of(wire: Wire, roles: Roles, shown: Display = PLAIN, name: str = "") -> list[DeviceRow]:
    """The devices of a wire: in search order, those not found last at the end.

    Args:
        wire: the wire of the 1-Wire family.
        roles: the person's names of devices.
        shown: in which units, under which corrections.
        name: short name of the wire, by which its corrections are kept.
    """
    judged = wire.judged
    if not isinstance(judged, JudgedTransactions):
        return []
    tracks = {track.rom: track for track in judged.tracks if track.rom}
    rows = [
        _row(wire, judged, number, tracks.get(code_text(code)), roles, (shown, name))
        for number, code in enumerate(judged.course.codes)
    ]
    return sorted(
        rows, key=lambda device: (device.order is None, device.order or 0, device.exchange)
    )


def _row(
    wire: Wire,
    judged: JudgedTransactions,
    number: int,
    track: Track | None,
    roles: Roles,
    shown: tuple[Display, str],
) -> DeviceRow:
    code = judged.course.codes[number]
    text = code_text(code)
    order = judged.course.order
    meant = np.flatnonzero(judged.course.device == number)
    at = track.at if track is not None else np.empty(0, dtype=np.int64)
    given = np.flatnonzero(track.given) if track is not None else at
    last = ""
    if track is not None and given.size:
        value = float(track.values[given[-1]])
        told = shown[0].value(shown[1], track.quantity, value, track.decimals, track.rom)
        last = f"{told.text} {told.unit}"
    return DeviceRow(
        code=text,
        role=roles.names.get(text, ""),
        kind=kind_name(code & 0xFF),
        order=order.index(code) if code in order else None,
        last=last,
        reads=int(at.size),
        failures=int(at.size - given.size),
        verdicts=tuple(Verdict(int(verdict)) for verdict in judged.verdict[at[-LAST:]]),
        silent_since_ns=_silent_since(wire, judged, at, order, code),
        exchange=int(meant[-1]) if meant.size else 0,
    )


def _silent_since(
    wire: Wire, judged: JudgedTransactions, at: np.ndarray, order: tuple[int, ...], code: int
) -> int | None:
    """Start of the first of the last reads that nobody answered."""
    missing = (judged.notices[at] & np.int64(Notice.ALL_ONES)) != 0
    if missing.size and missing[-1]:
        answered = np.flatnonzero(~missing)
        first = int(answered[-1]) + 1 if answered.size else 0
        return int(wire.exchanges.start_ns[at[first]])
    if not order or code in order:
        return None
    gone = [
        index
        for index, before in judged.course.before.items()
        if code in before and code not in judged.course.found[index]
    ]
    return int(wire.exchanges.start_ns[gone[-1]]) if gone else None


def shift_of(wire: Wire) -> int | None:
    """The last transaction at which the search order shifted; None when it never did.

    Args:
        wire: the wire to look at.
    """
    judged = wire.judged
    if not isinstance(judged, JudgedTransactions):
        return None
    shifted = np.flatnonzero((judged.notices & np.int64(Notice.ORDER_SHIFTED)) != 0)
    return int(shifted[-1]) if shifted.size else None
