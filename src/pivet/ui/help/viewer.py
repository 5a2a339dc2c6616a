"""Windows that show text: a page of help, the details of a capture."""

from PySide6.QtGui import QShowEvent, QTextCursor
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QTextBrowser, QVBoxLayout, QWidget

from pivet.ui.help.pages import PAGES, page_text


class TextViewer(QDialog):
    """Plain text that can be selected and copied."""

    def __init__(self, title: str, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Pivet: {title}")
        self.resize(660, 520)
        self.text = QTextBrowser()
        self.text.setPlainText(text)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(self.text)
        column.addWidget(buttons)


class HelpViewer(TextViewer):
    """One page of help, opened at a section if one is named."""

    def __init__(self, page: str, section: str = "", parent: QWidget | None = None) -> None:
        super().__init__(PAGES[page], "", parent)
        self.text.setMarkdown(page_text(page))
        self._section = section

    def showEvent(self, event: QShowEvent) -> None:
        """Scrolls to the section, which stands at the top then."""
        super().showEvent(event)
        if self._section:
            self.text.moveCursor(QTextCursor.MoveOperation.End)
            found = self.text.document().find(self._section)
            if not found.isNull():
                found.clearSelection()
                self.text.setTextCursor(found)
                self.text.ensureCursorVisible()
