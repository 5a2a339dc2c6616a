"""Dialogs that are waited for: when they are answered, they go."""

from PySide6.QtWidgets import QDialog
from shiboken6 import isValid


def accepted(dialog: QDialog) -> bool:
    """Shows a dialog until it is answered; it goes as soon as nothing runs in it any more.

    What was typed into it can be asked for right afterwards.  It counts as refused when its window
    went meanwhile.
    """
    answer = dialog.exec()
    if not isValid(dialog):
        return False
    dialog.deleteLater()
    return answer == QDialog.DialogCode.Accepted
