"""Tests of Pivet."""

import signal

from tests.rooms import all_in

load_tests = all_in(__file__)

if signal.getsignal(signal.SIGINT) is signal.SIG_IGN:
    # A shell's background jobs ignore Ctrl-C, and so would every program that a test starts.
    signal.signal(signal.SIGINT, signal.default_int_handler)
