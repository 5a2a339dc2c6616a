"""``pivet feed``: readings of a bench on their way to a broker or a service."""

import contextlib
import math
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from pivet.cli.choosing import complete_feeds, complete_units
from pivet.cli.given import Given
from pivet.cli.listen_command import Duration, ended_by_signals
from pivet.cli.progress_line import progress_line
from pivet.cli.terminal import quiet_option, say, say_json, say_lines, say_note
from pivet.errors import InputError, OutputError

if TYPE_CHECKING:
    from pivet.feeds.feeds import Feeds
    from pivet.feeds.setup import FeedSetup
    from pivet.feeds.state import FeedState

LOOK_S = 0.2

bench_argument = click.argument("bench", type=click.Path(path_type=Given))
name_argument = click.argument("name", shell_complete=complete_feeds)


@contextlib.contextmanager
def opened(path: Path, writes: bool = True) -> "Iterator[Feeds]":
    """The feeds of a bench.

    Raises:
        InputError: it cannot be used.
        OutputError: it may only be looked at, and that is not enough.
    """
    from pivet.cli.roles_command import own_roles
    from pivet.feeds.feeds import Feeds
    from pivet.files.benchfile.store import BenchFile

    bench: BenchFile = BenchFile.open(path)
    try:
        if writes and bench.read_only:
            raise OutputError(
                bench.why, "close it there; while it listens, its feeds send by themselves"
            )
        yield Feeds(bench, own_roles())
    finally:
        bench.close()


@click.group()
def feed() -> None:
    """Sends readings of a bench elsewhere: MQTT, HTTP, OpenMetrics.

    What waits is kept in the bench, so nothing is lost while the network is away.
    """


@feed.command()
@bench_argument
@click.argument("name")
@click.argument("url")
@click.option("--all", "all_held", is_flag=True, help="Also send what the bench holds already.")
@click.option("--wire", "wires", multiple=True, metavar="NAME", help="Only this wire; repeat it.")
@click.option(
    "--unit",
    "units",
    multiple=True,
    metavar="UNIT",
    shell_complete=complete_units,
    help="Send values in it, F or cm.",
)
@click.option("--derived", is_flag=True, help="With dew point, heat index and the like.")
@click.option("--every", type=Duration(), default=0.0, help="Send at most so often, 15s say.")
@click.option("--batch", type=click.IntRange(1, 10_000), default=1, help="http: rows a request.")
@click.option("--newest", is_flag=True, help="Of what waits, only the newest of each sensor.")
@click.option("--user", default="", help="Name of the user.")
@click.option(
    "--secret-from",
    "secret",
    default="",
    metavar="PLACE",
    help="Where password or key is: keyring, or env:PIVET_... for a variable.",
)
@click.option("--key-at", default="", help="http: header:NAME, query:NAME, or body.")
@click.option(
    "--template",
    type=click.Path(path_type=Given, exists=True, dir_okay=False),
    help="http: a JSON file with places like {temperature}; see docs/feeds.md.",
)
@click.option("--topic", help="mqtt: with places like {wire}.")
@click.option("--plain", is_flag=True, help="mqtt: the value alone instead of JSON.")
@click.option("--qos", type=click.IntRange(1, 2), default=1, help="mqtt.")
@click.option("--retain/--no-retain", default=True, help="mqtt: the broker keeps the last value.")
@click.option("--expiry", type=Duration(), default=0.0, help="mqtt: drop what nobody fetched.")
@click.option("--ca", type=click.Path(path_type=Given), help="The authority that is trusted.")
@click.option("--cert", type=click.Path(path_type=Given), help="The client's certificate.")
@click.option("--cert-key", type=click.Path(path_type=Given), help="The key of that.")
@quiet_option
def add(bench: Path, name: str, url: str, all_held: bool, **options: Any) -> None:
    """Adds a feed NAME to BENCH that sends to URL.

    URL is mqtt://HOST, mqtts://HOST, http://..., https://..., or
    openmetrics://127.0.0.1:9464, where the last readings can be fetched. A password or key
    never stands in the bench.
    """
    setup = _setup(url, **options)
    with opened(bench) as feeds:
        made = feeds.add(name, setup, all_held)
        if made.secret == "keyring":
            _ask_secret(made)
    kind = made.kind.upper() if made.kind == "mqtt" else made.kind
    say_note(f"{name} ({kind}): added to {bench}; see whether it arrives: pivet feed test")


def _setup(url: str, **options: Any) -> "FeedSetup":
    """The feed that was described.

    Raises:
        InputError: a unit or a file cannot be used.
    """
    from pivet.feeds.setup import TOPIC, FeedSetup
    from pivet.readings.units import symbol_of

    units = []
    for written in options["units"]:
        symbol = symbol_of(written)
        if symbol is None:
            raise InputError(f"{written!r} is no unit", "give C, F, K, m, cm, mm or in")
        units.append(symbol)
    template = options["template"]
    return FeedSetup(
        url=url,
        wires=options["wires"],
        units=tuple(units),
        derived=options["derived"],
        every_s=options["every"],
        batch=options["batch"],
        newest=options["newest"],
        user=options["user"],
        secret=options["secret"],
        topic=options["topic"] or TOPIC,
        plain=options["plain"],
        qos=options["qos"],
        retain=options["retain"],
        expiry_s=math.ceil(options["expiry"]),
        key_at=options["key_at"],
        template="" if template is None else _text(template),
        ca=_absolute(options["ca"]),
        cert=_absolute(options["cert"]),
        cert_key=_absolute(options["cert_key"]),
    )


