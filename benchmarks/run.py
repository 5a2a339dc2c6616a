"""Measures all figures and prints their table; exits with 1 when one misses its limit.

``firmware`` measures the board (see ``benchmarks.firmware``), ``monkey`` plays with the window (see
``benchmarks.monkey``), ``truth`` tells how true what is given is (see ``benchmarks.truth``),
``fuzz`` fuzzes every reader, for two minutes each or as many seconds as are given.
"""

import sys
from pathlib import Path

FUZZ_S = 120.0
ROOT = Path(__file__).parent.parent


def main() -> int:
    """Runs the benchmarks whose names are given (decoding, reading, printing, insight,
    feeds, window), else all.
    """
    sys.path.insert(0, str(ROOT))
    if sys.argv[1:2] == ["fuzz"]:
        from benchmarks import fuzz

        return fuzz.main(float(sys.argv[2]) if len(sys.argv) > 2 else FUZZ_S)
    if sys.argv[1:2] == ["monkey"]:
        from benchmarks import monkey

        return monkey.main(sys.argv[2:])
    if sys.argv[1:2] == ["firmware"]:
        from benchmarks import firmware

        return firmware.main()
    if sys.argv[1:2] == ["truth"]:
        from benchmarks import truth

        return truth.main(sys.argv[2:])
    from benchmarks import decoding, feeds, insight, printing, reading, window
    from benchmarks.table import table

    parts = {"decoding": decoding, "reading": reading, "printing": printing, "insight": insight}
    parts |= {"feeds": feeds, "window": window}
    chosen = sys.argv[1:] or list(parts)
    found = [figure for name in chosen for figure in parts[name].figures()]
    print("\n".join(table(found)))
    return 0 if all(figure.holds for figure in found) else 1


if __name__ == "__main__":
    sys.exit(main())
