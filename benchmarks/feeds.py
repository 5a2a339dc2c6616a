"""Feeds: a night that arrives late, listening beside a dead broker, memory over a week offline."""

import math
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.material import humidity_edges, trace_of
from benchmarks.table import Figure
from pivet.feeds.feeds import Feeds
from pivet.feeds.setup import FeedSetup
from pivet.feeds.taker import FeedTaker
from pivet.files.benchfile.feeds import Change, add_outgoing
from pivet.files.benchfile.rows import ExchangeRow
from pivet.files.benchfile.store import BenchFile
from pivet.keeping.recorder import Recorder
from pivet.listening.listener import Listener
from pivet.listening.runner import Runner
from pivet.listening.setup import WireSetup
from pivet.sheets.load import find_sheet
from pivet.sources.replay import ReplaySource
from tests.feeds.broker import Broker, free_port

READINGS = 10_000
WEEK = 7 * 24 * 3600 // 2
EDGES = 2_000_000
PAIRS = 5
OUTAGE_S = 20.0
BEGAN_NS = 1_772_917_200 * 10**9


COUNTS = """
import sys
import paho.mqtt.client as paho
from paho.mqtt.packettypes import PacketTypes
from paho.mqtt.properties import Properties
client = paho.Client(paho.CallbackAPIVersion.VERSION2, client_id="counts", protocol=paho.MQTTv5)
seen = {}
def came(_client, _data, message):
    seen[message.payload] = None
    if len(seen) == int(sys.argv[2]):
        client.disconnect()
client.on_connect = lambda one, *_: one.subscribe("pivet/shelf_A/#", qos=1)
client.on_subscribe = lambda *_: print("here", flush=True)
client.on_message = came
client.reconnect_delay_set(1, 1)
session = Properties(PacketTypes.CONNECT)
session.SessionExpiryInterval = 3600
client.connect("127.0.0.1", int(sys.argv[1]), clean_start=False, properties=session)
client.loop_forever(retry_first_connection=True)
"""
"""Another process, which takes readings until all have come."""


def _bench(path: Path, url: str, exchanges: int) -> BenchFile:
    """A bench with a feed, and exchanges that wait for it, two seconds apart."""
    bench = BenchFile.create(path)
    with bench.writing():
        capture = bench.add_capture("cave", "made up", BEGAN_NS, 1000)
        wire = bench.add_wire(capture.id, "shelf_A", '["a"]', "humidity-frame", "dht22", "{}").id
    Feeds(bench).add("out", FeedSetup(url=url))
    with bench.writing():
        rows = range(exchanges)
        bench.put_exchanges(
            wire, (ExchangeRow(row, row * 2 * 10**9, 10**6, 0, 0, 1, None, None) for row in rows)
        )
        for quantity, unit, value in (("humidity", "%RH", 92.0), ("temperature", "°C", 11.8)):
            bench.put_readings(bench.track(wire, quantity, unit, ""), [(r, value) for r in rows])
        add_outgoing(bench, ((wire, row, Change.NEW) for row in rows))
    return bench


def _late_night(folder: Path) -> Figure:
    """From the broker's return until all has arrived."""
    broker = Broker(folder)
    port = broker.port
    bench = _bench(folder / "night.pivet", f"mqtt://127.0.0.1:{port}", READINGS // 2)
    waiting = subprocess.Popen(
        [sys.executable, "-c", COUNTS, str(port), str(READINGS)], stdout=subprocess.PIPE
    )
    assert waiting.stdout is not None
    waiting.stdout.readline()
    broker.stop()
    feeds = Feeds(bench)
    feeds.start()
    time.sleep(OUTAGE_S)
    broker.start()
    begin = time.perf_counter()
    waiting.wait()
    took = time.perf_counter() - begin
    feeds.stop()
    broker.kill()
    bench.close()
    said = f"s, {READINGS:,} readings after {OUTAGE_S:.0f} s without a broker, which counts them"
    return Figure("a night's readings after the broker's return", took, 10.0, said)


def _listened_s(folder: Path, number: int, dead: bool) -> float:
    """Decoded, judged and stored as fast as it goes."""
    trace = trace_of(humidity_edges(EDGES))
    bench = BenchFile.create(folder / f"listen{number}.pivet")
    feeds = Feeds(bench)
    if dead:
        feeds.add("out", FeedSetup(url=f"mqtt://127.0.0.1:{free_port()}"))
        feeds.start()
    source = ReplaySource("flood.vcd", trace, math.inf)
    name = trace.lines[0].name
    listener = Listener(source, lambda _: [WireSetup(name, (name,), find_sheet("dht22"), None)])
    opened = listener.open()
    runner = Runner(listener)
    runner.add(Recorder(bench, opened.about, "flood", listener.calendar))
    if dead:
        runner.add(FeedTaker(feeds, ends=False))
    begin = time.perf_counter()
    runner.run(lambda: False)
    took = time.perf_counter() - begin
    feeds.stop()
    bench.close()
    return took


def _beside_a_dead_broker(folder: Path) -> Figure:
    """At full speed, three times what is promised; the quickest of each, since others disturb."""
    times: dict[bool, list[float]] = {False: [], True: []}
    for number in range(2 * PAIRS):
        dead = number % 2 == 1
        times[dead].append(_listened_s(folder, number, dead))
    without, beside = (min(times[dead]) for dead in (False, True))
    said = f"times as long as without a feed, quickest of {PAIRS}; {EDGES / without:,.0f} edges/s"
    return Figure("listening with a dead broker", beside / without, 1.03, said)


def _week(folder: Path) -> Figure:
    """What a feed takes more of memory when a week waits than when a minute does."""
    sizes = []
    for name, exchanges in (("minute", 30), ("week", WEEK)):
        bench = _bench(folder / f"{name}.pivet", f"mqtt://127.0.0.1:{free_port()}", exchanges)
        feeds = Feeds(bench)
        feeds.start()
        time.sleep(6.0)
        sizes.append(_rss_mb())
        assert feeds.states()[0].waiting == exchanges
        feeds.stop()
        bench.close()
    said = f"MB more with {WEEK:,} exchanges waiting than with 30 (making them is in it)"
    return Figure("memory of a week offline", sizes[1] - sizes[0], 60.0, said)


def _rss_mb() -> float:
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 1e6


def figures() -> Iterator[Figure]:
    """All figures of feeds; who may send is kept in a folder of their own."""
    import os

    with tempfile.TemporaryDirectory() as name:
        os.environ["XDG_DATA_HOME"] = name
        folder = Path(name)
        yield _late_night(folder)
        yield _beside_a_dead_broker(folder)
        yield _week(folder)
