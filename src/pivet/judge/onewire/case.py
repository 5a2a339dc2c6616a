"""The 1-Wire transaction that a finding is told of."""

from collections.abc import Mapping

from pivet.decode.onewire import OneWireExchanges
from pivet.judge.case import Case as AnyCase
from pivet.judge.onewire.detail import Transaction
from pivet.judge.onewire.judged import JudgedTransactions
from pivet.sheets.onewire import code_text


class Case(AnyCase[OneWireExchanges, JudgedTransactions]):
    """One transaction, as the sentences need it."""

    detail: Transaction
    names: Mapping[str, str]

    def called(self, code: int) -> str:
        """A device as people call it: its role if it has one, and its code.

        Args:
            code: the code of the device: eight bytes as a number, the family in the lowest.
        """
        text = code_text(code)
        return f"{self.names[text]} ({text})" if text in self.names else text

    def listed(self, codes: list[int]) -> str:
        """Some devices.

        Args:
            codes: the codes of the devices, as numbers.
        """
        return ", ".join(self.called(code) for code in codes)

    @property
    def meant(self) -> str:
        """The device that is meant, or whoever answers."""
        number = int(self.judged.course.device[self.index])
        return self.called(self.judged.course.codes[number]) if number >= 0 else "whoever is asked"

    def payload_columns(self) -> tuple[int, ...]:
        """Pulses after the function command, else after the ROM command."""
        at = int(self.exchanges.function_at[self.index])
        first = 2 * (at + 8 if at >= 0 else 8)
        return tuple(pulse.column for pulse in self.pulses if pulse.column >= first)

    def at_column(self, column: int) -> int | None:
        """When a pulse begins, ns.

        Args:
            column: the column of the stack: a pulse of the exchange.
        """
        return next((pulse.start_ns for pulse in self.pulses if pulse.column == column), None)
