"""The stand-in probe as a process of its own, told what to do by lines of words."""

import json
import sys
import tempfile
from collections import deque
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QProcess, QTimer, Signal

STATE_MS = 1000
END_MS, KILLED_MS = 3_000, 15_000
"""So long it may take to end when asked to, and when killed, on a computer that does much else."""
READY = "stand-in probe at "

Answer = Callable[[str], None]


class StandinProcess(QObject):
    """Runs `pivet standin serve`, and ends it with this object.

    Args:
        parent: the owner.

    Signals:
        ready: the probe can be listened to; carries the path of its port.
        refused: an order was not carried out; carries the sentence.
        state: the truth in the cave, as ``state`` tells it.
        ended: the process has ended by itself; carries a sentence.
        closed: it has ended, as it was told to.
    """

    ready = Signal(str)
    refused = Signal(str)
    state = Signal(object)
    ended = Signal(str)
    closed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._folder = tempfile.TemporaryDirectory(prefix="pivet-cave-")
        self.path = str(Path(self._folder.name) / "cave")
        self._answers: deque[Answer] = deque()
        self._heard = b""
        self._told = self._closing = False
        self._process = QProcess(self)
        self._process.readyReadStandardOutput.connect(self._on_output)
        self._process.finished.connect(self._on_finished)
        self._process.setProcessChannelMode(QProcess.ProcessChannelMode.MergedChannels)
        self._clock = QTimer(self)
        self._clock.timeout.connect(self.ask_state)
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.timeout.connect(self._process.kill)

    def start(self) -> None:
        """Starts it."""
        words = ["-u", "-m", "pivet", "standin", "serve", "--until-eof", "--link", self.path]
        self._process.start(sys.executable, words)

    def order(self, line: str) -> None:
        """Tells it to do something; see docs/standin.md."""
        self._send(line, self._on_answer)

    def _send(self, line: str, answer: Answer) -> None:
        if self._process.state() is QProcess.ProcessState.Running:
            self._answers.append(answer)
            self._process.write(f"{line}\n".encode())

    def ask_state(self) -> None:
        """Asks for the truth; it comes by ``state``."""
        self._send("state", self._on_state)

    def _on_output(self) -> None:
        *lines, self._heard = (self._heard + self._process.readAllStandardOutput().data()).split(
            b"\n"
        )
        for line in lines:
            self._on_line(line.decode(errors="replace").strip())

    def _on_line(self, line: str) -> None:
        if line.startswith(READY):
            if not self._told:
                self._told = True
                self._clock.start(STATE_MS)
                self.ready.emit(self.path)
        elif self._answers:
            self._answers.popleft()(line)

    def _on_answer(self, line: str) -> None:
        if line != "ok":
            self.refused.emit(line.removeprefix("error: "))
        self.ask_state()

    def _on_state(self, line: str) -> None:
        try:
            found: Any = json.loads(line)
        except ValueError:
            return
        self.state.emit(found)

    @property
    def _runs(self) -> bool:
        return self._process.state() is not QProcess.ProcessState.NotRunning

    def _on_finished(self) -> None:
        self._clock.stop()
        if self._closing:
            self._clear()
        else:
            self.ended.emit("The simulated cave has ended by itself; start it again.")

    def _clear(self) -> None:
        self._patience.stop()
        self._folder.cleanup()
        self.closed.emit()

    def close(self) -> None:
        """Ends it; ``closed`` tells when it has ended."""
        self._closing = True
        self._clock.stop()
        if self._runs:
            self._process.closeWriteChannel()
            self._patience.start(END_MS)
        else:
            self._clear()

    def wait(self) -> None:
        """Waits until it has ended; for the end of the program."""
        if self._runs and not self._process.waitForFinished(END_MS):
            self._process.kill()
            self._process.waitForFinished(KILLED_MS)
