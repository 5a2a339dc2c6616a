"""The state of the window: what it shows, and what a person does to it.

Views only read it and call its methods; each change is told by one signal.
"""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from pivet.ui.session.edits import Edits
from pivet.ui.session.work import Work

if TYPE_CHECKING:
    from pivet.insight.readers import Reader


class Session(Work):
    """What is shown, with its edits.

    Attributes:
        edits: what a person changes, and undoes.
        firmware: the reader that was rehearsed last, by the name of the wire; a report tells of it.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.edits = Edits(self)
        self.firmware: dict[str, Reader] = {}
