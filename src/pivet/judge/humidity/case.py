"""The exchange that a finding is told of."""

from dataclasses import dataclass

from pivet.decode.humidity import HumidityExchanges
from pivet.judge.finding import Finding
from pivet.judge.humidity.judged import Judged
from pivet.judge.humidity.notices import Notice
from pivet.judge.pulses import Pulse


@dataclass(frozen=True, slots=True)
class Case:
    """One exchange, as the sentences need it."""

    exchanges: HumidityExchanges
    judged: Judged
    index: int
    pulses: tuple[Pulse, ...]

    def has(self, notice: Notice) -> bool:
        """Whether the exchange bears this notice."""
        return self.judged.has(self.index, notice)

    @property
    def start_ns(self) -> int:
        """Start of the exchange, ns."""
        return int(self.exchanges.start_ns[self.index])

    @property
    def asked_us(self) -> float:
        """Length of the ask, µs."""
        return (
            float(self.exchanges.body_ns[self.index] - self.exchanges.start_ns[self.index]) / 1000
        )

    def width_us(self, column: int) -> float:
        """Width of the pulse in a column, µs."""
        return float(self.exchanges.widths_ns[column, self.index]) / 1000

    def find(self, column: int) -> Pulse:
        """The pulse in a column."""
        return next(pulse for pulse in self.pulses if pulse.column == column)

    def finding(
        self, notice: Notice, says: str, advice: str, at_ns: int | None = None, *columns: int
    ) -> Finding:
        """A finding of a kind; without a time it is about the whole exchange."""
        at = self.start_ns if at_ns is None else at_ns
        return Finding(notice.code, notice.weight, says, advice, at, columns)
