"""The ribbon: every exchange of a wire as a tick of its verdict, the readings over it."""

from collections.abc import Callable

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QLineF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPaintEngine,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from pivet.captures.wire import Wire
from pivet.frozen import replace
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count, stretch_of_time
from pivet.readings.track import Track
from pivet.ui.drawing.painting import RIGHT, draw_panel, draw_text, font_of, polygon_of
from pivet.ui.drawing.theme import theme
from pivet.ui.session.session import Session

PAD = 14.0
TITLE = 24.0
TICKS = 20.0
TICK_HEIGHTS = {
    Verdict.SOUND: 7.0,
    Verdict.NEAR: 11.0,
    Verdict.UNKNOWN: 14.0,
    Verdict.UNSOUND: 18.0,
}
"""The graver, the taller: the verdict shows without its colour."""


MOST_NAMED = 2
"""Of more readings only the one in focus is named."""

LEAST_RANGE = {"m": 0.05}
"""A scale covers at least so much, in the unit; 1 where none is given."""


class RibbonView(QWidget):
    """Shows the chosen wire's whole capture; drag or arrow keys choose an exchange."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._pictures: dict[str, QPixmap] = {}
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Ribbon of verdicts")
        self.setToolTip("Drag to choose an exchange")
        session.wire_changed.connect(self.renew)
        session.wire_grown.connect(self.renew)
        session.exchange_changed.connect(self.update)
        session.roles_changed.connect(self.renew)
        session.shown_changed.connect(self.renew)

    def sizeHint(self) -> QSize:
        """A low, wide strip."""
        return QSize(600, 104)

    def renew(self) -> None:
        """Paints the ticks anew."""
        self._pictures = {}
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Another size needs other ticks."""
        self._pictures = {}
        super().resizeEvent(event)

    def _plot(self) -> QRectF:
        return QRectF(PAD, TITLE + 4, self.width() - 2 * PAD, self.height() - TITLE - 12)

    def _x_of(self, wire: Wire, times_ns: npt.NDArray[np.int64]) -> npt.NDArray[np.float64]:
        box = self._plot()
        span = max(wire.end_ns - wire.start_ns, 1)
        x: npt.NDArray[np.float64] = box.left() + (times_ns - wire.start_ns) / span * box.width()
        return x

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paints the kept picture of the wire and the marker of the exchange."""
        painter = QPainter(self)
        draw_panel(painter, QRectF(self.rect()), self.hasFocus())
        wire = self._session.wire
        if wire is None:
            return
        focus = self._focus()
        if painter.paintEngine().type() is QPaintEngine.Type.Raster and not self._exported(painter):
            painter.drawPixmap(0, 0, self._picture(wire, focus))
        else:
            self._paint_wire(painter, wire, bool(focus))
            self._paint_words(painter, wire, focus)
        if len(wire):
            start = wire.exchanges.start_ns[self._session.index : self._session.index + 1]
            x = float(self._x_of(wire, start)[0])
            box = self._plot()
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(theme().accent, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(x - 4, box.top() - 3, 8, box.height() + 7), 3, 3)

    def _exported(self, painter: QPainter) -> bool:
        """Whether this is painted for a file with other pixels than the screen's."""
        return painter.deviceTransform().m11() != self.devicePixelRatioF()

    def _picture(self, wire: Wire, focus: str) -> QPixmap:
        """The kept picture with one device in focus; what all have in common is painted once."""
        if focus not in self._pictures:
            common = "all quiet" if focus else "all"
            if common not in self._pictures:
                self._pictures[common] = self._painted(
                    self._blank(), lambda painter: self._paint_wire(painter, wire, bool(focus))
                )
            self._pictures[focus] = self._painted(
                QPixmap(self._pictures[common]),
                lambda painter: self._paint_words(painter, wire, focus),
            )
        return self._pictures[focus]

    def _blank(self) -> QPixmap:
        ratio = self.devicePixelRatioF()
        picture = QPixmap(self.size() * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        return picture

    def _painted(self, picture: QPixmap, paint: Callable[[QPainter], None]) -> QPixmap:
        painter = QPainter(picture)
        paint(painter)
        painter.end()
        return picture

    def _focus(self) -> str:
        """Code of the device that the shown exchange is about, if it has readings."""
        report = self._session.report
        rom = report.device if report is not None else ""
        return rom if any(track.rom == rom for track in self._session.tracks) else ""

    def _paint_wire(self, painter: QPainter, wire: Wire, quiet: bool) -> None:
        """Ticks, and all readings; of many devices none stands out if one will."""
        self._paint_ticks(painter, wire)
        tracks = self._session.tracks
        colours = (theme().trace, theme().accent)
        for number, track in enumerate(tracks):
            colour = theme().faint if quiet else colours[number % 2]
            self._paint_reading(painter, wire, track, _range(tracks, track.quantity), colour)
        if len(wire) and not any(track.given.any() for track in tracks):
            draw_text(
                painter,
                self._plot().adjusted(0, 0, 0, -TICKS),
                "no exchange gave a reading",
                font_of(self),
                theme().faint,
                Qt.AlignmentFlag.AlignCenter,
            )

    def _paint_words(self, painter: QPainter, wire: Wire, focus: str) -> None:
        """The device in focus, the legend, the title in what room is left."""
        tracks = self._session.tracks
        right = self._plot().right()
        chosen = next((track for track in tracks if focus and track.rom == focus), None)
        colours = (theme().trace, theme().accent)
        if chosen is not None:
            bounds = _range(tracks, chosen.quantity)
            self._paint_reading(painter, wire, chosen, bounds, theme().accent)
            right = self._paint_legend(painter, chosen, theme().accent, right)
        elif len(tracks) > MOST_NAMED:
            right = self._paint_legend(painter, _together(tracks), theme().trace, right)
        else:
            for track, colour in zip(tracks, colours, strict=False):
                right = self._paint_legend(painter, track, colour, right)
        self._paint_title(painter, wire, right)

    def _paint_title(self, painter: QPainter, wire: Wire, right: float) -> None:
        box = QRectF(PAD, 4, right - PAD - 8, TITLE - 4)
        parts = [f"{wire.count(v)} {v.title}" for v in Verdict if wire.count(v)]
        span = stretch_of_time(wire.start_ns, wire.end_ns)
        what = count(len(wire), "exchange")
        if wire.first:
            what = f"exchanges {wire.first} to {wire.end - 1}"
        text = f"{what}: {', '.join(parts) or 'none'} · {span}"
        draw_text(painter, box, text, font_of(self, 0.92), theme().faint)

    def _paint_ticks(self, painter: QPainter, wire: Wire) -> None:
        if not len(wire):
            return
        box = self._plot()
        pitch = 3
        slots = ((self._x_of(wire, wire.exchanges.start_ns) - box.left()) // pitch).astype(int)
        worst = np.full(int(box.width() // pitch) + 2, -1)
        np.maximum.at(worst, slots, wire.verdicts.astype(int))
        for verdict in Verdict:
            top = box.bottom() - TICK_HEIGHTS[verdict]
            places = (box.left() + np.flatnonzero(worst == verdict) * pitch + 1).tolist()
            painter.setPen(QPen(theme().verdict(verdict), 2))
            painter.drawLines([QLineF(x, box.bottom(), x, top) for x in places])

    def _paint_reading(
        self,
        painter: QPainter,
        wire: Wire,
        track: Track,
        bounds: tuple[float, float],
        colour: QColor,
    ) -> None:
        """The values as a line with gaps where no reading was given."""
        given = track.given
        if not given.any():
            return
        box = self._plot().adjusted(0, 2, 0, -TICKS - 4)
        low, high = bounds
        x = self._x_of(wire, wire.exchanges.start_ns[track.at])
        y = box.bottom() - (track.values - low) / (high - low) * box.height()
        dense = given.size > box.width()
        pen = QPen(colour, 1.0 if dense else 1.6)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, not dense)
        painter.setPen(pen)
        breaks = np.flatnonzero(np.diff(given.astype(np.int8))) + 1
        for part in np.split(np.arange(given.size), breaks):
            if given[part[0]]:
                points = _thinned(x[part], y[part], int(box.width()))
                painter.drawPolyline(polygon_of(points))

    def _paint_legend(self, painter: QPainter, track: Track, colour: QColor, right: float) -> float:
        if not track.given.any():
            return right
        values = track.values[track.given]
        shown, name = self._session.shown, self._session.wire_name
        least, most = (
            shown.value(name, track.quantity, float(value), track.decimals, track.rom)
            for value in (values.min(), values.max())
        )
        text = f"{least.text} to {most.text} {most.unit}"
        alike = [other for other in self._session.tracks if other.quantity == track.quantity]
        if track.name != track.quantity or len(alike) > 1:
            text = f"{track.name}: {text}"
        box = QRectF(right - 260, 4, 260, TITLE - 4)
        used = draw_text(painter, box, text, font_of(self, 0.88, bold=True), colour, RIGHT)
        return right - used - 18

    def _choose_at(self, x: float) -> None:
        wire = self._session.wire
        if wire is None:
            return
        box = self._plot()
        share = min(max((x - box.left()) / max(box.width(), 1), 0.0), 1.0)
        found = wire.nearest(round(wire.start_ns + share * (wire.end_ns - wire.start_ns)))
        if found is not None:
            self._session.choose_exchange(found)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Chooses the exchange at the pointer."""
        if event.button() is Qt.MouseButton.LeftButton:
            self._choose_at(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drags the choice along."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._choose_at(event.position().x())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrow keys step from exchange to exchange."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        step = steps.get(Qt.Key(event.key()))
        if step is None or event.modifiers():
            super().keyPressEvent(event)
            return
        self._session.step(step)


def _together(tracks: tuple[Track, ...]) -> Track:
    """All devices as one, for a legend that cannot name each."""
    return replace(
        tracks[0],
        name=f"{len(tracks)} devices",
        values=np.concatenate([track.values for track in tracks]),
        given=np.concatenate([track.given for track in tracks]),
    )


def _range(tracks: tuple[Track, ...], quantity: str) -> tuple[float, float]:
    """One scale for all tracks of a quantity."""
    parts = [track.values[track.given] for track in tracks if track.quantity == quantity]
    values = np.concatenate(parts)
    if not values.size:
        return 0.0, 1.0
    low, high = float(values.min()), float(values.max())
    least = LEAST_RANGE.get(tracks[0].unit, 1.0)
    widen = max((least - (high - low)) / 2, 0.0)
    return low - widen, high + widen


def _thinned(
    x: npt.NDArray[np.float64], y: npt.NDArray[np.float64], most: int
) -> npt.NDArray[np.float64]:
    """At most so many points: of many in one column of pixels the lowest and the highest stay."""
    if x.size > most:
        column = np.floor(x).astype(int)
        starts = np.flatnonzero(np.concatenate(([True], column[1:] != column[:-1])))
        lowest, highest = np.minimum.reduceat(y, starts), np.maximum.reduceat(y, starts)
        x = np.repeat(x[starts], 2)
        y = np.stack((lowest, highest), axis=1).ravel()
    return np.stack((x, y), axis=1)
