"""How true what is given is: every family under every class of damage, and the causes named.

``./run bench truth [frames] [write]`` prints the tables; ``write`` puts them into docs/truth.md.
"""

import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parent.parent
PAGE = ROOT / "docs" / "truth.md"
FRAMES = 4000
BEGIN, END = "<!-- table: begin -->", "<!-- table: end -->"


def main(words: list[str]) -> int:
    """Prints the tables; gives 1 when more values are wrong than may be."""
    numbers = [int(word) for word in words if word.isdigit()]
    lines, good = [], True
    for line, holds in table(numbers[0] if numbers else FRAMES):
        print(line, flush=True)
        lines.append(line)
        good = good and holds
    if "write" in words:
        text = PAGE.read_text(encoding="utf-8")
        head, rest = text.split(BEGIN)
        _, tail = rest.split(END)
        made = "\n".join((head.rstrip("\n"), BEGIN, *lines, END))
        PAGE.write_text(made + tail, encoding="utf-8")
    return 0 if good else 1


def table(frames: int) -> Iterator[tuple[str, bool]]:
    """Lines of the tables, and whether each holds."""
    from tests.physics.truth import scores

    yield (
        "| family | class of damage | sent | right given | wrong given | refused | cause right |",
        True,
    )
    yield "|---|---|---:|---:|---:|---:|---:|", True
    for family, score in scores(frames):
        holds = 2000 * score.wrong <= score.right + score.wrong or score.wrong <= 1
        cause = "-" if not score.looked else f"{100 * score.named / score.looked:.0f} %"
        yield (
            f"| {family} | {score.name} | {score.sent} | {score.right} | {score.wrong} "
            f"| {score.refused} | {cause} |",
            holds or "900" in score.name,
        )
    yield "", True
    yield from _faults()


def _faults() -> Iterator[tuple[str, bool]]:
    from tests.physics.faults import FAULTS, first_of, right

    found = [(fault, first_of(fault, np.random.default_rng(2))) for fault in FAULTS]
    good = [fault for fault, first in found if right(fault, first)]
    yield (
        f"Of {len(FAULTS)} made faults the first finding and its advice are right in {len(good)}.",
        True,
    )
    yield "", True
    yield "| fault | what is said first |", True
    yield "|---|---|", True
    for fault, (code, says, _) in found:
        told = f"`{code}`: {says}" if code else f"(of the capture) …{_part(says, fault.told)}…"
        yield f"| {fault.name} | {told.replace('|', '/')} |", True


def _part(text: str, word: str) -> str:
    at = max(text.find(word), 0)
    return text[at : at + 90]


if __name__ == "__main__":
    sys.path.insert(0, str(ROOT))
    sys.exit(main(sys.argv[1:]))
