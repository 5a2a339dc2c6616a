"""What a person gave to a bench, as the file keeps it: names of devices, where they looked."""

import json
from dataclasses import dataclass

from pivet.bench.roles import Role, Roles
from pivet.files.benchfile.store import BenchFile

LOOKED = "looked at"


@dataclass(frozen=True, slots=True)
class Looked:
    """Where a person looked last.

    Attributes:
        capture: id of the capture in the file.
        wire: name of the wire.
        number: of the exchange.
    """

    capture: int
    wire: str
    number: int


def read_roles(bench: BenchFile) -> Roles:
    """The roles of a bench; rows that make no sense are left out.

    Raises:
        InputError: they cannot be read.
    """
    roles = []
    for name, text in bench.roles():
        try:
            codes = json.loads(text)
        except ValueError:
            continue
        if isinstance(codes, list) and codes and all(isinstance(code, str) for code in codes):
            roles.append(Role(name, tuple(codes)))
    return Roles(tuple(roles))


def write_roles(bench: BenchFile, roles: Roles) -> None:
    """Puts roles into a bench.

    Raises:
        OutputError: they cannot be written.
    """
    with bench.writing():
        bench.put_roles((role.name, json.dumps(list(role.codes))) for role in roles.roles)


def read_looked(bench: BenchFile) -> Looked | None:
    """Where the person looked last; None when that is not known.

    Raises:
        InputError: it cannot be read.
    """
    try:
        row = json.loads(bench.settings().get(LOOKED, "null"))
        return Looked(int(row["capture"]), str(row["wire"]), int(row["number"]))
    except (KeyError, TypeError, ValueError):
        return None


def write_looked(bench: BenchFile, looked: Looked) -> None:
    """Keeps where the person looks.

    Raises:
        OutputError: it cannot be written.
    """
    rows = {"capture": looked.capture, "wire": looked.wire, "number": looked.number}
    with bench.writing():
        bench.put_setting(LOOKED, json.dumps(rows))
