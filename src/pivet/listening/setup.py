"""What a person wants of a wire: lines, sensor, how often to ask."""

from collections.abc import Sequence

from pivet.errors import InputError
from pivet.families import family_of
from pivet.frozen import FrozenValue
from pivet.person.choices import NO_CHOICE, WireChoices
from pivet.sheets.model import Sheet


class WireSetup(FrozenValue):
    """One wire to listen to.

    Attributes:
        name: given by the person.
        lines: the lines of the source; trigger and echo for an echo sensor.
        sheet: its sensor type; None finds it out.
        every_s: asks so often, s; None only listens; 0 as often as is usual.
        retries: how many further tries when an ask gives no reading.
        choices: the choices of the person beside the sheet.
        pull_up: the source's own pull-up is to be on (or off); None leaves it as it is.
    """

    name: str
    lines: tuple[str, ...]
    sheet: Sheet | None = None
    every_s: float | None = None
    retries: int = 1
    choices: WireChoices = NO_CHOICE
    pull_up: bool | None = None


NO_SETUP = WireSetup("", ())


def least_interval_s(sheet: Sheet) -> float:
    """How often a sensor can be asked at most, s.

    Args:
        sheet: the sheet of the sensor type.
    """
    return family_of(sheet).least_interval_s(sheet)


def usual_interval_s(sheet: Sheet) -> float:
    """How often a sensor is asked when the person does not say, s.

    Args:
        sheet: the sheet of the sensor type.
    """
    return max(family_of(sheet).watched_s, least_interval_s(sheet))


def reason_of_interval(sheet: Sheet) -> str:
    """The shortest interval of a sensor and why, in a sentence.

    Args:
        sheet: the sheet of the sensor type.
    """
    return f"Not under {least_interval_s(sheet):g} s: {family_of(sheet).why_interval(sheet)}."


def refuse_hurry(sheet: Sheet, every_s: float) -> None:
    """Refuses an interval that the sheet forbids.

    Args:
        sheet: says the shortest interval.
        every_s: that was asked for.

    Raises:
        InputError: says the shortest, and why.
    """
    least = least_interval_s(sheet)
    if every_s < least:
        why = family_of(sheet).why_interval(sheet)
        raise InputError(
            f"a {sheet.name} cannot be asked every {every_s:g} s ({why})",
            f"take {least:g} s or more",
        )


def refuse_doubles(setups: Sequence[WireSetup]) -> None:
    """Refuses two wires of one name, and a line that two wires want, or one twice.

    Args:
        setups: the setups of all wires.

    Raises:
        InputError: says which.
    """
    names: set[str] = set()
    owners: dict[str, str] = {}
    for setup in setups:
        if setup.name in names:
            raise InputError(f"two wires are called {setup.name!r}", "give each a name of its own")
        names.add(setup.name)
        for line in setup.lines:
            if line in owners:
                both = owners[line] if owners[line] == setup.name else ""
                who = f"twice by {both!r}" if both else f"by {owners[line]!r} and {setup.name!r}"
                raise InputError(f"the line {line} is asked for {who}", "name each line once")
            owners[line] = setup.name
