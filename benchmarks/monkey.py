"""The monkey at length: seeds and actions as many as are wanted, with what held the window long."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

SEEDS, ACTIONS = 10, 20_000
TOLD = 5


def main(words: list[str]) -> int:
    """Plays each seed in a process of its own, so that a crash is seen; 1 when something is wrong.

    Args:
        words: how many actions, and how many seeds; else all.
    """
    actions = int(words[0]) if words else ACTIONS
    seeds = int(words[1]) if len(words) > 1 else SEEDS
    status = 0
    for seed in range(seeds):
        line = [sys.executable, "-m", "benchmarks.monkey", str(seed), str(actions)]
        done = subprocess.run(line, check=False, cwd=Path(__file__).parent.parent)
        if done.returncode:
            print(f"seed {seed}: ended with {done.returncode}")
            status = 1
    return status


def play(seed: int, actions: int) -> int:
    """One seed, with the live cave for every second one."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from tests.ui.monkey import LONG_S, Monkey

    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_DATA_HOME"] = folder  # what it allows and keeps is nobody's
        seen = Monkey(seed, Path(folder), live=seed % 2 == 1).play(actions)
    wrong = [*seen.mistakes, *seen.messages]
    print(
        f"seed {seed}: {actions:,} actions, {len(seen.mistakes)} exceptions, "
        f"{len(seen.messages)} messages of Qt, {len(seen.long)} over {LONG_S:g} s"
    )
    print(
        "\n".join(
            [*wrong[:TOLD], *(f"  {s:.2f} s {what}" for s, what in sorted(seen.long)[-TOLD:])]
        )
    )
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(play(int(sys.argv[1]), int(sys.argv[2])))
