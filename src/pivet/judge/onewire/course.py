"""The course of a line: who is meant, what was converted, who left or joined.

A loop over transactions, not over edges: each looks at what the ones before left behind.
"""

import copy
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from pivet.decode.onewire import OneWireExchanges
from pivet.frozen import FrozenObject
from pivet.judge.chapter import hindsight
from pivet.judge.margins import HOST_SLACK
from pivet.judge.onewire.bus import EVERY, NOBODY, Bus, Device
from pivet.judge.onewire.notices import Notice
from pivet.judge.onewire.rounds import Rounds
from pivet.judge.onewire.scratchpads import Scratchpads, rom_holds
from pivet.sheets.onewire import CONVERSION_US, MATCHES, POWER_ON_C, SEARCHES, Function, Rom
from pivet.signal.trace import Int64Array

POWER_ON_RESERVED = 0x0C
"""Byte 6 at power-on; after a conversion of 85 °C it is 10, in parts in which it moves."""

USUAL_STEP_C = 10.0
"""A device that was so near 85 °C before may well have measured it."""


HALF_DUE_NS = round(CONVERSION_US[12] * 1000)
"""Parts that give half degrees take so long for all of them."""


class Course(FrozenObject):
    """What the course of n transactions tells.

    Attributes:
        notices: ``Notice`` bits, int64 (n,).
        device: number of the device that is meant, ``EVERY`` or ``NOBODY``, int32 (n,).
        since_ns: from the start of the conversion to the read, int64 (n,); -1 for none.
        due_ns: how long that conversion takes, int64 (n,); -1 when nothing was read.
        found: codes that a search found so far in its round, by transaction.
        before: codes of the round before, for the last pass of a round, by transaction.
        codes: the codes of the devices, by number.
        order: codes in search order, as the last whole round found them.
        probable: number of the known device that a wrong code probably was, by transaction.
        parasite: the device that is meant lives on the power of the line, bool (n,).
        known: how many devices were known when a transaction was over, int32 (n,).
        known_later: the same with hindsight, int32 (n,).
    """

    notices: npt.NDArray[np.int64]
    device: npt.NDArray[np.int32]
    since_ns: Int64Array
    due_ns: Int64Array
    found: dict[int, tuple[int, ...]]
    before: dict[int, tuple[int, ...]]
    codes: tuple[int, ...]
    order: tuple[int, ...]
    probable: dict[int, int]
    parasite: npt.NDArray[np.bool_]
    known: npt.NDArray[np.int32]
    known_later: npt.NDArray[np.int32]


@dataclass(slots=True)
class Before:
    """What is known of a line from the transactions before.

    Attributes:
        bus: its devices.
        rounds: the rounds of each search command.
        count: how many transactions, whole chapters.
    """

    bus: Bus = field(default_factory=Bus)
    rounds: dict[int, Rounds] = field(
        default_factory=lambda: {command: Rounds() for command in SEARCHES}
    )
    count: int = 0


def follow(exchanges: OneWireExchanges, pads: Scratchpads, before: Before | None = None) -> Course:
    """Follows a line through its transactions, which stand after some others.

    Args:
        exchanges: decoded, columns of n exchanges.
        pads: the scratchpads that were read.
        before: what the exchanges before these left behind; None at the first.
    """
    return _Follower(exchanges, pads, copy.deepcopy(before or Before())).follow()


def follow_on(exchanges: OneWireExchanges, pads: Scratchpads, before: Before | None) -> Before:
    """What is known of a line after some transactions, which stand after some others.

    Args:
        exchanges: decoded, columns of n exchanges.
        pads: the scratchpads that were read.
        before: what the exchanges before these left behind; None at the first.
    """
    after = copy.deepcopy(before or Before())
    _Follower(exchanges, pads, after).follow()
    after.count += len(exchanges)
    return after


def _function_ns(exchanges: OneWireExchanges) -> list[int]:
    """When each function command was sent whole, ns; of no meaning without one."""
    if not exchanges.fall_ns.size:
        return [0] * len(exchanges)
    slot = exchanges.first_slot + np.maximum(exchanges.function_at, 0) + 7
    slot = np.minimum(slot, exchanges.fall_ns.size - 1)
    found: list[int] = (exchanges.fall_ns[slot] + exchanges.low_ns[slot]).tolist()
    return found


