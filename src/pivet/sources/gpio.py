"""Lines of this computer, through the kernel's GPIO character device.

Edges carry the kernel's time stamps, which are taken when the interrupt is served: they are
late by a few µs, and by more on a busy computer.  The computer can also pull a line low to
ask a humidity sensor or to trigger an echo sensor, but its scheduler decides when the line is
let go: how late that was is measured and told with each ask.  Slots of 1-Wire it cannot make.

Source: Linux, Documentation/userspace-api/gpio, and the gpiod package.
"""

import errno
import importlib
import select
import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import timedelta
from pathlib import Path
from typing import Any

import numpy as np

from pivet.signal.trace import Level
from pivet.sources.ask import Ask
from pivet.sources.port import group_of
from pivet.sources.source import (
    NO_EDGES,
    About,
    AskDone,
    Batch,
    Gap,
    LineInfo,
    Piece,
    Source,
    SourceError,
    SourceLost,
)

BUFFER = 16_384
"""Events that the kernel is asked to hold back for a line."""

RESOLUTION_NS = 1_000
"""What a kernel's time stamp is good for at best, ns."""

KNOWN_LAG_NS = 2_000_000
"""An event may be on its way for so long: later than that a quiet line is known to be quiet."""

SPIN_S = 0.0003
CONSUMER = "pivet"
LOST = "the kernel's memory was full"
BLIND = "nobody sees a line while this computer drives it"

TOLD_US = 100.0
"""An ask whose end came later than this is told, and again when one is twice as late."""


@dataclass(slots=True)
class _State:
    """A line that is listened to.

    Attributes:
        offset: on its chip.
        until: known up to here, ns.
        number: the kernel's number of its last event; 0 before the first.
        level: after the last event.
        edges: the edges that were not told yet.
        begun: its first piece was given.
        why: what it is when the next edge does not follow the level that was known.
    """

    offset: int
    until: int
    level: Level
    number: int = 0
    edges: list[int] = field(default_factory=list)
    begun: bool = False
    why: str = LOST


