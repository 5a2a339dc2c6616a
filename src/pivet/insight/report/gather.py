"""What a report tells of each wire."""

import hashlib
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from pivet.captures.causes import Cause, causes_of
from pivet.captures.wire import NO_NAMES
from pivet.frozen import FrozenObject, FrozenValue
from pivet.history.advice import ADVICE
from pivet.insight.drawn.course import track_picture
from pivet.insight.drawn.lanes import lane_picture, lanes_of
from pivet.insight.drawn.picture import Picture
from pivet.insight.follows import what_follows
from pivet.insight.margins import Margins, margins_of
from pivet.insight.material import Studied
from pivet.insight.readers import Reader
from pivet.insight.registry import insight_of
from pivet.insight.rehearsal import Rehearsal, rehearse
from pivet.insight.resample import share_interval
from pivet.insight.side import Side
from pivet.insight.tell import between_words
from pivet.judge.notices import leading
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.progress import Progress, silent

WIDTH = 900.0
MOST_WORST = 6
AT_ONCE = 1 << 20


class Source(FrozenValue):
    """A file that a report is of.

    Attributes:
        name: as the person named it.
        size: bytes.
        sha256: the SHA-256 of its content, in hex; empty of what is no file.
    """

    name: str
    size: int
    sha256: str


class Worst(FrozenObject):
    """One exchange that is drawn.

    Attributes:
        report: all of it.
        picture: the picture of its pulses.
        at: when it began.
    """

    report: Report
    picture: Picture
    at: str


class WireReport(FrozenObject):
    """What is told of a wire.

    Attributes:
        studied: the wire.
        counts: the counts of each verdict, in their order.
        sound: share that is sound, and between what it lies, at 95 %.
        causes: why exchanges are not sound, with one line of advice each.
        margins: the margins of its pulses.
        lanes: pictures of them.
        sentences: what lies between kinds of pulses, and what widths follow.
        rehearsal: what a firmware would have made of the exchanges.
        does: what such a firmware does.
        made: it was asked for; else only what it suggests is told.
        worst: exchanges that are drawn.
        courses: readings over time.
        span: from when to when.
    """

    studied: Studied
    counts: tuple[int, ...]
    sound: tuple[float, float, float]
    causes: tuple[tuple[Cause, str], ...]
    margins: Margins
    lanes: tuple[Picture, ...]
    sentences: tuple[str, ...]
    rehearsal: Rehearsal
    does: str
    made: bool
    worst: tuple[Worst, ...]
    courses: tuple[tuple[str, Picture], ...]
    span: str


def source_of(path: Path, name: str) -> Source:
    """A file with its hash.

    Args:
        path: the path of the file; a demo has none.
        name: as the person named it.
    """
    if not path.is_file():
        return Source(name, 0, "")
    found, size = hashlib.sha256(), 0
    with path.open("rb") as stream:
        while piece := stream.read(AT_ONCE):
            found.update(piece)
            size += len(piece)
    return Source(name, size, found.hexdigest())


def wire_report(
    studied: Studied, reader: Reader | None = None, progress: Progress = silent
) -> WireReport:
    """All that is told of a wire.

    Args:
        studied: the wire.
        reader: the firmware whose rehearsal is told; None for what the usual one suggests.
        progress: called with the share done, 0 to 1.

    Raises:
        Cancelled: ``progress`` raised it.
    """
    wire, insight = studied.wire, insight_of(studied.wire)
    margins = margins_of(wire)
    progress(0.3)
    follows = what_follows(wire)
    progress(0.5)
    rehearsal = rehearse(Side(wire), reader or Reader(""))
    progress(0.7)
    sentences = [between_words(one, margins) for one in margins.between]
    sentences += [one.says for one in follows]
    counts = tuple(wire.count(verdict) for verdict in Verdict)
    sound = counts[Verdict.SOUND]
    low, high = share_interval(sound, len(wire))
    causes = causes_of(wire)
    progress(0.8)
    starts = wire.exchanges.start_ns
    courses = [
        (f"{track.name}, {track.unit}", picture)
        for track in wire.tracks
        if (picture := track_picture(track, starts, WIDTH)) is not None
    ]
    progress(0.9)
    return WireReport(
        studied,
        counts,
        (sound / max(len(wire), 1), low, high),
        tuple((cause, _advice(studied, cause)) for cause in causes),
        margins,
        tuple(lane_picture(lane, WIDTH) for lane in lanes_of(margins)),
        tuple(sentences),
        rehearsal,
        insight.kind(rehearsal.reader.kind).does,
        reader is not None,
        tuple(_worst(studied, causes)),
        tuple(courses),
        _span(studied),
    )


def _advice(studied: Studied, cause: Cause) -> str:
    wire = studied.wire
    bits = int(wire.judged.notices[cause.at[0] - wire.first])
    notice = leading(bits, wire.family.notices)
    return ADVICE.get(notice.code, "") if notice is not None else ""


def _worst(studied: Studied, causes: Sequence[Cause]) -> list[Worst]:
    """One exchange of each cause, the gravest first."""
    wire, insight = studied.wire, insight_of(studied.wire)
    found = []
    for cause in causes[:MOST_WORST]:
        report = wire.report(cause.at[0] - wire.first, NO_NAMES)
        found.append(
            Worst(report, insight.picture(wire, report, WIDTH), moment(studied, report.start_ns))
        )
    return found


def moment(studied: Studied, at_ns: int) -> str:
    """A time, by the calendar (UTC) where it is known.

    Args:
        studied: of which wire.
        at_ns: in its capture, ns.
    """
    if studied.began_ns is None:
        return f"{at_ns / 1e9:.3f} s"
    at = datetime.fromtimestamp((studied.began_ns + at_ns) / 1e9, UTC)
    return f"{at:%Y-%m-%d %H:%M:%S} UTC"


def _span(studied: Studied) -> str:
    starts, ends = studied.wire.exchanges.start_ns, studied.wire.exchanges.end_ns
    if not starts.size:
        return ""
    return f"{moment(studied, int(starts[0]))} to {moment(studied, int(np.max(ends)))}"
