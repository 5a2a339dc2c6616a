"""The humidity exchange that a finding is told of."""

from pivet.decode.humidity import HumidityExchanges
from pivet.judge.case import Case as AnyCase
from pivet.judge.humidity.judged import JudgedFrames
from pivet.judge.pulses import Pulse


class Case(AnyCase[HumidityExchanges, JudgedFrames]):
    """One exchange, as the sentences need it."""

    @property
    def asked_us(self) -> float:
        """Length of the ask, µs."""
        return float(self.exchanges.body_ns[self.index] - self.start_ns) / 1000

    def width_us(self, column: int) -> float:
        """Width of the pulse in a column, µs.

        Args:
            column: the column of the stack: a pulse of the exchange.
        """
        return float(self.exchanges.widths_ns[column, self.index]) / 1000

    def find(self, column: int) -> Pulse:
        """The pulse in a column.

        Args:
            column: the column of the stack: a pulse of the exchange.
        """
        return next(pulse for pulse in self.pulses if pulse.column == column)
