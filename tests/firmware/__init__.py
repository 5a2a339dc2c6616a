"""The firmware: its portable core on this computer, and all of it on a simulated chip."""

from tests.rooms import all_in

load_tests = all_in(__file__)
