"""Sensors that this computer's kernel reads: 1-Wire thermometers, and humidity sensors.

The kernel's drivers give what they read in files: two lines of text a thermometer, in which the
nine bytes stand, and a number a quantity of an industrial I/O device.  They are read in turn; the
bytes are drawn as edges (``drawn``), so they are decoded, judged, kept and shown like all others.
Only bytes are known: pulses are the sheet's typical ones, and the source says so.

Source: Linux, Documentation/w1/slaves/w1_therm.rst and Documentation/ABI/testing/sysfs-bus-iio.
"""

import re
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

from pivet.frozen import FrozenValue
from pivet.signal.trace import Int64Array, Level
from pivet.sources.drawn import ONEWIRE, humidity_edges, thermometer_edges
from pivet.sources.source import NO_EDGES, About, Batch, Gap, LineInfo, Piece, Source, SourceError

ROOT = "/sys/bus"
EVERY_S = 10.0
"""Each sensor is read so often: a reading of a thermometer takes the kernel 0.75 s."""

LOOK_S = 0.02
RESOLUTION_NS = 1_000
CODE = re.compile(r"([0-9a-f]{2})-([0-9a-f]{12})")
BYTES = re.compile(r"((?:[0-9a-f]{2} ){9}): crc=[0-9a-f]{2} (?:YES|NO)")
TENTHS, WHOLE = "dht22", "dht11"
DRAWN = "drawn from the kernel's bytes: judged are bytes, not pulses"
SHUT = 5_000_000
"""ns after a drawn exchange in which the line rests."""


class _Read(FrozenValue):
    """What came of reading one sensor.

    Attributes:
        line: its line.
        edges_ns: of the exchange, from 0.
        why: it could not be read; empty when it could.
    """

    line: str
    edges_ns: Int64Array
    why: str = ""


class _Sensor(FrozenValue):
    """A sensor of the kernel, and the line on which it is drawn."""

    path: Path
    line: str


class KernelSource(Source):
    """Follows the files of the kernel's sensors.

    Args:
        root: where its buses stand, ``/sys/bus``.
        every_s: each sensor is read so often, s.
        clock: monotonic, ns.
    """

    def __init__(
        self,
        root: str = ROOT,
        every_s: float = EVERY_S,
        clock: Callable[[], int] = time.monotonic_ns,
    ) -> None:
        self._root, self._every_s, self._clock = Path(root), every_s, clock
        self._zero = clock()
        self._known: dict[str, int] = {}
        self._wanted: frozenset[str] = frozenset()
        self._found: deque[_Read] = deque()
        self._ends = threading.Event()
        self._reader: threading.Thread | None = None

    @property
    def name(self) -> str:
        """Where the kernel's buses stand."""
        return f"kernel:{self._root}"

    def open(self) -> About:
        """Looks which sensors there are; see ``Source.open``.

        Raises:
            SourceError: there are none.
        """
        self.close()
        lines = list(dict.fromkeys(sensor.line for sensor in self._sensors()))
        if not lines:
            raise SourceError(
                f"the kernel reads no sensor below {self._root}",
                "load its driver (dtoverlay=w1-gpio or dtoverlay=dht11 on small computers)",
            )
        facts = (("pulses", DRAWN), ("read", f"every {self._every_s:g} s, in turn"))
        infos = tuple(
            LineInfo(
                line,
                level=Level.HIGH,
                note="read by the kernel",
                sheet=ONEWIRE if line.startswith("w1") else "",
            )
            for line in lines
        )
        return About(f"sensors of the kernel, {self._root}", infos, RESOLUTION_NS, facts)

    def _sensors(self) -> Iterator[_Sensor]:
        """Those that are there now: thermometers by their bus, then industrial I/O devices."""
        for folder in sorted((self._root / "w1" / "devices").glob("*-*")):
            if CODE.fullmatch(folder.name):
                bus = folder.resolve().parent.name
                yield _Sensor(folder, bus if bus.startswith("w1_bus") else "w1")
        for folder in sorted((self._root / "iio" / "devices").glob("iio:device*")):
            if (folder / "in_humidityrelative_input").exists():
                yield _Sensor(folder, folder.name.replace(":", "_"))

    def listen(self, lines: Sequence[str]) -> None:
        """Reads the sensors of these lines from now on.

        Args:
            lines: names of lines.
        """
        now = self.now_ns()
        self._wanted = frozenset(lines)
        self._known = {line: max(self._known.get(line, 0), now) for line in lines}
        self._found += [_Read(line, NO_EDGES) for line in lines]
        if self._reader is None and lines:
            self._ends.clear()
            self._reader = threading.Thread(target=self._read_on, daemon=True)
            self._reader.start()

    def _read_on(self) -> None:
        """Reads each sensor in turn, until the source is closed; the kernel takes its time."""
        while True:
            began = time.monotonic()
            for sensor in self._sensors():
                if self._ends.is_set():
                    return
                if sensor.line in self._wanted:
                    self._found.append(read_sensor(sensor.path, sensor.line))
            if self._ends.wait(max(self._every_s - (time.monotonic() - began), LOOK_S)):
                return

    def now_ns(self) -> int:
        """Since it was made, ns."""
        return self._clock() - self._zero

    def read(self, timeout_s: float) -> Batch:
        """What was read since; see ``Source.read``.

        Args:
            timeout_s: the longest wait, s.
        """
        if not self._found:
            time.sleep(min(timeout_s, LOOK_S))
        pieces, notes = [], []
        while self._found:
            read = self._found.popleft()
            if read.line not in self._known:
                continue
            pieces.append(self._piece(read))
            if read.why:
                notes.append(f"{read.line}: {read.why}")
        now = self.now_ns()
        for line, known in self._known.items():
            if now > known:
                self._known[line] = now
                pieces.append(Piece(line, NO_EDGES, now))
        return Batch(tuple(pieces), (), tuple(notes))

    def _piece(self, read: _Read) -> Piece:
        known = self._known[read.line]
        start = max(self.now_ns(), known + SHUT)
        if not read.edges_ns.size:
            self._known[read.line] = start
            return Piece(read.line, NO_EDGES, start, Gap(known, start, Level.HIGH, None, read.why))
        edges = read.edges_ns + start
        self._known[read.line] = int(edges[-1]) + SHUT
        return Piece(read.line, edges, self._known[read.line])

    def close(self) -> None:
        """Reads no more; what the kernel is reading now is waited for by nobody."""
        self._ends.set()
        self._reader = None
        self._ends = threading.Event()
        self._found.clear()


