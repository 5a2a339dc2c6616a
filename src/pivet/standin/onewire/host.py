"""A simulated host that speaks with the thermometers on its line."""

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

from pivet.sheets.onewire import Function, Rom, code_bytes
from pivet.signal.trace import Line
from pivet.standin.onewire.line import Conditions, LineWriter
from pivet.standin.onewire.thermometer import Thermometer

Bits = npt.NDArray[np.uint8]
POLL_EVERY_US = 20_000.0
HOST_WAITS = 1.01
"""A host waits a little longer than the sheet asks for."""


def bits_of(data: bytes) -> Bits:
    """Bytes as bits, least significant first."""
    return np.unpackbits(np.frombuffer(data, dtype=np.uint8), bitorder="little")


class Host:
    """Talks to devices; every method begins with a reset unless it says otherwise.

    Args:
        devices: on the line, whether plugged or not.
        conditions: how the line deviates.
        seed: the seed of the jitter.
        start_s: when the host begins, s.
    """

    def __init__(
        self,
        devices: Sequence[Thermometer],
        conditions: Conditions | None = None,
        seed: int = 1,
        start_s: float = 0.002,
    ) -> None:
        self.devices = list(devices)
        random = np.random.default_rng(seed)
        self.wire = LineWriter(conditions or Conditions(), random, start_s * 1e6)
        self._selected: list[Thermometer] = []
        self._resumable: list[Thermometer] = []
        self.spoil: Callable[[Bits], Bits] | None = None

    @property
    def now_s(self) -> float:
        """Time of the line, s."""
        return self.wire.now_us / 1e6

    def line(self, name: str) -> Line:
        """All that was said."""
        return self.wire.line(name)

    def wait_until(self, at_s: float) -> None:
        """Lets the line rest until a time, s."""
        self.wire.wait_until(at_s * 1e6)

    def _there(self) -> list[Thermometer]:
        return [device for device in self.devices if device.plugged(self.now_s)]

    def reset(self, length_us: float | None = None) -> bool:
        """A reset; tells whether somebody is there.  A long one ends overdrive speed."""
        there = self._there()
        for device in there:
            device.disturb(self.now_s)
        self.wire.reset(bool(there), length_us)
        self._selected = []
        return bool(there)

    def slow_down(self) -> None:
        """The next reset is one at standard speed."""
        self.wire.fast = False

    def write(self, data: bytes) -> None:
        """Writes bytes; no reset."""
        self.wire.slots(bits_of(data), device=False)

    def read(self, answer: Callable[[Thermometer], bytes], count: int) -> Bits:
        """Reads bits from whoever is selected: zeros win; no reset."""
        bits = np.ones(count, dtype=np.uint8)
        for device in self._selected:
            if device.plugged(self.now_s):
                bits &= bits_of(answer(device))[:count]
        if self.spoil is not None:
            bits, self.spoil = self.spoil(bits), None
        self.wire.slots(bits, device=True)
        return bits

    def skip(self, fast: bool = False) -> None:
        """Asks all at once, at overdrive speed from then on if so wanted."""
        self.reset()
        self.write(bytes([Rom.FAST_SKIP if fast else Rom.SKIP]))
        self.wire.fast |= fast
        self._selected = self._there()

    def match(self, code: int, fast: bool = False) -> None:
        """Asks one device."""
        self.reset()
        self.write(bytes([Rom.FAST_MATCH if fast else Rom.MATCH]))
        self.wire.fast |= fast
        self.write(code_bytes(code))
        self._selected = [device for device in self._there() if device.code == code]
        self._resumable = self._selected

    def resume(self) -> None:
        """Asks the device asked last."""
        self.reset()
        self.write(bytes([Rom.RESUME]))
        self._selected = self._resumable

    def read_rom(self) -> Bits:
        """Asks the only device for its code."""
        self.reset()
        self.write(bytes([Rom.READ]))
        self._selected = self._there()
        return self.read(lambda device: code_bytes(device.code), 64)

    def search(self, alarm: bool = False) -> list[int]:
        """Finds all devices (those in alarm), one pass after the other."""
        found: list[int] = []
        path: list[int] = []
        while True:
            passed = self._search_pass(path, alarm)
            if passed is None:
                return found
            code, forks = passed
            found.append(code)
            turns = [place for place in forks if not code >> place & 1]
            if not turns:
                return found
            path = [code >> place & 1 for place in range(turns[-1])] + [1]

    def _search_pass(self, path: Sequence[int], alarm: bool) -> tuple[int, list[int]] | None:
        """One pass along a path, then along the zeros; the code and its forks."""
        self.reset()
        self.write(bytes([Rom.ALARM_SEARCH if alarm else Rom.SEARCH]))
        asked = [wire for wire in self._there() if not alarm or wire.alarmed(self.now_s)]
        codes = np.array([device.bits for device in asked], dtype=np.uint8).reshape(-1, 64)
        active = np.ones(len(codes), dtype=bool)
        triplets, forks, code = [], [], 0
        for place in range(64):
            column = codes[active, place]
            bit, complement = int(column.all()), int((1 - column).all())
            triplets += [bit, complement]
            if bit and complement:
                self._say_triplets(triplets)
                return None
            if bit == complement:
                forks.append(place)
            direction = path[place] if place < len(path) else bit
            triplets.append(direction)
            active &= codes[:, place] == direction
            code |= direction << place
        self._say_triplets(triplets)
        self._selected = [device for device, on in zip(asked, active.tolist(), strict=True) if on]
        self._resumable = self._selected
        return code, forks

    def _say_triplets(self, triplets: Sequence[int]) -> None:
        """Bit and complement from the devices, direction from the host."""
        self.wire.slots(triplets, device=np.arange(len(triplets)) % 3 < 2)

    def function(self, command: Function) -> None:
        """A function command to whoever is selected; no reset."""
        self.write(bytes([command]))

    def convert(self, wait_s: float | None = None, polled: bool = False) -> None:
        """Lets whoever is selected convert, and waits by time or by reading bits; no reset.

        Args:
            wait_s: how long to wait; None waits as long as the slowest may take, s.
            polled: read a bit now and then until it is 1.
        """
        self.function(Function.CONVERT)
        started = self.now_s
        for device in self._selected:
            device.convert(started)
        if polled:
            while not all(place.done(self.now_s) for place in self._selected):
                self.wire.slots([0], device=True)
                self.wire.wait_until(self.wire.now_us + POLL_EVERY_US)
            self.wire.slots([1], device=True)
            return
        longest = max((place.conversion_s / place.takes for place in self._selected), default=0.75)
        self.wait_until(started + (longest * HOST_WAITS if wait_s is None else wait_s))

    def read_scratchpad(self, bytes_wanted: int = 9) -> Bits:
        """Reads the scratchpad of whoever is selected; no reset."""
        self.function(Function.READ_SCRATCHPAD)
        now = self.now_s
        return self.read(lambda device: device.read(now), 8 * bytes_wanted)

    def write_scratchpad(self, data: bytes) -> None:
        """Writes limits and configuration of whoever is selected; no reset."""
        self.function(Function.WRITE_SCRATCHPAD)
        self.write(data)
        for device in self._selected:
            device.write(data, self.now_s)

    def copy(self) -> None:
        """Lets whoever is selected keep its settings; no reset."""
        self.function(Function.COPY)
        for device in self._selected:
            device.copy()

    def recall(self) -> None:
        """Lets whoever is selected take back its settings; no reset."""
        self.function(Function.RECALL)
        for device in self._selected:
            device.recall()
        self.wire.slots([1], device=True)

    def power(self) -> bool:
        """Asks whether somebody selected lives on the line's power; no reset."""
        self.function(Function.POWER)
        parasite = any(place.parasite for place in self._selected)
        self.wire.slots([0 if parasite else 1], device=True)
        return parasite
