"""Good files from which fuzzers begin."""

import math
from pathlib import Path

from pivet.bench.demo import DEMO_ROLES
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.keeping.recorder import Recorder
from pivet.listening.listener import Listener
from pivet.listening.wires_of_source import recognised
from pivet.person.annotations import NOTHING, Annotations, Mark, write_annotations, write_crossing
from pivet.person.stored import LastLook, write_looked, write_roles
from pivet.readings.correction import by_offset
from pivet.readings.limits import Crossing, Limit, Side
from pivet.readings.series import Sensor
from pivet.readings.sound import Vessel, fixed_air
from pivet.signal.trace import Line, Trace
from pivet.sources.replay import ReplaySource
from tests.night import demo_night

LENGTH_NS = 90 * 10**9


def short_trace() -> Trace:
    """A minute and a half of the cave."""
    trace = demo_night().whole()
    end = trace.start_ns + LENGTH_NS
    lines = tuple(
        Line(row.name, row.initial, row.edges_ns[row.edges_ns < end]) for row in trace.lines
    )
    return replace(trace, lines=lines, end_ns=end)


def sample_bench(folder: Path) -> bytes:
    """A bench file with something in every table."""
    path = folder / "sample.pivet"
    source = ReplaySource("cave.vcd", short_trace(), math.inf)
    setups = recognised(source)
    vessel = Vessel(1.2, 1.0, 0.5)
    setups = [
        replace(row, choices=replace(row.choices, air=fixed_air(12.0), vessel=vessel))
        if row.sheet is not None and row.sheet.echo
        else row
        for row in setups
    ]
    listener = Listener(source, lambda _: setups)
    bench = BenchFile.create(path)
    opened = listener.open()
    recorder = Recorder(bench, opened.about, "made up", listener.calendar)
    while not listener.over:
        recorder.take(list(listener.step(0.0)))
    recorder.close()
    write_roles(bench, DEMO_ROLES)
    write_looked(bench, LastLook(1, setups[0].name, 3))
    sensor = Sensor(setups[0].name, "", "humidity")
    given = Annotations(
        marks=(Mark(10**18, "a breath"),),
        corrections={sensor: by_offset(1.0)},
        limits={sensor: Limit(50.0, 99.0)},
    )
    write_annotations(bench, NOTHING, given)
    write_crossing(bench, sensor, Crossing(Side.ABOVE, 10**18, 10**18, 99.5, 99.9, None))
    with bench.writing():
        bench.add_note(10**18, "a note", 1, 2)
    bench.close()
    return path.read_bytes()