def _absolute(path: Path | None) -> str:
    return "" if path is None else str(path.absolute())


def _text(path: Path) -> str:
    try:
        return path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise InputError(f"{path} is no text file ({error})", "give a JSON file") from error


def _ask_secret(setup: "FeedSetup") -> None:
    from pivet.feeds.secret import keep_secret

    if sys.stdin.isatty():
        typed = click.prompt("Password or key", hide_input=True, err=True)
    else:
        typed = sys.stdin.readline().rstrip("\n")
    if not typed:
        raise InputError("no password or key was given", "type it, or pipe it in")
    keep_secret(setup, typed)


@feed.command("list")
@bench_argument
@click.option("--json", "as_json", is_flag=True, help="One JSON object a line and a feed.")
def feed_list(bench: Path, as_json: bool) -> None:
    """Lists the feeds of BENCH: what each does, what waits, and why."""
    with opened(bench, writes=False) as feeds:
        states = feeds.states()
    from pivet.feeds.tell import state_lines

    for state in states:
        if as_json:
            say_json(_object(state))
        else:
            say_lines(state_lines(state))
    if not states and not as_json:
        say(f"{bench} has no feed. One is added by: pivet feed add {bench} NAME URL")


def _object(state: "FeedState") -> str:
    import json

    return json.dumps(
        {
            "feed": state.name,
            "url": state.url,
            "state": state.state,
            "waiting": state.waiting,
            "behind_s": round(state.behind_s, 1),
            "sent": state.sent,
            "acknowledged": _moment(state.acked_ns) or None,
            "error": state.trouble or None,
        },
        ensure_ascii=False,
    )


def _moment(at_ns: int) -> str:
    from pivet.history.times import utc_time

    return utc_time(at_ns) if at_ns else ""


@feed.command()
@bench_argument
@name_argument
def test(bench: Path, name: str) -> None:
    """Sends a message by the feed NAME of BENCH, to see whether it arrives."""
    with opened(bench, writes=False) as feeds:
        say(f"{name}: {feeds.test(name)}")


@feed.command()
@bench_argument
@name_argument
@click.option("--again", is_flag=True, help="Everything that the bench holds, once more.")
@click.option("--for", "lasting", type=Duration(), help="Give up after so long, 10m for instance.")
@quiet_option
def send(bench: Path, name: str, again: bool, lasting: float | None) -> None:
    """Sends what the feed NAME of BENCH has not sent yet, and ends.

    The status is 1 when something still waits at the end; it stays in the bench.
    """
    from pivet.feeds.tell import state_lines

    until = math.inf if lasting is None else time.monotonic() + lasting
    with opened(bench) as feeds, ended_by_signals() as stopped:
        if again:
            feeds.send_again(name)
        feeds.row(name)
        state = _sent(feeds, name, lambda: bool(stopped) or time.monotonic() >= until)
    for line in state_lines(state):
        say_note(line)
    if state.waiting:
        click.get_current_context().exit(1)


def _sent(feeds: "Feeds", name: str, ends: Any) -> "FeedState":
    """Sends until nothing waits, or it is to end; says why when it cannot."""
    from pivet.feeds.setup import Kind
    from pivet.feeds.state import State

    if feeds.setup(name).kind is Kind.METRICS:
        raise InputError(f"{name!r} is fetched, not sent", "it is served while Pivet listens")
    whole, said = 0, ""
    with progress_line(f"Sending {name}") as progress:
        feeds.start([name])
        while True:
            state = next(row for row in feeds.states() if row.name == name)
            whole = max(whole, state.waiting)
            if whole:
                progress(1 - state.waiting / whole)
            if state.trouble and state.trouble != said:
                said = state.trouble
                say_note(f"{name}: {said}")
            if ends() or state.state is State.IDLE:
                break
            time.sleep(LOOK_S)
        feeds.stop()
    return next(row for row in feeds.states() if row.name == name)


@feed.command()
@bench_argument
@name_argument
@quiet_option
def pause(bench: Path, name: str) -> None:
    """Lets the feed NAME of BENCH rest; what is heard waits in the bench."""
    with opened(bench) as feeds:
        feeds.pause(name)
    say_note(f"{name}: paused; pivet feed resume goes on")


@feed.command()
@bench_argument
@name_argument
@quiet_option
def resume(bench: Path, name: str) -> None:
    """Lets the feed NAME of BENCH send again, also one that came with somebody else's bench."""
    with opened(bench) as feeds:
        feeds.resume(name)
    say_note(f"{name}: sends again while Pivet listens, or by: pivet feed send {bench} {name}")


@feed.command()
@bench_argument
@name_argument
@quiet_option
def remove(bench: Path, name: str) -> None:
    """Takes the feed NAME out of BENCH; what waits for it will not be sent."""
    with opened(bench) as feeds:
        feeds.remove(name)
    say_note(f"{name}: removed from {bench}")


@feed.command()
@bench_argument
@name_argument
def secret(bench: Path, name: str) -> None:
    """Puts the password or key of the feed NAME of BENCH into the desktop's keyring."""
    with opened(bench, writes=False) as feeds:
        setup = feeds.setup(name)
        if setup.secret != "keyring":
            raise InputError(
                f"the feed {name!r} takes no key from the keyring", "add it with --secret-from"
            )
        _ask_secret(setup)
