"""What the parts of the window use of it."""

from PySide6.QtWidgets import QWidget

from pivet.frozen import FrozenObject
from pivet.ui.session.session import Session
from pivet.ui.window.notice_bar import NoticeBar
from pivet.ui.window.settings import Settings
from pivet.ui.work.jobs import JobBar


class Services(FrozenObject):
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
