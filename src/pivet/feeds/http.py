"""Readings to a service: JSON by HTTP POST, at its pace."""

import time
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from http import HTTPStatus
from typing import Any

import urllib3
from urllib3.exceptions import HTTPError

from pivet import __version__
from pivet.feeds.message import fields_of, json_of, row_object
from pivet.feeds.outbox import Sent
from pivet.feeds.secret import secret_of
from pivet.feeds.setup import FORM, FeedSetup
from pivet.feeds.template import Body
from pivet.feeds.tls import tls_context
from pivet.feeds.trouble import FeedTrouble, words_of

ANSWER_S = 15.0
MOST_WAIT_S = 3600.0
"""A service that wants to be left alone for longer is asked again after this, s."""

SLOW_DOWN = (HTTPStatus.TOO_MANY_REQUESTS, HTTPStatus.SERVICE_UNAVAILABLE)
REFUSED_S = 60.0
"""What is refused for its content is tried again this seldom: somebody may mend the service."""

SHOWN = 120
"""Letters of a service's answer that are shown."""


class HttpSender:
    """Posts rows: one a request, or several where the service takes them.

    Args:
        setup: of the feed.
        name: of the feed.

    Raises:
        InputError: the template of its body makes no sense.
    """

    most_wait_s = 60.0

    def __init__(self, setup: FeedSetup, name: str) -> None:
        self._setup, self._name = setup, name
        self._units = setup.unit_choice
        self._body = Body(setup.template) if setup.template else None
        several = self._body is None or self._body.several
        self._batch = setup.batch if several else 1
        self.at_once = max(self._batch, 1)
        self._pool: urllib3.PoolManager | None = None
        self._key = ""

    def open(self) -> None:
        """Finds key and certificates; connections are made as they are needed.

        Raises:
            FeedTrouble: a certificate cannot be used.
            InputError: the key is not there.
        """
        if self._pool is not None:
            return
        self._key = secret_of(self._setup)
        options: dict[str, Any] = {}
        if self._setup.tls:
            options["ssl_context"] = tls_context(self._setup)
        self._pool = urllib3.PoolManager(num_pools=1, maxsize=1, **options)

    def know(self, rows: Sequence[Sent]) -> None:
        """Nothing rests on what was there before.

        Args:
            rows: as the outbox made them.
        """

    def send(self, rows: Sequence[Sent]) -> int:
        """Posts as many rows as one request may have; see ``Sender.send``.

        Args:
            rows: as the outbox made them, at least one.

        Raises:
            FeedTrouble: they did not arrive.
        """
        self.open()
        part = rows[: self._batch]
        try:
            self._post(self._said(part))
        except FeedTrouble as trouble:
            if trouble.smaller and len(part) > 1:
                self._batch = len(part) // 2
                trouble.wait_s = None
            raise
        return len(part)

    def _said(self, rows: Sequence[Sent]) -> Any:
        if self._body is None:
            said = [row_object(self._setup.id, row, self._units) for row in rows]
            return {"form": FORM, "feed": self._name, "readings": said}
        return self._body.filled(
            [fields_of(self._setup.id, row, self._units) for row in rows], self._key
        )

    def _post(self, said: Any) -> None:
        assert self._pool is not None
        headers = {"Content-Type": "application/json", "User-Agent": f"pivet/{__version__}"}
        where, _, name = self._setup.key_at.partition(":")
        url = self._setup.url
        if where == "header":
            headers[name] = self._key
        elif where == "query":
            url += ("&" if self._setup.address.query else "?") + _query(name, self._key)
        elif self._setup.secret and not self._setup.key_at:
            headers |= urllib3.make_headers(basic_auth=f"{self._setup.user}:{self._key}")
        try:
            answer = self._pool.request(
                "POST",
                url,
                body=json_of(said).encode(),
                headers=headers,
                timeout=urllib3.Timeout(ANSWER_S),
                retries=False,
                redirect=False,
            )
        except (HTTPError, OSError, ValueError) as error:
            raise FeedTrouble(f"{self._setup.host} cannot be reached ({_cause(error)})") from error
        if not 200 <= answer.status < 300:
            raise _refusal(answer.status, answer.headers, answer.data, self._setup.host)

    def look(self) -> None:
        """There is no connection to look at."""

    def test(self, row: Sent) -> str:
        """Posts one row; says what the service answered.

        Args:
            row: what stands in it.

        Raises:
            FeedTrouble: the service refuses it.
        """
        begun = time.monotonic()
        self.open()
        self._post(self._said([row]))
        took = (time.monotonic() - begun) * 1000
        return f"taken by {self._setup.host} after {took:.0f} ms"

    def close(self) -> None:
        """Lets its connections go."""
        if self._pool is not None:
            self._pool.clear()
            self._pool = None


def _query(name: str, value: str) -> str:
    from urllib.parse import urlencode

    return urlencode({name: value})


def _cause(error: Exception) -> str:
    """The innermost reason: packages wrap what the system says."""
    while isinstance(error.__cause__ or error.__context__, Exception):
        inner = error.__cause__ or error.__context__
        assert isinstance(inner, Exception)
        error = inner
    return words_of(error)


def _refusal(status: int, headers: Mapping[str, str], data: bytes, host: str) -> FeedTrouble:
    """The sentence for an answer that is no success."""
    try:
        phrase = HTTPStatus(status).phrase
    except ValueError:
        phrase = "no known answer"
    said = " ".join(data.decode("utf-8", "replace").split())[:SHOWN]
    what = f"{host} answers {status} {phrase}" + (f": {said}" if said else "")
    wait_s = retry_after_s(headers.get("Retry-After", ""), datetime.now(UTC))
    if status in SLOW_DOWN:
        return FeedTrouble(what, "it wants fewer requests", wait_s)
    if status in (HTTPStatus.UNAUTHORIZED, HTTPStatus.FORBIDDEN):
        return FeedTrouble(what, "check the key, and where it is sent", REFUSED_S)
    if status == HTTPStatus.REQUEST_ENTITY_TOO_LARGE:
        return FeedTrouble(what, "send fewer rows at once", REFUSED_S, smaller=True)
    if 300 <= status < 400:
        to = headers.get("Location", "elsewhere")[:SHOWN]
        return FeedTrouble(f"{what}, which leads to {to}", "give that address", REFUSED_S)
    if 400 <= status < 500:
        return FeedTrouble(what, "check address, key and template", wait_s or REFUSED_S)
    return FeedTrouble(what, "", wait_s)


def retry_after_s(text: str, now: datetime) -> float | None:
    """How long a service wants to be left alone, s; None where it does not say.

    Args:
        text: of the header ``Retry-After`` (RFC 9110, 10.2.3): seconds, or a date.
        now: this moment, with its zone.
    """
    text = text.strip()
    if not text:
        return None
    if text.isascii() and text.isdigit():
        return min(float(text), MOST_WAIT_S)
    try:
        until = parsedate_to_datetime(text)
    except (TypeError, ValueError):
        return None
    if until.tzinfo is None:
        until = until.replace(tzinfo=UTC)
    return min(max((until - now).total_seconds(), 0.0), MOST_WAIT_S)
