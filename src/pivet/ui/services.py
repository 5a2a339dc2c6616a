"""What the parts of the window use of it."""

from dataclasses import dataclass

from PySide6.QtWidgets import QWidget

from pivet.ui.jobs import JobBar
from pivet.ui.notice_bar import NoticeBar
from pivet.ui.session.session import Session
from pivet.ui.settings import Settings


@dataclass(frozen=True, slots=True, eq=False)
class Services:
    """One object for all of them.

    Attributes:
        window: parent of dialogs.
        session: what is shown.
        jobs: runs what takes long beside the window.
        notice: says what happened.
        settings: remembers folders, units and the like.
    """

    window: QWidget
    session: Session
    jobs: JobBar
    notice: NoticeBar
    settings: Settings
