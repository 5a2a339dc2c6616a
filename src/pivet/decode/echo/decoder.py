"""The decoder of echo measurements: spikes out, highs, each echo to its trigger."""

from dataclasses import replace

import numpy as np

from pivet.decode.echo import columns, layout
from pivet.decode.echo.columns import EchoExchanges, Mark
from pivet.decode.interface import ABSENT
from pivet.decode.pairs import EMPTY, Pairs, Pulses
from pivet.signal.spikes import Cleaned, SpikeFilter
from pivet.signal.trace import Int64Array, Level

LONG_AGO = -(2**62)
NO_SPIKES = np.empty((2, 0), dtype=np.int64)


class EchoDecoder:
    """Finds every trigger and the echo behind it; see ``decode.interface.Decoder``.

    With two lines the first carries triggers, the second echoes.  With one line both are
    on it: short highs trigger, long ones are echoes, which may also stand alone.

    Args:
        initial: level of each line at ``start_ns``.
        start_ns: from when on the lines are known, ns.
    """

    def __init__(self, initial: tuple[Level, ...], start_ns: int) -> None:
        self._spikes = [SpikeFilter(layout.SPIKE_NS) for _ in initial]
        self._pairs = [Pairs(Level.HIGH, level, start_ns) for level in initial]
        self._known_until_ns = start_ns
        self._triggers, self._echoes = EMPTY, EMPTY
        self._strays: list[tuple[int, int, int]] = []
        self._spiked = NO_SPIKES
        self._up_until_ns = LONG_AGO

    def feed(self, lines: tuple[Int64Array, ...], known_until_ns: int) -> EchoExchanges:
        """Takes the edges of the lines since the last call; gives what is now certain."""
        self._known_until_ns = known_until_ns
        spikes = [
            row.feed(edges, known_until_ns) for row, edges in zip(self._spikes, lines, strict=True)
        ]
        certain = min(row.settled_until(known_until_ns) for row in self._spikes)
        self._take([row.edges_ns for row in spikes])
        opened = [row.open_ns for row in self._pairs if row.open_ns is not None]
        found = self._settled(min([certain, *opened]))
        return self._beside(found, spikes, certain)

    def finish(self) -> EchoExchanges:
        """Gives what was still open: nothing follows."""
        spikes = [row.finish() for row in self._spikes]
        self._take([row.edges_ns for row in spikes])
        ended = self._close()
        found = self._measurements(self._triggers, self._echoes)
        late = (found.flight_ns == ABSENT) & (
            self._known_until_ns - found.end_ns < layout.ECHO_LATEST_NS
        )
        late &= (found.marks & Mark.ECHO_UP) == 0
        found.marks[late | ((found.end_ns == self._known_until_ns) & ended)] |= np.uint8(
            Mark.CAPTURE_ENDED
        )
        return self._beside(found, spikes, None)

    def _take(self, edges: list[Int64Array]) -> None:
        """Sorts new pulses into triggers and echoes."""
        pulses = [pairs.feed(part) for pairs, part in zip(self._pairs, edges, strict=True)]
        self._add(pulses)

    def _add(self, pulses: list[Pulses]) -> None:
        pulses = [self._without_clipped(row) for row in pulses]
        if len(pulses) == 1:
            short = pulses[0].width_ns < layout.TRIGGER_BELOW_NS
            triggers, echoes = _chosen(pulses[0], short), _chosen(pulses[0], ~short)
        else:
            triggers, echoes = pulses
        self._triggers = self._triggers.then(triggers)
        self._echoes = self._echoes.then(echoes)

    def _without_clipped(self, pulses: Pulses) -> Pulses:
        """Leaves out a high that began before the capture: its length is not known."""
        if not pulses.clipped:
            return pulses
        self._strays.append((int(pulses.start_ns[0]), int(pulses.end_ns[0]), 1))
        return pulses.part(1)

    def _close(self) -> bool:
        """Pulses that last to the capture's end; tells whether there are any."""
        pulses = []
        for pairs in self._pairs:
            start = pairs.open_ns
            width = 0 if start is None else self._known_until_ns - start
            if start is None or width <= 0:
                pulses.append(EMPTY)
            else:
                pulses.append(Pulses(np.array([start]), np.array([width]), pairs.open_is_clipped))
        self._add(pulses)
        return any(row.size for row in pulses)

    def _settled(self, certain_ns: int) -> EchoExchanges:
        """The measurements that no later edge can change."""
        rises = self._triggers.start_ns
        opened = self._pairs[0].open_ns if len(self._pairs) == 2 else None
        if opened is not None:
            rises = np.append(rises, opened)
        if rises.size:
            known = rises[rises <= certain_ns]
            if not known.size:
                return columns.made()
            bound = int(known[-1])
        else:
            bound = certain_ns
        first = int(np.searchsorted(self._triggers.start_ns, bound))
        echo = int(np.searchsorted(self._echoes.start_ns, bound))
        if not first and not echo:
            return columns.made()
        found = self._measurements(self._triggers.part(0, first), self._echoes.part(0, echo))
        self._triggers, self._echoes = self._triggers.part(first), self._echoes.part(echo)
        return found

    def _measurements(self, triggers: Pulses, echoes: Pulses) -> EchoExchanges:
        """Each trigger with the first echo behind it; further echoes stand alone."""
        if not triggers.size and not echoes.size:
            return columns.made()
        owner = np.searchsorted(triggers.start_ns, echoes.start_ns, side="right") - 1
        first = (owner >= 0) & (np.diff(owner, prepend=-1) > 0)
        flight = np.full(triggers.size, ABSENT, dtype=np.int64)
        rise = triggers.end_ns.copy()
        flight[owner[first]] = echoes.width_ns[first]
        rise[owner[first]] = echoes.start_ns[first]
        end = np.where(flight >= 0, rise + flight, triggers.end_ns)
        marks = np.zeros(triggers.size, dtype=np.uint8)
        marks[self._up_at(triggers, echoes, owner)] = Mark.ECHO_UP
        found = columns.made(
            start_ns=triggers.start_ns,
            end_ns=end,
            trigger_ns=triggers.width_ns,
            rise_ns=rise,
            flight_ns=flight,
            marks=marks,
        )
        return found if first.all() else _with_alone(found, _chosen(echoes, ~first))

    def _beside(
        self, found: EchoExchanges, spikes: list[Cleaned], certain_ns: int | None
    ) -> EchoExchanges:
        """The same measurements with what was found beside them, in order of time.

        Spikes are told when no line can bring an earlier one, highs that began before the
        capture at the end.
        """
        rows = [np.stack((row.spike_start_ns, row.spike_width_ns)) for row in spikes]
        every = np.concatenate([self._spiked, *rows], axis=1)
        every = every[:, np.lexsort((every[1], every[0]))]
        told = every.shape[1]
        if certain_ns is not None:
            told = int(np.searchsorted(every[0], certain_ns))
        self._spiked = every[:, told:]
        strays = np.empty((0, 3), dtype=np.int64)
        if certain_ns is None:
            strays = np.array(sorted(self._strays), dtype=np.int64).reshape(-1, 3)
        return replace(
            found,
            spike_start_ns=every[0, :told],
            spike_width_ns=every[1, :told],
            stray_start_ns=strays[:, 0],
            stray_end_ns=strays[:, 1],
            stray_edges=strays[:, 2],
        )

    def _up_at(self, triggers: Pulses, echoes: Pulses, owner: Int64Array) -> np.ndarray:
        """Whether an echo was up at each trigger."""
        ends = np.maximum.accumulate(np.concatenate(([self._up_until_ns], echoes.end_ns)))
        before = np.cumsum(np.bincount(owner + 1, minlength=triggers.size + 1))[:-1]
        self._up_until_ns = int(ends[-1])
        up: np.ndarray = ends[before] > triggers.start_ns
        return up


def _chosen(pulses: Pulses, mask: np.ndarray) -> Pulses:
    return Pulses(pulses.start_ns[mask], pulses.width_ns[mask])


def _with_alone(found: EchoExchanges, alone: Pulses) -> EchoExchanges:
    """Measurements with those echoes that no trigger brought among them, in order of time."""
    none = np.full(alone.size, ABSENT, dtype=np.int64)
    every = columns.join(
        [
            found,
            columns.made(
                start_ns=alone.start_ns,
                end_ns=alone.end_ns,
                trigger_ns=none,
                rise_ns=alone.start_ns,
                flight_ns=alone.width_ns,
                marks=np.full(alone.size, Mark.TRIGGER_UNSEEN, dtype=np.uint8),
            ),
        ]
    )
    return every.pick(np.argsort(every.start_ns, kind="stable"))
