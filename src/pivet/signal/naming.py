"""What a name means that somebody writes: one rule for lines and wires everywhere.

A name is meant as it is shown; a last part of it that only one has is enough, and a longer form of
what is shown is understood too.  Two lines of one wire are named with a comma, or by what their
names share.
"""

from collections.abc import Sequence

from pivet.errors import InputError


def meant(written: str, names: Sequence[str]) -> list[str]:
    """The names that somebody can mean: an exact one wins over last parts, they over longer forms.

    Args:
        written: by a person.
        names: that there are.
    """
    for can_be in (
        lambda name: name == written,
        lambda name: name.endswith(f".{written}"),
        lambda name: written.endswith(f".{name}"),
    ):
        found = [name for name in dict.fromkeys(names) if can_be(name)]
        if found:
            return found
    return []


def shared_name(names: Sequence[str]) -> str:
    """What several lines of one wire are called: what their names share; one keeps its own.

    Args:
        names: the names of its lines, with dots between their parts.
    """
    if len(names) == 1:
        return names[0]
    parts = [name.split(".") for name in names]
    shared = [several[0] for several in zip(*parts, strict=False) if len(set(several)) == 1]
    if len(shared) > 1:
        return ".".join(shared)
    rest = "+".join(".".join(part[len(shared) :]) for part in parts)
    return ".".join([*shared, rest])


def pair_meant(written: str, names: Sequence[str]) -> tuple[str, ...]:
    """The two lines that are meant by what their names share; nothing where none are.

    Args:
        written: as the pair is shown, ``cave.vat`` or ``top.trig+echo``.
        names: the names of all lines.
    """
    under = [name for name in names if _is_under(name, written)]
    if len(under) != 2:
        head, _, last = written.rpartition(".")
        ahead = f"{head}." if head else ""
        found = [meant(f"{ahead}{part}", names) for part in last.split("+")]
        under = [several[0] for several in found if len(several) == 1]
    if len(under) != 2 or under[0] == under[1]:
        return ()
    return tuple(sorted(under, key=lambda name: "echo" in name.rpartition(".")[2].lower()))


def wire_meant(written: str, names: Sequence[str]) -> list[str]:
    """The shown names of wires that somebody can mean, who may name a wire by its two lines.

    Args:
        written: by a person.
        names: the names of wires, as they are shown.
    """
    parts = [part.strip() for part in written.split(",")]
    found = meant(shared_name(parts), names)
    scopes = {part.rpartition(".")[0] for part in parts}
    if not found and len(parts) == 2 and len(scopes) == 1:
        found = meant(scopes.pop(), names)
    return found


def wires_meant(written: Sequence[str], names: Sequence[str], where: str) -> list[str]:
    """The shown names of wires that somebody names, one for each.

    Args:
        written: names as a person writes them; two lines with a comma are one wire.
        names: the names of wires, as they are shown.
        where: name of the file, for messages.

    Raises:
        InputError: there is no such wire, or a name can be several.
    """
    found = []
    for name in written:
        rows = wire_meant(name, names)
        if len(rows) != 1:
            what = f"can be several wires of {where}" if rows else f"is no wire of {where}"
            choices = ", ".join(sorted(set(rows or names)))
            raise InputError(f"{name!r} {what}", f"choose one of {choices}")
        found += rows
    return found


def _is_under(name: str, written: str) -> bool:
    scope = name.rpartition(".")[0]
    return scope == written or scope.endswith(f".{written}")
