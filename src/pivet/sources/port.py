"""The serial port under a probe: opening it, and saying why it cannot be opened."""

import errno
import grp
import os
import select
import termios
import threading
import time
from pathlib import Path
from typing import Protocol

import serial
from serial.tools import list_ports

from pivet.frozen import FrozenValue
from pivet.sources.source import SourceError, SourceLost

CHUNK = 1 << 16
WRITE_TIMEOUT_S = 1.0
POLL_S = 0.002
WAKE_S = 0.1
"""The reading thread looks so often whether it is to end."""

MOST_HELD = 1 << 26
"""Bytes that may wait to be looked at; what comes then is lost, and its loss noticed."""


PORT_ERRORS = (OSError, termios.error)
"""What goes wrong at a port: the serial package hands on what a terminal says that went away."""


class AnyPort(Protocol):
    """What a probe's bytes go through."""

    def read(self, timeout_s: float) -> bytes:
        """Whatever arrived; waits at most so long for something, s.

        Args:
            timeout_s: the longest wait, s.
        """
        ...

    def write(self, data: bytes) -> None:
        """Sends bytes.

        Args:
            data: to the device.
        """
        ...

    def set_baud(self, baud: int) -> None:
        """Goes on at another speed, without closing the port.

        Args:
            baud: bits a second.
        """
        ...

    def close(self) -> None:
        """Lets it go."""
        ...


class Port:
    """An open serial port, or what a URL of the serial package stands for.

    Args:
        url: a device, or a URL like ``socket://host:port``.
        baud: bits a second.

    Raises:
        SourceError: it cannot be opened.
    """

    def __init__(self, url: str, baud: int) -> None:
        self.url = url
        try:
            self._serial = serial.serial_for_url(
                url, baudrate=baud, timeout=0, write_timeout=WRITE_TIMEOUT_S, do_not_open=True
            )
            if "://" not in url:
                self._serial.exclusive = True
            self._serial.open()
        except (*PORT_ERRORS, ValueError) as error:
            raise refusal(url, error) from error
        self._fileno = self._file_number()
        self._news = threading.Condition()
        self._arrived: list[bytes] = []
        self._held = 0
        self._error: BaseException | None = None
        self._closing = False
        self._reader = threading.Thread(target=self._drain, name=f"port {url}", daemon=True)
        self._reader.start()

    def _file_number(self) -> int | None:
        try:
            return int(self._serial.fileno())
        except (OSError, AttributeError):
            return None

    def _drain(self) -> None:
        """Takes bytes from the system as they come: its memory is small, and judging takes time."""
        try:
            while not self._closing:
                self._wait(WAKE_S)
                data = bytes(self._serial.read(CHUNK))
                if data:
                    self._put(data)
        except (*PORT_ERRORS, TypeError, ValueError) as error:
            with self._news:
                self._error = error
                self._news.notify()

    def _put(self, data: bytes) -> None:
        with self._news:
            if self._held < MOST_HELD:
                self._arrived.append(data)
                self._held += len(data)
            self._news.notify()

    def _wait(self, timeout_s: float) -> None:
        if self._fileno is not None:
            select.select([self._fileno], [], [], timeout_s)
            return
        until = time.monotonic() + timeout_s
        while not self._serial.in_waiting and time.monotonic() < until:
            time.sleep(POLL_S)

    def read(self, timeout_s: float) -> bytes:
        """Whatever arrived; waits at most so long for something, s.

        Args:
            timeout_s: the longest wait, s.

        Raises:
            SourceLost: the port is gone.
        """
        with self._news:
            if not self._arrived and self._error is None:
                self._news.wait(timeout_s)
            data, self._arrived, self._held = b"".join(self._arrived), [], 0
            error = self._error
        if error is not None and not data:
            raise self._gone() from error
        return data

    def write(self, data: bytes) -> None:
        """Sends bytes.

        Args:
            data: to the device.

        Raises:
            SourceLost: the port is gone, or takes nothing any more.
        """
        try:
            self._serial.write(data)
        except PORT_ERRORS as error:
            raise self._gone() from error

    def set_baud(self, baud: int) -> None:
        """Goes on at another speed; many boards restart when a port is opened, not from this.

        Args:
            baud: bits a second.

        Raises:
            SourceError: the port cannot be so fast.
            SourceLost: it is gone.
        """
        try:
            self._serial.baudrate = baud
        except PORT_ERRORS as error:
            raise self._gone() from error
        except ValueError as error:
            raise refusal(self.url, error) from error

    def _gone(self) -> SourceLost:
        return SourceLost(
            f"the probe at {self.url} is gone", "plug it in again, Pivet goes on by itself"
        )

    def close(self) -> None:
        """Lets the port go."""
        self._closing = True
        if self._reader is not threading.current_thread():
            self._reader.join(2 * WAKE_S)
        self._serial.close()


def refusal(url: str, error: Exception) -> SourceError:
    """Why a port cannot be opened, and what to do.

    Args:
        url: device or URL as it was given.
        error: what the system says.
    """
    number = getattr(error, "errno", None)
    if isinstance(error, termios.error):
        number = error.args[0]
    if number is None and isinstance(error.__context__, OSError):
        number = error.__context__.errno
    if number == errno.ENOENT:
        return SourceError(
            f"there is no port {url}",
            "plug the probe in; `pivet probe` lists the ports that there are",
        )
    if number in (errno.EACCES, errno.EPERM):
        group = group_of(url)
        return SourceError(
            f"you have no right to use {url}",
            f"join the group {group} (sudo usermod -aG {group} $USER) and log in again",
        )
    if number in (errno.EBUSY, errno.EAGAIN):
        return SourceError(
            f"the port {url} is taken by another program", "close that program, or its serial view"
        )
    if number in (errno.ECONNREFUSED, errno.EHOSTUNREACH, errno.ETIMEDOUT):
        return SourceError(f"nobody answers at {url}", "start what serves the probe there")
    return SourceError(
        f"the port {url} cannot be opened ({error})",
        "give a serial device like /dev/ttyUSB0, or socket://host:port",
    )


def group_of(path: str) -> str:
    """The group whose members may use a device.

    Args:
        path: the path of the device file.
    """
    try:
        return grp.getgrgid(Path(path).stat().st_gid).gr_name
    except (OSError, KeyError):
        return "dialout"


class PortRow(FrozenValue):
    """A serial port of this computer.

    Attributes:
        path: its device.
        about: what is plugged in there.
        usable: this person may read and write it.
    """

    path: str
    about: str
    usable: bool


def ports() -> list[PortRow]:
    """The serial ports of this computer."""
    return [
        PortRow(
            port.device,
            port.description if port.description not in ("n/a", None) else "",
            os.access(port.device, os.R_OK | os.W_OK),
        )
        for port in sorted(list_ports.comports())
    ]
