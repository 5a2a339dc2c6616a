"""HTML of a report as PDF; its drawings stay vectors.

In a process of its own (``print_beside``) it takes nothing from a window, and its fonts stand in
the same order each time: Qt draws that order when a process starts, unless it is told.
"""

import os
import re
import subprocess
import sys
from pathlib import Path
from typing import IO, cast

from PySide6.QtCore import (
    QBuffer,
    QByteArray,
    QIODevice,
    QMarginsF,
    QObject,
    QRect,
    QRectF,
    QSizeF,
)
from PySide6.QtGui import (
    QFont,
    QGuiApplication,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QPyTextObject,
    QTextBlock,
    QTextBlockFormat,
    QTextCharFormat,
    QTextCursor,
    QTextDocument,
    QTextFormat,
)
from PySide6.QtSvg import QSvgRenderer

from pivet.errors import OutputError
from pivet.files import disk

SVG = re.compile(r"<svg .*?</svg>", re.DOTALL)
DRAWING = int(QTextFormat.ObjectTypes.UserObject) + 1
NUMBER = int(QTextFormat.Property.UserProperty) + 1
MARGIN_MM = 15
DOTS_PER_INCH = 300
STANDS_FOR = chr(0xFFFC)

VARIES = (
    (re.compile(rb"\(D:\d{14}Z?[-+'\d]*\)"), b"(D:20000101000000Z)"),
    (re.compile(rb"Date=\"[-\d]{10}T[:\d]{8}[-+]\d\d:\d\d"), b'Date="2000-01-01T00:00:00+00:00'),
    (re.compile(rb"uuid:[0-9a-f-]{36}"), b"uuid:00000000-0000-0000-0000-000000000000"),
    (re.compile(rb"/ID \[ ?<[0-9a-f]+> ?<[0-9a-f]+> ?\]"), b""),
)
"""What hangs on the moment at which a file is made, and what stands there instead."""


class _Drawing(QPyTextObject):
    """A drawing as a letter of the text."""

    def __init__(self, parent: QObject, drawings: list[QSvgRenderer], width: float) -> None:
        super().__init__(parent)
        self._drawings, self._width = drawings, width

    def intrinsicSize(self, _document: QTextDocument, _at: int, form: QTextFormat) -> QSizeF:
        """As wide as the page at most."""
        size = QSizeF(self._drawings[int(form.property(NUMBER))].defaultSize())
        share = min(self._width / max(size.width(), 1.0), 1.0)
        return QSizeF(size.width() * share, size.height() * share)

    def drawObject(
        self,
        painter: QPainter,
        rect: QRectF | QRect,
        _document: QTextDocument,
        _at: int,
        form: QTextFormat,
    ) -> None:
        """On paper."""
        self._drawings[int(form.property(NUMBER))].render(painter, QRectF(rect))


ALONE = {"QT_QPA_PLATFORM": "offscreen", "QT_HASH_SEED": "0"}
"""The environment of a process that prints."""


def print_beside(html: str, path: Path) -> None:
    """Writes HTML as PDF in a process of its own.

    Args:
        html: the HTML of a report.
        path: where to.

    Raises:
        OutputError: the file cannot be written.
    """
    words = [sys.executable, "-m", "pivet.ui.printing"]
    done = subprocess.run(
        words, input=html.encode("utf-8"), capture_output=True, env=os.environ | ALONE
    )
    if done.returncode:
        said = done.stderr.decode("utf-8", "replace").strip().rpartition("\n")[2]
        why = said or f"status {done.returncode}"
        raise OutputError(f"{path} was not written ({why.rstrip('.')})", "choose another place")
    with disk.writing(path, binary=True) as stream:
        cast(IO[bytes], stream).write(done.stdout)


def _pdf(html: str) -> bytes:
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(DOTS_PER_INCH)
    writer.setCreator("Pivet")
    writer.setPageLayout(
        QPageLayout(
            QPageSize(QPageSize.PageSizeId.A4),
            QPageLayout.Orientation.Portrait,
            QMarginsF(MARGIN_MM, MARGIN_MM, MARGIN_MM, MARGIN_MM),
            QPageLayout.Unit.Millimeter,
        )
    )
    _document(html).print_(writer)
    buffer.close()
    return bytes(buffer.data().data())


