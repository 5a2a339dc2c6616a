"""How sure something is that was worked out from many exchanges: by drawing them again.

Neighbours are alike (a warm hour, a busy minute), so whole blocks of exchanges that follow each
other are drawn, with replacement, as often as there are blocks.  The draws hang on the number of
blocks alone: the same files give the same figures.
"""

from functools import lru_cache
from statistics import NormalDist

import numpy as np
import numpy.typing as npt

FloatArray = npt.NDArray[np.float64]
Int64Array = npt.NDArray[np.int64]

DRAWS = 1000
MOST_BLOCKS = 300
SEED = 20_231


def blocks_of(count: int) -> Int64Array:
    """The block that each exchange belongs to, from 0, int64 (count,).

    Args:
        count: how many exchanges, in order of time.
    """
    number = min(count, MOST_BLOCKS)
    found: Int64Array = np.arange(count, dtype=np.int64) * number // max(count, 1)
    return found


@lru_cache(maxsize=16)
def draws(blocks: int) -> FloatArray:
    """How often each block is in each draw, float64 (DRAWS, blocks).

    Args:
        blocks: how many there are, at least 1.
    """
    rng = np.random.default_rng(SEED)
    found = rng.multinomial(blocks, np.full(blocks, 1 / blocks), size=DRAWS)
    return found.astype(np.float64)


def reach(tests: int = 1, level: float = 0.95) -> float:
    """How many standard errors an interval reaches to either side.

    Args:
        tests: how many intervals are to hold all together (by Bonferroni's inequality).
        level: with this probability.
    """
    return NormalDist().inv_cdf(1 - (1 - level) / (2 * max(tests, 1)))


def share_interval(hits: int, total: int, level: float = 0.95) -> tuple[float, float]:
    """Between what the true share lies, of which a sample is seen (Wilson's interval).

    Args:
        hits: how many of the sample.
        total: size of the sample; 0 tells nothing.
        level: with this probability.
    """
    if not total:
        return 0.0, 1.0
    z = reach(1, level)
    share = hits / total
    middle = (share + z * z / (2 * total)) / (1 + z * z / total)
    half = z / (1 + z * z / total) * np.sqrt(share * (1 - share) / total + (z / (2 * total)) ** 2)
    low = 0.0 if hits == 0 else max(float(middle - half), 0.0)
    return low, 1.0 if hits == total else min(float(middle + half), 1.0)


def difference_interval(
    before: tuple[int, int], after: tuple[int, int], level: float = 0.95
) -> tuple[float, float]:
    """Between what the difference of two shares lies (Newcombe's interval of two of Wilson's).

    Args:
        before: hits and size of the one sample.
        after: of the other, from whose share the first is taken.
        level: with this probability.
    """
    (low1, high1), (low2, high2) = share_interval(*before, level), share_interval(*after, level)
    share1, share2 = (hits / total if total else 0.5 for hits, total in (before, after))
    middle = share2 - share1
    down = float(np.hypot(share2 - low2, high1 - share1))
    up = float(np.hypot(high2 - share2, share1 - low1))
    return middle - down, middle + up
