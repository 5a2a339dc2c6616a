"""Roles: the names that a person gives to 1-Wire devices, by code and never by index."""

from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property

import numpy as np

from pivet.frozen import FrozenValue, replace
from pivet.readings.track import Track

FORMER = "before"
"""How a device is called that held a role before another took it over."""


class Role(FrozenValue):
    """One role.

    Attributes:
        name: given by the person, "wheel 3, core".
        codes: the codes of the devices that held it, the one that holds it now last; kernel form.
    """

    name: str
    codes: tuple[str, ...]

    @property
    def code(self) -> str:
        """The device that holds it now."""
        return self.codes[-1]


class Roles(FrozenValue, dict=True):
    """All roles that are known; every change gives a new object."""

    roles: tuple[Role, ...] = ()

    @cached_property
    def names(self) -> Mapping[str, str]:
        """What each device is called, by code."""
        found: dict[str, str] = {}
        for role in self.roles:
            for code in role.codes[:-1]:
                found.setdefault(code, f"{role.name}, {FORMER}")
        return found | {role.code: role.name for role in self.roles}

    def role_of(self, code: str) -> Role | None:
        """The role that a device holds now.

        Args:
            code: the code of the device, in kernel form.
        """
        return next((role for role in self.roles if role.code == code), None)

    def holding(self, code: str) -> Role | None:
        """The role that a device holds or held.

        Args:
            code: the code of the device, in kernel form.
        """
        return next((role for role in self.roles if code in role.codes), None)

    def named(self, code: str, name: str) -> "Roles":
        """A device is given a name; an empty one takes its role away.

        Args:
            code: the code of the device, as ``28-...``.
            name: free text.
        """
        name = " ".join(name.split())
        held = self.role_of(code)
        others = tuple(role for role in self.roles if role is not held)
        if not name:
            return replace(self, roles=others)
        if held is None:
            return replace(self, roles=(*self.roles, Role(name, (code,))))
        renamed = Role(name, held.codes)
        return replace(
            self, roles=tuple(renamed if other is held else other for other in self.roles)
        )

    def replaced(self, old: str, new: str) -> "Roles":
        """A device takes over the role of another, whose history stays with the role.

        Args:
            old: code of the device that was there.
            new: code of the one that is.
        """
        held = self.role_of(old)
        if held is None or old == new:
            return self
        given_up = self.role_of(new)
        codes = (*(code for code in held.codes if code != new), new)
        rows = [Role(held.name, codes) if role is held else role for role in self.roles]
        return replace(self, roles=tuple(other for other in rows if other is not given_up))

    def joined(self, other: "Roles") -> "Roles":
        """These roles and those of another set for devices that have none here.

        Args:
            other: another set.
        """
        known = {code for role in self.roles for code in role.codes}
        more = tuple(role for role in other.roles if not known & set(role.codes))
        return replace(self, roles=(*self.roles, *more))

    def without(self, other: "Roles") -> "Roles":
        """These roles but for those that another set has just so.

        Args:
            other: another set.
        """
        return replace(self, roles=tuple(role for role in self.roles if role not in other.roles))

    def told(self, tracks: Sequence[Track]) -> tuple[Track, ...]:
        """Tracks under their roles' names; those of one role, one after the other, as one.

        Args:
            tracks: the tracks of one wire.
        """
        by_code = {track.rom: track for track in tracks if track.rom}
        found, done = [], set()
        for track in tracks:
            role = self.holding(track.rom)
            if role is None:
                found.append(track)
            elif role.name not in done:
                done.add(role.name)
                own = [by_code[code] for code in role.codes if code in by_code]
                found.append(_as_one(role, own))
        return tuple(found)


NO_ROLES = Roles()
"""Nobody has named anything."""


def _as_one(role: Role, tracks: Iterable[Track]) -> Track:
    rows = list(tracks)
    at = np.concatenate([track.at for track in rows])
    order = np.argsort(at, kind="stable")
    return replace(
        rows[-1],
        name=role.name,
        at=at[order],
        values=np.concatenate([track.values for track in rows])[order],
        given=np.concatenate([track.given for track in rows])[order],
    )
