"""The long demo night as a bench file: recorded as if it had been listened to."""

import math
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime, timedelta
from itertools import islice
from pathlib import Path

from pivet.bench.demo import DEMO_ROLES, VAT
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.keeping.recorder import Recorder
from pivet.listening.listener import Listener
from pivet.listening.setup import WireSetup
from pivet.listening.wires_of_source import recognised
from pivet.person.annotations import NOTHING, Annotations, Mark, write_annotations
from pivet.person.stored import write_roles
from pivet.progress import Progress, part, silent
from pivet.readings.sound import fixed_air
from pivet.signal.seconds import ns_of
from pivet.sources.replay import ReplaySource
from pivet.sources.source import About
from pivet.standin.long_night import HAPPENED, NIGHT_S, long_night

NAME = "cave-night"
FILE = f"{NAME}.pivet"
BEGAN_HOUR = 21
AT_ONCE = 64
"""Events that are recorded between two looks whether somebody waits."""

MADE, FOUND, PLAYED = 0.4, 0.5, 0.97
"""Shares of the time until it is made, its wires are found, and it is played."""


def night_began(now: datetime) -> datetime:
    """Nine in the evening of the last night that is over.

    Args:
        now: by the local clock.
    """
    began = now.replace(hour=BEGAN_HOUR, minute=0, second=0, microsecond=0)
    while began + timedelta(seconds=NIGHT_S) > now:
        began -= timedelta(days=1)
    return began


def record_night(path: Path, progress: Progress = silent, began: datetime | None = None) -> None:
    """Writes a bench file with the long night.

    Args:
        path: the path of the file; must not be there.
        progress: called with the share done, 0 to 1.
        began: when the night began; None takes the last night.

    Raises:
        OutputError: it cannot be written.
        Cancelled: from ``progress``; nothing is left of the file.
    """
    began = night_began(datetime.now().astimezone()) if began is None else began
    trace = long_night(part(progress, 0.0, MADE))
    source = ReplaySource(f"{NAME}.vcd", trace, math.inf)
    began_ns = round(began.timestamp()) * 1_000_000_000

    def wanted(_: About) -> list[WireSetup]:
        found = recognised(source, progress=part(progress, MADE, FOUND))
        return [_as_chosen(setup) for setup in found]

    def played(_: float = 0.0) -> None:
        share = source.now_ns() / max(trace.end_ns, 1)
        part(progress, FOUND, PLAYED)(min(share, 1.0))

    def calendar() -> int:
        return began_ns + source.now_ns()

    listener = Listener(source, wanted, calendar=calendar, between=played)
    with _new_bench(path) as bench:
        opened = listener.open()
        recorder = Recorder(bench, opened.about, "simulated cave", listener.calendar)
        while not listener.over:
            told = listener.step(0.0)
            while events := list(islice(told, AT_ONCE)):
                recorder.take(events)
                played()
            recorder.keep(now=True)
        recorder.keep(now=True)
        write_roles(bench, DEMO_ROLES)
        write_annotations(bench, NOTHING, _happened(began_ns))
    progress(1.0)


def _as_chosen(setup: WireSetup) -> WireSetup:
    if setup.sheet is None or setup.sheet.echo is None:
        return setup
    choices = replace(setup.choices, air=fixed_air(12.0), vessel=VAT)
    return replace(setup, choices=choices)


def _happened(began_ns: int) -> Annotations:
    marks = (Mark(began_ns + ns_of(at_s), text, wire) for at_s, text, wire in HAPPENED)
    return Annotations(marks=tuple(sorted(marks)))


@contextmanager
def _new_bench(path: Path) -> Iterator[BenchFile]:
    """A new bench file, closed at the end; taken away when something goes wrong."""
    bench = BenchFile.create(path)
    try:
        yield bench
    except BaseException:
        bench.close()
        path.unlink(missing_ok=True)
        raise
    bench.close()
