"""The three steps to a feed: where it sends to, what it sends, and its name with a test."""

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from pivet.feeds.setup import TOPIC, Kind
from pivet.readings.units import UnitChoice
from pivet.ui.drawing.numbers import NumberBox
from pivet.ui.drawing.widgets import plain_label, scrolled, tight_button

KINDS = (
    (Kind.MQTT, "A broker (MQTT)", "mqtt://broker.example:1883"),
    (Kind.HTTP, "A service (HTTP, JSON)", "https://service.example/update"),
    (Kind.METRICS, "Whoever fetches them (OpenMetrics)", "openmetrics://127.0.0.1:9464"),
)
NOWHERE, KEYRING, VARIABLE = "", "keyring", "env:"
LONGEST_S = 86_400.0
MOST_WIRES_PX = 130


def _file_row(box: QLineEdit, what: str) -> QWidget:
    """A file's name, with a button that asks for it."""
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 0, 0, 0)
    button = tight_button("…", f"Choose {what}")
    button.setAccessibleName(f"Choose {what}")
    line.addWidget(box, 1)
    line.addWidget(button)

    def choose() -> None:
        name, _ = QFileDialog.getOpenFileName(row, f"Choose {what}")
        if name:
            box.setText(name)

    button.clicked.connect(choose)
    box.setAccessibleName(what)
    return row


class Where(QWidget):
    """The first step: how, to which address, and who one is there."""

    def __init__(self) -> None:
        super().__init__()
        self.kind = QComboBox()
        for kind, title, _ in KINDS:
            self.kind.addItem(title, kind)
        self.url = QLineEdit()
        self.user, self.secret = QLineEdit(), QLineEdit()
        self.secret.setEchoMode(QLineEdit.EchoMode.Password)
        self.variable = QLineEdit()
        self.variable.setPlaceholderText("PIVET_…")
        self.secret_from = QComboBox()
        self.secret_from.addItem("none is needed", NOWHERE)
        self.secret_from.addItem("the desktop's keyring keeps it", KEYRING)
        self.secret_from.addItem("a variable of the environment has it", VARIABLE)
        self.key_at = QComboBox()
        self.key_at.addItem("as the password of the user", "")
        self.key_at.addItem("in a header of this name", "header:")
        self.key_at.addItem("in the address, under this name", "query:")
        self.key_at.addItem("in the body: {key} in the template", "body")
        self.key_name = QLineEdit()
        self.ca, self.cert, self.cert_key = QLineEdit(), QLineEdit(), QLineEdit()
        self.ca.setPlaceholderText("those that the system trusts")
        self._files = [
            _file_row(self.ca, "the file of the authority"),
            _file_row(self.cert, "the file of the certificate"),
            _file_row(self.cert_key, "the file of its key"),
        ]
        self.form = QFormLayout(self)
        self.form.setContentsMargins(0, 0, 0, 0)
        for label, widget in (
            ("Send to", self.kind),
            ("Address", self.url),
            ("User", self.user),
            ("Password or key", self.secret_from),
            ("", self.secret),
            ("Variable", self.variable),
            ("The key goes", self.key_at),
            ("", self.key_name),
            ("Trusted authority", self._files[0]),
            ("Own certificate", self._files[1]),
            ("Its key", self._files[2]),
        ):
            self.form.addRow(label, widget)
        self.secret.setAccessibleName("Password or key")
        self.key_name.setAccessibleName("Name of header or parameter")
        self.kind.currentIndexChanged.connect(self._renew)
        self.secret_from.currentIndexChanged.connect(self._renew)
        self.key_at.currentIndexChanged.connect(self._renew)
        self.url.textChanged.connect(self._renew)
        self._renew()

    @property
    def chosen(self) -> Kind:
        """How it sends."""
        return Kind(self.kind.currentData())

    def _renew(self) -> None:
        kind, where = self.chosen, self.secret_from.currentData()
        self.url.setPlaceholderText(next(row[2] for row in KINDS if row[0] is kind))
        pushes = kind is not Kind.METRICS
        if not pushes and not self.url.text():
            self.url.setText(self.url.placeholderText())
        keyed = pushes and bool(where)
        tls = self.url.text().strip().startswith(("mqtts:", "https:"))
        named = str(self.key_at.currentData()).endswith(":")
        for widget, shown in (
            (self.user, pushes),
            (self.secret_from, pushes),
            (self.secret, keyed and where == KEYRING),
            (self.variable, keyed and where == VARIABLE),
            (self.key_at, keyed and kind is Kind.HTTP),
            (self.key_name, keyed and kind is Kind.HTTP and named),
            *((row, pushes and tls) for row in self._files),
        ):
            self.form.setRowVisible(widget, shown)

    def said(self) -> dict[str, object]:
        """What was given, as of a setup."""
        where = str(self.secret_from.currentData())
        pushes, http = self.chosen is not Kind.METRICS, self.chosen is Kind.HTTP
        secret = where + self.variable.text().strip() if where == VARIABLE else where
        place = str(self.key_at.currentData())
        place += self.key_name.text().strip() if place.endswith(":") else ""
        return {
            "url": self.url.text().strip(),
            "user": self.user.text().strip() if pushes else "",
            "secret": secret if pushes else "",
            "key_at": place if http and secret else "",
            "ca": self.ca.text().strip(),
            "cert": self.cert.text().strip(),
            "cert_key": self.cert_key.text().strip(),
        }


