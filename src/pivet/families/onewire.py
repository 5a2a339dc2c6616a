"""1-Wire lines, for the bench."""

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt

from pivet.decode.interface import Decoder
from pivet.decode.onewire import OneWireDecoder, OneWireExchanges
from pivet.decode.onewire.columns import join
from pivet.families.family import Family
from pivet.judge.copied import Copied, Meaning
from pivet.judge.judgement import Likeness
from pivet.judge.margins import LeastMargins, least_margins
from pivet.judge.onewire import JudgedTransactions, judge
from pivet.judge.onewire.bus import NOBODY
from pivet.judge.onewire.classes import KEYS
from pivet.judge.onewire.copied import meanings
from pivet.judge.onewire.course import Before
from pivet.judge.onewire.judged import after, read_by
from pivet.judge.onewire.notices import HEADLINES, Notice
from pivet.judge.onewire.recognise import likeness
from pivet.judge.onewire.report import report
from pivet.judge.report import Report
from pivet.person.choices import WireChoices
from pivet.sheets.families import ONE_WIRE
from pivet.sheets.model import Sheet
from pivet.sheets.onewire import CONVERSION_US, code_text
from pivet.signal.trace import Level
from pivet.signal.uncertainty import Uncertainty

ROUND_S = 0.15
"""A round takes so long beside its conversion."""


class OneWire(Family[OneWireExchanges, JudgedTransactions, Before]):
    """1-Wire lines."""

    key = ONE_WIRE
    title = "1-Wire transactions"
    notices = Notice
    words = HEADLINES
    copied = (
        "8 of a ROM code, 9 of a scratchpad, a code like 28-0000051b2c7d, or the two lines of the "
        "kernel's 1-Wire file"
    )
    has_devices = True
    precedence = 0

    def least_interval_s(self, sheet: Sheet) -> float:
        """A round converts once, then reads each device.

        Args:
            sheet: the sheet of the sensor type.
        """
        return CONVERSION_US[12] / 1e6 + ROUND_S

    def why_interval(self, sheet: Sheet) -> str:
        """The conversion.

        Args:
            sheet: the sheet of the sensor type.
        """
        return "a conversion of 12 bits takes 750 ms, then each device is read"

    def decoder(self, initial: tuple[Level, ...], start_ns: int) -> Decoder[OneWireExchanges]:
        """For one line."""
        return OneWireDecoder(initial[0], start_ns)

    def join(self, batches: Sequence[OneWireExchanges]) -> OneWireExchanges:
        """Batches of one line as one.

        Args:
            batches: columns, in order of time.
        """
        return join(batches)

    def likeness(self, exchanges: OneWireExchanges, lines: int, step_ns: int = 1) -> Likeness:
        """By presence and commands, else by lone resets."""
        return likeness(exchanges, step_ns)

    def rows(self, exchanges: OneWireExchanges, first: int, last: int) -> OneWireExchanges:
        """Transactions ``first`` up to ``last``."""
        return exchanges.rows(first, last)

    def judge(
        self,
        exchanges: OneWireExchanges,
        line_count: int,
        resolution_ns: Uncertainty,
        choices: WireChoices,
        before: Before | None = None,
    ) -> JudgedTransactions:
        """There is one sheet."""
        return judge(exchanges, self._sheet(choices), resolution_ns, before)

    def after(
        self,
        exchanges: OneWireExchanges,
        judged: JudgedTransactions,
        count: int,
        before: Before | None,
    ) -> Before:
        """The devices, and what they were last told to do."""
        return after(exchanges.rows(0, count), before)

    def states(
        self, exchanges: OneWireExchanges, judged: JudgedTransactions
    ) -> Sequence[npt.NDArray[np.generic]]:
        """What stands open may go on, and a second device may turn out to be there."""
        every = exchanges
        read = np.full(len(every), NOBODY, dtype=np.int32)
        read[judged.pads.at] = read_by(judged.pads, judged.course)
        return (
            every.start_ns,
            every.end_ns,
            every.presence_ns,
            every.wait_ns,
            every.slot_count,
            every.marks,
            judged.notices,
            judged.verdict,
            judged.course.device,
            read,
            judged.classes.least_ns,
            judged.classes.most_ns,
        )

    def _sheet(self, choices: WireChoices) -> Sheet:
        return choices.sheet or self.sheets[0]

    def report(
        self,
        exchanges: OneWireExchanges,
        judged: JudgedTransactions,
        index: int,
        wire: str,
        names: Mapping[str, str],
    ) -> Report:
        """Everything about one transaction."""
        return report(exchanges, judged, index, wire, names)

    def margins(self, judged: JudgedTransactions) -> LeastMargins:
        """The least margin of each exchange.

        Args:
            judged: what the judge says of a wire.
        """
        windows = [judged.sheet.windows[key] for key in KEYS]
        return least_margins(windows, judged.classes.least_ns, judged.classes.most_ns)

    @property
    def silencing(self) -> int:
        """Without a presence nobody on the line can be read."""
        return Notice.LINE_HELD_LOW | Notice.NO_PRESENCE

    def data(self, exchanges: OneWireExchanges, index: int) -> bytes:
        """The whole bytes of a transaction; of a search its command."""
        slots = exchanges.slots_of(index)
        count = int(exchanges.slot_count[index])
        if exchanges.steps[index] >= 0:
            count = min(count, 8)
        bits = exchanges.bit[slots.start : slots.start + count // 8 * 8]
        return np.packbits(bits, bitorder="little").tobytes()

    def meanings(self, copied: Copied) -> Sequence[Meaning]:
        """As a ROM code or a scratchpad.

        Args:
            copied: the bytes, and what came with them.
        """
        return meanings(copied)

    def device(self, judged: JudgedTransactions, index: int) -> str:
        """The thermometer that is meant."""
        number = int(judged.course.device[index])
        return code_text(judged.course.codes[number]) if number >= 0 else ""

    def is_part(self, exchanges: OneWireExchanges, other: OneWireExchanges) -> bool:
        """Whether the line is only one side's driver of the other line."""
        return (
            len(exchanges) <= len(other)
            and int(exchanges.bit.sum()) > int(other.bit.sum())
            and bool(np.isin(exchanges.start_ns, other.start_ns).all())
        )
