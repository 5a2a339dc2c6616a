"""What the views of readings over time have in common: they need readings while they are seen."""

from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QWidget

from pivet.ui.drawing.theme import theme
from pivet.ui.readings.store import ReadingsStore
from pivet.ui.session.session import Session
from pivet.ui.view import ViewPage


class ReadingsPage(ViewPage):
    """A view of readings over time.

    Args:
        session: what is shown.
        store: the readings.
    """

    def __init__(
        self, session: Session, store: ReadingsStore, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._session, self._store = session, store
        self._left: object = None

    def _seen(self) -> tuple[object, ...]:
        """On what it rests all that is shown: nothing is made anew while that is the same."""
        session = self._session
        return self._store.version, session.shown, theme(), session.place, session.number

    def showEvent(self, event: QShowEvent) -> None:
        """Readings are needed while the view is seen."""
        super().showEvent(event)
        before = self._store.version
        self._store.need(self, True)
        # Whoever is seen has taken by now what has just come.
        if self._store.version == before and self._seen() != self._left:
            self.renew()

    def hideEvent(self, event: QHideEvent) -> None:
        """They are not, while it is not."""
        super().hideEvent(event)
        self._left = self._seen()
        self._store.need(self, False)
