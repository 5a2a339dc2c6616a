"""The 1-Wire transaction that a finding is told of."""

from collections.abc import Mapping
from dataclasses import dataclass

from pivet.decode.onewire import OneWireExchanges
from pivet.judge.finding import Finding
from pivet.judge.onewire.detail import Transaction
from pivet.judge.onewire.judged import Judged
from pivet.judge.onewire.notices import Notice
from pivet.judge.pulses import Pulse
from pivet.sheets.onewire import code_text


@dataclass(frozen=True, slots=True)
class Case:
    """One transaction, as the sentences need it."""

    exchanges: OneWireExchanges
    judged: Judged
    index: int
    pulses: tuple[Pulse, ...]
    detail: Transaction
    names: Mapping[str, str]

    def has(self, notice: Notice) -> bool:
        """Whether the transaction bears this notice."""
        return self.judged.has(self.index, notice)

    def finding(
        self, notice: Notice, says: str, advice: str, at_ns: int | None = None, *columns: int
    ) -> Finding:
        """A finding of a kind; without a time it is about the whole transaction."""
        at = int(self.exchanges.start_ns[self.index]) if at_ns is None else at_ns
        return Finding(notice.code, notice.weight, says, advice, at, columns)

    def called(self, code: int) -> str:
        """A device as people call it: its role if it has one, and its code."""
        text = code_text(code)
        return f"{self.names[text]} ({text})" if text in self.names else text

    def listed(self, codes: list[int]) -> str:
        """Some devices."""
        return ", ".join(self.called(code) for code in codes)

    @property
    def meant(self) -> str:
        """The device that is meant, or whoever answers."""
        number = int(self.judged.course.device[self.index])
        return self.called(self.judged.course.codes[number]) if number >= 0 else "whoever is asked"

    def payload_columns(self) -> tuple[int, ...]:
        """Pulses behind the function command, else behind the ROM command."""
        at = int(self.exchanges.function_at[self.index])
        first = 2 * (at + 8 if at >= 0 else 8)
        return tuple(pulse.column for pulse in self.pulses if pulse.column >= first)

    def at_column(self, column: int) -> int | None:
        """When a pulse begins, ns."""
        return next((row.start_ns for row in self.pulses if row.column == column), None)
