"""What a feed is: where it sends to, what, and how; kept in the bench as JSON, without secrets."""

import re
import secrets
from enum import StrEnum
from urllib.parse import SplitResult, urlsplit

import msgspec

from pivet.errors import InputError
from pivet.frozen import FrozenValue
from pivet.readings.units import AS_KEPT, UnitChoice

FORM = 1
"""Version of the JSON of a setup, and of the messages."""

TOPIC = "pivet/{wire}/{device}/{quantity}"
"""Where readings are published when nobody says; what is empty in it is left out."""

NAME = re.compile(r"[\w.-]{1,40}", re.ASCII)
VARIABLE = re.compile(r"PIVET_[A-Z0-9_]{1,80}")
"""A bench may come from anybody: no other variable of this computer is ever sent."""


class Kind(StrEnum):
    """How a feed sends."""

    MQTT = "mqtt"
    HTTP = "http"
    METRICS = "openmetrics"


SCHEMES = {
    "mqtt": (Kind.MQTT, 1883),
    "mqtts": (Kind.MQTT, 8883),
    "http": (Kind.HTTP, 80),
    "https": (Kind.HTTP, 443),
    "openmetrics": (Kind.METRICS, 9464),
}
"""Kind and usual port by the beginning of an address."""


class FeedSetup(FrozenValue, kw_only=True, omit_defaults=True):
    """What a feed is.

    Attributes:
        url: where it sends to, or where it is read.
        id: tells it from all other feeds, in any bench.
        wires: names of those that are sent; none means all.
        units: symbols of the units in which values are sent; others as they are kept.
        derived: with dew point, heat index and the like.
        every_s: least time from one sending to the next, s.
        batch: how many rows one request may have.
        newest: of what waits only the newest row of each sensor is sent.
        user: name of the user.
        secret: where password or key is: ``env:PIVET_...``, ``keyring``; empty for none.
        ca: file of the authority that is trusted; empty for those of the system.
        cert, cert_key: files of the client's certificate.
        topic: of a reading, with places in it.
        plain: a message is the value alone, not JSON.
        qos: 1 or 2.
        retain: the broker keeps the last value of each topic.
        expiry_s: after so long a message that nobody fetched is dropped; 0 for never.
        key_at: where the key stands: ``header:NAME``, ``query:NAME``, ``body``.
        template: of the body, JSON; empty for our own form.
        form: version of this.
    """

    url: str
    id: str = ""
    wires: tuple[str, ...] = ()
    units: tuple[str, ...] = ()
    derived: bool = False
    every_s: float = 0.0
    batch: int = 1
    newest: bool = False
    user: str = ""
    secret: str = ""
    ca: str = ""
    cert: str = ""
    cert_key: str = ""
    topic: str = TOPIC
    plain: bool = False
    qos: int = 1
    retain: bool = True
    expiry_s: int = 0
    key_at: str = ""
    template: str = ""
    form: int = FORM

    @property
    def kind(self) -> Kind:
        """How it sends."""
        return SCHEMES[self.address.scheme][0]

    @property
    def address(self) -> SplitResult:
        """Its URL in parts."""
        return urlsplit(self.url)

    @property
    def host(self) -> str:
        """Of the service."""
        return self.address.hostname or ""

    @property
    def port(self) -> int:
        """Of the service."""
        return self.address.port or SCHEMES[self.address.scheme][1]

    @property
    def tls(self) -> bool:
        """Whether the connection is encrypted."""
        return self.address.scheme in ("mqtts", "https")

    @property
    def unit_choice(self) -> UnitChoice:
        """The units in which values are sent."""
        choice = AS_KEPT
        for symbol in self.units:
            choice = choice.with_unit(symbol)
        return choice

    def text(self) -> str:
        """As the bench keeps it."""
        return msgspec.json.encode(self).decode()


def read_setup(text: str) -> FeedSetup | None:
    """A setup out of a bench; None when it makes no sense here.

    Args:
        text: as the file has it.
    """
    try:
        setup = msgspec.json.decode(text.encode(), type=FeedSetup)
        checked_setup(setup)
    except (msgspec.DecodeError, InputError, ValueError, RecursionError):
        return None
    return setup


def new_setup(setup: FeedSetup) -> FeedSetup:
    """A setup that is told from all others.

    Args:
        setup: as a person gave it.

    Raises:
        InputError: it makes no sense; says what, and what to do.
    """
    checked_setup(setup)
    return msgspec.structs.replace(setup, id=setup.id or secrets.token_hex(8))


def checked_name(name: str) -> str:
    """The name of a feed.

    Args:
        name: as a person gave it.

    Raises:
        InputError: it is none.
    """
    if not NAME.fullmatch(name):
        raise InputError(f"{name!r} is no name of a feed", "use letters, digits, . _ and -")
    return name


def checked_setup(setup: FeedSetup) -> None:
    """Refuses what makes no sense.

    Args:
        setup: as it was given, or as a file has it.

    Raises:
        InputError: it makes no sense; says what, and what to do.
    """
    if setup.form != FORM:
        raise InputError("the feed is of a newer Pivet", "add it again")
    _check_url(setup)
    if setup.every_s < 0 or not 1 <= setup.batch <= 10_000 or setup.qos not in (1, 2):
        raise InputError(
            "a feed sends every 0 s or more, 1 to 10,000 rows at once, with QoS 1 or 2",
            "change what is beyond that",
        )
    if setup.batch > 1 and setup.kind is not Kind.HTTP:
        raise InputError("only http feeds send several rows at once", "leave the batch out")
    named = setup.secret.removeprefix("env:")
    if setup.secret not in ("", "keyring") and (
        named == setup.secret or not VARIABLE.fullmatch(named)
    ):
        raise InputError(
            f"{setup.secret!r} is no place of a password",
            "say keyring, or env:PIVET_ and a name in capitals",
        )
    if bool(setup.cert) != bool(setup.cert_key):
        raise InputError("a client's certificate needs its key, too", "give both files")
    if (setup.ca or setup.cert) and not setup.tls:
        raise InputError(
            "certificates need an encrypted connection", "begin the address with mqtts or https"
        )
    if setup.kind is Kind.HTTP:
        _check_key(setup)


def _check_url(setup: FeedSetup) -> None:
    try:
        address, port = setup.address, setup.address.port
        known = address.scheme in SCHEMES and bool(address.hostname) and port != 0
    except ValueError:
        known = False
    if not known:
        raise InputError(
            f"{setup.url!r} is no address of a feed",
            "write mqtt://, mqtts://, http://, https:// or openmetrics:// and a host",
        )
    if address.username is not None or address.password is not None:
        raise InputError(
            "a user or password in the address would stand in the bench",
            "give --user, and --secret-from env:PIVET_... or keyring",
        )
    if setup.kind is not Kind.HTTP and (address.path not in ("", "/") or address.query):
        raise InputError(f"{setup.url!r} has a path", "leave out what follows the port")


def _check_key(setup: FeedSetup) -> None:
    where, _, name = setup.key_at.partition(":")
    good = setup.key_at in ("", "body") or (
        where in ("header", "query") and re.fullmatch(r"[A-Za-z0-9_.-]{1,80}", name)
    )
    if not good:
        raise InputError(
            f"{setup.key_at!r} is no place for a key", "say header:NAME, query:NAME or body"
        )
    if setup.key_at and not setup.secret:
        raise InputError(
            "the key's place is said, but not where the key is",
            "give --secret-from env:PIVET_... or keyring",
        )
