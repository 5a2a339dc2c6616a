"""All fuzzers."""

from collections.abc import Callable
from pathlib import Path

from tests.fuzz import files
from tests.fuzz.base import Fuzzer
from tests.fuzz.benchfile import HostileBench
from tests.fuzz.probe import HostileProbe

FUZZERS: tuple[Callable[[Path], Fuzzer], ...] = (HostileProbe, HostileBench, *files.FUZZERS)
