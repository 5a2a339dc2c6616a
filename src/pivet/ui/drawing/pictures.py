"""The view as a picture: PNG with twice the pixels, or SVG."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QPoint, QRect
from PySide6.QtGui import QImage, QPainter
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import QWidget

from pivet.errors import OutputError
from pivet.files import disk
from pivet.ui.drawing.theme import theme

SCALE = 2


Content = Callable[[], bytes]
"""Gives what stands in the file of a picture."""


def write_picture(widget: QWidget, path: Path, scale: int = SCALE) -> None:
    """Writes a widget as PNG or SVG, by the ending of ``path``.

    Raises:
        OutputError: the ending names no format, or the file cannot be written.
    """
    put_picture(picture_of(widget, path, scale), path)


def picture_of(widget: QWidget, path: Path, scale: int = SCALE) -> Content:
    """A widget as it looks now; what stands in its file takes longer, in any thread.

    Raises:
        OutputError: the ending of ``path`` names no format.
    """
    ending = path.suffix.lower()
    if ending == ".png":
        return partial(_png, _image(widget, scale))
    if ending == ".svg":
        return partial(bytes, _svg(widget))
    raise OutputError(f"{path} has an ending that names no picture", "end it in .png or .svg")


def put_picture(content: Content, path: Path) -> None:
    """Writes the file of a picture.

    Raises:
        OutputError: it cannot be written.
    """
    with disk.writing(path, binary=True) as stream:
        stream.write(content())  # type: ignore[arg-type]


def _image(widget: QWidget, scale: int) -> QImage:
    image = QImage(widget.size() * scale, QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(scale)
    image.fill(theme().paper)
    widget.render(image)
    return image


def _png(image: QImage) -> bytes:
    content = QByteArray()
    buffer = QBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(content.data())


def _svg(widget: QWidget) -> bytes:
    content = QByteArray()
    buffer = QBuffer(content)
    generator = QSvgGenerator()
    generator.setOutputDevice(buffer)
    generator.setSize(widget.size())
    generator.setViewBox(QRect(QPoint(0, 0), widget.size()))
    generator.setResolution(widget.logicalDpiX())
    generator.setTitle("Pivet")
    painter = QPainter(generator)
    painter.fillRect(widget.rect(), theme().paper)
    widget.render(painter, QPoint(0, 0))
    painter.end()
    return bytes(content.data())
