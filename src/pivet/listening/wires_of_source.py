"""The wires that are meant when the person names none."""

from pathlib import Path

from pivet.captures.capture import capture_of
from pivet.captures.text import short_names
from pivet.listening.setup import WireSetup
from pivet.person.choices import NO_CHOICE, WireChoices
from pivet.progress import Progress, silent
from pivet.sources.replay import ReplaySource
from pivet.sources.source import About


def everything(
    about: About,
    interval: float | None,
    retries: int = 1,
    choices: WireChoices = NO_CHOICE,
    pull_up: bool | None = None,
) -> list[WireSetup]:
    """All lines; one named trigger together with the one named echo beside it.

    Args:
        about: the source.
        interval: how often each is asked, s; None only listens.
        retries: how many further tries when nothing usable comes.
        choices: what the person chose.
        pull_up: the source's own is to be on or off, where it has one.
    """
    names = [line.name for line in about.lines]
    pairs = {}
    for name in names:
        echo = f"{name.removesuffix('.trigger')}.echo"
        if name.endswith(".trigger") and echo in names:
            pairs[name] = echo
    wires = [
        (name, pairs[name]) if name in pairs else (name,)
        for name in names
        if name not in pairs.values()
    ]
    labels = short_names([lines[0].removesuffix(".trigger") for lines in wires])
    able = {line.name for line in about.lines if line.can_pull_up}
    return [
        WireSetup(
            label,
            lines,
            None,
            interval,
            retries,
            choices,
            pull_up if lines[0] in able else None,
        )
        for label, lines in zip(labels, wires, strict=True)
    ]


def recognised(
    source: ReplaySource,
    choices: WireChoices = NO_CHOICE,
    whole_names: bool = False,
    progress: Progress = silent,
) -> list[WireSetup]:
    """The wires of a capture: all of it is there, so all of it is looked at.

    Args:
        source: that plays it.
        choices: the choices of the person, for all wires.
        whole_names: calls them as the capture does, else shortly.
        progress: called with the share done, 0 to 1.
    """
    path = Path(source.name)
    wires = capture_of(path, source.trace, choices.sheet, progress=progress).wires
    names = [wire.name for wire in wires]
    labels = names if whole_names else short_names([wire.label for wire in wires])
    return [
        WireSetup(label, tuple(line.name for line in wire.lines), wire.sheet, choices=choices)
        for label, wire in zip(labels, wires, strict=True)
    ]