WIDTH = 680.0
HEIGHT = WIDTH * 267 / 180
"""Of the text on a page of A4, in pixels of a screen."""

LETTERS_PX = 11
SCREEN = re.compile(r"(?:background|max-width|margin|padding)(?:-[a-z]+)?: [^;]*;(?=[^}]*\}\nh1)")
"""Of the body on a screen; paper has its own."""


def _document(html: str) -> QTextDocument:
    drawings: list[QSvgRenderer] = []

    def take(found: re.Match[str]) -> str:
        drawings.append(QSvgRenderer(QByteArray(found[0].encode())))
        return f"<p>[[drawing {len(drawings) - 1}]]</p>"

    document = QTextDocument()
    document.setLayoutEnabled(False)
    font = QFont("DejaVu Sans")
    font.setPixelSize(LETTERS_PX)
    document.setDefaultFont(font)
    document.setDocumentMargin(0)
    document.setHtml(SVG.sub(take, SCREEN.sub("", html)))
    document.documentLayout().registerHandler(DRAWING, _Drawing(document, drawings, WIDTH))
    for number in range(len(drawings)):
        place = document.find(f"[[drawing {number}]]")
        form = QTextCharFormat()
        form.setObjectType(DRAWING)
        form.setProperty(NUMBER, number)
        cursor = QTextCursor(place)
        cursor.insertText(STANDS_FOR, form)
        # The lines of a text stand apart by a share of their height, which a drawing must not.
        block = cursor.blockFormat()
        block.setLineHeight(0, QTextBlockFormat.LineHeightTypes.SingleHeight.value)
        cursor.setBlockFormat(block)
    # Laid out as a whole: where a part changes, Qt leaves lines without their height.
    document.setLayoutEnabled(True)
    document.setPageSize(QSizeF(WIDTH, HEIGHT))
    _keep_headings(document)
    return document


def _keep_headings(document: QTextDocument) -> None:
    """A heading, and the words over a drawing, go to the next page with what they stand over."""
    block = _parted(document.begin())
    while block.isValid():
        form = block.blockFormat()
        form.setPageBreakPolicy(QTextFormat.PageBreakFlag.PageBreak_AlwaysBefore)
        document.setLayoutEnabled(False)
        QTextCursor(block).setBlockFormat(form)
        document.setLayoutEnabled(True)
        block = _parted(block.next())


def _parted(block: QTextBlock) -> QTextBlock:
    """The first of them from a block on that ends a page; an invalid one where there is none."""
    while block.isValid():
        below = block.next()
        while below.isValid() and (_stands_over(below) or not below.text().strip()):
            below = below.next()
        if _stands_over(block) and below.isValid() and _page_of(block) < _page_of(below):
            break
        block = block.next()
    return block


def _stands_over(block: QTextBlock) -> bool:
    """A heading, or the words over a drawing."""
    drawn = block.next().text() == STANDS_FOR != block.text()
    return bool(block.blockFormat().headingLevel() or (drawn and block.text().strip()))


def _page_of(block: QTextBlock) -> int:
    """Number of the page on which the first line of a block stands, from 0."""
    document = block.document()
    assert document is not None
    top = document.documentLayout().blockBoundingRect(block).top()
    if block.layout().lineCount():
        line = block.layout().lineAt(0)
        top += line.y() + line.height() / 2  # Qt rounds: a line may begin an eighth too high
    return int(top // HEIGHT)


def _without_dates(pdf: bytes) -> bytes:
    """The same as if it had been made at another time; no length changes, so its table holds."""
    for pattern, instead in VARIES:
        pdf = pattern.sub(lambda found, put=instead: _padded(put, found[0]), pdf)  # type: ignore[misc]
    return pdf


def _padded(instead: bytes, found: bytes) -> bytes:
    return instead[: len(found)].ljust(len(found))


def main() -> int:
    """Prints what comes by standard input, in UTF-8, to standard output."""
    _app = QGuiApplication(sys.argv[:1])
    html = sys.stdin.buffer.read().decode("utf-8")
    sys.stdout.buffer.write(_without_dates(_pdf(html)))
    return 0


if __name__ == "__main__":
    sys.exit(main())
