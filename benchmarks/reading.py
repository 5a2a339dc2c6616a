"""VCD reading against the pure-Python tokenizer of the VCD package."""

import tempfile
import time
from pathlib import Path

from vcd.reader import tokenize

from benchmarks.material import humidity_edges, write_plain_vcd
from benchmarks.table import Figure
from pivet.files.captures import read_capture

CHANGES = 1_000_000


def figures() -> list[Figure]:
    """How many times faster the reader is."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "million.vcd"
        write_plain_vcd(humidity_edges(CHANGES), path)
        own = []
        for _ in range(3):
            start = time.perf_counter()
            trace = read_capture(path)
            own.append(time.perf_counter() - start)
        start = time.perf_counter()
        with path.open("rb") as stream:
            tokens = sum(1 for _ in tokenize(stream))
        slow = time.perf_counter() - start
    own_s = sorted(own)[1]
    said = f"{slow:.1f} s / {own_s:.2f} s, {trace.edge_count:,} edges, {tokens:,} words"
    return [Figure("package's tokenizer / VCD reader", slow / own_s, 20.0, said, at_least=True)]
