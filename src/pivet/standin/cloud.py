"""A made-up service that takes updates by HTTP POST, with a key, a pace and moods: for tests.

It takes what the usual dashboards take: one update, or a few, in so many seconds, with a key.
"""

import json
import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

from pivet.errors import InputError
from pivet.frozen import FrozenValue

MOST_BODY = 1 << 20

ORDERS = "fail CODE TIMES, away SECONDS, slow SECONDS, or drop TIMES"


class Update(FrozenValue):
    """An update that was taken.

    Attributes:
        at_s: when, by a monotonic clock, s.
        body: as it was sent.
    """

    at_s: float
    body: Any


class CloudRules(FrozenValue):
    """What the service wants.

    Attributes:
        key: without it nothing is taken; empty for none.
        least_s: from one request to the next, s; sooner is 429.
        most_rows: how many updates a request may have; more is 413.
    """

    key: str = ""
    least_s: float = 0.0
    most_rows: int = 1000


@dataclass(slots=True)
class _Moods:
    failures: deque[int] = field(default_factory=deque)
    away_until: float = 0.0
    slow_s: float = 0.0
    drops: int = 0


class Cloud:
    """The service, at a port of this computer.

    Args:
        rules: what it wants.
        port: where; 0 takes a free one.
        taken: called with each update that is taken.

    Raises:
        InputError: the port cannot be served.

    Attributes:
        updates: all that was taken, in order.
        refused: status of each request that was not.
    """

    def __init__(
        self,
        rules: CloudRules,
        port: int = 0,
        taken: Callable[[Update], None] = lambda _: None,
    ) -> None:
        self.rules, self._taken = rules, taken
        self.updates: list[Update] = []
        self.refused: list[int] = []
        self._moods = _Moods()
        self._last_s = -1e9
        self._lock = threading.Lock()
        try:
            self._server = _Server(("127.0.0.1", port), _handler(self))
        except OSError as error:
            raise InputError(f"port {port} cannot be served ({error})", "take another") from error
        self._thread = threading.Thread(
            target=self._server.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True
        )
        self._thread.start()

    @property
    def url(self) -> str:
        """Where updates go."""
        return f"http://127.0.0.1:{self._server.server_address[1]}/update"

    def close(self) -> None:
        """Takes nothing more."""
        self._server.shutdown()
        self._server.server_close()
        self._thread.join()

    def order(self, line: str) -> str:
        """Changes its mood; gives the answer to print.

        Args:
            line: one of ``ORDERS``.

        Raises:
            InputError: it makes no sense.
        """
        words = line.split()
        try:
            kind, *rest = words
            numbers = [float(word) for word in rest]
            with self._lock:
                if kind == "fail" and len(numbers) == 2:
                    self._moods.failures.extend([int(numbers[0])] * int(numbers[1]))
                elif kind == "away" and len(numbers) == 1:
                    self._moods.away_until = time.monotonic() + numbers[0]
                elif kind == "slow" and len(numbers) == 1:
                    self._moods.slow_s = numbers[0]
                elif kind == "drop" and len(numbers) == 1:
                    self._moods.drops += int(numbers[0])
                else:
                    raise ValueError
        except ValueError as error:
            raise InputError(f"{line!r} is no order", ORDERS) from error
        return "ok"

    def mood(self) -> tuple[bool, float]:
        """Whether it hangs up now, and how long it dawdles, s."""
        with self._lock:
            away = time.monotonic() < self._moods.away_until
            if not away and self._moods.drops:
                self._moods.drops -= 1
                away = True
            return away, self._moods.slow_s

    def take(self, key: str, content: bytes) -> tuple[int, dict[str, str]]:
        """Takes a request; gives status and headers.

        Args:
            key: as it came in header or query.
            content: of the request.
        """
        now = time.monotonic()
        with self._lock:
            status, headers = self._judged(key, content, now)
            if status != 429:
                self._last_s = now
            if status >= 300:
                self.refused.append(status)
                return status, headers
            update = Update(now, json.loads(content))
            self.updates.append(update)
        self._taken(update)
        return status, headers

    def _judged(self, key: str, content: bytes, now: float) -> tuple[int, dict[str, str]]:
        if self._moods.failures:
            return self._moods.failures.popleft(), {}
        wait_s = self._last_s + self.rules.least_s - now
        if wait_s > 0:
            return 429, {"Retry-After": str(max(round(wait_s + 0.5), 1))}
        try:
            body = json.loads(content)
        except ValueError:
            return 400, {}
        if self.rules.key and self.rules.key not in (key, _key_in(body)):
            return 401, {}
        return (413, {}) if _rows_in(body) > self.rules.most_rows else (200, {})


def _key_in(body: Any) -> str:
    return str(body.get("key", "")) if isinstance(body, dict) else ""


def _rows_in(body: Any) -> int:
    """Updates in a body: the longest list in it, or one."""
    if isinstance(body, list):
        return len(body)
    if isinstance(body, dict):
        return max((len(part) for part in body.values() if isinstance(part, list)), default=1)
    return 1


class _Server(ThreadingHTTPServer):
    daemon_threads = True

    def handle_error(self, request: object, client_address: object) -> None:
        """Whoever goes away in the middle is no trouble."""


def _handler(cloud: Cloud) -> type[BaseHTTPRequestHandler]:
    class Handler(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"
        timeout = 30.0

        def do_POST(self) -> None:
            """An update."""
            length = min(int(self.headers.get("Content-Length", 0)), MOST_BODY)
            content = self.rfile.read(length)
            away, slow_s = cloud.mood()
            if away:
                self.close_connection = True
                return
            time.sleep(slow_s)
            query = self.path.partition("?")[2].partition("key=")[2]
            key = self.headers.get("X-Key", query)
            status, headers = cloud.take(key, content)
            self.send_response(status)
            for name, value in headers.items():
                self.send_header(name, value)
            self.send_header("Content-Length", "0")
            self.end_headers()

        def log_message(self, format: str, *args: object) -> None:
            """What was taken is told by the cloud itself."""

    return Handler
