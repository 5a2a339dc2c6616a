"""The demo: one night in a cheese-ageing cave, with the faults that people meet."""

import numpy as np

from pivet.frozen import replace
from pivet.progress import Progress, part, silent
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Trace
from pivet.standin.echo import EchoFault, EchoScene, echo_lines
from pivet.standin.faults import Fault
from pivet.standin.humidity import Conditions
from pivet.standin.node import node_scene, with_late_falls
from pivet.standin.scene import Scene, scenes_trace
from pivet.standin.wheels import wheels_line

SEED = 20
NIGHT_S = 3600.0
STEP_NS = 100

WRONGLY_CHOSEN = {"cave.cellar_door": "dht22"}
"""The wire on which somebody chose the wrong sensor type."""


DEPTH_M = 1.4
"""From the brine vat's sensor to its bottom, m."""


def cave_night(progress: Progress = silent) -> Trace:
    """An hour of the night on seven wires; always the same.

    Args:
        progress: called with the share done, 0 to 1.
    """
    rooms = (_shelf_a(), _wash_room(), _blast_chiller(), _cellar_door())
    frames = scenes_trace(rooms, SEED, part(progress, 0.0, 0.2))
    wheels = wheels_line(SEED + 10, NIGHT_S, STEP_NS, progress=part(progress, 0.2, 0.8))
    nodes = scenes_trace((node_scene(NIGHT_S, STEP_NS),), SEED + 30).lines
    node = with_late_falls(nodes[0], SEED + 31, STEP_NS)
    progress(0.9)
    vat = echo_lines(_brine_vat(), SEED + 20)
    lines = (*frames.lines[:2], wheels, *vat, *frames.lines[2:], node)
    last = max(int(line.edges_ns[-1]) for line in lines)
    return replace(frames, lines=lines, end_ns=max(frames.end_ns, last + STEP_NS))


def _hours(count: int) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    return np.linspace(0.0, 1.0, count)


def _shelf_a() -> Scene:
    """92 %RH, 11.8 °C; a visitor opens the door; the plug is pulled for two minutes."""
    count = 360
    hour = _hours(count)
    visit = np.exp(-(((hour - 0.55) / 0.05) ** 2))
    faults: dict[int, tuple[Fault, ...]] = dict.fromkeys(range(262, 274), (Fault.NO_ANSWER,))
    faults |= {
        47: (Fault.SPIKE,),
        112: (Fault.PULSE_NEAR,),
        158: (Fault.SUM_WRONG,),
        203: (Fault.PULSE_NEAR,),
        261: (Fault.CUT_SHORT,),
        274: (Fault.ALL_ZEROS,),
        318: (Fault.PULSE_OUTSIDE,),
    }
    return Scene(
        "cave.shelf_A",
        find_sheet("dht22"),
        92.4 + 0.8 * np.sin(2 * np.pi * hour) - 6.0 * visit,
        11.8 + 0.3 * np.cos(2 * np.pi * hour) + 1.1 * visit,
        NIGHT_S / count,
        Conditions(clock=1.01, step_ns=STEP_NS),
        faults,
        first_ask_s=1.25,
    )


def _wash_room() -> Scene:
    """11-type; firmware polls it too fast for a while, and once gets a late answer."""
    count = 180
    hour = _hours(count)
    faults: dict[int, tuple[Fault, ...]] = dict.fromkeys(range(60, 66), (Fault.TOO_SOON,))
    faults |= {66: (Fault.LATE_ANSWER,), 121: (Fault.SPIKE,), 140: (Fault.OUT_OF_RANGE,)}
    return Scene(
        "cave.wash_room",
        find_sheet("dht11"),
        78.0 + 9.0 * np.sin(2 * np.pi * hour),
        13.0 + 1.5 * np.sin(2 * np.pi * hour + 1.0),
        NIGHT_S / count,
        Conditions(step_ns=STEP_NS),
        faults,
        first_ask_s=2.5,
    )


def _blast_chiller() -> Scene:
    """-18 °C behind a long cable with a weak pull-up; now and then that is too much."""
    count = 120
    hour = _hours(count)
    weak = (18, 33, 34, 71, 90, 104)
    faults: dict[int, tuple[Fault, ...]] = dict.fromkeys(weak, (Fault.WEAK_PULL_UP,))
    faults |= {55: (Fault.SUM_WRONG,)}
    return Scene(
        "cave.blast_chiller",
        find_sheet("dht22"),
        61.0 + 4.0 * np.sin(4 * np.pi * hour),
        -18.0 + 0.7 * np.sin(10 * np.pi * hour),
        NIGHT_S / count,
        Conditions(rise_us=0.6, step_ns=STEP_NS),
        faults,
        first_ask_s=4.0,
    )


def _cellar_door() -> Scene:
    """An early 11-type that somebody takes for a 22-type."""
    count = 24
    hour = _hours(count)
    return Scene(
        "cave.cellar_door",
        find_sheet("dht11-early"),
        70.0 + 6.0 * np.sin(2 * np.pi * hour),
        14.0 - 2.0 * hour,
        NIGHT_S / count,
        Conditions(step_ns=STEP_NS),
        first_ask_s=6.0,
    )


def _brine_vat() -> EchoScene:
    """Level by echo: brine is drawn off and filled up; foam, an open lid, a hasty firmware."""
    count = 360
    hour = _hours(count)
    level = 0.82 - 0.25 * np.clip((hour - 0.15) / 0.4, 0, 1) + 0.3 * np.clip(hour * 5 - 4, 0, 1)
    foam = (71, 118, 126, 131, 207, 290)
    faults: dict[int, tuple[EchoFault, ...]] = dict.fromkeys(foam, (EchoFault.SOFT_TARGET,))
    faults |= dict.fromkeys(range(160, 168), (EchoFault.NOTHING_IN_RANGE,))
    faults |= dict.fromkeys(range(236, 240), (EchoFault.TOO_SOON,))
    faults |= {
        64: (EchoFault.NO_ECHO,),
        181: (EchoFault.TRIGGER_SHORT, EchoFault.NO_ECHO),
        240: (EchoFault.RETRIGGERED,),
        301: (EchoFault.LATE_RISE,),
    }
    return EchoScene(
        "cave.brine_vat",
        find_sheet("hc-sr04"),
        DEPTH_M - level + 0.0015 * np.sin(40 * np.pi * hour),
        11.8 + 0.3 * np.cos(2 * np.pi * hour),
        NIGHT_S / count,
        step_ns=STEP_NS,
        faults=faults,
        first_s=5.0,
    )
