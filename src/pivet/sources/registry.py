"""Sources by the words with which a person names them."""

from pathlib import Path

from pivet.files.captures import read_capture
from pivet.sources.source import Source, SourceError

USAGE = (
    "give a probe's port (/dev/ttyUSB0, socket://host:port), gpio:gpiochip0, kernel:, folder:PATH, "
    "or replay:FILE"
)


def make_source(text: str, baud: int | None = None, pace: float = 1.0) -> Source:
    """The source that is meant; it is not opened yet.

    Args:
        text: a port or URL of a probe, ``gpio:CHIP``, ``kernel:PATH``, ``folder:PATH``,
            ``replay:FILE``.
        baud: the baud of a probe's port; None tries the usual ones.
        pace: the pace of a replay; infinite for as fast as it goes.

    Raises:
        SourceError: there is no such source.
        InputError: a capture to be replayed cannot be read.
    """
    kind, _, rest = text.partition(":")
    if kind == "gpio" and rest:
        from pivet.sources.gpio import GpioSource

        return GpioSource(rest)
    if kind == "kernel" and "://" not in text:
        from pivet.sources.kernel import ROOT, KernelSource

        return KernelSource(rest or ROOT)
    if kind == "folder" and rest:
        from pivet.sources.folder import FolderSource

        return FolderSource(Path(rest).expanduser())
    if kind == "replay" and rest:
        from pivet.sources.replay import ReplaySource

        path = Path(rest).expanduser()
        return ReplaySource(path.name, read_capture(path, where=str(path)), pace)
    if kind == "probe" and rest:
        text = rest
    if text.startswith("/") or "://" in text or Path(text).exists():
        from pivet.sources.probe import ProbeSource

        return ProbeSource(text, baud)
    raise SourceError(f"{text!r} names no source", USAGE)
