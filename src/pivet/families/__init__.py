"""The families that there are, each loaded when it is first needed."""

from collections.abc import Iterator, Mapping
from typing import cast

from pivet.errors import InputError
from pivet.families.family import AnyFamily
from pivet.sheets.families import FAMILY_KEYS, HUMIDITY_FRAME, ONE_WIRE
from pivet.sheets.model import Sheet


def _load(key: str) -> AnyFamily:
    """A family, which is only ever given what it made itself: a wire keeps them together."""
    if key == HUMIDITY_FRAME:
        from pivet.families.humidity import Humidity

        return cast(AnyFamily, Humidity())
    if key == ONE_WIRE:
        from pivet.families.onewire import OneWire

        return cast(AnyFamily, OneWire())
    from pivet.families.echo import Echo

    return cast(AnyFamily, Echo())


class _Families(Mapping[str, AnyFamily]):
    """Families by the key that their sheets name."""

    def __init__(self) -> None:
        self._loaded: dict[str, AnyFamily] = {}

    def __getitem__(self, key: str) -> AnyFamily:
        if key not in FAMILY_KEYS:
            raise KeyError(key)
        if key not in self._loaded:
            self._loaded[key] = _load(key)
        return self._loaded[key]

    def __iter__(self) -> Iterator[str]:
        return iter(FAMILY_KEYS)

    def __len__(self) -> int:
        return len(FAMILY_KEYS)


FAMILIES: Mapping[str, AnyFamily] = _Families()


def find_family(key: str) -> AnyFamily:
    """A family by its key, from a file.

    Args:
        key: as it stands in the file.

    Raises:
        InputError: there is none.
    """
    if key not in FAMILY_KEYS:
        raise InputError(f"there is no family of sensors {key[:40]!r}", "use a newer Pivet")
    return FAMILIES[key]


def family_of(sheet: Sheet) -> AnyFamily:
    """The family of a sensor type.

    Args:
        sheet: the sheet of the sensor type.
    """
    return FAMILIES[sheet.family]
