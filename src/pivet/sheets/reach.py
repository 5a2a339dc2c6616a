"""Timeout and farthest distance of an echo sensor, given by the person instead of the sheet."""

from pivet.errors import InputError
from pivet.frozen import FrozenValue, replace
from pivet.sheets.model import Sheet

LEAST_TIMEOUT_MS, MOST_TIMEOUT_MS = 1.0, 1000.0
LEAST_M, MOST_M = 0.1, 50.0
"""What can be given."""


class Reach(FrozenValue):
    """What the person says of an echo sensor; None leaves it to the sheet.

    Attributes:
        timeout_ms: an echo of this length means that nothing was in range, ms.
        farthest_m: from here on a distance is none, m.
    """

    timeout_ms: float | None = None
    farthest_m: float | None = None

    def of(self, sheet: Sheet) -> Sheet:
        """The sheet with what was given.

        Args:
            sheet: the sheet of the sensor type.
        """
        if sheet.echo is None or self == AS_IN_SHEET:
            return sheet
        rule = sheet.echo
        if self.timeout_ms is not None:
            rule = replace(rule, timeout_us=self.timeout_ms * 1000)
        if self.farthest_m is not None:
            rule = replace(rule, farthest_m=self.farthest_m)
        return replace(sheet, echo=rule)


AS_IN_SHEET = Reach()


def reach_of(timeout_ms: float | None, farthest_m: float | None) -> Reach:
    """Checks what was given.

    Args:
        timeout_ms: of the sensor when nothing is in range, ms; None as in the sheet.
        farthest_m: what it can measure at most, m; None as in the sheet.

    Raises:
        InputError: no echo sensor can have that.
    """
    if timeout_ms is not None and not LEAST_TIMEOUT_MS <= timeout_ms <= MOST_TIMEOUT_MS:
        raise InputError(
            f"{timeout_ms:g} ms is no timeout of an echo sensor",
            f"give {LEAST_TIMEOUT_MS:g} to {MOST_TIMEOUT_MS:g} ms",
        )
    if farthest_m is not None and not LEAST_M <= farthest_m <= MOST_M:
        raise InputError(
            f"an echo sensor does not reach {farthest_m:g} m",
            f"give {LEAST_M:g} to {MOST_M:g} m",
        )
    return Reach(timeout_ms, farthest_m)
