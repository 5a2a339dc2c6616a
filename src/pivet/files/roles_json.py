"""The file of roles, JSON; see docs/roles.md."""

import json
import re
from collections.abc import Sequence
from pathlib import Path
from typing import IO, cast

from pivet.errors import InputError
from pivet.files import disk

VERSION = 1
CODE = re.compile(r"[0-9a-f]{2}-[0-9a-f]{12}")

Rows = list[tuple[str, tuple[str, ...]]]
"""Name of each role and the codes that held it, the present one last."""


def read_roles(path: Path) -> Rows:
    """Reads a file of roles; none when there is no such file.

    Raises:
        InputError: it is no such file, or cannot be read.
    """
    try:
        data = json.loads(path.read_text(encoding="utf-8"))
    except FileNotFoundError:
        return []
    except OSError as error:
        raise InputError(f"{path} cannot be read ({error.strerror})", "check its rights") from error
    except ValueError as error:
        raise InputError(f"{path} is no JSON ({error})", "mend or remove it") from error
    version = data.get("pivet_roles") if isinstance(data, dict) else None
    if version != VERSION:
        raise InputError(
            f"{path} is no file of roles of version {VERSION}", "use a newer Pivet, or remove it"
        )
    return [_row(row, path) for row in data.get("roles", [])]


def _row(row: object, path: Path) -> tuple[str, tuple[str, ...]]:
    name = row.get("name") if isinstance(row, dict) else None
    codes = row.get("codes") if isinstance(row, dict) else None
    if not isinstance(name, str) or not isinstance(codes, list) or not name or not codes:
        raise InputError(f"{path} has a role without name or codes", "mend it")
    for code in codes:
        if not isinstance(code, str) or not CODE.fullmatch(code):
            raise InputError(
                f"{path} gives the role {name!r} the code {code!r}", "write 28-0000051b2c7d"
            )
    return name, tuple(codes)


def write_roles(rows: Sequence[tuple[str, tuple[str, ...]]], path: Path) -> None:
    """Writes a file of roles, whole or not at all.

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