class What(QWidget):
    """The second step: which readings, in which form, at which pace.

    Args:
        wires: names of the wires of the bench.
        units: the units in which readings are shown.
    """

    def __init__(self, wires: list[str], units: UnitChoice) -> None:
        super().__init__()
        self._units = units
        self.wires = [QCheckBox(name.replace("&", "&&")) for name in wires]
        self._names = wires
        several = QWidget()
        column = QVBoxLayout(several)
        column.setContentsMargins(0, 0, 0, 0)
        for box in self.wires:
            box.setChecked(True)
            column.addWidget(box)
        self._wires = scrolled(several)
        self._wires.setFrameShape(QFrame.Shape.NoFrame)
        self._wires.setMaximumHeight(MOST_WIRES_PX)
        self.as_shown = QCheckBox("In the units that are shown here")
        self.as_shown.setToolTip("Otherwise in °C, %RH and m")
        self.as_shown.setChecked(True)
        self.derived = QCheckBox("With dew point, heat index and the like")
        self.all_held = QCheckBox("Also what the bench holds already")
        self.every = NumberBox()
        self.every.setRange(0.0, LONGEST_S)
        self.every.setDecimals(1)
        self.every.setSuffix(" s")
        self.every.setToolTip("From one sending to the next at least; 0 for as it comes")
        self.newest = QCheckBox("Of what waits only the newest of each sensor")
        self.batch = QSpinBox()
        self.batch.setRange(1, 10_000)
        self.topic = QLineEdit(TOPIC)
        self.plain = QCheckBox("The value alone, not JSON")
        self.retain = QCheckBox("The broker keeps the last value")
        self.retain.setChecked(True)
        self.expiry = QSpinBox()
        self.expiry.setRange(0, 10_000_000)
        self.expiry.setSuffix(" s")
        self.expiry.setSpecialValueText("never")
        self.template = QPlainTextEdit()
        self.template.setPlaceholderText('Own form, else JSON: {"t": "{temperature}"}')
        self.template.setMaximumHeight(80)
        self.template.setTabChangesFocus(True)
        self.form = QFormLayout(self)
        self.form.setContentsMargins(0, 0, 0, 0)
        for label, widget in (
            ("Wires", self._wires),
            ("Values", self.as_shown),
            ("", self.derived),
            ("", self.all_held),
            ("At most every", self.every),
            ("", self.newest),
            ("Rows at once", self.batch),
            ("Topic", self.topic),
            ("Messages", self.plain),
            ("", self.retain),
            ("Dropped after", self.expiry),
            ("Body", self.template),
        ):
            self.form.addRow(label, widget)

    def show_for(self, kind: Kind) -> None:
        """Only what a kind of feed has."""
        mqtt, http = kind is Kind.MQTT, kind is Kind.HTTP
        for widget, shown in (
            (self._wires, bool(self.wires)),
            (self.every, kind is not Kind.METRICS),
            (self.newest, kind is not Kind.METRICS),
            (self.batch, http),
            (self.template, http),
            (self.topic, mqtt),
            (self.plain, mqtt),
            (self.retain, mqtt),
            (self.expiry, mqtt),
        ):
            self.form.setRowVisible(widget, shown)

    def said(self, kind: Kind) -> dict[str, object]:
        """What was given, as of a setup."""
        boxes = zip(self._names, self.wires, strict=True)
        chosen = tuple(name for name, box in boxes if box.isChecked())
        said: dict[str, object] = {
            "wires": chosen if len(chosen) < len(self._names) else (),
            "units": tuple(self._units.chosen.values()) if self.as_shown.isChecked() else (),
            "derived": self.derived.isChecked(),
        }
        if kind is not Kind.METRICS:
            said |= {"every_s": self.every.value(), "newest": self.newest.isChecked()}
        if kind is Kind.HTTP:
            said |= {
                "batch": self.batch.value(),
                "template": self.template.toPlainText().strip(),
            }
        if kind is Kind.MQTT:
            said |= {
                "topic": self.topic.text().strip(),
                "plain": self.plain.isChecked(),
                "retain": self.retain.isChecked(),
                "expiry_s": self.expiry.value(),
            }
        return said


class Name(QWidget):
    """The third step: its name, and whether a message arrives."""

    def __init__(self) -> None:
        super().__init__()
        self.name = QLineEdit()
        self.summary = plain_label()
        self.summary.setWordWrap(True)
        self.test = QPushButton("&Send a test message")
        self.test.setAutoDefault(False)
        self.came = plain_label()
        self.came.setWordWrap(True)
        form = QFormLayout()
        form.addRow("Name", self.name)
        form.addRow("It sends", self.summary)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(form)
        row = QHBoxLayout()
        row.addWidget(self.test)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(self.came)
        column.addStretch(1)
