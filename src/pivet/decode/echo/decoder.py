"""The decoder of echo measurements: spikes out, highs, each echo to its trigger."""

import numpy as np
import numpy.typing as npt

from pivet.decode.echo import columns, layout
from pivet.decode.echo.answers import answers, gaps, in_turn, with_alone
from pivet.decode.echo.columns import DecodeMark, EchoExchanges
from pivet.decode.echo.joining import EMPTY, Highs, Joiner
from pivet.decode.interface import ABSENT
from pivet.decode.pairs import NONE, Pairs, Pulses
from pivet.frozen import replace
from pivet.signal.spikes import Cleaned, SpikeFilter
from pivet.signal.trace import Int64Array, Level

LONG_AGO = -(2**62)
NO_SPIKES = np.empty((2, 0), dtype=np.int64)


class EchoDecoder:
    """Finds every trigger and the echo after it; see ``decode.interface.Decoder``.

    One trigger has one answer: short gaps in it are closed, short pulses beside it passed over.
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
        self._joiners = [Joiner() for _ in initial]
        self._triggers, self._echoes = EMPTY, EMPTY
        self._strays: list[tuple[int, int, int]] = []
        self._spiked = NO_SPIKES
        self._up_until_ns = self._stuck_until_ns = self._unanswered_ns = LONG_AGO

    def feed(self, lines: tuple[Int64Array, ...], known_until_ns: int) -> EchoExchanges:
        """Takes the edges of the lines since the last call; gives what is now certain.

        Args:
            lines: int64 (n,) each, ns.
            known_until_ns: the lines are known up to here, ns.
        """
        self._known_until_ns = known_until_ns
        spikes = [
            finder.feed(edges, known_until_ns)
            for finder, edges in zip(self._spikes, lines, strict=True)
        ]
        certain = min(spike.settled_until(known_until_ns) for spike in self._spikes)
        self._take(
            [spike.edges_ns for spike in spikes],
            [spike.settled_until(known_until_ns) for spike in self._spikes],
        )
        opened = [trigger for trigger in self._opened() if trigger is not None]
        found = self._settled(min([certain, *opened]))
        return self._beside(found, spikes, certain)

    def finish(self) -> EchoExchanges:
        """Gives what was still open: nothing follows."""
        spikes = [spike.finish() for spike in self._spikes]
        self._take([spike.edges_ns for spike in spikes], [self._known_until_ns] * len(spikes))
        ended = self._close()
        if len(self._pairs) == 1:
            self._torn_off(int(np.iinfo(np.int64).max))
        found = self._measurements(self._triggers, self._echoes)
        late = (found.flight_ns == ABSENT) & (
            self._known_until_ns - found.end_ns < layout.ECHO_LATEST_NS
        )
        late &= (found.marks & DecodeMark.ECHO_UP) == 0
        found.marks[late | ((found.end_ns == self._known_until_ns) & ended)] |= np.uint8(
            DecodeMark.CAPTURE_ENDED
        )
        return self._beside(found, spikes, None)

    def _opened(self) -> list[int | None]:
        """Start of the high of each line that may go on."""
        rows = zip(self._joiners, self._pairs, strict=True)
        return [
            pairs.open_ns if joiner.open_ns is None else joiner.open_ns for joiner, pairs in rows
        ]

    def _take(self, edges: list[Int64Array], known: list[int]) -> None:
        """Sorts new highs into triggers and echoes; the lines are known up to some times."""
        highs = []
        for pairs, joiner, part, until in zip(
            self._pairs, self._joiners, edges, known, strict=True
        ):
            pulses = pairs.feed(part)
            highs.append(joiner.feed(pulses, until if pairs.open_ns is None else pairs.open_ns))
        self._add(highs)

    def _add(self, highs: list[Highs]) -> None:
        highs = [self._without_clipped(high) for high in highs]
        if len(highs) == 1:
            short = highs[0].width_ns < layout.TRIGGER_BELOW_NS
            triggers, echoes = highs[0].chosen(short), highs[0].chosen(~short)
        else:
            triggers, echoes = highs
        self._triggers = self._triggers.then(triggers)
        self._echoes = self._echoes.then(echoes)

    def _without_clipped(self, highs: Highs) -> Highs:
        """Leaves out a high that began before the capture: its length is not known."""
        if not highs.clipped:
            return highs
        self._strays.append((int(highs.start_ns[0]), int(highs.end_ns[0]), 1))
        return highs.part(1)

    def _close(self) -> bool:
        """Highs that last to the capture's end; tells whether there are any."""
        highs, lasts = [], False
        for pairs, joiner in zip(self._pairs, self._joiners, strict=True):
            start, until = pairs.open_ns, self._known_until_ns
            width = 0 if start is None else until - start
            open_ = Pulses(NONE, NONE)
            if start is not None and width > 0:
                open_ = Pulses(np.array([start]), np.array([width]), pairs.open_is_clipped)
                lasts = True
            highs.append(joiner.feed(open_, until).then(joiner.finish()))
        self._add(highs)
        return lasts

    def _settled(self, certain_ns: int) -> EchoExchanges:
        """The measurements that no later edge can change."""
        if len(self._pairs) == 2:
            opened = self._opened()[0]
            rises = self._triggers.start_ns
            rises = rises if opened is None else np.append(rises, opened)
            alone_until = certain_ns
        else:
            stand = self._torn_off(certain_ns)
            rises, waiting = np.split(self._triggers.start_ns, [stand])
            alone_until = self._apart_until(min([certain_ns, *waiting[:1].tolist()]))
        if rises.size:
            known = rises[rises <= certain_ns]
            if not known.size:
                return columns.made()
            bound = int(known[-1])
        else:
            bound = alone_until
        first = int(np.searchsorted(self._triggers.start_ns, bound))
        echo = int(np.searchsorted(self._echoes.start_ns, bound))
        if not first and not echo:
            return columns.made()
        found = self._measurements(self._triggers.part(0, first), self._echoes.part(0, echo))
        self._triggers, self._echoes = self._triggers.part(first), self._echoes.part(echo)
        return found

    def _apart_until(self, certain_ns: int) -> int:
        """Start of the first echo after which a piece of it may still come, ns."""
        late = self._echoes.end_ns > certain_ns - layout.REST_LEAST_NS
        return int(self._echoes.start_ns[late][0]) if late.any() else certain_ns

    def _torn_off(self, certain_ns: int) -> int:
        """Takes short highs close to an echo, on a shared line, for pieces of it, no triggers.

        Returns:
            so many of the triggers stand: nothing that is still to come can be so close.
        """
        triggers, echoes = self._triggers, self._echoes
        decided = int(np.searchsorted(triggers.end_ns, certain_ns - layout.WAIT_LEAST_NS, "right"))
        long = echoes.width_ns >= layout.TRIGGER_BELOW_NS
        if not decided or not long.any():
            return decided
        starts, ends = echoes.start_ns[long], echoes.end_ns[long]
        ahead = np.searchsorted(starts, triggers.end_ns)
        far = np.iinfo(np.int64).max
        wait = np.append(starts, far)[ahead] - triggers.end_ns
        rest = triggers.start_ns - np.insert(ends, 0, -(far // 2))[ahead]
        torn = (wait < layout.WAIT_LEAST_NS) | (rest < layout.REST_LEAST_NS)
        torn[decided:] = False
        if torn.any():
            every = echoes.then(triggers.chosen(torn))
            self._echoes = every.taken(np.argsort(every.start_ns, kind="stable"))
            self._triggers = triggers.chosen(~torn)
        return decided - int(torn.sum())

    def _measurements(self, triggers: Highs, echoes: Highs) -> EchoExchanges:
        """Each trigger with its one echo; what nobody triggered stands alone."""
        if not triggers.size and not echoes.size:
            return columns.made()
        if self._one_each(triggers, echoes):
            return in_turn(triggers, echoes)
        owner = np.searchsorted(triggers.start_ns, echoes.start_ns, side="right") - 1
        marks = self._up_at(triggers, echoes, owner)
        since = echoes.start_ns - triggers.end_ns[owner] if triggers.size else echoes.start_ns
        own = (owner >= 0) & (since < layout.OWN_NS)
        flight = np.full(triggers.size, ABSENT, dtype=np.int64)
        rise = triggers.end_ns.copy()
        if own.any():
            shot, kept, beside = answers(echoes.chosen(own), owner[own])
            flight[shot], rise[shot] = kept.width_ns, kept.start_ns
            marks[shot] |= beside | gaps(kept)
        if len(self._pairs) == 1:
            marks[self._doubtful(triggers, flight)] |= np.uint8(DecodeMark.RAGGED)
        end = np.where(flight >= 0, rise + flight, triggers.end_ns)
        found = columns.made(
            start_ns=triggers.start_ns,
            end_ns=end,
            trigger_ns=triggers.width_ns,
            rise_ns=rise,
            flight_ns=flight,
            marks=marks,
        )
        return found if own.all() else with_alone(found, echoes.chosen(~own))

    def _beside(
        self, found: EchoExchanges, spikes: list[Cleaned], certain_ns: int | None
    ) -> EchoExchanges:
        """The same measurements with what was found beside them, in order of time.

        Spikes are told when no line can bring an earlier one, highs that began before the
        capture at the end.
        """
        rows = [np.stack((spike.spike_start_ns, spike.spike_width_ns)) for spike in spikes]
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

    def _doubtful(self, triggers: Highs, flight: Int64Array) -> npt.NDArray[np.bool_]:
        """Shots whose trigger comes right after another without an echo.

        On a shared line it may be the first piece of that one's echo.
        """
        ends = np.where(flight < 0, triggers.end_ns, LONG_AGO)
        before = np.concatenate(([self._unanswered_ns], ends))
        self._unanswered_ns = int(before[-1])
        found: npt.NDArray[np.bool_] = triggers.start_ns - before[:-1] < layout.ECHO_LATEST_NS
        return found & (flight >= 0)

    def _one_each(self, triggers: Highs, echoes: Highs) -> bool:
        """A quick look: triggers and whole echoes come in turn, and nothing is the matter."""
        if triggers.size != echoes.size or echoes.broken.any():
            return False
        rises, starts, ends = echoes.start_ns, triggers.start_ns, echoes.end_ns
        since = rises - starts
        if int(since.min()) <= 0 or int(since.max()) >= layout.OWN_NS:
            return False
        if self._unanswered_ns > starts[0] - layout.ECHO_LATEST_NS:
            return False
        if self._up_until_ns > starts[0] or bool((ends[:-1] > starts[1:]).any()):
            return False
        if int(echoes.width_ns.max()) >= layout.STUCK_NS:
            return False
        self._up_until_ns = int(ends[-1])
        return True

    def _up_at(self, triggers: Highs, echoes: Highs, owner: Int64Array) -> npt.NDArray[np.uint8]:
        """Whether an echo was up at each trigger, and for longer than any sensor, as marks."""
        stuck = np.where(echoes.width_ns >= layout.STUCK_NS, echoes.end_ns, LONG_AGO)
        ends = np.maximum.accumulate(np.concatenate(([self._up_until_ns], echoes.end_ns)))
        stuck = np.maximum.accumulate(np.concatenate(([self._stuck_until_ns], stuck)))
        before = np.cumsum(np.bincount(owner + 1, minlength=triggers.size + 1))[:-1]
        self._up_until_ns, self._stuck_until_ns = int(ends[-1]), int(stuck[-1])
        marks = np.where(ends[before] > triggers.start_ns, int(DecodeMark.ECHO_UP), 0)
        marks |= np.where(stuck[before] > triggers.start_ns, int(DecodeMark.STUCK), 0)
        return marks.astype(np.uint8)