class _Follower:
    """The state of a line while it is followed."""

    def __init__(self, exchanges: OneWireExchanges, pads: Scratchpads, before: Before) -> None:
        size = len(exchanges)
        self._exchanges, self._pads = exchanges, pads
        self._bus, self._rounds, self._before_count = before.bus, before.rounds, before.count
        self._met = len(before.bus.devices)
        # Lists: a loop takes and puts single values of an array four times more slowly.
        self._known, self._device = [-1] * size, [NOBODY] * size
        self._notices, self._since, self._due = [0] * size, [-1] * size, [-1] * size
        self._parasite = [False] * size
        self._found: dict[int, tuple[int, ...]] = {}
        self._before: dict[int, tuple[int, ...]] = {}
        self._probable: dict[int, int] = {}
        self._pad_of = np.full(size, -1, dtype=np.int64)
        self._pad_of[pads.at] = np.arange(pads.at.size)
        self._first = exchanges.first_slot
        found = pads.temperatures
        columns = (
            pads.ones,
            ~pads.zeros & pads.holds,
            found.resolution,
            pads.data[4] == 0xFF,
            pads.data[6],
            found.values,
            found.power_on,
        )
        self._read_pads = list(zip(*(column.tolist() for column in columns), strict=True))
        self._pads_at = self._pad_of.tolist()
        self._spoken = _function_ns(exchanges)
        self._handlers: dict[int, Callable[[int, int], None]] = {
            Function.CONVERT: self._convert,
            Function.READ_SCRATCHPAD: self._read,
            Function.WRITE_SCRATCHPAD: self._write,
            Function.POWER: self._power,
        }

    def follow(self) -> Course:
        """Goes through all transactions that hold a command."""
        columns = self._exchanges
        rows = np.flatnonzero(columns.command >= 0)
        listed = zip(
            rows.tolist(),
            columns.command[rows].tolist(),
            columns.function[rows].tolist(),
            columns.rom[rows].tolist(),
            columns.has_rom[rows].tolist(),
            rom_holds(columns)[rows].tolist(),
            strict=True,
        )
        bus, handlers, count = self._bus, self._handlers, -1
        for index, command, function, rom, has_rom, holds in listed:
            if command in self._rounds:
                target = self._search(index, command, rom, holds)
            else:
                target = self._target(index, command, rom, has_rom, holds)
            bus.chosen = target
            self._device[index] = target
            if function in handlers:
                handlers[function](index, target)
            if len(bus.devices) != count:
                self._known[index] = count = len(bus.devices)
        every = np.array([self._met, *self._known], dtype=np.int32)
        known = np.maximum.accumulate(every)[1:]
        order = self._rounds[Rom.SEARCH].known or ()
        return Course(
            np.array(self._notices, dtype=np.int64),
            np.array(self._device, dtype=np.int32),
            np.array(self._since, dtype=np.int64),
            np.array(self._due, dtype=np.int64),
            self._found,
            self._before,
            tuple(device.code for device in self._bus.devices),
            order,
            self._probable,
            np.array(self._parasite, dtype=bool),
            known,
            known[hindsight(known.size, self._before_count)],
        )

    def _note(self, index: int, notice: Notice) -> None:
        self._notices[index] |= int(notice)

    def _target(self, index: int, command: int, rom: int, has_rom: bool, holds: bool) -> int:
        """Whom a ROM command other than a search means."""
        if command in MATCHES or command == Rom.READ:
            if holds:
                number = self._bus.number_of(rom)
                if command == Rom.READ:
                    self._answers(index, self._bus.devices[number])
                return number
            if has_rom:
                self._misread(index, rom)
            return NOBODY
        if command in (Rom.SKIP, Rom.FAST_SKIP):
            return EVERY
        if command == Rom.RESUME:
            return self._bus.chosen if self._bus.chosen >= 0 else NOBODY
        self._note(index, Notice.UNKNOWN_COMMAND)
        return NOBODY

    def _misread(self, index: int, rom: int) -> None:
        """A code whose CRC does not hold."""
        nothing = {0: Notice.ALL_ZEROS, 2**64 - 1: Notice.ALL_ONES}.get(rom)
        self._note(index, nothing or Notice.CRC_WRONG)
        probable = self._bus.near(rom)
        if probable is not None:
            self._probable[index] = probable

    def _search(self, index: int, command: int, rom: int, holds: bool) -> int:
        """A pass of a search."""
        columns, rounds = self._exchanges, self._rounds[command]
        if columns.nobody_at[index] >= 0:
            self._found[index] = rounds.broken()
            quiet = command == Rom.ALARM_SEARCH and columns.nobody_at[index] == 0
            self._note(index, Notice.NO_ALARM if quiet else Notice.SEARCH_STOPPED)
            return NOBODY
        if not columns.has_rom[index]:
            self._found[index] = rounds.broken()
            self._note(index, Notice.SEARCH_CUT)
            return NOBODY
        if not holds:
            self._found[index] = rounds.broken()
            self._misread(index, rom)
            return NOBODY
        found = rounds.add(index, rom, int(columns.forks[index]))
        self._found[index] = found.found
        number = self._bus.number_of(rom)
        self._answers(index, self._bus.devices[number])
        if found.last and command == Rom.SEARCH:
            self._compare(index, *rounds.whole())
        return number

    def _compare(self, index: int, before: tuple[int, ...] | None, now: tuple[int, ...]) -> None:
        """A whole round against the one before."""
        if before is None:
            return
        self._before[index] = before
        gone = [code for code in before if code not in now]
        for code in gone:
            device = self._bus.devices[self._bus.numbers[code]]
            device.left, device.answered = True, True
        if gone:
            self._note(index, Notice.DEVICE_LEFT)
        if any(code not in before for code in now):
            self._note(index, Notice.DEVICE_JOINED)
        kept = [code for code in before if code in now]
        if any(before.index(code) != now.index(code) for code in kept):
            self._note(index, Notice.ORDER_SHIFTED)

    def _answers(self, index: int, device: Device) -> None:
        """A device answered."""
        if device.left:
            self._note(index, Notice.DEVICE_JOINED)
        device.answered, device.left = True, False

    def _polled(self, index: int) -> npt.NDArray[np.uint8]:
        """Bits read after a function command."""
        first = int(self._first[index])
        begin = first + int(self._exchanges.function_at[index]) + 8
        return self._exchanges.bit[begin : first + int(self._exchanges.slot_count[index])]

    def _convert(self, index: int, target: int) -> None:
        at_ns, bits = self._spoken[index], self._polled(index)
        done_ns = None
        if bits.size and bits[0] == 0 and bits.any():
            slot = int(self._first[index] + self._exchanges.function_at[index]) + 8
            done_ns = int(self._exchanges.fall_ns[slot + int(bits.argmax())])
        meant = self._bus.meant(target)
        if any(device.parasite for device in meant):
            due = max(device.due_ns for device in meant if device.parasite)
            self._note(index, Notice.PARASITE_POWERED)
            if self._disturbed(index, at_ns, due, bool(bits.size)):
                self._note(index, Notice.PARASITE_DISTURBED)
        for device in meant:
            device.start(at_ns, done_ns)

    def _disturbed(self, index: int, at_ns: int, due_ns: int, polled: bool) -> bool:
        """Whether the line was used while parasite-powered devices converted."""
        following = self._exchanges.start_ns[index + 1 : index + 2]
        soon = bool(following.size) and int(following[0]) < at_ns + due_ns * (1 - HOST_SLACK)
        return polled or soon

    def _write(self, index: int, target: int) -> None:
        bits = self._polled(index)
        if bits.size >= 24:
            config = int(np.packbits(bits[16:24], bitorder="little")[0])
            for device in self._bus.meant(target):
                device.resolution = 9 + (config >> 5 & 3)

    def _power(self, index: int, target: int) -> None:
        bits = self._polled(index)
        if bits.size:
            parasite = not bits[0]
            if parasite:
                self._note(index, Notice.PARASITE_POWERED)
            for device in self._bus.meant(target):
                device.parasite = parasite

    def _read(self, index: int, target: int) -> None:
        """A scratchpad was read; judges whether its value can be new."""
        device, pad = self._bus.one(target), self._pads_at[index]
        if target == EVERY and len(self._bus.devices) > 1:
            self._note(index, Notice.SEVERAL_ANSWER)
        if device is None:
            return
        self._parasite[index] = bool(device.parasite)
        at_ns = self._spoken[index]
        if device.converted_ns is not None:
            self._since[index] = at_ns - device.converted_ns
        if pad < 0:
            return
        ones, usable, resolution, half, reserved, value, power_on = self._read_pads[pad]
        if ones:
            if device.answered:
                self._note(index, Notice.DEVICE_LEFT)
                device.left = True
            return
        if not usable:
            return
        if device.left or not device.answered:
            self._answers(index, device)
        device.resolution = resolution
        self._due[index] = HALF_DUE_NS if half else device.soonest_ns
        if not half and reserved != device.reserved:
            device.saw_reserved(reserved)
        self._weigh(index, device, value, power_on)
        device.read_since = True

    def _weigh(self, index: int, device: Device, value: float, power_on: bool) -> None:
        since, due = self._since[index], self._due[index]
        done = device.done_ns is not None
        if since < 0 or device.read_since:
            self._note(index, Notice.NOT_CONVERTED)
        elif not done and since < due * (1 - HOST_SLACK):
            self._note(index, Notice.READ_TOO_EARLY)
            return
        if power_on and device.moves:
            if device.reserved == POWER_ON_RESERVED:
                self._note(index, Notice.POWER_ON_VALUE)
                return
        elif power_on and (device.value is None or abs(device.value - POWER_ON_C) > USUAL_STEP_C):
            sure = device.value is not None or since < 0
            self._note(index, Notice.POWER_ON_VALUE if sure else Notice.MAYBE_POWER_ON)
            return
        device.value = value
