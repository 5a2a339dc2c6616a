"""VCD reading against finding its line ends, and against the VCD package's tokenizer."""

import tempfile
import time
from pathlib import Path
from statistics import median

import numpy as np
from vcd.reader import tokenize

from benchmarks.material import humidity_edges, write_plain_vcd
from benchmarks.table import Figure
from pivet.files.captures import read_capture

CHANGES = 1_000_000
REPEATS = 15


def figures() -> list[Figure]:
    """How many times faster, and how much slower, the reader is."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "million.vcd"
        write_plain_vcd(humidity_edges(CHANGES), path)
        own = []
        for _ in range(REPEATS):
            start = time.perf_counter()
            trace = read_capture(path)
            own.append(time.perf_counter() - start)
        content, ends = np.frombuffer(path.read_bytes(), dtype=np.uint8), []
        for _ in range(REPEATS):
            start = time.perf_counter()
            np.flatnonzero(content == ord("\n"))
            ends.append(time.perf_counter() - start)
        start = time.perf_counter()
        with path.open("rb") as stream:
            tokens = sum(1 for _ in tokenize(stream))
        slow = time.perf_counter() - start
    own_s = median(own)
    said = f"{slow:.1f} s / {own_s:.2f} s, {trace.edge_count:,} edges, {tokens:,} words"
    ends_s = median(ends)
    return [
        Figure("package's tokenizer / VCD reader", slow / own_s, 20.0, said, at_least=True),
        Figure("VCD reader / finding its newlines", own_s / ends_s, 9.0, f"/ {ends_s:.4f} s"),
    ]
