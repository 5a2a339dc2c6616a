"""The devices of a 1-Wire wire: codes, roles, last readings, health."""

from collections.abc import Callable

from PySide6.QtCore import QModelIndex, QPoint, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QGuiApplication, QKeyEvent, QPainter, QPen, QPixmap
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QInputDialog,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from pivet.captures.devices import DeviceRow, devices_of, shift_of
from pivet.judge.wording import count, seconds
from pivet.ui.drawing.painting import RIGHT, draw_mark, draw_text, font_of
from pivet.ui.drawing.theme import theme
from pivet.ui.drawing.widgets import plain_label, plain_tip, rich_label, tighten
from pivet.ui.session.selection import WirePlace
from pivet.ui.session.session import Session

ROW_HEIGHT = 42
ROW_ROLE = Qt.ItemDataRole.UserRole
MARK_PITCH = 7.5


MOST_PICTURES = 128


class DeviceDelegate(QStyledItemDelegate):
    """Paints one device."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._pictures: dict[tuple[object, ...], QPixmap] = {}

    def sizeHint(self, _option: QStyleOptionViewItem, _index: QModelIndex) -> QSize:  # type: ignore[override]
        """All rows are alike."""
        return QSize(160, ROW_HEIGHT)

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: QModelIndex,  # type: ignore[override]
    ) -> None:
        """A device, from a picture that is kept: stepping paints all rows each time."""
        row: DeviceRow = index.data(ROW_ROLE)
        widget: QWidget = option.widget
        list_ = option.widget
        current = isinstance(list_, QListWidget) and list_.currentRow() == index.row()
        rect, ratio = option.rect, painter.device().devicePixelRatioF()
        size = QSize(rect.width(), rect.height())
        key = (
            row,
            current,
            size.width(),
            size.height(),
            ratio,
            theme().ink.rgba(),
            widget.font().key(),
        )
        picture = self._pictures.get(key)
        if picture is None:
            if len(self._pictures) >= MOST_PICTURES:
                self._pictures.clear()
            picture = QPixmap(size * ratio)
            picture.setDevicePixelRatio(ratio)
            picture.fill(Qt.GlobalColor.transparent)
            on_picture = QPainter(picture)
            on_picture.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint(on_picture, widget, row, QRectF(0, 0, size.width(), size.height()), current)
            on_picture.end()
            self._pictures[key] = picture
        painter.drawPixmap(rect.topLeft(), picture)

    def _paint(
        self, painter: QPainter, widget: QWidget, row: DeviceRow, area: QRectF, current: bool
    ) -> None:
        """Number, role and last reading; code and last verdicts."""
        colours, box = theme(), area.adjusted(4, 2, -4, -2)
        if current:
            painter.setPen(QPen(colours.accent, 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 4, 4)
        inner = box.adjusted(6, 2, -6, -2)
        line = QRectF(inner.left(), inner.top(), inner.width(), 18)
        number = "–" if row.order is None else str(row.order)
        draw_text(painter, line, number, font_of(widget, 0.95, bold=True), colours.accent)
        silent = row.silent_since_ns is not None
        text = row.role or "no role yet"
        shade = colours.ink if row.role else colours.faint
        last = "silent" if silent else row.last or "not read"
        colour = colours.unsound if silent else colours.ink if row.last else colours.faint
        bold = font_of(widget, 0.88, bold=True)
        used = draw_text(painter, line, last, bold, colour, RIGHT)
        name = line.adjusted(18, 0, -used - 6, 0)
        draw_text(painter, name, text, font_of(widget, 0.95, bold=bool(row.role)), shade)
        second = line.translated(0, 17).adjusted(18, 0, 0, 0)
        used = draw_text(painter, second, row.code, font_of(widget, 0.8), shade)
        rest = second.adjusted(used + 4, 0, 0, 0)
        if row.silent_since_ns is not None:
            since = seconds(row.silent_since_ns).partition(".")[0]
            draw_text(painter, rest, since, font_of(widget, 0.82), colours.unsound, RIGHT)
        else:
            # The latest verdicts, as many as there is room for.
            room = max(int(rest.width() / MARK_PITCH), 0)
            for place, verdict in enumerate(reversed(row.verdicts[-room:] if room else ())):
                x = rest.right() - 4 - place * MARK_PITCH
                draw_mark(painter, verdict, QPointF(x, rest.center().y()), 6)


class DevicesPanel(QFrame):
    """Lists the devices of the chosen wire; names and replaces them."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._shown: tuple[WirePlace | None, int] = (None, -1)
        self.setObjectName("panel")
        self._title = plain_label("Devices")
        self._title.setFont(font_of(self, 0.95, bold=True))
        self._warning = rich_label()
        self._warning.setWordWrap(True)
        self._warning.linkActivated.connect(self._go_to_shift)
        self.devices = DeviceList(self)
        self._name = QPushButton("Name…")
        self._name.clicked.connect(self.ask_name)
        self._replace = QPushButton("Replace…")
        self._replace.clicked.connect(self.ask_replacement)
        buttons = QHBoxLayout()
        for button in (self._name, self._replace):
            tighten(button)
            buttons.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 8, 8)
        column.setSpacing(5)
        column.addWidget(self._title)
        column.addWidget(self._warning)
        column.addWidget(self.devices, 1)
        column.addLayout(buttons)
        session.wire_changed.connect(self.renew)
        session.wire_grown.connect(self.renew)
        session.roles_changed.connect(self.renew)
        session.shown_changed.connect(self.renew)
        session.exchange_changed.connect(self._follow)
        self.hide()

    @property
    def rows(self) -> list[DeviceRow]:
        """The devices that are listed."""
        return [self.devices.item(at).data(ROW_ROLE) for at in range(self.devices.count())]

    @property
    def whole_height(self) -> int:
        """The height at which no device is out of sight, px."""
        listed = ROW_HEIGHT * self.devices.count() + 2 * self.devices.frameWidth()
        return self.sizeHint().height() - self.devices.sizeHint().height() + listed + 4

    @property
    def current(self) -> DeviceRow | None:
        """The chosen device."""
        item = self.devices.currentItem()
        row: DeviceRow | None = item.data(ROW_ROLE) if item is not None else None
        return row

    def renew(self) -> None:
        """Lists the devices of the chosen wire; hides where there are none."""
        wire = self._session.wire
        shown, name = self._session.shown, self._session.wire_name
        rows = devices_of(wire, self._session.roles, shown, name) if wire is not None else []
        chosen = self.current.code if self.current is not None else ""
        self.devices.clear()
        for row in rows:
            item = QListWidgetItem()
            item.setData(ROW_ROLE, row)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{row.role} {row.code} {row.last}")
            told = f"{row.code}\n{row.kind}\nread {row.reads} times, {row.failures} in vain"
            item.setToolTip(plain_tip(told))
            self.devices.addItem(item)
            if row.code == chosen:
                self.devices.setCurrentItem(item)
        self._title.setText(f"{count(len(rows), 'device')}, in search order")
        shift = shift_of(wire) if wire is not None else None
        self._warning.setVisible(shift is not None)
        if wire is not None and shift is not None:
            at = seconds(int(wire.exchanges.start_ns[shift])).partition(".")[0]
            colour = theme().near.name()
            self._warning.setText(
                f'<span style="color:{colour}">▲ The order shifted at '
                f'<a href="#" style="color:{colour}">{at}</a>: numbers mean other probes.</span>'
            )
        self.setVisible(bool(rows))
        if not chosen:
            self._follow()

    def _follow(self) -> None:
        """Chooses the device that the shown exchange is about."""
        report = self._session.report
        shown = (self._session.place, self._session.index)
        if shown == self._shown and self.current is not None:
            return
        self._shown = shown
        rom = report.device if report is not None else ""
        for at, row in enumerate(self.rows):
            if row.code == rom:
                self.devices.setCurrentRow(at)
                return
        self.devices.setCurrentRow(-1)

    def _go_to_shift(self) -> None:
        wire = self._session.wire
        shift = shift_of(wire) if wire is not None else None
        if shift is not None:
            self._session.choose_exchange(shift)

    def show_last(self) -> None:
        """Shows the last exchange of the chosen device."""
        row = self.current
        if row is not None:
            self._session.choose_exchange(row.exchange)

    def ask_name(self) -> None:
        """Asks for the chosen device's role."""
        row = self.current
        if row is None:
            return
        name, ok = QInputDialog.getText(
            self, "Name a device", f"Role of {row.code}, as “wheel 3, core”:", text=row.role
        )
        if ok:
            self.name_device(row.code, name)

    def name_device(self, code: str, name: str) -> None:
        """Gives a device a role; an empty name takes it away."""
        self._session.edits.change_roles(self._session.roles.named(code, name), f"name of {code}")

    def ask_replacement(self) -> None:
        """Asks which device takes over the role of the chosen one."""
        row = self.current
        others = [other for other in self.rows if row is not None and other.code != row.code]
        if row is None or not others:
            return
        texts = [f"{other.code}  {other.role or 'no role yet'}" for other in others]
        text, ok = QInputDialog.getItem(
            self,
            "Replace a device",
            f"The role “{row.role or row.code}” goes on with:",
            texts,
            0,
            False,
        )
        if ok:
            self.replace_device(row, others[texts.index(text)].code)

    def replace_device(self, row: DeviceRow, new: str) -> None:
        """Lets another device take over a role; its history stays."""
        roles = self._session.roles
        if roles.role_of(row.code) is None:
            roles = roles.named(row.code, row.role or row.code)
        self._session.edits.change_roles(
            roles.replaced(row.code, new), f"replacement of {row.code}"
        )

    def entries(self) -> list[tuple[str, Callable[[], object]]]:
        """What can be done with the chosen device."""
        return [
            ("Show its last exchange", self.show_last),
            ("Name…", self.ask_name),
            ("Replace this probe by that one…", self.ask_replacement),
            ("Copy code", self.copy_code),
        ]

    def copy_code(self) -> None:
        """Copies the code of the chosen device."""
        row = self.current
        if row is not None:
            QGuiApplication.clipboard().setText(row.code)


class DeviceList(QListWidget):
    """The list: F2 names, Return shows the last exchange, the menu does the rest."""

    def __init__(self, panel: DevicesPanel) -> None:
        super().__init__(panel)
        self._panel = panel
        self.setItemDelegate(DeviceDelegate(self))
        self.setAccessibleName("Devices of this wire")
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._open_menu)
        self.itemClicked.connect(lambda _: panel.show_last())
        self.itemDoubleClicked.connect(lambda _: panel.ask_name())

    def _open_menu(self, at: QPoint) -> None:
        item = self.itemAt(at)
        if item is None:
            return
        self.setCurrentItem(item)
        menu = QMenu(self)
        for text, run in self._panel.entries():
            menu.addAction(text, run)
        menu.popup(self.viewport().mapToGlobal(at))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """F2 names, Return shows the last exchange."""
        if event.key() == Qt.Key.Key_F2:
            self._panel.ask_name()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._panel.show_last()
        else:
            super().keyPressEvent(event)
