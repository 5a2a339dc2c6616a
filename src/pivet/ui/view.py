"""One view of the window: all that the rest of it knows of any.

A view stands in a folder of its own.  Its ``kind.py`` says what it is and imports the page only
when it is made; a line in ``registry.py`` gives it to the window.
"""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from pivet.frozen import FrozenValue
from pivet.ui.session.session import Session
from pivet.ui.work.turns import turns

if TYPE_CHECKING:  # readings over time are imported when they are first looked at
    from pivet.readings.series import Sensor
    from pivet.ui.many.whole import WholeWires
    from pivet.ui.readings.store import ReadingsStore


class InSight(FrozenValue):
    """What a view shows over time.

    Attributes:
        sensors: the sensors, in the order in which they are shown.
        from_ns, to_ns: the stretch that is in sight.
    """

    sensors: "tuple[Sensor, ...]"
    from_ns: int
    to_ns: int


LEAST_SIZE = (640, 400)
"""The window may be so small: a view that needs more scrolls."""


class ViewPage(QWidget):
    """A view while it is shown.

    Signals:
        exchange_asked: the chosen exchange is to be shown.
        time_asked: an hour is to be shown over time; carries its begin, ns.
        limits_asked: the limits of a sensor are to be asked for; carries it.
        help_asked: help for a finding was asked for; carries its code.
        view_asked: another view is to be shown; carries its key.
    """

    exchange_asked = Signal()
    time_asked = Signal(object)
    limits_asked = Signal(object)
    help_asked = Signal(str)
    view_asked = Signal(str)

    def renew(self) -> None:
        """Shows everything as it is now: colours, units, readings."""
        raise NotImplementedError

    def renew_soon(self) -> None:
        """The same, at one of the window's next turns: other views have theirs."""
        turns().add(self, self.renew)

    @property
    def parts(self) -> Sequence[QWidget]:
        """What takes keys, in the order in which F6 goes through it; each has a name for all."""
        raise NotImplementedError

    def zoom(self, notches: int) -> None:
        """Shows less (above 0) or more, where there is something to zoom."""

    def show_all(self) -> None:
        """Shows all there is, where a part can be shown."""

    def fit(self) -> None:
        """Shows the chosen exchange whole, where it is shown."""

    def measure(self) -> bool:
        """Measures what is lit; False where nothing can be measured."""
        return False

    def clear(self) -> bool:
        """Takes away what was measured; False where there is nothing."""
        return False

    @property
    def busy(self) -> bool:
        """Something is made beside the window that it is to show."""
        return False

    def end(self) -> None:
        """The window closes: what is done beside it comes to an end."""

    def point_out(self) -> None:
        """Chooses what is worth a look, for pictures."""


class TimePage(ViewPage):
    """A view that shows a stretch of time."""

    def look_at(self, from_ns: int, to_ns: int) -> None:
        """Shows a stretch of time."""
        raise NotImplementedError

    def show_last(self, seconds: float) -> None:
        """Shows the end."""
        raise NotImplementedError

    def mark_moment(self) -> None:
        """Asks for a mark at the moment under the pointer, or now."""
        raise NotImplementedError

    def in_sight(self) -> InSight | None:
        """What is shown; None while nothing is."""
        raise NotImplementedError


class Around(FrozenValue):
    """What a view may use of the window.

    Attributes:
        session: what is shown.
        store: the readings over time, made when they are first asked for.
        run: runs work beside the window, as ``JobBar.start`` does.
        whole: all exchanges of wires, for the views of many.
        bar: what is told of listening, for the view that has a place for it.
    """

    session: Session
    store: "Callable[[], ReadingsStore]"
    run: Callable[..., None]
    whole: "WholeWires"
    bar: QWidget


class ViewKind(FrozenValue):
    """What a view is.

    Attributes:
        key: by which the program knows it.
        name: by which people do; also of its picture.
        shortcut: that shows it.
        help: the page of the help that tells of it.
        make: makes the page.
        over_time: its page is a ``TimePage``.
        many: it tells of many exchanges of a wire, not of readings.
    """

    key: str
    name: str
    shortcut: str
    help: str
    make: Callable[[Around], ViewPage]
    over_time: bool = False
    many: bool = False
