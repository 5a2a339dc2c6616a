"""Fuzzes every reader for minutes; prints the counts, ends with 1 at the first fault."""

import random
import tempfile
from pathlib import Path

from tests.fuzz.all import FUZZERS


def main(seconds: float) -> int:
    """So long for each reader, from a seed that is printed."""
    first = random.SystemRandom().randrange(10**9)
    print(f"seeds from {first} on, {seconds:g} s a reader")
    status = 0
    for make in FUZZERS:
        with tempfile.TemporaryDirectory() as folder:
            fuzzer = make(Path(folder))
            try:
                done = fuzzer.run(range(first, first + 10**9), seconds)
            except AssertionError as error:
                print(f"{fuzzer.name}: {str(error)[:2000]}")
                status = 1
            else:
                counts = f"{fuzzer.taken} answers, {fuzzer.refused} refusals"
                print(f"{fuzzer.name}: {done} cases, {counts}, no fault")
    return status
