"""A node in the cave whose firmware is wrong while its wire is sound."""

import numpy as np

from pivet.sheets.load import find_sheet
from pivet.signal.trace import Line
from pivet.standin.humidity import Conditions
from pivet.standin.scene import Scene

NAME = "cave.shelf_node"
THRESHOLD_US = 28.0
"""Its firmware takes a longer high for a 1: a guess that is too near to the zeros."""

SAYS = (
    f"shelf_node: its firmware takes a high of more than {THRESHOLD_US:g} µs for a 1, and one read "
    "in five fails; see Rehearsal"
)
COUNT = 400
LATE_SHARE = 0.21
LATE_NS = (1_500, 2_100)
"""Now and then a zero of this sensor lasts so much longer, and the low after it is as much
shorter: well inside its window."""

EDGES = 86
FIRST_FALL, BITS = 6, 40


def node_scene(night_s: float, step_ns: int) -> Scene:
    """A 22-type on a shelf, asked without a fault.

    Args:
        night_s: how long it is watched.
        step_ns: of the capture.
    """
    hour = np.linspace(0.0, 1.0, COUNT)
    return Scene(
        NAME,
        find_sheet("dht22"),
        90.6 + 0.9 * np.sin(2 * np.pi * hour + 0.6),
        12.1 + 0.4 * np.cos(2 * np.pi * hour),
        night_s / COUNT,
        Conditions(clock=1.02, step_ns=step_ns),
        first_ask_s=3.1,
    )


def with_late_falls(line: Line, seed: int, step_ns: int) -> Line:
    """The node's line with longer zeros in one exchange of five.

    Args:
        line: of whole exchanges of the scene.
        seed: the seed of all that is drawn.
        step_ns: of the capture.
    """
    random = np.random.default_rng(seed)
    edges = line.edges_ns.reshape(-1, EDGES).copy()
    falls = edges[:, FIRST_FALL : FIRST_FALL + 2 * BITS : 2]
    zeros = falls - edges[:, FIRST_FALL - 1 : FIRST_FALL - 1 + 2 * BITS : 2] < 48_000
    late = random.random(edges.shape[0]) < LATE_SHARE
    chosen = zeros & late[:, None] & (random.random(zeros.shape) < 0.2)
    steps = random.integers(LATE_NS[0] // step_ns, LATE_NS[1] // step_ns, zeros.shape)
    falls += np.where(chosen, steps * step_ns, 0)
    return Line(line.name, line.initial, edges.ravel())
