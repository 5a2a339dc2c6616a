"""The person's own timing sheets: a folder of them, and single ones brought for one command."""

import re
from pathlib import Path

from pivet.errors import InputError
from pivet.sheets.check import MOST_BYTES, checked_sheet
from pivet.sheets.load import (
    OwnSheet,
    find_sheet,
    own_sheets,
    sheet_text,
    shipped_sheets,
    use_own,
)
from pivet.sheets.model import Sheet

SUFFIX = ".toml"
MOST_ID = 30

HEAD = """# A timing sheet of your own, begun with {model}. Times in µs.
# What is wrong with it tells: pivet sheet check FILE
"""
BY_CHOICE = """# Taken only when it is chosen; without this line it is recognised by its signals.
by_choice = true

"""


def use_folder(folder: Path) -> list[InputError]:
    """Takes all sheets of a folder, beside those of Pivet; none when there is no such folder.

    Args:
        folder: with one TOML file a sheet.

    Returns:
        why some are left out, one each.
    """
    found: dict[str, OwnSheet] = {}
    refused: list[InputError] = []
    for path in sorted(folder.glob(f"*{SUFFIX}")):
        try:
            own = read_sheet(path)
            if own.sheet.id in found:
                other = found[own.sheet.id].path.name
                raise InputError(f"{path} has the id of {other}", "give it an id of its own")
            found[own.sheet.id] = own
        except InputError as error:
            refused.append(error)
    use_own(found.values())
    return refused


def bring_sheet(path: Path) -> Sheet:
    """Takes one more sheet from a file, in place of one of theirs with the same id.

    Args:
        path: the file.

    Raises:
        InputError: it cannot be used; the message names file and line.
    """
    own = read_sheet(path)
    use_own([*(other for key, other in own_sheets().items() if key != own.sheet.id), own])
    return own.sheet


def read_sheet(path: Path) -> OwnSheet:
    """A sheet of the person, from its file.

    Args:
        path: the file.

    Raises:
        InputError: it cannot be read or used; the message names file and line.
    """
    text = sheet_file(path)
    return OwnSheet(checked_sheet(text, str(path)), text, path)


def sheet_file(path: Path) -> str:
    """The text of a sheet's file.

    Args:
        path: the file.

    Raises:
        InputError: it cannot be read, or is no text.
    """
    from pivet.files.incoming import read_bytes  # most have no sheets: all starts sooner

    try:
        return read_bytes(path, most=MOST_BYTES, again="begin with: pivet sheet copy").decode(
            "utf-8"
        )
    except UnicodeDecodeError as error:
        raise InputError(f"{path} is no UTF-8 text", "save it as UTF-8") from error


def copy_text(model: str, name: str) -> str:
    """A sheet as the beginning of a new one, under a new id.

    It is taken only when it is chosen, since its signals are those of the other.

    Args:
        model: id of the sheet that is copied.
        name: the name of the new one; its id is made of it.

    Raises:
        InputError: there is no such sheet.
    """
    original = find_sheet(model)
    own_id = re.sub(r"[^a-z0-9._-]+", "-", name.lower()).strip("._-")[:MOST_ID] or "own"
    if own_id in shipped_sheets():
        own_id = f"own-{own_id}"
    text = re.sub(r"\A(#.*\n)*", "", sheet_text(model))
    text = re.sub(r"^by_choice.*\n", "", text, flags=re.MULTILINE)
    for key, value in (("id", own_id), ("name", f"{own_id} (from {original.name})")):
        text = re.sub(rf"^{key} = .*$", f'{key} = "{value}"', text, count=1, flags=re.MULTILINE)
    return HEAD.format(model=model) + text.replace("\n[", f"\n{BY_CHOICE}[", 1)
