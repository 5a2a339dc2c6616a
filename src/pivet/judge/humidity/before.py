"""What humidity exchanges leave behind for those that follow."""

from pivet.decode.humidity import HumidityExchanges
from pivet.frozen import FrozenValue
from pivet.judge.humidity.recognise import Ranking, rank_sheets


class Before(FrozenValue):
    """What is known of a wire from the exchanges before.

    Attributes:
        start_ns: start of the last of them, ns.
        ranking: which sheets fit; None while no whole frame has come.
    """

    start_ns: int
    ranking: Ranking | None


def after(exchanges: HumidityExchanges, count: int, before: Before | None) -> Before:
    """What is known after the first ``count`` of some exchanges.

    Args:
        exchanges: decoded, columns of n exchanges.
        count: how many exchanges are left behind.
        before: what the exchanges before these left behind; None at the first.
    """
    ranking = before.ranking if before is not None else None
    if ranking is None:
        seen = rank_sheets(exchanges)
        ranking = seen if seen.settled else None
    return Before(int(exchanges.start_ns[count - 1]), ranking)
