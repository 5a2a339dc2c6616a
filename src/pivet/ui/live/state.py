"""How a capture is listened to at a moment, as the window knows it."""

from typing import TYPE_CHECKING

from pivet.captures.wire import Wire
from pivet.frozen import FrozenValue

if TYPE_CHECKING:  # listening is imported when somebody listens
    from pivet.bench.live_bench import WireNow


class Live(FrozenValue):
    """How a capture is listened to at this moment.

    Attributes:
        wires: its wires, also those of which nobody knows yet what they carry.
        here: the source is there.
        zero_ns: its zero by the calendar, ns since 1970.
    """

    wires: "tuple[WireNow, ...]" = ()
    here: bool = True
    zero_ns: int = 0

    def wire(self, name: str) -> "WireNow | None":
        """A wire by name."""
        return next((wire for wire in self.wires if wire.name == name), None)


def merged(wires: tuple[Wire, ...], live: Live) -> tuple[tuple[Wire, ...], bool]:
    """The wires of a capture with their newest parts; whether some are new among them."""
    found, new = list(wires), []
    places = {wire.title: at for at, wire in enumerate(wires)}
    for heard in live.wires:
        if heard.wire is None:
            continue
        if heard.wire.title in places:
            found[places[heard.wire.title]] = heard.wire
        else:
            new.append(heard.wire)
    return (*found, *new), bool(new)
