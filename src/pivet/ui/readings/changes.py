"""What a person gives to readings, so that it can be undone."""

from collections.abc import Hashable
from typing import Protocol

from PySide6.QtGui import QUndoCommand

from pivet.person.annotations import Annotations


class Annotated(Protocol):
    """Readings to which a person gives something."""

    owner: Hashable

    @property
    def annotations(self) -> Annotations:
        """What was given."""
        ...

    def put_annotations(self, owner: Hashable, given: Annotations) -> bool:
        """Takes other annotations; whether they could be written."""
        ...


class ChangeAnnotations(QUndoCommand):
    """Gives other marks, corrections, limits or references."""

    def __init__(self, store: Annotated, after: Annotations, name: str) -> None:
        super().__init__(name)
        self._store, self._owner = store, store.owner
        self._before, self._after = store.annotations, after

    def redo(self) -> None:
        """Does it; what could not be done is nothing to undo."""
        self.setObsolete(not self._store.put_annotations(self._owner, self._after))

    def undo(self) -> None:
        """Takes it back; as long as that cannot be written it stays to be undone."""
        self._store.put_annotations(self._owner, self._before)
