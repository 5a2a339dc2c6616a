"""What each family brings to the stack; imported when a wire of it is shown, for a quick start."""

from pivet.sheets.families import ECHO_PULSE, HUMIDITY_FRAME, ONE_WIRE
from pivet.ui.stack.rows import Rows


def _humidity() -> Rows:
    from pivet.ui.stack.humidity.rows import HumidityRows

    return HumidityRows()


def _onewire() -> Rows:
    from pivet.ui.stack.onewire.rows import OneWireRows

    return OneWireRows()


def _echo() -> Rows:
    from pivet.ui.stack.echo.rows import EchoRows

    return EchoRows()


ROWS = {HUMIDITY_FRAME: _humidity, ONE_WIRE: _onewire, ECHO_PULSE: _echo}


def make_rows(family: str) -> Rows:
    """The painter of a family, by its key."""
    return ROWS[family]()
