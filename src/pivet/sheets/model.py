"""What a timing sheet holds."""

from enum import StrEnum

from pivet.frozen import FrozenValue


class Origin(StrEnum):
    """Where a window's limits come from."""

    SHEET = "sheet"
    ASSUMED = "assumed"


class Driver(StrEnum):
    """Who holds the line during a window, and so whose clock counts."""

    HOST = "host"
    SENSOR = "sensor"
    BOTH = "both"


class Window(FrozenValue):
    """How long a pulse may last.

    Attributes:
        key: short name, as in JSON and in code.
        label: name for people.
        driver: who makes this pulse.
        min_us, typ_us, max_us: limits and typical length, µs; ``max_us`` is None
            where the sheet gives no upper limit.
        origin: whether the limits are the sheet's or assumed around its typical value.
        note: what the sheet says or does not say, for people; may be empty.
        any_inside: every length inside is as good as another, so none is near a limit.
        advised_us: what the maker advises though it is at the lower limit, µs; None where
            nothing is said.
        common_us: from and up to which lengths parts of other makers are known to send, µs; None
            where nothing is known.  Beyond the window, but within these, a pulse is near.
        source: where the figures are from, if not from the source of the sheet.
    """

    key: str
    label: str
    driver: Driver
    min_us: float
    typ_us: float
    max_us: float | None
    origin: Origin
    note: str = ""
    any_inside: bool = False
    advised_us: float | None = None
    common_us: tuple[float, float] | None = None
    source: str = ""

    def __post_init__(self) -> None:
        top = self.max_us if self.max_us is not None else self.typ_us
        if not 0 < self.min_us <= self.typ_us <= top:
            raise ValueError(f"window {self.key!r} must have 0 < min <= typical <= max")
        if self.common_us is not None:
            low, high = self.common_us
            if not 0 < low <= self.min_us or (self.max_us is not None and high < self.max_us):
                raise ValueError(f"what is common for {self.key!r} must contain its window")

    @property
    def assumed(self) -> bool:
        """True when the limits are not the maker's."""
        return self.origin is Origin.ASSUMED

    def room_us(self, above: bool) -> float:
        """From the typical length to the upper or the lower limit, µs.

        Args:
            above: the upper side; else the lower.
        """
        if above:
            return (self.max_us if self.max_us is not None else self.typ_us) - self.typ_us
        return self.typ_us - self.min_us


class ValueRule(FrozenValue):
    """How bytes of a frame make one value.

    Attributes:
        quantity: "humidity" or "temperature".
        form: name of the number form, see ``pivet.readings.forms``.
        first: index of the first of the two bytes.
        unit: unit of the value.
        step: smallest step, in the unit.
        low, high: range in which the sheet promises its accuracy, in the unit.
        least, most: beyond these the value is impossible for this sensor, in the unit.
        accuracy: what the sheet promises within ``low`` and ``high``, plus or minus, in the
            unit; None where it promises nothing.
        accuracy_origin: whether that is the sheet's or assumed.
    """

    quantity: str
    form: str
    first: int
    unit: str
    step: float
    low: float
    high: float
    least: float
    most: float
    accuracy: float | None = None
    accuracy_origin: Origin = Origin.SHEET

    @property
    def promised(self) -> tuple[float, float]:
        """The range in which the sheet promises its accuracy, in the unit."""
        return self.low, self.high

    @property
    def possible(self) -> tuple[float, float]:
        """Beyond this range the value is impossible for this sensor, in the unit."""
        return self.least, self.most


class EchoRule(FrozenValue):
    """What a sheet says of an echo sensor beside its pulses.

    Attributes:
        lines: 2 with trigger and echo, 1 when both share a line.
        timeout_us: an echo of this length means that nothing was in range, µs.
        nearest_m, farthest_m: range, m.
        accuracy_m: what the sheet promises, plus or minus, m; None where it promises nothing.
    """

    lines: int
    timeout_us: float
    nearest_m: float
    farthest_m: float
    accuracy_m: float | None = None


class Wiring(FrozenValue):
    """How a sensor is wired.

    Attributes:
        pins: in their order on the usual part.
        idle: level of its line while nobody speaks.
        pull_up: which resistor it needs, and where.
        hint: what else one should know.
    """

    pins: tuple[str, ...]
    idle: str
    pull_up: str
    hint: str

    @property
    def text(self) -> str:
        """In a sentence or two."""
        pulls = f"pull-up {self.pull_up}" if self.pull_up != "none" else "no pull-up"
        return f"pins {', '.join(self.pins)}; {pulls}; rests {self.idle}; {self.hint}"


class Sheet(FrozenValue):
    """The timing sheet of one sensor type.

    Attributes:
        id: short name, as on the command line and in JSON.
        name: name for people.
        family: which decoder reads its exchanges.
        parts: part numbers it stands for.
        source: where the figures are from.
        interval_s: least time from ask to ask, s; 0 where the sheet gives none.
        interval_note: what the sheet says about that time.
        windows: by key, in the order on the wire.
        values: how the bytes make values; humidity sensors only.
        notes: what else the person should know.
        echo: range and timeout; echo sensors only.
        wiring: how it is wired; None where nothing is said.
        by_choice: its signals are those of another sheet: it is taken only when it is chosen.
    """

    id: str
    name: str
    family: str
    parts: tuple[str, ...]
    source: str
    interval_s: float
    interval_note: str
    windows: dict[str, Window]
    values: tuple[ValueRule, ...]
    notes: tuple[str, ...] = ()
    echo: EchoRule | None = None
    wiring: Wiring | None = None
    by_choice: bool = False
