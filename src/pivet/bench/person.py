"""What a person gave to a bench, as the file keeps it: names of devices, notes."""

import json
import time
from dataclasses import dataclass

from pivet.bench.roles import Role, Roles
from pivet.files.benchfile.store import BenchFile


@dataclass(frozen=True, slots=True)
class Note:
    """A note.

    Attributes:
        wall_ns: when it was written, ns since 1970.
        text: what it says.
        wire: id of the wire that it is on; None for the whole bench.
        number: of the exchange that it is on.
    """

    wall_ns: int
    text: str
    wire: int | None = None
    number: int | None = None


def read_person(bench: BenchFile) -> Roles:
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


def add_note(bench: BenchFile, text: str, wire: int | None, number: int | None) -> None:
    """Puts a note into a bench.

    Raises:
        OutputError: it cannot be written.
    """
    with bench.writing():
        bench.add_note(time.time_ns(), text, wire, number)


def notes(bench: BenchFile) -> list[Note]:
    """The notes of a bench, oldest first.

    Raises:
        InputError: they cannot be read.
    """
    return [Note(*row) for row in bench.notes()]
