"""Asking humidity and echo sensors: one ask, one answer."""

from collections.abc import Callable, Mapping

from pivet.captures.wire import Wire, make_wire
from pivet.families import FAMILIES
from pivet.families.family import AnyFamily
from pivet.frozen import FrozenValue, replace
from pivet.judge.report import Report
from pivet.listening.asking.conversation import Answer, Rest, Say, Talk
from pivet.person.choices import WireChoices
from pivet.sheets.families import ECHO_PULSE, HUMIDITY_FRAME
from pivet.sheets.model import Sheet
from pivet.signal.trace import Level, Line, Trace
from pivet.sources.ask import Ask

HUMIDITY_LISTEN_S = 0.11
"""An answer may come so late; see the humidity decoder."""

ECHO_LISTEN_S = 0.25
"""Some boards hold a timeout pulse of 200 ms."""

HOST_SHARE = 1.2
"""A host triggers a little longer than it must."""

REST_SHARE = 1.01


def humidity_say(line: str, ask_us: float) -> Say:
    """An ask of a humidity sensor.

    Args:
        line: its name at the source.
        ask_us: how long the line is held low.
    """
    return Say(Ask(line, (round(ask_us),)), (line,), HUMIDITY_LISTEN_S)


def echo_say(lines: tuple[str, ...], trigger_us: float) -> Say:
    """A trigger of an echo sensor.

    Args:
        lines: one shared, or trigger and echo.
        trigger_us: width of the trigger.
    """
    ask = Ask(lines[0], (max(round(trigger_us * HOST_SHARE), 1),), Level.HIGH)
    return Say(ask, lines, ECHO_LISTEN_S, quiet_s=0.001)


def heard_wire(
    answer: Answer,
    family: AnyFamily,
    lines: tuple[str, ...],
    resolution_ns: int,
    choices: WireChoices,
) -> Wire:
    """An answer, decoded and judged by itself.

    Args:
        answer: what was heard.
        family: that decodes and judges.
        lines: the lines of the wire, in the order of its family.
        resolution_ns: step of the stamps, ns.
        choices: what the person chose.
    """
    own = tuple(Line(name, answer.levels[name], answer.edges[name]) for name in lines)
    start = (
        min([answer.begin_ns, *(int(piece.edges_ns[0]) for piece in own if piece.edges_ns.size)])
        - 1
    )
    last = [int(piece.edges_ns[-1]) for piece in own if piece.edges_ns.size]
    end = max([answer.until_ns, answer.end_ns, *last])
    decoder = family.decoder(tuple(piece.initial for piece in own), start)
    batches = [decoder.feed(tuple(piece.edges_ns for piece in own), end), decoder.finish()]
    trace = Trace(own, start, end, resolution_ns)
    return make_wire(family, own, trace, family.join(batches), choices)


def heard_report(wire: Wire) -> Report | None:
    """The one exchange of an answer.

    Args:
        wire: the wire to look at.
    """
    return wire.report(len(wire) - 1) if len(wire) else None


SAYS: Mapping[str, Callable[[Sheet, tuple[str, ...]], Say]] = {
    HUMIDITY_FRAME: lambda sheet, lines: humidity_say(lines[0], sheet.windows["ask"].typ_us),
    ECHO_PULSE: lambda sheet, lines: echo_say(lines, sheet.windows["trigger"].min_us),
}
"""The ask of each family that is asked by one."""


class Single(FrozenValue):
    """A sensor that is asked by one ask.

    Attributes:
        sheet: its type.
        lines: the lines of its wire.
        resolution_ns: step of the source's time stamps, ns.
    """

    sheet: Sheet
    lines: tuple[str, ...]
    resolution_ns: int

    def say(self) -> Say:
        """Its ask."""
        return SAYS[self.sheet.family](self.sheet, self.lines)

    def round(self, retries: int) -> Talk[None]:
        """Asks, and asks again when that gave no reading, not sooner than the sheet allows.

        Args:
            retries: how many times at most.
        """
        for attempt in range(1, retries + 2):
            answer = yield replace(self.say(), attempt=attempt)
            if self._read(answer):
                return
            if attempt <= retries:
                yield Rest(self.sheet.interval_s * REST_SHARE)

    def _read(self, answer: Answer) -> bool:
        if answer.refused:
            return False
        family = FAMILIES[self.sheet.family]
        choices = WireChoices(sheet=self.sheet)
        found = heard_report(heard_wire(answer, family, self.lines, self.resolution_ns, choices))
        return found is not None and bool(found.readings)
