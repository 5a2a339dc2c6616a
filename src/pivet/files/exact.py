"""The step in which a trace's times can be written without loss."""

import numpy as np

from pivet.signal.trace import Trace

COARSEST_NS = 10**9


def exact_step_ns(trace: Trace) -> int:
    """The largest power of ten, at most the resolution, that all times are multiples of; ns.

    Args:
        trace: the capture's lines.
    """
    ends = np.array([trace.start_ns, trace.end_ns], dtype=np.int64)
    columns = [ends, *(line.edges_ns for line in trace.lines)]
    step = 1
    while step * 10 <= min(trace.resolution_ns, COARSEST_NS):
        if any((times % (step * 10)).any() for times in columns):
            break
        step *= 10
    return step
