"""Firmware that reads a sensor, as a small model with its constants."""

import re
from collections.abc import Mapping

from msgspec.structs import asdict

from pivet.errors import InputError
from pivet.frozen import FrozenValue, replace
from pivet.insight.stalls import Stall

DURATION = re.compile(r"\s*(\d+(?:\.\d*)?|\.\d+)\s*(ns|us|µs|μs|ms|s|)\s*")
UNIT_US = {"ns": 0.001, "us": 1.0, "µs": 1.0, "μs": 1.0, "": 1.0, "ms": 1000.0, "s": 1e6}
STALL = re.compile(r"(.+)@\s*(\d+(?:\.\d*)?)\s*(?:/\s*s)?\s*")


class Reader(FrozenValue):
    """A firmware; which constants count hangs on its kind.

    Attributes:
        kind: ``width``, ``sample``, ``poll`` of humidity frames; ``host`` of 1-Wire; ``timer``,
            ``poll`` of echoes.
        threshold_us: a high that is longer is a 1; or how long after a rise (of 1-Wire: after the
            fall of a slot) the level is looked at.
        resolution_us: step of the timer; 0 is exact.
        timeout_us: it gives up what lasts longer; None waits for ever.
        period_us, jitter_us: of the loop that looks at the line, and how much one turn varies
            (standard deviation).
        limit: turns after which it gives up; None for never.
        work_us: so long it puts away each bit before it looks again.
        number: a high of more turns is a 1; None compares with the turns of the low before it.
        slot_us, recovery_us, reset_us, presence_us: of a 1-Wire host: from slot to slot, the high
            before the next, the reset, and how long after it presence is looked for.
        rise_us: so much later the line rises than in the capture: a longer cable.
        pause_us: of an echo reader: from trigger to trigger.
        speed_m_s: of sound, that it counts on.
        stall: how its processor is away.
        seed: the seed of all that is drawn.
    """

    kind: str
    threshold_us: float | None = None
    resolution_us: float = 0.0
    timeout_us: float | None = None
    period_us: float | None = None
    jitter_us: float = 0.0
    work_us: float = 0.0
    limit: int | None = None
    number: int | None = None
    slot_us: float | None = None
    recovery_us: float | None = None
    reset_us: float | None = None
    presence_us: float | None = None
    rise_us: float = 0.0
    pause_us: float | None = None
    speed_m_s: float | None = None
    stall: Stall | None = None
    seed: int = 1

    def with_(self, **constants: object) -> "Reader":
        """The same firmware with other constants."""
        return replace(self, **constants)

    def given(self) -> dict[str, object]:
        """The constants that somebody gave, by name."""
        usual = asdict(Reader(self.kind))
        return {name: value for name, value in asdict(self).items() if value != usual[name]}

    def as_json(self) -> dict[str, object]:
        """Its kind, and the constants that were given."""
        found: dict[str, object] = {"kind": self.kind, **self.given()}
        if self.stall is not None:
            del found["stall"]
            found |= {"stall_us": self.stall.length_us, "stalls_per_s": self.stall.per_s}
        if self.stall is not None or self.jitter_us or self.resolution_us:
            found["seed"] = self.seed
        return found


class ReaderKind(FrozenValue):
    """A kind of reader.

    Attributes:
        name: as in ``Reader.kind``.
        does: what it does, for people, after "a reader that".
        constants: those of ``Reader`` that it has, and what they are called.
        usual: what a constant is when nobody says.
    """

    name: str
    does: str
    constants: Mapping[str, str]
    usual: Mapping[str, float]

    def filled(self, reader: Reader) -> Reader:
        """A reader of this kind, with the usual constants where none were said.

        Args:
            reader: as a person put it together.

        Raises:
            InputError: it has a constant that this kind has not, or one that makes no sense.
        """
        reader = reader.with_(kind=self.name)
        refuse_strange(reader, self.constants)
        open_ = {name: value for name, value in self.usual.items() if getattr(reader, name) is None}
        return reader.with_(**open_)


def microseconds(text: str) -> float:
    """A duration, as ``30us``, ``0.5 ms`` or ``30``, which are µs.

    Args:
        text: as a person writes it.

    Raises:
        InputError: it is none.
    """
    found = DURATION.fullmatch(text)
    if found is None:
        raise InputError(f"{text!r} is no duration", "write 30us, 0.5ms, or a number of µs")
    return float(found[1]) * UNIT_US[found[2]]


def stall_of(text: str) -> Stall:
    """How a processor is away, as ``40us@5/s``.

    Args:
        text: as a person writes it.

    Raises:
        InputError: it cannot be understood.
    """
    found = STALL.fullmatch(text)
    if found is None:
        raise InputError(f"{text!r} says no stalls", "write how long and how often, as 40us@5/s")
    return Stall(microseconds(found[1]), float(found[2]))


def refuse_strange(reader: Reader, known: Mapping[str, str]) -> None:
    """Refuses constants that a kind of reader does not have.

    Args:
        reader: as the person put it together.
        known: constants of its kind, and what they are called for people.

    Raises:
        InputError: there is one, or one makes no sense.
    """
    for column in reader.given():
        if column != "seed" and column not in known:
            name = column.removesuffix("_us").removesuffix("_m_s")
            raise InputError(
                f"a {reader.kind} reader has no {name}",
                f"it has {', '.join(known.values())}",
            )
    for name in ("threshold_us", "timeout_us", "period_us", "slot_us", "pause_us", "speed_m_s"):
        value = getattr(reader, name)
        if value is not None and value <= 0:
            raise InputError(f"{known[name]} must be more than 0", "give a length")
