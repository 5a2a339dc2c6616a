"""What a person gave to a bench, as the file keeps it: names of devices, where they looked."""

import json

from pivet.files.benchfile.checked import Ident, Number, decoded
from pivet.files.benchfile.store import BenchFile
from pivet.files.roles_json import CODE
from pivet.frozen import FrozenValue
from pivet.person.roles import Role, Roles

LOOKED = "looked at"


class LastLook(FrozenValue):
    """Where a person looked last.

    Attributes:
        capture: id of the capture in the file.
        wire: name of the wire.
        number: the number of the exchange.
    """

    capture: Ident
    wire: str
    number: Number


def read_roles(bench: BenchFile) -> Roles:
    """The roles of a bench; rows that make no sense are left out.

    Args:
        bench: the bench file.

    Raises:
        InputError: they cannot be read.
    """
    roles = []
    for name, text in bench.roles():
        codes = decoded(text, list[str])
        if name and codes and all(CODE.fullmatch(code) for code in codes):
            roles.append(Role(name, tuple(codes)))
    return Roles(tuple(roles))


def write_roles(bench: BenchFile, roles: Roles) -> None:
    """Puts roles into a bench.

    Args:
        bench: a file open for writing.
        roles: all of them.

    Raises:
        OutputError: they cannot be written.
    """
    with bench.writing():
        bench.put_roles((role.name, json.dumps(list(role.codes))) for role in roles.roles)


def read_looked(bench: BenchFile) -> LastLook | None:
    """Where the person looked last; None when that is not known.

    Args:
        bench: the bench file.

    Raises:
        InputError: it cannot be read.
    """
    return decoded(bench.settings().get(LOOKED, "null"), LastLook)


def write_looked(bench: BenchFile, looked: LastLook) -> None:
    """Keeps where the person looks.

    Args:
        bench: a file open for writing.
        looked: capture, wire and exchange.

    Raises:
        OutputError: it cannot be written.
    """
    rows = {"capture": looked.capture, "wire": looked.wire, "number": looked.number}
    with bench.writing():
        bench.put_setting(LOOKED, json.dumps(rows))
