"""What a firmware prints at a serial port, as it comes."""

import threading

from PySide6.QtCore import QObject, Signal

from pivet.sources.port import Port
from pivet.sources.source import SourceError

WAIT_S = 0.1
MOST_CHARACTERS = 2_000_000
"""Older text is dropped."""


class Console(QObject):
    """Listens at a port in a thread of its own.

    Signals:
        heard: text came; carries it.
        lost: the port is gone; carries why.
    """

    heard = Signal(str)
    lost = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._thread: threading.Thread | None = None
        self._over = threading.Event()

    @property
    def listens(self) -> bool:
        """Whether a port is open."""
        return self._thread is not None

    def begin(self, url: str, baud: int) -> None:
        """Opens a port.

        Args:
            url: a device, or a URL of the serial package.
            baud: bits a second.

        Raises:
            SourceError: it cannot be opened.
        """
        self.end()
        port = Port(url, baud)
        self._over.clear()
        self._thread = threading.Thread(target=self._listen, args=(port,), daemon=True)
        self._thread.start()

    def _listen(self, port: Port) -> None:
        try:
            while not self._over.is_set():
                data = port.read(WAIT_S)
                if data:
                    self.heard.emit(data.decode("utf-8", errors="replace"))
        except SourceError as error:
            self.lost.emit(str(error))
        finally:
            port.close()

    def end(self) -> None:
        """Lets the port go."""
        self._over.set()
        if self._thread is not None:
            self._thread.join()
        self._thread = None
