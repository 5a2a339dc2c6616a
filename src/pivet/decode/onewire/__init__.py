"""1-Wire transactions: resets, slots, bits, and who speaks."""

from pivet.decode.onewire.columns import Mark, OneWireExchanges, Speaker
from pivet.decode.onewire.decoder import OneWireDecoder

__all__ = ["Mark", "OneWireDecoder", "OneWireExchanges", "Speaker"]
