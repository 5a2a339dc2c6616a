"""Echo measurements: a trigger and the echo that it brings."""

from pivet.decode.echo.columns import DecodeMark, EchoExchanges
from pivet.decode.echo.decoder import EchoDecoder

__all__ = ["DecodeMark", "EchoDecoder", "EchoExchanges"]
