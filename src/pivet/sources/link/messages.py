"""The messages of the probe link and their bytes; see docs/probe-link.md.

Numbers are little-endian; durations and distances between edges are varints.
"""

from pivet.sources.link.host_messages import (
    Ask,
    AskLine,
    AskStamps,
    Configure,
    Hello,
    HostBeat,
    Listen,
)
from pivet.sources.link.probe_messages import (
    Asked,
    Done,
    Edges,
    IAm,
    LineIs,
    Lost,
    ProbeBeat,
    Refused,
    Stamps,
)
from pivet.sources.link.words import (
    MAJOR,
    MINOR,
    MOST_LINES,
    MOST_VARINT,
    SENT_WRAP,
    STAMPS_MINOR,
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
    "STAMPS_MINOR",
    "UNKNOWN_COUNT",
    "Ask",
    "AskLine",
    "AskStamps",
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
    "Stamps",
]

HostMessage = Hello | AskLine | Configure | Listen | Ask | HostBeat | AskStamps
ProbeMessage = IAm | LineIs | Done | Refused | Edges | ProbeBeat | Asked | Lost | Stamps

FROM_HOST: dict[int, type[HostMessage]] = {
    kind.KIND: kind for kind in (Hello, AskLine, Configure, Listen, Ask, HostBeat, AskStamps)
}
FROM_PROBE: dict[int, type[ProbeMessage]] = {
    kind.KIND: kind for kind in (IAm, LineIs, Done, Refused, Edges, ProbeBeat, Asked, Lost, Stamps)
}
"""The messages of either side, by their kind."""
