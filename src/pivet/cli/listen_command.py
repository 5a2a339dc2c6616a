"""``pivet listen``: listens to wires, asks their sensors, prints what they say."""

import contextlib
import math
import re
import signal
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from types import FrameType
from typing import TYPE_CHECKING, Any

import click

from pivet.cli.choosing import chosen_sheet, complete_feeds, sensor_options, wire_option
from pivet.cli.given import Given
from pivet.cli.terminal import is_quiet, quiet_option
from pivet.errors import InputError, OutputError
from pivet.frozen import replace

if TYPE_CHECKING:
    from pivet.files.benchfile.store import BenchFile
    from pivet.keeping.log import LogWish
    from pivet.listening.events import Event
    from pivet.listening.listener import Listener
    from pivet.listening.setup import WireSetup
    from pivet.listening.taker import Taker
    from pivet.person.choices import WireChoices
    from pivet.sources.source import About, Source

    Parameter = click.ParamType[float]
else:  # Only newer ones can be told of what they are.
    Parameter = click.ParamType

ENDING = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
UNITS = {"ms": 0.001, "s": 1.0, "m": 60.0, "h": 3600.0, "d": 86400.0}


class Duration(Parameter):
    """A time like 500ms, 2s, 10m or 1.5h; a plain number is seconds."""

    name = "time"

    def convert(
        self, value: Any, param: click.Parameter | None, ctx: click.Context | None
    ) -> float:
        """Seconds."""
        if isinstance(value, float):
            return value
        found = re.fullmatch(r"(\d+(?:\.\d+)?)\s*(ms|s|m|h|d|)", str(value).strip())
        if not found:
            self.fail(f"{value!r} is no time: write 500ms, 2s, 10m or 1h", param, ctx)
        return float(found[1]) * UNITS[found[2] or "s"]


class Pace(Parameter):
    """How fast a replay goes: a number, or ``max``."""

    name = "pace"

    def convert(
        self, value: Any, param: click.Parameter | None, ctx: click.Context | None
    ) -> float:
        """The factor."""
        if value == "max":
            return math.inf
        try:
            pace = float(value)
        except ValueError:
            pace = 0.0
        if not pace > 0:
            self.fail(f"{value!r} is no pace: write 1, 4 or max", param, ctx)
        return pace


@click.command()
@click.option(
    "--source",
    "where",
    required=True,
    help="A probe's port (/dev/ttyUSB0, socket://host:port), gpio:gpiochip0, kernel:, folder:PATH "
    "or replay:FILE.",
)
@wire_option(", NAME=LINE gives a name")
@sensor_options
@click.option("--every", type=Duration(), help="Ask so often, 2s for instance.")
@click.option("--only-listen", is_flag=True, help="Ask nothing; hear what other firmware asks.")
@click.option(
    "--retries",
    type=click.IntRange(0, 9),
    default=1,
    show_default=True,
    help="Further tries when an ask gives no reading.",
)
@click.option(
    "--pull-up/--no-pull-up",
    default=None,
    help="Switch the source's own pull-up of these wires on or off, where it has one.",
)
@click.option("--for", "lasting", type=Duration(), help="End after so long, 10m for instance.")
@click.option("--air-temperature", type=float, help="For the speed of sound, in °C.")
@click.option("--timeout", type=float, help="Of echo sensors when nothing is in range, in ms.")
@click.option("--farthest", type=float, help="Farthest distance of echo sensors, in m.")
@click.option("--air-from", "air_wire", metavar="WIRE", help="A thermometer on that wire tells it.")
@click.option("--baud", type=click.IntRange(min=1200), help="Of a probe's port.")
@click.option("--pace", type=Pace(), default=1.0, help="Of a replay: 1, 4 or max.")
@click.option(
    "--bench",
    "file",
    type=click.Path(path_type=Given),
    help="Record into this bench file (.pivet); what it holds stays.",
)
@click.option(
    "--log",
    type=click.Path(path_type=Given),
    help="Keep a running log there: CSV, or JSON Lines when it ends in .jsonl.",
)
@click.option("--log-long", is_flag=True, help="A line a quantity in the log, not a column.")
@click.option("--log-derived", is_flag=True, help="With dew point, heat index and the like.")
@click.option("--log-one-file", is_flag=True, help="Do not begin a new log file each day.")
@click.option(
    "--feed",
    "feeds",
    multiple=True,
    metavar="NAME",
    shell_complete=complete_feeds,
    help="Send by this feed of the bench; repeat.",
)
@click.option("--json", "as_json", is_flag=True, help="One JSON object a line and an event.")
@quiet_option
def listen(
    where: str,
    wires: tuple[str, ...],
    sensor: str | None,
    sheet_file: Path | None,
    every: float | None,
    only_listen: bool,
    retries: int,
    pull_up: bool | None,
    lasting: float | None,
    air_temperature: float | None,
    timeout: float | None,
    farthest: float | None,
    air_wire: str | None,
    baud: int | None,
    pace: float,
    file: Path | None,
    log: Path | None,
    log_long: bool,
    log_derived: bool,
    log_one_file: bool,
    feeds: tuple[str, ...],
    as_json: bool,
) -> None:
    """Listens to wires while things happen, and asks their sensors.

    Ends with Ctrl-C, after --for, or when a replay is over.
    """
    from pivet.cli.listen_print import JsonPrinter, Printer, QuietPrinter
    from pivet.cli.roles_command import own_roles
    from pivet.keeping.log import ReadingsLog
    from pivet.keeping.recorder import Recorder
    from pivet.listening.air import refuse_unknown_air
    from pivet.listening.listener import Listener
    from pivet.listening.setup import WireSetup
    from pivet.person.annotations import Labels
    from pivet.sheets.reach import reach_of
    from pivet.sources.registry import make_source

    if only_listen and every is not None:
        raise InputError("--every asks and --only-listen does not", "give one of them")
    choices = _choices(air_temperature, air_wire)
    if timeout is not None or farthest is not None:
        choices = replace(choices, reach=reach_of(timeout, farthest))
    source = make_source(where, baud, pace)
    asks = source.can_ask and not only_listen
    interval = (every or 0.0) if asks else None
    sheet = chosen_sheet(sensor, sheet_file)
    each = WireSetup("", (), sheet, interval, retries, choices, pull_up)
    setups = [_setup(text, each) for text in wires]
    with source:
        listener = Listener(source, lambda about: setups or _all_wires(source, about, each))
        kind = QuietPrinter if is_quiet() else JsonPrinter if as_json else Printer
        printer = kind(listener.calendar)
        wish = log_wish(log, log_long, log_derived, not log_one_file)
        with _bench(file) as bench:
            opened = listener.open()
            if air_wire is not None:
                refuse_unknown_air(air_wire, [wire.name for wire in listener.wires])
            takers: list[Taker] = []
            if bench is not None:
                takers.append(Recorder(bench, opened.about, where, listener.calendar))
            if wish is not None:
                names = Labels(own_roles())
                takers.append(ReadingsLog(wish, listener.calendar.wall_ns, lambda: names))
            if feeds:
                takers.append(_feeding(bench, feeds))
            _run(listener, [*takers, printer], opened, lasting)
    if printer.trouble is not None:
        raise printer.trouble


