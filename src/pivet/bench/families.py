"""The families that there are."""

from collections.abc import Mapping, Sequence

import numpy as np

from pivet.bench.choices import Choices
from pivet.bench.family import AnyFamily, Family
from pivet.decode import echo, humidity, onewire
from pivet.decode.echo import EchoDecoder, EchoExchanges
from pivet.decode.humidity import HumidityDecoder, HumidityExchanges
from pivet.decode.interface import Decoder
from pivet.decode.onewire import OneWireDecoder, OneWireExchanges
from pivet.judge.echo import Judged as EchoJudged
from pivet.judge.echo import judge as judge_echo
from pivet.judge.echo.recognise import likeness as echo_likeness
from pivet.judge.echo.report import report as echo_report
from pivet.judge.humidity import Judged as HumidityJudged
from pivet.judge.humidity import judge as judge_humidity
from pivet.judge.humidity.recognise import better_than, looks_answered, looks_asked, rank_sheets
from pivet.judge.humidity.report import report as humidity_report
from pivet.judge.judgement import Likeness
from pivet.judge.onewire import Judged as OneWireJudged
from pivet.judge.onewire import judge as judge_onewire
from pivet.judge.onewire.recognise import likeness as onewire_likeness
from pivet.judge.onewire.report import report as onewire_report
from pivet.judge.report import Report
from pivet.sheets.model import Sheet
from pivet.signal.trace import Level


class Humidity(Family[HumidityExchanges, HumidityJudged]):
    """Humidity sensors with a 40-bit frame."""

    key = "humidity"

    def decoder(self, initial: tuple[Level, ...], start_ns: int) -> Decoder[HumidityExchanges]:
        """For one line."""
        return HumidityDecoder(initial[0], start_ns)

    def join(self, batches: Sequence[HumidityExchanges]) -> HumidityExchanges:
        """Batches of one line as one."""
        return humidity.columns.join(batches)

    def likeness(self, exchanges: HumidityExchanges) -> Likeness:
        """By the shape of frames, else by lone asks."""
        if looks_answered(exchanges):
            return Likeness.ANSWERED
        return Likeness.ASKED if looks_asked(exchanges) else Likeness.POSSIBLE

    def judge(
        self,
        exchanges: HumidityExchanges,
        line_count: int,
        resolution_ns: int,
        choices: Choices,
    ) -> HumidityJudged:
        """Recognises the type, or tells whether another than the chosen one fits better."""
        if choices.sheet is not None:
            better = better_than(exchanges, choices.sheet) if len(exchanges) else None
            return judge_humidity(exchanges, choices.sheet, resolution_ns, better)
        return judge_humidity(exchanges, rank_sheets(exchanges)[0].sheet, resolution_ns)

    def report(
        self,
        exchanges: HumidityExchanges,
        judged: HumidityJudged,
        index: int,
        wire: str,
        names: Mapping[str, str],
    ) -> Report:
        """Everything about one exchange."""
        return humidity_report(exchanges, judged, index, wire)

    def is_part(self, exchanges: HumidityExchanges, other: HumidityExchanges) -> bool:
        """Whether the line is only the sensor's driver of the other line."""
        unseen = (exchanges.marks & humidity.Mark.ASK_UNSEEN) != 0
        asked = (other.marks & humidity.Mark.ASK_UNSEEN) == 0
        return (
            bool(unseen.all())
            and len(other) >= len(exchanges)
            and bool(asked.any())
            and bool(np.isin(exchanges.end_ns, other.end_ns).all())
        )


class OneWire(Family[OneWireExchanges, OneWireJudged]):
    """1-Wire lines."""

    key = "onewire"

    def decoder(self, initial: tuple[Level, ...], start_ns: int) -> Decoder[OneWireExchanges]:
        """For one line."""
        return OneWireDecoder(initial[0], start_ns)

    def join(self, batches: Sequence[OneWireExchanges]) -> OneWireExchanges:
        """Batches of one line as one."""
        return onewire.columns.join(batches)

    def likeness(self, exchanges: OneWireExchanges) -> Likeness:
        """By presence and commands, else by lone resets."""
        return onewire_likeness(exchanges)

    def judge(
        self, exchanges: OneWireExchanges, line_count: int, resolution_ns: int, choices: Choices
    ) -> OneWireJudged:
        """There is one sheet."""
        return judge_onewire(exchanges, self._sheet(choices), resolution_ns)

    def _sheet(self, choices: Choices) -> Sheet:
        return choices.sheet or self.sheets[0]

    def report(
        self,
        exchanges: OneWireExchanges,
        judged: OneWireJudged,
        index: int,
        wire: str,
        names: Mapping[str, str],
    ) -> Report:
        """Everything about one transaction."""
        return onewire_report(exchanges, judged, index, wire, names)

    def is_part(self, exchanges: OneWireExchanges, other: OneWireExchanges) -> bool:
        """Whether the line is only one side's driver of the other line."""
        return (
            len(exchanges) <= len(other)
            and int(exchanges.bit.sum()) > int(other.bit.sum())
            and bool(np.isin(exchanges.start_ns, other.start_ns).all())
        )


class Echo(Family[EchoExchanges, EchoJudged]):
    """Echo sensors: trigger and echo on two lines, or both on one."""

    key = "echo"
    lines = (1, 2)

    def decoder(self, initial: tuple[Level, ...], start_ns: int) -> Decoder[EchoExchanges]:
        """For one shared line, or for trigger and echo."""
        return EchoDecoder(initial, start_ns)

    def join(self, batches: Sequence[EchoExchanges]) -> EchoExchanges:
        """Batches of one wire as one."""
        return echo.columns.join(batches)

    def likeness(self, exchanges: EchoExchanges) -> Likeness:
        """By echoes that follow triggers."""
        return echo_likeness(exchanges)

    def judge(
        self, exchanges: EchoExchanges, line_count: int, resolution_ns: int, choices: Choices
    ) -> EchoJudged:
        """The sheet follows from the number of lines, or from there being no trigger."""
        sheet = choices.sheet or self._recognised(exchanges, line_count)
        return judge_echo(
            exchanges, sheet, resolution_ns, choices.air, choices.vessel, choices.over
        )

    def _recognised(self, exchanges: EchoExchanges, line_count: int) -> Sheet:
        triggered = bool((exchanges.trigger_ns >= 0).any())
        wanted = 1 if line_count == 1 and triggered else 2
        return next(
            sheet for sheet in self.sheets if sheet.echo is not None and sheet.echo.lines == wanted
        )

    def report(
        self,
        exchanges: EchoExchanges,
        judged: EchoJudged,
        index: int,
        wire: str,
        names: Mapping[str, str],
    ) -> Report:
        """Everything about one measurement."""
        return echo_report(exchanges, judged, index, wire)

    def is_part(self, exchanges: EchoExchanges, other: EchoExchanges) -> bool:
        """Whether the lines are the drivers of the other, shared one."""
        heard = exchanges.rise_ns[exchanges.flight_ns >= 0]
        return bool(heard.size) and bool(np.isin(heard, other.rise_ns).all())


FAMILIES: dict[str, AnyFamily] = {family.key: family for family in (OneWire(), Humidity(), Echo())}
"""By the key that their sheets name.  Of equally alike families the first is taken: lone resets
of 500 µs could be a humidity sensor's asks too, which are mostly longer."""


def family_of(sheet: Sheet) -> AnyFamily:
    """The family of a sensor type."""
    return FAMILIES[sheet.family]
