"""1-Wire transactions: resets, slots, bits, and who speaks."""

from pivet.decode.onewire.columns import DecodeMark, OneWireExchanges, Speaker
from pivet.decode.onewire.decoder import OneWireDecoder

__all__ = ["DecodeMark", "OneWireDecoder", "OneWireExchanges", "Speaker"]
