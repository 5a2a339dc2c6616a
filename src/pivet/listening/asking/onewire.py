"""Talking with 1-Wire thermometers: searching, converting, reading."""

from dataclasses import dataclass, field

from pivet.decode.checks import crc8_of
from pivet.listening.asking.conversation import Rest, Talk
from pivet.listening.asking.slots import Program, Spoken, spoken, triplets
from pivet.sheets.onewire import (
    CONVERSION_US,
    ROM_BITS,
    SCRATCHPAD_BYTES,
    Function,
    Rom,
    code_bytes,
    is_thermometer,
)

HOST_WAITS = 1.01
"""A host waits a little longer than the sheet asks for."""

SEARCH_EVERY = 30
"""Rounds from one search to the next: who left and who joined is seen by searching."""

MOST_DEVICES = 64
PASS_TRIES = 3


def begin(line: str, program: Program, attempt: int = 1) -> Talk[Spoken]:
    """Says a program.

    Args:
        line: its name.
        program: the slots after the reset.
        attempt: which try it is, from 1.
    """
    answer = yield program.say(line, attempt)
    return spoken(program, answer, line)


def search(line: str) -> Talk[list[int] | None]:
    """Finds the codes of all devices; None when somebody is there, but a pass went wrong.

    Args:
        line: its name.
    """
    found: list[int] = []
    path: tuple[int, ...] = ()
    while len(found) < MOST_DEVICES:
        passed = None
        for _ in range(PASS_TRIES):
            passed = yield from _search_pass(line, path)
            if passed is not None:
                break
        if passed is None:
            return None
        code, forks = passed
        if code is None:
            return found
        found.append(code)
        turns = [place for place in forks if not code >> place & 1]
        if not turns:
            return found
        path = (*(code >> place & 1 for place in range(turns[-1])), 1)
    return found


def _search_pass(line: str, path: tuple[int, ...]) -> Talk[tuple[int | None, list[int]] | None]:
    """One pass along a path, then along the zeros: the code (None: nobody) and its forks."""
    program = Program().reset().data(bytes([Rom.SEARCH])).then(triplets(path)).read(2)
    heard = yield from begin(line, program)
    if not heard.present:
        return None, []
    if not heard.fits:
        return None
    pairs = [heard.bits[at : at + 2] for at in range(0, len(heard.bits), 2)]
    code, forks = 0, []
    for place in range(ROM_BITS):
        bit, complement = pairs[place]
        if bit and complement:
            return None
        if bit == complement:
            forks.append(place)
        direction = path[place] if place < len(path) else bit
        code |= direction << place
        if place + 1 < len(pairs):
            continue
        last = place + 1 == ROM_BITS
        following = Program().bits((direction,))
        heard = yield from begin(line, following if last else following.read(2))
        if not heard.fits:
            return None
        if not last:
            pairs.append(heard.bits)
    data = code_bytes(code)
    return (code, forks) if crc8_of(data[:-1]) == data[-1] and code else None


@dataclass(slots=True)
class Bus:
    """What is known of a line from round to round.

    Attributes:
        codes: the codes of its thermometers.
        resolution: bits that the finest of them has.
        rounds: how many were done.
        silent: codes that did not answer the last time.
    """

    codes: list[int] = field(default_factory=list)
    resolution: int = 12
    rounds: int = 0
    silent: set[int] = field(default_factory=set)

    @property
    def conversion_s(self) -> float:
        """How long a conversion takes at most, s."""
        return CONVERSION_US[self.resolution] / 1e6 * HOST_WAITS


def bus_round(line: str, bus: Bus, retries: int) -> Talk[None]:
    """One round: now and then a search; all convert, each is read.

    A read that fails is tried again at once: the value stands in the device until it converts.

    Args:
        line: its name.
        bus: what is known of its devices; goes on.
        retries: how many further tries when nothing usable comes.
    """
    if not bus.codes or bus.rounds % SEARCH_EVERY == 0:
        found = yield from search(line)
        if found is not None:
            known = [code for code in bus.codes if code not in found]
            bus.codes = [*(code for code in found if is_thermometer(code & 0xFF)), *known]
    bus.rounds += 1
    if not bus.codes:
        return
    convert = Program().reset().data(bytes([Rom.SKIP, Function.CONVERT]))
    yield from begin(line, convert)
    yield Rest(bus.conversion_s)
    finest = 0
    for code in list(bus.codes):
        pad = yield from _read(line, code, 0 if code in bus.silent else retries)
        if pad is None:
            bus.silent.add(code)
        else:
            bus.silent.discard(code)
            half = code & 0xFF == 0x10
            finest = max(finest, 12 if half else 9 + (pad[4] >> 5 & 3))
    bus.resolution = finest or bus.resolution


def _read(line: str, code: int, retries: int) -> Talk[bytes | None]:
    """Reads a scratchpad; None when nobody answered soundly."""
    program = Program().reset().data(bytes([Rom.MATCH]) + code_bytes(code))
    program = program.data(bytes([Function.READ_SCRATCHPAD])).read(8 * SCRATCHPAD_BYTES)
    for attempt in range(1, retries + 2):
        heard = yield from begin(line, program, attempt)
        if heard.fits:
            pad = heard.value.to_bytes(SCRATCHPAD_BYTES, "little")
            if crc8_of(pad[:-1]) == pad[-1] and any(pad):
                return pad
    return None
