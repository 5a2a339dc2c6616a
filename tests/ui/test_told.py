"""What the window says, word by word: every label, tip and spoken name of each view."""

import re
import sys
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from typing import Any
from unittest import mock

from PySide6.QtCore import QRectF
from PySide6.QtGui import QFontInfo, QPainter
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QTableWidget, QWidget

from pivet.bench.demo import DEMO_ROLES
from pivet.judge.verdict import Verdict
from pivet.ui.drawing import painting
from pivet.ui.registry import VIEWS
from pivet.ui.wires.devices import DeviceDelegate, DeviceList
from tests.night import copy_of_sparse_night
from tests.pages import Page, one_of_each
from tests.ui.base import WindowTest

PAGE = Page(__file__)
SIZES = re.compile(r"font-size:\d+pt; ?|-?\d+ px")
WIDE = 20
"""So many entries of a list are told."""


def words_of(widget: QWidget) -> Iterator[str]:
    """What a part of the window says, in the order in which it was made; hidden parts do not."""
    for part in widget.findChildren(QWidget):
        if not part.isVisible():
            continue
        said = [part.accessibleName(), part.accessibleDescription(), part.toolTip(), *_own(part)]
        if any(said):
            line = " | ".join(word.replace("\n", "⏎") for word in said if word)
            yield f"  {type(part).__name__}: {SIZES.sub('', line)}"


def _own(part: QWidget) -> Iterator[str]:
    if isinstance(part, QLabel | QAbstractButton | QLineEdit):
        yield part.text()
    if isinstance(part, QAbstractButton):
        yield "" if part.isEnabled() else "(not now)"
    if isinstance(part, QComboBox):
        yield f"{part.currentText()} of {part.count()}"
    if isinstance(part, QTableWidget):
        for row in range(min(part.rowCount(), WIDE)):
            cells = [part.item(row, column) for column in range(part.columnCount())]
            yield " · ".join(cell.text() for cell in cells if cell is not None)


@contextmanager
def _drawing(drawn: list[str]) -> Iterator[None]:
    """Notes every text and mark that is drawn, whichever module draws it."""

    def text(painter: QPainter, box: QRectF, word: str, *rest: Any, **more: Any) -> float:
        font, colour, *align = rest
        bold, side = " bold" * font.bold(), "".join(f" {int(row)}" for row in align)
        drawn.append(f"{word} {colour.name()}{bold}{side}")
        return draw_text(painter, box, word, *rest, **more)

    def mark(painter: QPainter, verdict: Verdict, *rest: Any) -> None:
        drawn.append(f"({verdict.word})")
        draw_mark(painter, verdict, *rest)

    draw_text, draw_mark = painting.draw_text, painting.draw_mark
    with ExitStack() as stack:
        for module in list(sys.modules.values()):
            for name, own, noted in (
                ("draw_text", draw_text, text),
                ("draw_mark", draw_mark, mark),
            ):
                if getattr(module, name, None) is own:
                    stack.enter_context(mock.patch.object(module, name, noted))
        yield


def drawn_on(widget: QWidget) -> Iterator[str]:
    """What is drawn when a part of the window is painted."""
    drawn: list[str] = []
    for row in widget.findChildren(DeviceList):
        delegate = row.itemDelegate()
        assert isinstance(delegate, DeviceDelegate)
        delegate._pictures.clear()
    with _drawing(drawn):
        widget.grab()
    # As many marks stand in a row as there is room for, which the font decides.
    rows = [row for row, before in zip(drawn, ["", *drawn], strict=False) if row != before]
    for at in range(0, len(rows), WIDE):
        yield f"  drawn: {' ¦ '.join(rows[at : at + WIDE])}"


class Told(WindowTest):
    """Against the page that was last looked through."""

    def lines(self) -> Iterator[str]:
        """The page."""
        yield "# start"
        yield from words_of(self.window)
        self.session.put_roles(DEMO_ROLES)
        self.show_demo()
        for number, wire in enumerate(self.session.captures[0].wires):
            self.session.choose_wire((0, number))
            sound, *others = one_of_each(wire)
            for at in (sound, *others):
                self.session.choose_exchange(at)
                self.settle()
                yield f"# {wire.label}, {at}"
                yield from words_of(self.page if at == sound else self.page.answer)
                yield from drawn_on(self.page if at == sound else self.page.stack)
            if self.page.devices is not None:
                yield from words_of(self.page.devices)
            yield from (f"  card: {row.spoken}" for row in self.cards if row.wire is wire)
        self.window.close_capture()
        self.open(copy_of_sparse_night(self.folder))
        for kind in VIEWS:
            self.window.views.show_view(kind.key)
            self.finish_jobs()
            self.settle()
            page = self.window.views.page
            page.point_out()
            self.finish_jobs()
            self.settle()
            yield f"# {kind.name}"
            yield from words_of(page)
            yield from drawn_on(page)

    def test_word_by_word(self) -> None:
        if not QFontInfo(self.app.font()).family():
            self.skipTest("without any font nothing is as wide as it is meant")
        self.in_zone("UTC")
        PAGE.same(self, self.lines())
