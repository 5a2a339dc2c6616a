"""What answers there?  Tries the families on a line, harmlessly, and names what it finds.

A 1-Wire reset (0.5 ms) is too short to wake a humidity sensor; an ask of 19 ms wakes both kinds of
those and means nothing to a 1-Wire device but a long reset; a line is driven high only where
it rests low, as the trigger of an echo sensor does.
"""

from collections.abc import Sequence

from pivet.decode.echo import EchoExchanges, layout
from pivet.families import FAMILIES
from pivet.frozen import FrozenValue
from pivet.judge.wording import count
from pivet.listening.asking.conversation import Answer, Rest, Talk
from pivet.listening.asking.onewire import begin, search
from pivet.listening.asking.single import echo_say, heard_wire, humidity_say
from pivet.listening.asking.slots import Program
from pivet.person.choices import NO_CHOICE
from pivet.sheets.families import ECHO_PULSE, HUMIDITY_FRAME
from pivet.sheets.load import find_sheet
from pivet.sheets.model import Sheet
from pivet.sheets.onewire import code_text, kind_name
from pivet.signal.trace import Level
from pivet.sources.source import LineInfo

ASK_BOTH_US = 19_000.0
"""Long enough for an 11-type (18 ms), not too long for a 22-type (20 ms)."""

WAKE_S = 0.05
TRIES = 2
BETWEEN_S = 2.1
"""A humidity sensor that was asked a moment before may stay silent."""

TRIGGER_US = 10.0


class Found(FrozenValue):
    """What was found on a line.

    Attributes:
        says: for people, one sentence.
        sheet: the sheet of the sensor; None when nothing answered.
        lines: the lines of the wire, trigger first.
        codes: of 1-Wire devices.
    """

    says: str
    sheet: Sheet | None = None
    lines: tuple[str, ...] = ()
    codes: tuple[int, ...] = ()


def explore(line: LineInfo, resolution_ns: int, others: Sequence[str] = ()) -> Talk[Found]:
    """Finds out what is on a line.

    Args:
        line: the line to be tried.
        resolution_ns: step of the source's time stamps, ns.
        others: lines on which the echo of a trigger may come.
    """
    if line.level is Level.LOW:
        if line.can_drive_high:
            return (yield from _try_echo(line.name, resolution_ns, others))
        return Found(
            f"{line.name} rests low and cannot be driven high: it may be the echo line of a "
            "sensor, or it is held low; see the pull-up and the wiring."
        )
    if not line.can_pull_low:
        return Found(f"{line.name} can only be listened to.")
    bus = yield from _try_onewire(line.name)
    if bus is not None:
        return bus
    yield Rest(WAKE_S)
    for attempt in range(TRIES):
        if attempt:
            yield Rest(BETWEEN_S)
        found = yield from _try_humidity(line.name, resolution_ns)
        if found is not None:
            return found
    return Found(
        f"Nothing answers on {line.name}: see supply, ground and the sensor's pin; the line "
        "itself rests high, so a pull-up is there."
    )


def _try_onewire(line: str) -> Talk[Found | None]:
    heard = yield from begin(line, Program().reset())
    if heard.stuck is not None:
        return Found(
            f"{line} does not follow when it is pulled low: it is held "
            f"{heard.stuck.name.lower()}, or another pin is wired."
        )
    if not heard.present:
        return None
    codes = yield from search(line)
    sheet = find_sheet("onewire")
    if not codes:
        return Found(
            f"Somebody on {line} answers 1-Wire resets, but the search for codes fails: see "
            "the pull-up and the length of the cable.",
            sheet,
            (line,),
        )
    named = ", ".join(f"{code_text(code)} ({kind_name(code & 0xFF)})" for code in codes)
    devices = count(len(codes), "1-Wire device")
    return Found(f"{devices} on {line}: {named}.", sheet, (line,), tuple(codes))


def _try_humidity(line: str, resolution_ns: int) -> Talk[Found | None]:
    answer = yield humidity_say(line, ASK_BOTH_US)
    if answer.refused:
        return Found(f"{line} cannot be asked: {answer.refused}.")
    wire = heard_wire(answer, FAMILIES[HUMIDITY_FRAME], (line,), resolution_ns, NO_CHOICE)
    if not len(wire) or not wire.report(len(wire) - 1).data:
        return None
    return Found(f"A {wire.sheet.name} humidity sensor answers on {line}.", wire.sheet, (line,))


def _try_echo(line: str, resolution_ns: int, others: Sequence[str]) -> Talk[Found]:
    """Triggers, and sees on which line an echo comes: this one or another."""
    answer = yield echo_say((line, *others), TRIGGER_US)
    if answer.refused:
        return Found(f"{line} cannot be triggered: {answer.refused}.")
    for other in others:
        if answer.edges[other].size >= 2 and _is_echo(answer, (line, other), resolution_ns):
            return Found(
                f"A four-pin echo sensor: trigger on {line}, echo on {other}.",
                find_sheet("hc-sr04"),
                (line, other),
            )
    if answer.edges[line].size >= 4 and _is_echo(answer, (line,), resolution_ns):
        return Found(f"A three-pin echo sensor answers on {line}.", find_sheet("ping3"), (line,))
    return Found(
        f"No echo came after a trigger on {line}: see the sensor's supply and its echo pin."
    )


def _is_echo(answer: Answer, lines: tuple[str, ...], resolution_ns: int) -> bool:
    """Whether an echo came; a trigger that is felt on a line beside it comes too soon for one."""
    wire = heard_wire(answer, FAMILIES[ECHO_PULSE], lines, resolution_ns, NO_CHOICE)
    found = wire.exchanges
    assert isinstance(found, EchoExchanges)
    return bool((found.wait_ns >= layout.WAIT_LEAST_NS).any())
