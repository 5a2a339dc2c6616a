"""A 1-Wire device as it speaks: slot by slot, from a reset to the next.

Each talk is a generator.  It yields ``None`` to take the bit that the host writes, or a bit
to send it; it gets the bit of a slot back when it takes one.
"""

from collections.abc import Callable, Generator

from pivet.sheets.onewire import KINDS, ROM_BITS, Function, Rom
from pivet.standin.onewire.thermometer import Thermometer

Talk = Generator[int | None, int, None]
Taken = Generator[int | None, int, int]
Clock = Callable[[], float]
"""This moment, s."""


def talk(
    device: Thermometer, chosen: list[int], clock: Clock, speed_up: Callable[[], None]
) -> Talk:
    """What a device does after a reset.

    Args:
        device: with its state.
        chosen: holds the code of the device that was chosen last on the line.
        clock: tells the time.
        speed_up: called when the device goes to overdrive speed.
    """
    command = yield from _byte()
    if command in (Rom.FAST_SKIP, Rom.FAST_MATCH):
        speed_up()
    meant = yield from _meant(device, command, chosen)
    if not meant:
        return
    function = yield from _byte()
    yield from _function(device, function, clock)


def _meant(
    device: Thermometer, command: int, chosen: list[int]
) -> Generator[int | None, int, bool]:
    """Follows a ROM command; whether this device stays chosen."""
    if command in (Rom.SKIP, Rom.FAST_SKIP):
        return True
    if command == Rom.READ:
        yield from _send(device.code, ROM_BITS)
        return True
    if command in (Rom.MATCH, Rom.FAST_MATCH):
        code = yield from _take(ROM_BITS)
        chosen[:] = [code]
        return code == device.code
    if command == Rom.RESUME:
        return chosen == [device.code]
    if command in (Rom.SEARCH, Rom.ALARM_SEARCH):
        for place in range(ROM_BITS):
            bit = device.code >> place & 1
            yield bit
            yield 1 - bit
            if (yield None) != bit:
                return False
        chosen[:] = [device.code]
        return True
    return False


def _function(device: Thermometer, function: int, clock: Clock) -> Talk:
    if function == Function.CONVERT:
        device.convert(clock())
        while True:
            yield int(device.parasite or device.done(clock()))
    elif function == Function.READ_SCRATCHPAD:
        yield from _send(int.from_bytes(device.read(clock()), "little"), 72)
    elif function == Function.WRITE_SCRATCHPAD:
        size = KINDS[device.family].written
        data = yield from _take(8 * size)
        device.write(data.to_bytes(size, "little"), clock())
    elif function == Function.COPY:
        device.copy()
    elif function == Function.RECALL:
        device.recall()
        yield 1
    elif function == Function.POWER:
        while True:
            yield int(not device.parasite)


def _take(bits: int) -> Taken:
    value = 0
    for place in range(bits):
        value |= (yield None) << place
    return value


def _byte() -> Taken:
    return (yield from _take(8))


def _send(value: int, bits: int) -> Talk:
    for place in range(bits):
        yield value >> place & 1
