"""Echo measurements: a trigger and the echo that it brings."""

from pivet.decode.echo.columns import EchoExchanges, Mark
from pivet.decode.echo.decoder import EchoDecoder

__all__ = ["EchoDecoder", "EchoExchanges", "Mark"]