class GpioSource(Source):
    """Lines of one GPIO chip.

    Args:
        chip: path or name, ``gpiochip0`` for instance.
        kernel: the gpiod package, or what stands in for it.
    """

    can_ask = True

    def __init__(self, chip: str, kernel: Any = None) -> None:
        self._path = chip if chip.startswith("/") else f"/dev/{chip}"
        self._pull_ups: dict[int, bool] = {}
        self._kernel = kernel
        self._request: Any = None
        self._about: About | None = None
        self._offsets: dict[str, int] = {}
        self._states: dict[str, _State] = {}
        self._zero = time.monotonic_ns()
        self._asked: list[AskDone] = []
        self._ident = 0
        self._worst_us = self._told_us = 0.0

    @property
    def name(self) -> str:
        """The chip."""
        return self._path

    def open(self) -> About:
        """Looks at the chip; see ``Source.open``.

        Raises:
            SourceError: there is no such chip, or the package for it is missing.
        """
        self.close()
        if self._kernel is None:
            try:
                self._kernel = importlib.import_module("gpiod")
            except ImportError as error:
                raise SourceError("the package gpiod is missing", "install it with pip") from error
        if not Path(self._path).exists() and not self._kernel.is_gpiochip_device(self._path):
            raise SourceError(
                f"there is no GPIO chip {self._path}",
                "`ls /dev/gpiochip*` lists them; most desktop computers have none, use a probe",
            )
        with self._refusing(), self._kernel.Chip(self._path) as chip:
            count = chip.get_info().num_lines
            infos = [chip.get_line_info(offset) for offset in range(count)]
        short = Path(self._path).name
        names = [info.name or f"{short}.{info.offset}" for info in infos]
        self._offsets = {name: info.offset for name, info in zip(names, infos, strict=True)}
        lines = tuple(
            LineInfo(
                name,
                can_pull_low=not info.used,
                can_drive_high=not info.used,
                can_pull_up=not info.used,
                note=f"used by {info.consumer or 'the kernel'}" if info.used else "",
            )
            for name, info in zip(names, infos, strict=True)
        )
        facts = (
            ("time stamps", "by the kernel, when the interrupt is served"),
            ("asks", "late by the scheduler; measured at each, no 1-Wire"),
        )
        self._about = About(short, lines, RESOLUTION_NS, facts)
        return self._about

    def _refusing(self) -> "_Refusing":
        return _Refusing(self._path)

    def now_ns(self) -> int:
        """By the same clock as the kernel's stamps, ns."""
        return time.monotonic_ns() - self._zero

    def pull_up(self, line: str, on: bool) -> None:
        """Switches the chip's own pull-up of a line, of some 50 kΩ; see ``Source.pull_up``.

        Args:
            line: its name.
            on: whether it is switched on.

        Raises:
            SourceLost: the chip is not open.
        """
        if self._about is None:
            raise SourceLost(f"the chip {self._path} is not open", "open it first")
        name = self._about.line(line).name
        offset = self._offsets[name]
        self._pull_ups[offset] = on
        if self._request is not None and name in self._states:
            with self._refusing():
                self._request.reconfigure_lines({offset: self._settings(offset)})

    def _settings(self, offset: int, output: bool = False) -> Any:
        line = self._kernel.line
        if output:
            return self._kernel.LineSettings(
                direction=line.Direction.OUTPUT,
                drive=line.Drive.OPEN_DRAIN,
                output_value=line.Value.ACTIVE,
            )
        return self._kernel.LineSettings(
            direction=line.Direction.INPUT,
            edge_detection=line.Edge.BOTH,
            bias=self._bias(offset),
            event_clock=line.Clock.MONOTONIC,
        )

    def _bias(self, offset: int) -> Any:
        bias, wanted = self._kernel.line.Bias, self._pull_ups.get(offset)
        if wanted is None:
            return bias.AS_IS
        return bias.PULL_UP if wanted else bias.DISABLED

    def listen(self, lines: Sequence[str]) -> None:
        """Requests these lines with both edges; see ``Source.listen``.

        Args:
            lines: names of lines; none means all.

        Raises:
            SourceError: a line is not there, or somebody else has it.
            SourceLost: the chip is not open.
        """
        if self._about is None:
            raise SourceLost(f"the chip {self._path} is not open", "open it first")
        infos = [self._about.line(name) for name in lines]
        for info in infos:
            if info.note:
                raise SourceError(f"the line {info.name} is {info.note}", "choose another")
        self._release()
        if not infos:
            return
        offsets = {info.name: self._offsets[info.name] for info in infos}
        with self._refusing():
            self._request = self._kernel.request_lines(
                self._path,
                consumer=CONSUMER,
                config={offset: self._settings(offset) for offset in offsets.values()},
                event_buffer_size=BUFFER,
            )
        now = self.now_ns()
        self._states = {
            name: _State(offset, now, self._level(offset)) for name, offset in offsets.items()
        }

    def _level(self, offset: int) -> Level:
        active = self._kernel.line.Value.ACTIVE
        return Level(int(self._request.get_value(offset) == active))

    def read(self, timeout_s: float) -> Batch:
        """Takes the kernel's events; see ``Source.read``.

        Args:
            timeout_s: the longest wait, s.
        """
        if self._request is None:
            time.sleep(timeout_s)
            return Batch()
        pieces: list[Piece] = []
        asked, self._asked = tuple(self._asked), []
        with self._losing():
            heard = self._request.wait_edge_events(timedelta(seconds=0 if asked else timeout_s))
            now = self.now_ns()
            for event in self._request.read_edge_events() if heard else ():
                pieces += self._on_event(event)
        for name, state in self._states.items():
            pieces.append(self._piece(name, state, max(now - KNOWN_LAG_NS, state.until)))
        return Batch(tuple(pieces), asked, self._notes())

    def _notes(self) -> tuple[str, ...]:
        """How late asks end; told when that gets worse."""
        if self._worst_us < max(TOLD_US, 2 * self._told_us):
            return ()
        self._told_us = self._worst_us
        return (
            f"this computer let {self._path} go {self._worst_us:.0f} µs later than an ask wanted: "
            "its scheduler was busy.",
        )

    def _losing(self) -> "_Refusing":
        return _Refusing(self._path, lost=True)

    def _on_event(self, event: Any) -> Iterator[Piece]:
        """Notes an edge; a number that is missing tells how many were lost."""
        name = next(
            name for name, state in self._states.items() if state.offset == event.line_offset
        )
        state = self._states[name]
        rising = event.event_type == event.Type.RISING_EDGE
        at_ns = event.timestamp_ns - self._zero
        lost = event.line_seqno - state.number - 1 if state.number else 0
        state.number = event.line_seqno
        before = Level(int(not rising))
        last = state.edges[-1] if state.edges else state.until
        if lost or before is not state.level:
            yield self._piece(name, state, last)
            start = max(at_ns - 1, last)
            yield Piece(name, NO_EDGES, start, Gap(last, start, before, lost or None, state.why))
            state.until = start
        state.why = LOST
        state.level = Level(int(rising))
        if at_ns > (state.edges[-1] if state.edges else state.until):
            state.edges.append(at_ns)

    def _piece(self, name: str, state: _State, until: int) -> Piece:
        edges = np.array(state.edges, dtype=np.int64)
        state.edges = []
        first = int(edges[0]) - 1 if edges.size else until
        begin = min(state.until, first)
        before = Level(state.level ^ (edges.size & 1))
        gap = None if state.begun else Gap(begin, begin, before, 0)
        state.begun = True
        state.until = max(until, int(edges[-1]) if edges.size else until)
        return Piece(name, edges, state.until, gap)

    def ask(self, ask: Ask) -> int:
        """Drives a line by this computer's own hand; see ``Source.ask`` and the module.

        Args:
            ask: what is to be driven, and how.

        Raises:
            SourceError: the line is not listened to, or cannot be driven so.
        """
        if len(ask.steps_us) > 2:
            raise SourceError(
                "this computer cannot make the slots of a 1-Wire line itself: its scheduler is "
                "late by more than a slot lasts",
                "ask through a probe, or only listen",
            )
        if self._about is None or ask.line not in self._states:
            raise SourceError(f"the line {ask.line} is not listened to", "listen to it first")
        state = self._states[ask.line]
        drives_low = ask.drive is Level.LOW
        with self._losing():
            begin, end = self._drive(state.offset, ask.steps_us[0] / 1e6, drives_low)
        for at_ns in (begin, end):
            last = state.edges[-1] if state.edges else state.until
            state.edges.append(max(at_ns, last + 1))
        # An answer may have begun unseen, and the kernel may number anew.
        state.why, state.number = BLIND, 0
        late_us = (end - begin) / 1000 - ask.steps_us[0]
        self._worst_us = max(self._worst_us, late_us)
        self._ident += 1
        self._asked.append(AskDone(self._ident, begin, end, late_us))
        return self._ident

    def _drive(self, offset: int, seconds: float, drives_low: bool) -> tuple[int, int]:
        """Drives and lets go; gives when that really was, ns.

        While the line is an output the kernel sees no edges of it, so those of the ask itself are
        put in by their measured times.
        """
        value = self._kernel.line.Value
        driven, free = (
            (value.INACTIVE, value.ACTIVE) if drives_low else (value.ACTIVE, value.INACTIVE)
        )
        output = self._settings(offset, output=True)
        if not drives_low:
            output.drive = self._kernel.line.Drive.PUSH_PULL
            output.output_value = value.INACTIVE
        self._request.reconfigure_lines({offset: output})
        self._request.set_value(offset, driven)
        begin = self.now_ns()
        _wait(seconds)
        self._request.set_value(offset, free)
        end = self.now_ns()
        self._request.reconfigure_lines({offset: self._settings(offset)})
        return begin, end

    def _release(self) -> None:
        if self._request is not None:
            self._request.release()
            self._request = None

    def close(self) -> None:
        """Gives the lines back."""
        self._release()
        self._states = {}


class _Refusing:
    """Turns the operating system's errors into sentences."""

    def __init__(self, path: str, lost: bool = False) -> None:
        self._path, self._lost = path, lost

    def __enter__(self) -> None:
        pass

    def __exit__(self, kind: object, error: BaseException | None, _trace: object) -> None:
        if not isinstance(error, OSError):
            return
        if self._lost:
            raise SourceLost(f"the GPIO chip {self._path} is gone", "plug it in again") from error
        if error.errno in (errno.EACCES, errno.EPERM):
            group = group_of(self._path)
            raise SourceError(
                f"you have no right to use {self._path}",
                f"join the group {group} (sudo usermod -aG {group} $USER) and log in again",
            ) from error
        if error.errno == errno.EBUSY:
            raise SourceError(
                f"a line of {self._path} is used by another program", "close that program"
            ) from error
        raise SourceError(f"{self._path} cannot be used ({error.strerror})", "") from error


def _wait(seconds: float) -> None:
    """Waits as exactly as a process can: sleeps most of it, spins the rest."""
    until = time.monotonic() + seconds
    if seconds > SPIN_S:
        select.select([], [], [], seconds - SPIN_S)
    while time.monotonic() < until:
        pass
