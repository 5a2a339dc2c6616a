"""The messages of the probe link and their bytes; see docs/probe-link.md.

Numbers are little-endian; durations and distances between edges are varints.
"""

from pivet.sources.link.host_messages import Ask, AskLine, Configure, Hello, HostBeat, Listen
from pivet.sources.link.probe_messages import (
    Asked,
    Done,
    Edges,
    IAm,
    LineIs,
    Lost,
    ProbeBeat,
    Refused,
)
from pivet.sources.link.words import (
    MAJOR,
    MINOR,
    MOST_LINES,
    MOST_VARINT,
    SENT_WRAP,
    UNKNOWN_COUNT,
    Can,
    Drive,
    Malformed,
    Reason,
)

__all__ = [
    "FROM_HOST",
    "FROM_PROBE",
    "MAJOR",
    "MINOR",
    "MOST_LINES",
    "MOST_VARINT",
    "SENT_WRAP",
    "UNKNOWN_COUNT",
    "Ask",
    "AskLine",
    "Asked",
    "Can",
    "Configure",
    "Done",
    "Drive",
    "Edges",
    "Hello",
    "HostBeat",
    "HostMessage",
    "IAm",
    "LineIs",
    "Listen",
    "Lost",
    "Malformed",
    "ProbeBeat",
    "ProbeMessage",
    "Reason",
    "Refused",
]

HostMessage = Hello | AskLine | Configure | Listen | Ask | HostBeat
ProbeMessage = IAm | LineIs | Done | Refused | Edges | ProbeBeat | Asked | Lost

FROM_HOST: dict[int, type[HostMessage]] = {
    kind.KIND: kind for kind in (Hello, AskLine, Configure, Listen, Ask, HostBeat)
}
FROM_PROBE: dict[int, type[ProbeMessage]] = {
    kind.KIND: kind for kind in (IAm, LineIs, Done, Refused, Edges, ProbeBeat, Asked, Lost)
}
"""The messages of either side, by their kind."""
