"""A firmware's session with thermometers: search, then rounds of convert and read."""

import math
from collections.abc import Callable, Mapping, Sequence
from enum import StrEnum

import msgspec
import numpy as np

from pivet.errors import InputError
from pivet.frozen import FrozenValue
from pivet.sheets.onewire import CONVERSION_US, KINDS
from pivet.signal.trace import Line
from pivet.standin.onewire.host import Host
from pivet.standin.onewire.line import Conditions
from pivet.standin.onewire.thermometer import Thermometer, make_code

EARLY_S = 0.02
HELD_US = 20_000.0
WEAK_US = 7.5
SEARCH_EVERY = 10
FIRST_SERIAL = 0x051B2C7D
STRIDE = 0x01_0307_0B0D


class OneWireFault(StrEnum):
    """What goes wrong in a round; with several devices it befalls the first."""

    DEVICE_LEFT = "device-left"
    NO_PRESENCE = "no-presence"
    POWER_ON_VALUE = "power-on-value"
    READ_TOO_EARLY = "read-too-early"
    CRC_WRONG = "crc-wrong"
    LINE_HELD_LOW = "line-held-low"
    PARASITE_DISTURBED = "parasite-disturbed"
    WEAK_PULL_UP = "weak-pull-up"
    ENDED_EARLY = "ended-early"


class Session(FrozenValue):
    """What a firmware does.

    Attributes:
        family: the family of the devices.
        devices: how many there are.
        rounds: how many times all convert and each is read.
        temperature: around the devices, each a little warmer than the one before, °C.
        resolution: bits.
        interval_s: from round to round, s.
        fast: at overdrive speed.
        conditions: how the line deviates.
        faults: by round.
    """

    family: int = 0x28
    devices: int = 1
    rounds: int = 5
    temperature: float = 12.0
    resolution: int = 12
    interval_s: float = 2.0
    fast: bool = False
    conditions: Conditions = msgspec.field(default_factory=Conditions)
    faults: Mapping[int, Sequence[OneWireFault]] = msgspec.field(default_factory=dict)


def session_line(session: Session, name: str, seed: int) -> Line:
    """The line of a session; the same seed gives the same edges.

    Args:
        session: what is said, and by whom.
        name: the name of the line.
        seed: the seed of all that is drawn.

    Raises:
        InputError: the devices cannot measure that, or the interval is too short.
    """
    _refuse(session)
    host = Host(_devices(session), session.conditions, seed)
    host.search()
    if session.resolution != 12:
        for device in host.devices:
            host.match(device.code)
            host.write_scratchpad(bytes([*device.limits, 0x1F | (session.resolution - 9) << 5]))
    start = host.now_s
    for number in range(session.rounds):
        host.wait_until(start + number * session.interval_s)
        _round(host, session, session.faults.get(number, ()), number)
    return host.line(name)


def _refuse(session: Session) -> None:
    kind = KINDS[session.family]
    hottest = session.temperature + 0.25 * (session.devices - 1)
    if not kind.low_c <= session.temperature <= hottest <= kind.high_c:
        raise InputError(
            f"a thermometer cannot measure {session.temperature:g} °C",
            f"take a value from {kind.low_c:g} to {kind.high_c:g}",
        )
    least = CONVERSION_US[session.resolution] / 1e6 * 1.1 + 0.03 * (session.devices + 1)
    if session.interval_s < least:
        raise InputError(
            f"an interval of {session.interval_s:g} s leaves no time to convert and read",
            f"give at least {least:.2f} s",
        )


def _devices(session: Session) -> list[Thermometer]:
    found = []
    for number in range(session.devices):
        serial = (FIRST_SERIAL + number * STRIDE) & 0xFFFF_FFFF_FFFF
        value = session.temperature + 0.25 * number
        found.append(Thermometer(make_code(session.family, serial), _always(value)))
    return found


def _always(value: float) -> Callable[[float], float]:
    return lambda _: value


def _round(host: Host, session: Session, faults: Sequence[OneWireFault], number: int) -> None:
    """One round: now and then a search, a conversion of all, each read."""
    first = host.devices[0]
    _before(host, session, faults)
    if number and number % SEARCH_EVERY == 0:
        host.search()
    if OneWireFault.PARASITE_DISTURBED in faults:
        first.parasite = True
        host.match(first.code)
        host.power()
    _convert(host, session, faults)
    if OneWireFault.POWER_ON_VALUE in faults:
        first.dips = (*first.dips, host.now_s)
    for device in host.devices:
        if device is first and OneWireFault.CRC_WRONG in faults:
            host.spoil = lambda bits: bits ^ (np.arange(bits.size) == 13)
        host.match(device.code, fast=session.fast)
        short = device is first and OneWireFault.ENDED_EARLY in faults
        host.read_scratchpad(2 if short else 9)


def _before(host: Host, session: Session, faults: Sequence[OneWireFault]) -> None:
    """What befalls line and devices before the round begins."""
    first = host.devices[0]
    weak = OneWireFault.WEAK_PULL_UP in faults
    host.wire.rise_us = session.conditions.rise_us + (WEAK_US if weak else 0.0)
    if OneWireFault.LINE_HELD_LOW in faults:
        host.wire.hold(HELD_US)
    if OneWireFault.DEVICE_LEFT in faults:
        first.away = (*first.away, (host.now_s, math.inf))
    if OneWireFault.NO_PRESENCE in faults:
        for device in host.devices:
            device.away = (*device.away, (host.now_s, host.now_s + session.interval_s * 0.9))


def _convert(host: Host, session: Session, faults: Sequence[OneWireFault]) -> None:
    host.slow_down()
    host.skip(fast=session.fast)
    early = {OneWireFault.READ_TOO_EARLY, OneWireFault.PARASITE_DISTURBED} & set(faults)
    host.convert(EARLY_S if early else None)