def read_sensor(path: Path, line: str) -> _Read:
    """Reads a sensor of the kernel.

    Args:
        path: its folder.
        line: on which it is drawn.
    """
    try:
        if CODE.fullmatch(path.name):
            return _thermometer(path, line)
        return _humidity(path, line)
    except (OSError, UnicodeDecodeError, ValueError) as error:
        says = error.strerror if isinstance(error, OSError) and error.strerror else str(error)
        return _Read(line, NO_EDGES, f"the kernel could not read {path.name}: {says}")


def _thermometer(path: Path, line: str) -> _Read:
    text = (path / "w1_slave").read_text(encoding="ascii")
    found = BYTES.match(text)
    if found is None:
        raise ValueError("its file ends early" if len(text) < 72 else "its file makes no sense")
    family, serial = path.name.split("-")
    code = bytes((int(family, 16),)) + bytes.fromhex(serial)[::-1]
    return _Read(line, thermometer_edges(code, bytes.fromhex(found[1])))


def _humidity(path: Path, line: str) -> _Read:
    """Thousandths of a percent and of a degree, as a frame of the type that has such steps."""
    damp, warm = (
        int((path / f"in_{quantity}_input").read_text(encoding="ascii"))
        for quantity in ("humidityrelative", "temp")
    )
    if not (0 <= damp <= 100_000 and abs(warm) <= 125_000):
        raise ValueError(f"{damp / 1000:g} %RH and {warm / 1000:g} °C cannot be")
    if damp % 1000 or warm % 1000 or warm < 0:
        tenths, degrees = round(damp / 100), round(abs(warm) / 100) | (0x8000 if warm < 0 else 0)
        sheet, data = TENTHS, tenths.to_bytes(2, "big") + degrees.to_bytes(2, "big")
    else:
        sheet, data = WHOLE, bytes((damp // 1000, 0, warm // 1000, 0))
    return _Read(line, humidity_edges(sheet, data + bytes((sum(data) & 0xFF,))))