def _choices(air_temperature: float | None, thermometer: str | None) -> "WireChoices":
    """What is known of the air."""
    from pivet.listening.air import air_from
    from pivet.person.choices import NO_CHOICE, WireChoices
    from pivet.readings.sound import fixed_air

    if air_temperature is not None and thermometer is not None:
        raise InputError("--air-temperature and --air-from say the same", "give one of them")
    if thermometer is not None:
        return WireChoices(air=air_from(thermometer))
    return NO_CHOICE if air_temperature is None else WireChoices(air=fixed_air(air_temperature))


@contextlib.contextmanager
def _bench(path: Path | None) -> "Iterator[BenchFile | None]":
    """The bench file to record into, made if it is not there."""
    if path is None:
        yield None
        return
    from pivet.files.benchfile.store import BenchFile

    bench = BenchFile.open(path) if path.exists() else BenchFile.create(path)
    try:
        if bench.read_only:
            raise OutputError(bench.why, "record into another file")
        yield bench
    finally:
        bench.close()


def _feeding(bench: "BenchFile | None", names: tuple[str, ...]) -> "Taker":
    """The feeds that are to send what is heard.

    Raises:
        InputError: there is no bench, or it has no such feed.
    """
    from pivet.cli.roles_command import own_roles
    from pivet.feeds.taker import feeding

    if bench is None:
        raise InputError("--feed sends what a bench keeps", "give --bench FILE, too")
    return feeding(bench, names, own_roles())


def log_wish(path: Path | None, long: bool, derived: bool, daily: bool) -> "LogWish | None":
    """The log that is wanted.

    Raises:
        InputError: its name does not say what it is.
    """
    if path is None:
        return None
    from pivet.files.readings_table import Form
    from pivet.keeping.log import LogWish

    endings = {Form.LINES.suffix: Form.LINES, Form.WIDE.suffix: Form.LONG if long else Form.WIDE}
    form = endings.get(path.suffix.lower())
    if form is None:
        raise InputError(f"{path} has an ending that names no format", "end it in .csv or .jsonl")
    return LogWish(path, form, derived, daily)


def _setup(text: str, each: "WireSetup") -> "WireSetup":
    """The wire that a person names; all else is as it is for each."""
    name, _, lines = text.rpartition("=")
    parts = tuple(part.strip() for part in lines.split(","))
    if not all(parts) or len(parts) > 2:
        raise InputError(f"{text!r} names no wire", "give a line, or trigger,echo")
    return replace(each, name=name or parts[0], lines=parts)


def _all_wires(source: "Source", about: "About", each: "WireSetup") -> "list[WireSetup]":
    """All wires of a source, where the person names none."""
    from pivet.listening.wires_of_source import everything, recognised
    from pivet.sources.replay import ReplaySource

    if isinstance(source, ReplaySource):
        return recognised(source, replace(each.choices, sheet=each.sheet), whole_names=True)
    return everything(about, each.every_s, each.retries, each.choices, each.pull_up)


def _run(
    listener: "Listener", takers: "Sequence[Taker]", opened: "Event", lasting: float | None
) -> None:
    """Listens until it is told to stop, the time is over, or nobody reads any more."""
    from pivet.cli.listen_print import Printer
    from pivet.listening.memory import keep_little
    from pivet.listening.runner import Runner

    until = math.inf if lasting is None else time.monotonic() + lasting
    keep_little()
    runner = Runner(listener)
    for taker in takers:
        runner.add(taker)
    runner.say(opened)
    printer = takers[-1]
    assert isinstance(printer, Printer)
    with ended_by_signals() as stopped:
        printer.ending = lambda: bool(stopped)
        runner.run(
            lambda: bool(stopped) or printer.trouble is not None or time.monotonic() >= until
        )


@contextlib.contextmanager
def ended_by_signals() -> Iterator[list[int]]:
    """Ctrl-C, a closed terminal and a polite kill end it in order; gives those that came."""
    came: list[int] = []

    def stop(number: int, _frame: FrameType | None) -> None:
        came.append(number)

    before = {kind: signal.signal(kind, stop) for kind in ENDING}
    try:
        yield came
    finally:
        for kind, handler in before.items():
            signal.signal(kind, handler)
