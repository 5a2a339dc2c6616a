"""Humidity sensors with a 40-bit frame: 22-type and 11-type."""

from pivet.decode.humidity.columns import DecodeMark, HumidityExchanges
from pivet.decode.humidity.decoder import HumidityDecoder

__all__ = ["DecodeMark", "HumidityDecoder", "HumidityExchanges"]
