"""All exchanges of a wire, also of one of which the window only shows a part."""

from collections.abc import Callable, Hashable, Sequence

from PySide6.QtCore import QObject

from pivet.captures.text import wire_names
from pivet.captures.wire import Wire
from pivet.frozen import FrozenValue
from pivet.progress import Progress
from pivet.ui.session.selection import WirePlace
from pivet.ui.session.session import Session

Run = Callable[..., None]

MOST_KEPT = 4


class Offered(FrozenValue):
    """A wire of the open captures.

    Attributes:
        place: where it stands.
        name: for people: with its capture where several are open.
        wire: the part that is shown.
    """

    place: WirePlace
    name: str
    wire: Wire


def offered(session: Session) -> list[Offered]:
    """All wires of the open captures that have exchanges.

    Args:
        session: what is shown.
    """
    several = len(session.captures) > 1
    return [
        Offered((number, at), f"{name} · {capture.name}" if several else name, capture.wires[at])
        for number, capture in enumerate(session.captures)
        for at, name in enumerate(wire_names(capture))
        if len(capture.wires[at])
    ]


class WholeWires(QObject):
    """Gives all exchanges of wires; those of a bench file are read beside the window.

    Args:
        session: what is shown.
        run: runs what takes long, with progress and cancel.
    """

    def __init__(self, session: Session, run: Run, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session, self._run = session, run
        self._kept: dict[Hashable, Wire] = {}

    def ask(self, places: Sequence[WirePlace], done: Callable[[list[Wire]], None]) -> None:
        """All exchanges of some wires.

        Args:
            places: the places of the wires.
            done: gets them, at once where they are at hand.
        """
        keys = [self._key(place) for place in places]
        missing = {
            key: place for key, place in zip(keys, places, strict=True) if key not in self._kept
        }
        if not missing:
            done([self._kept[key] for key in keys])
            return
        captures = {key: self._session.captures[number] for key, (number, _) in missing.items()}
        wires = {key: captures[key].wires[at] for key, (_, at) in missing.items()}
        name = next(iter(wires.values())).label

        def work(progress: Progress) -> dict[Hashable, Wire]:
            found = {}
            for key, wire in wires.items():
                kept = captures[key].kept
                found[key] = wire if kept is None else kept.everything(wire, progress)
            return found

        def take(found: dict[Hashable, Wire]) -> None:
            # What was asked for counts: captures may have been closed meanwhile.
            for key, wire in found.items():
                self._keep(key, wire)
            if all(key in self._kept for key in keys):
                done([self._kept[key] for key in keys])

        self._run(f"Reading all exchanges of {name}", work, take)

    def _key(self, place: WirePlace) -> Hashable:
        """Tells a wire and its state from all others; a wire of a file is at hand as it is."""
        capture = self._session.captures[place[0]]
        wire = capture.wires[place[1]]
        if capture.kept is None:
            key: Hashable = (capture.key, id(wire))
            self._kept.setdefault(key, wire)
            return key
        return (capture.key, wire.title, id(wire.choices), capture.kept.count(wire))

    def _keep(self, key: Hashable, wire: Wire) -> None:
        while len(self._kept) >= MOST_KEPT:
            del self._kept[next(iter(self._kept))]
        self._kept[key] = wire
