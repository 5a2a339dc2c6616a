"""Last readings at a port of this computer, as OpenMetrics text: read only, nothing is pushed."""

import threading
from collections.abc import Iterator, Sequence
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

import urllib3
from prometheus_client import CollectorRegistry
from prometheus_client.core import CounterMetricFamily, GaugeMetricFamily, Metric
from prometheus_client.openmetrics.exposition import CONTENT_TYPE_LATEST, generate_latest
from prometheus_client.registry import Collector
from urllib3.exceptions import HTTPError

from pivet.feeds.message import value_of
from pivet.feeds.outbox import Sent
from pivet.feeds.setup import FeedSetup
from pivet.feeds.trouble import FeedTrouble, words_of
from pivet.files.benchfile.feeds import Change
from pivet.readings.units import QUANTITIES, UnitChoice

UNIT_WORDS = {
    "%RH": "percent",
    "%": "percent",
    "°C": "celsius",
    "°F": "fahrenheit",
    "K": "kelvin",
    "m": "meters",
    "cm": "centimeters",
    "mm": "millimeters",
    "in": "inches",
    "l": "liters",
    "g/m³": "grams_per_cubic_meter",
}
"""Units as parts of names; OpenMetrics wants them written out."""

SERVED_S = 2.0
LABELS = ("wire", "device", "role")


class Readings(Collector):
    """The last reading of each sensor; a failed one takes the value away and gives its reason.

    Args:
        units: in which values are given.
    """

    def __init__(self, units: UnitChoice) -> None:
        self._units, self._lock = units, threading.Lock()
        self._last: dict[tuple[str, str, str], Sent] = {}
        self._counts: dict[tuple[str, str], int] = {}

    def put(self, rows: Sequence[Sent]) -> None:
        """Takes further rows.

        Args:
            rows: in the order in which they were read.
        """
        with self._lock:
            for sent in rows:
                row = sent.row
                before = self._last.get((row.wire, row.device, row.role))
                if before is None or before.at_ns <= sent.at_ns:
                    self._last[(row.wire, row.device, row.role)] = sent
                if sent.change is Change.NEW:
                    key = (row.wire, row.verdict)
                    self._counts[key] = self._counts.get(key, 0) + 1

    def collect(self) -> Iterator[Metric]:
        """The metrics as they are now."""
        with self._lock:
            last, counts = dict(self._last), dict(self._counts)
        for quantity in QUANTITIES:
            yield from self._values(quantity, last)
        times = GaugeMetricFamily(
            "pivet_read",
            "When the sensor was last asked for a reading, whether it gave one or not.",
            labels=LABELS,
            unit="seconds",
        )
        missing = GaugeMetricFamily(
            "pivet_reading_missing", "The last reading failed.", labels=(*LABELS, "reason")
        )
        for key, sent in last.items():
            times.add_metric(key, sent.at_ns / 1e9)
            if sent.row.reason:
                missing.add_metric((*key, sent.row.reason), 1)
        yield times
        yield missing
        total = CounterMetricFamily(
            "pivet_exchanges", "Exchanges that were to give readings.", labels=("wire", "verdict")
        )
        for names, number in sorted(counts.items()):
            total.add_metric(names, number)
        yield total

    def _values(self, quantity: str, last: dict[tuple[str, str, str], Sent]) -> Iterator[Metric]:
        symbol = self._units.of(quantity).symbol
        unit = UNIT_WORDS.get(symbol, "")
        family = GaugeMetricFamily(
            f"pivet_{quantity.replace(' ', '_')}",
            f"The last {quantity} that was read, in {symbol}.",
            labels=LABELS,
            unit=unit,
        )
        for key, sent in last.items():
            for cell in sent.row.cells:
                value = value_of(cell, cell.value, self._units)
                if cell.quantity == quantity and value is not None:
                    family.add_metric(key, value)
        if family.samples:
            yield family


class MetricsSender:
    """Serves the last readings; nothing waits here, since whoever wants them fetches them.

    Args:
        setup: of the feed.
        name: of the feed.
    """

    at_once = 1000
    most_wait_s = 10.0

    def __init__(self, setup: FeedSetup, name: str) -> None:
        self._setup, self._name = setup, name
        self._readings = Readings(setup.unit_choice)
        self._registry = CollectorRegistry()
        self._registry.register(self._readings)
        self._server: ThreadingHTTPServer | None = None
        self._thread: threading.Thread | None = None

    @property
    def port(self) -> int:
        """Where it serves; 0 while it does not."""
        return 0 if self._server is None else int(self._server.server_address[1])

    def open(self) -> None:
        """Begins to serve.

        Raises:
            FeedTrouble: the port is taken, or is not this person's to use.
        """
        if self._server is not None:
            return
        where = (self._setup.host, self._setup.port)
        try:
            server = _Server(where, _handler(self._registry))
        except OSError as error:
            raise FeedTrouble(
                f"{where[0]}:{where[1]} cannot be served ({words_of(error)})", "take another port"
            ) from error
        self._server = server
        self._thread = threading.Thread(
            target=server.serve_forever, kwargs={"poll_interval": 0.1}, name="metrics", daemon=True
        )
        self._thread.start()

    def know(self, rows: Sequence[Sent]) -> None:
        """The last readings can be fetched before new ones come.

        Args:
            rows: as the outbox made them.
        """
        self._readings.put(rows)

    def send(self, rows: Sequence[Sent]) -> int:
        """Takes rows.

        Args:
            rows: as the outbox made them.

        Raises:
            FeedTrouble: the port is taken.
        """
        self.open()
        self._readings.put(rows)
        return len(rows)

    def look(self) -> None:
        """Serves.

        Raises:
            FeedTrouble: the port is taken.
        """
        self.open()

    def test(self, row: Sent) -> str:
        """Serves for a moment; says where.

        Args:
            row: what would stand there.

        Raises:
            FeedTrouble: the port is taken.
        """
        where = f"http://{self._setup.host}:{self._setup.port}/metrics"
        if _served(where):
            return f"can be read at {where} now"
        self.open()
        return f"can be read at {where} while it sends"

    def close(self) -> None:
        """Serves no more."""
        server, self._server = self._server, None
        if server is not None:
            server.shutdown()
            server.server_close()
        if self._thread is not None:
            self._thread.join()
            self._thread = None


def _served(where: str) -> bool:
    """Whether readings are served there already, by this feed at work."""
    try:
        answer = urllib3.request("GET", where, timeout=SERVED_S, retries=False)
    except HTTPError:
        return False
    return answer.headers.get("Content-Type") == CONTENT_TYPE_LATEST


class _Server(ThreadingHTTPServer):
    daemon_threads = True
    allow_reuse_address = True

    def handle_error(self, request: object, client_address: object) -> None:
        """Whoever goes away in the middle is no trouble."""


def _handler(registry: CollectorRegistry) -> type[BaseHTTPRequestHandler]:
    class Handler(BaseHTTPRequestHandler):
        timeout = 10.0

        def do_GET(self) -> None:
            """The last readings, and nothing else."""
            if self.path.split("?")[0] not in ("/", "/metrics"):
                self.send_error(404)
                return
            write: Any = generate_latest
            text: bytes = write(registry)
            self.send_response(200)
            self.send_header("Content-Type", CONTENT_TYPE_LATEST)
            self.send_header("Content-Length", str(len(text)))
            self.end_headers()
            self.wfile.write(text)

        def log_message(self, format: str, *args: object) -> None:
            """Who fetches is nobody's news."""

    return Handler
