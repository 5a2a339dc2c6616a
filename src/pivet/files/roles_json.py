"""The file of roles, JSON; see docs/roles.md."""

import json
import re
from collections.abc import Sequence
from pathlib import Path
from typing import IO, cast

import msgspec

from pivet.errors import InputError
from pivet.files import disk
from pivet.files.incoming import read_bytes

VERSION = 1
CODE = re.compile(r"[0-9a-f]{2}-[0-9a-f]{12}")
MOST_BYTES = 16 << 20

Rows = list[tuple[str, tuple[str, ...]]]
"""Name of each role and the codes that held it, the present one last."""


class _Role(msgspec.Struct):
    """A role."""

    name: str = ""
    codes: tuple[str, ...] = ()


class _Version(msgspec.Struct):
    """What every version has."""

    pivet_roles: int


class _Roles(_Version):
    """The whole file."""

    roles: tuple[_Role, ...] = ()


def read_roles(path: Path) -> Rows:
    """Reads a file of roles.

    Args:
        path: the file.

    Raises:
        InputError: it is no such file, or cannot be read.
    """
    content = read_bytes(path, most=MOST_BYTES, again="remove it, and name the devices again")
    try:
        version = msgspec.json.decode(content, type=_Version).pivet_roles
        if version != VERSION:
            raise InputError(
                f"{path} is no file of roles of version {VERSION}, but of version {version}",
                "use a newer Pivet, or remove it",
            )
        found = msgspec.json.decode(content, type=_Roles)
    except msgspec.ValidationError as error:
        raise InputError(
            f"{path} is no file of roles of version {VERSION} ({error})", "mend or remove it"
        ) from error
    except (msgspec.DecodeError, RecursionError) as error:
        raise InputError(f"{path} is no JSON ({error})", "mend or remove it") from error
    return [_row(role, path) for role in found.roles]


def _row(row: _Role, path: Path) -> tuple[str, tuple[str, ...]]:
    if not row.name or not row.codes:
        raise InputError(f"{path} has a role without name or codes", "mend it")
    for code in row.codes:
        if not CODE.fullmatch(code):
            raise InputError(
                f"{path} gives the role {row.name!r} the code {code!r}", "write 28-0000051b2c7d"
            )
    return row.name, row.codes


def write_roles(rows: Sequence[tuple[str, tuple[str, ...]]], path: Path) -> None:
    """Writes a file of roles, whole or not at all.

    Args:
        rows: code of the device, and its names over time.
        path: the file.

    Raises:
        OutputError: it cannot be written.
    """
    roles = [{"name": name, "codes": list(codes)} for name, codes in rows]
    data = {"pivet_roles": VERSION, "roles": roles}
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise disk.write_error(path, error) from error
    with disk.writing(path) as stream:
        text = cast(IO[str], stream)
        text.write(json.dumps(data, ensure_ascii=False, indent=2) + "\n")
