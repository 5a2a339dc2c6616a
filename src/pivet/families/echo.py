"""Echo sensors, for the bench."""

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt

from pivet.decode.echo import EchoDecoder, EchoExchanges
from pivet.decode.echo.columns import join
from pivet.decode.interface import Decoder
from pivet.families.family import Family
from pivet.judge.echo import JudgedShots, judge
from pivet.judge.echo.before import NOTHING, Before
from pivet.judge.echo.judged import rule_of
from pivet.judge.echo.notices import HEADLINES, Notice
from pivet.judge.echo.recognise import likeness, looks_alone
from pivet.judge.echo.report import report
from pivet.judge.echo.timeout import learn
from pivet.judge.judgement import Likeness
from pivet.judge.margins import LeastMargins, least_margins
from pivet.judge.report import Report
from pivet.person.choices import WireChoices
from pivet.sheets.families import ECHO_PULSE
from pivet.sheets.load import find_sheet
from pivet.sheets.model import Sheet
from pivet.signal.trace import Level, Line
from pivet.signal.uncertainty import Uncertainty, worst

USUAL = {1: "ping3", 2: "hc-sr04"}
"""The sheet that is taken for so many lines, unless the person chooses one."""


class Echo(Family[EchoExchanges, JudgedShots, Before]):
    """Echo sensors: trigger and echo on two lines, or both on one."""

    key = ECHO_PULSE
    title = "shots of an echo sensor"
    notices = Notice
    words = HEADLINES
    lines = (1, 2)
    watched_s = 1.0

    def decoder(self, initial: tuple[Level, ...], start_ns: int) -> Decoder[EchoExchanges]:
        """For one shared line, or for trigger and echo."""
        return EchoDecoder(initial, start_ns)

    def join(self, batches: Sequence[EchoExchanges]) -> EchoExchanges:
        """Batches of one wire as one.

        Args:
            batches: columns, in order of time.
        """
        return join(batches)

    def likeness(self, exchanges: EchoExchanges, lines: int, step_ns: int = 1) -> Likeness:
        """By echoes that follow triggers."""
        return likeness(exchanges, lines)

    def nearest(self, exchanges: EchoExchanges) -> tuple[str, Sheet | None] | None:
        """An echo line without its trigger looks like many other things.

        Args:
            exchanges: decoded, columns of n exchanges.
        """
        if not looks_alone(exchanges):
            return None
        says = "may be an echo line without its trigger, or a button, a servo, a dimmer"
        return says, find_sheet(USUAL[2])

    def answering(self, quiet: Sequence[Line]) -> Line | None:
        """The one that is called so, or the only one.

        Args:
            quiet: lines that hardly move.
        """
        named = [line for line in quiet if "echo" in line.name.lower()] or list(quiet)
        return named[0] if len(named) == 1 else None

    def remarks(self, lines: tuple[Line, ...]) -> Sequence[str]:
        """That the names of trigger and echo say the opposite of what the lines carry.

        Args:
            lines: the lines of a wire.
        """
        names = [line.name.rpartition(".")[2].lower() for line in lines]
        if len(names) == 2 and "echo" in names[0] and "trig" in names[1]:
            return (
                f"{lines[0].name} carries the triggers and {lines[1].name} the echoes: trigger "
                "and echo are swapped, on the board or in the recorder",
            )
        return ()

    def rows(self, exchanges: EchoExchanges, first: int, last: int) -> EchoExchanges:
        """Measurements ``first`` up to ``last``."""
        return exchanges.rows(first, last)

    def judge(
        self,
        exchanges: EchoExchanges,
        line_count: int,
        resolution_ns: Uncertainty,
        choices: WireChoices,
        before: Before | None = None,
    ) -> JudgedShots:
        """The sheet follows from the number of lines, or from there being no trigger."""
        before = before or NOTHING
        triggered = before.trigger_ns is not None
        sheet = choices.sheet or self._recognised(exchanges, line_count, triggered)
        sheet = choices.reach.of(sheet)
        return judge(
            exchanges,
            sheet,
            resolution_ns,
            choices.air,
            choices.vessel,
            choices.over,
            before,
            triggered=line_count == rule_of(sheet).lines,
        )

    def after(
        self, exchanges: EchoExchanges, judged: JudgedShots, count: int, before: Before | None
    ) -> Before:
        """The last trigger, and the last shots."""
        given = judged.distance[:count][judged.given[:count]]
        part = exchanges.rows(0, count)
        before = before or NOTHING
        step = worst(judged.resolution_ns)
        _, longest = learn(part, step, before.longest, before.count)
        return before.and_then(part, given, judged.shots.over, longest)

    def states(
        self, exchanges: EchoExchanges, judged: JudgedShots
    ) -> Sequence[npt.NDArray[np.generic]]:
        """The next trigger, shots after a jump, and warmer air say more."""
        every = exchanges
        return (
            every.start_ns,
            every.end_ns,
            every.trigger_ns,
            every.rise_ns,
            every.flight_ns,
            every.marks,
            judged.notices,
            judged.verdict,
            judged.since_last_ns,
            judged.speed,
            judged.classes.least_ns,
            judged.window_verdict,
            np.full(len(judged), hash(judged.sheet.id), dtype=np.int64),
        )

    def _recognised(self, exchanges: EchoExchanges, line_count: int, triggered: bool) -> Sheet:
        triggered |= bool((exchanges.trigger_ns >= 0).any())
        wanted = 1 if line_count == 1 and triggered else 2
        return find_sheet(USUAL[wanted])

    def report(
        self,
        exchanges: EchoExchanges,
        judged: JudgedShots,
        index: int,
        wire: str,
        names: Mapping[str, str],
    ) -> Report:
        """Everything about one measurement."""
        return report(exchanges, judged, index, wire)

    def margins(self, judged: JudgedShots) -> LeastMargins:
        """The least margin of each exchange.

        Args:
            judged: what the judge says of a wire.
        """
        windows = list(judged.sheet.windows.values())
        return least_margins(windows, judged.classes.least_ns, judged.classes.most_ns)

    def data(self, exchanges: EchoExchanges, index: int) -> bytes:
        """An echo has none."""
        return b""

    def is_part(self, exchanges: EchoExchanges, other: EchoExchanges) -> bool:
        """Whether the lines are the drivers of the other, shared one."""
        heard = exchanges.rise_ns[exchanges.flight_ns >= 0]
        return bool(heard.size) and bool(np.isin(heard, other.rise_ns).all())
