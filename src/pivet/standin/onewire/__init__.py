"""A 1-Wire line with thermometers and a host, simulated."""

from pivet.standin.onewire.host import Host
from pivet.standin.onewire.line import Conditions
from pivet.standin.onewire.thermometer import Thermometer, make_code

__all__ = ["Conditions", "Host", "Thermometer", "make_code"]
