"""Paper and ink: the colours of the window, light and dark."""

from enum import StrEnum
from functools import cache
from weakref import WeakSet

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QColor, QGuiApplication, QPalette
from PySide6.QtWidgets import QApplication, QWidget
from shiboken6 import isValid

from pivet.frozen import FrozenValue
from pivet.judge.verdict import Verdict
from pivet.ui.work.turns import turns


class ThemeChoice(StrEnum):
    """What the person chose."""

    SYSTEM = "system"
    LIGHT = "light"
    DARK = "dark"


class Theme(FrozenValue):
    """Colours by purpose.

    Attributes:
        paper: behind the panels. panel: of the panels. edge: around them.
        ink: text and lines. faint: text that steps back. bar, bar_ink: menu bar.
        accent: what is chosen. live: what lies under the pointer. trace: a wire's line.
        low, zero, one: bands of the windows. gauge: of a needle.
        glow: of what happens now.
        sound, near, unknown, unsound: verdicts, always with a shape too.
    """

    paper: QColor
    panel: QColor
    edge: QColor
    ink: QColor
    faint: QColor
    bar: QColor
    bar_ink: QColor
    accent: QColor
    live: QColor
    trace: QColor
    low: QColor
    zero: QColor
    one: QColor
    gauge: QColor
    glow: QColor
    sound: QColor
    near: QColor
    unknown: QColor
    unsound: QColor

    def verdict(self, verdict: Verdict) -> QColor:
        """Colour of a verdict."""
        return (self.sound, self.near, self.unknown, self.unsound)[verdict]


def _theme(**names: str) -> Theme:
    return Theme(**{name: QColor(value) for name, value in names.items()})


LIGHT = _theme(
    paper="#f5f0e6",
    panel="#fffdf7",
    edge="#ddd3c0",
    ink="#2a2430",
    faint="#6f6673",
    bar="#2d2534",
    bar_ink="#efe6da",
    accent="#7a3a78",
    live="#f3d08a",
    trace="#332a63",
    low="#dcd5e6",
    zero="#bccbe6",
    one="#ead0a2",
    gauge="#e4dccb",
    glow="#c07d12",
    sound="#3d6e2c",
    near="#a86405",
    unknown="#6a6470",
    unsound="#ab2c25",
)

DARK = _theme(
    paper="#1b1720",
    panel="#252029",
    edge="#3d3644",
    ink="#ece4d8",
    faint="#a79dac",
    bar="#120f16",
    bar_ink="#e5dccf",
    accent="#cf93cf",
    live="#6b5324",
    trace="#b9b2ec",
    low="#3d3549",
    zero="#34456a",
    one="#63502a",
    gauge="#3e3745",
    glow="#e8b04a",
    sound="#86c06c",
    near="#e6a63c",
    unknown="#a59dad",
    unsound="#f0786c",
)

_now = LIGHT


def theme() -> Theme:
    """The theme in use."""
    return _now


def apply_theme(app: QApplication, choice: ThemeChoice) -> None:
    """Makes the whole application use a theme, a part at each of the window's next turns."""
    global _now
    dark = choice is ThemeChoice.DARK
    if choice is ThemeChoice.SYSTEM:
        dark = QGuiApplication.styleHints().colorScheme() is Qt.ColorScheme.Dark
    _now = DARK if dark else LIGHT
    app.setPalette(_palette(_now))
    for widget in [one for one in _dressed if isValid(one)]:
        if widget.isVisible():
            turns().add(widget, _wear, widget)
        else:
            _late().await_show(widget)


_dressed: WeakSet[QWidget] = WeakSet()


def dress(widget: QWidget) -> None:
    """A part of a window, or a dialog, looks as the theme says from now on.

    Each has the style for itself: it is worked out for every widget inside, which takes most of a
    second for a whole application, so what is hidden waits until it is shown.
    """
    _dressed.add(widget)
    _wear(widget)


def _wear(widget: QWidget) -> None:
    widget.setStyleSheet(_style(_now))


class _Late(QObject):
    """Dresses what was hidden when the colours changed, just before it is shown."""

    def await_show(self, widget: QWidget) -> None:
        """Waits for a widget; for one that it waits for already, as before."""
        widget.removeEventFilter(self)
        widget.installEventFilter(self)

    def eventFilter(self, target: QObject, event: QEvent) -> bool:
        """Of a hidden widget: is it shown?"""
        if event.type() is QEvent.Type.Show and isinstance(target, QWidget):
            target.removeEventFilter(self)
            _wear(target)
        return False


@cache
def _late() -> _Late:
    return _Late()


def _palette(colours: Theme) -> QPalette:
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: colours.paper,
        QPalette.ColorRole.Base: colours.panel,
        QPalette.ColorRole.AlternateBase: colours.paper,
        QPalette.ColorRole.Button: colours.panel,
        QPalette.ColorRole.ToolTipBase: colours.panel,
        QPalette.ColorRole.WindowText: colours.ink,
        QPalette.ColorRole.Text: colours.ink,
        QPalette.ColorRole.ButtonText: colours.ink,
        QPalette.ColorRole.ToolTipText: colours.ink,
        QPalette.ColorRole.PlaceholderText: colours.faint,
        QPalette.ColorRole.Highlight: colours.accent,
        QPalette.ColorRole.HighlightedText: colours.panel,
        QPalette.ColorRole.Link: colours.accent,
    }
    for role, colour in roles.items():
        palette.setColor(role, colour)
    for role in (QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, colours.faint)
    return palette


def _style(c: Theme) -> str:
    return f"""
    QMenuBar {{ background: {c.bar.name()}; color: {c.bar_ink.name()}; padding: 4px; }}
    QMenuBar::item {{ padding: 5px 10px; background: transparent; border-radius: 4px; }}
    QMenuBar::item:selected {{ background: {c.accent.name()}; color: {c.panel.name()}; }}
    QLabel#barFile {{ color: {c.bar_ink.name()}; padding: 8px 14px 4px 14px; }}
    QFrame#panel {{ background: {c.panel.name()}; border: 1px solid {c.edge.name()};
                    border-radius: 6px; }}
    QScrollArea, QScrollArea > QWidget > QWidget#plain {{ background: transparent; border: 0; }}
    QListView {{ background: transparent; border: 0; outline: 0; }}
    QPushButton {{ padding: 6px 14px; border: 1px solid {c.accent.name()}; border-radius: 5px;
                   color: {c.accent.name()}; background: {c.panel.name()}; }}
    QPushButton:hover, QPushButton:focus {{ background: {c.live.name()}; color: {c.ink.name()}; }}
    QPushButton:checked {{ background: {c.accent.name()}; color: {c.panel.name()}; }}
    QPushButton[tight="true"] {{ padding: 3px 9px; }}
    QPushButton[link="true"] {{ text-align: left; border: 0; padding: 3px; background: transparent;
                                color: {c.accent.name()}; }}
    QPushButton:disabled {{ color: {c.faint.name()}; border-color: {c.edge.name()}; }}
    QScrollBar:vertical {{ background: transparent; width: 9px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 9px; margin: 0; }}
    QScrollBar::handle {{ background: {c.edge.name()}; border-radius: 4px; min-height: 26px;
                          min-width: 26px; }}
    QScrollBar::handle:hover {{ background: {c.faint.name()}; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QToolTip {{ color: {c.ink.name()}; background: {c.panel.name()};
                border: 1px solid {c.edge.name()}; }}
    """
