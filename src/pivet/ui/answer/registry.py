"""What the answer has for one family only; imported when a wire of it is shown."""

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from pivet.sheets.families import ECHO_PULSE, ONE_WIRE
from pivet.ui.session.session import Session

if TYPE_CHECKING:
    from pivet.ui.answer.echo_settings import EchoSettings
    from pivet.ui.answer.scratchpad import ScratchpadView


def _onewire(session: Session) -> "ScratchpadView":
    from pivet.ui.answer.scratchpad import ScratchpadView

    return ScratchpadView(session)


def _echo(session: Session) -> "EchoSettings":
    from pivet.ui.answer.echo_settings import EchoSettings

    return EchoSettings(session)


PARTS: "Mapping[str, Callable[[Session], ScratchpadView | EchoSettings]]" = {
    ONE_WIRE: _onewire,
    ECHO_PULSE: _echo,
}
"""By the family's key; others have none."""
