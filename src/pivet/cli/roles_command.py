"""``pivet roles``: names of 1-Wire devices, kept by code."""

import re
from pathlib import Path
from typing import TYPE_CHECKING

import click

from pivet.cli.terminal import say
from pivet.errors import InputError

if TYPE_CHECKING:
    from pivet.person.roles import Roles


def roles_path() -> Path:
    """Where the roles of this person are kept."""
    return Path(click.get_app_dir("pivet")) / "roles.json"


def own_roles() -> "Roles":
    """The roles of this person.

    Raises:
        InputError: their file cannot be used.
    """
    from pivet.person.roles_file import load_roles

    return load_roles(roles_path())


def _save(roles: "Roles") -> None:
    from pivet.person.roles_file import save_roles

    save_roles(roles, roles_path())


def _code(text: str) -> str:
    from pivet.files.roles_json import CODE

    code = text.lower()
    if not re.fullmatch(CODE, code):
        raise InputError(f"{text!r} is no ROM code", "write it like 28-0000051b2c7d")
    return code


@click.group()
def roles() -> None:
    """Lists and changes the names of 1-Wire devices."""


@roles.command("list")
def roles_list() -> None:
    """Lists all roles with the codes that held them, the present one first."""
    for role in own_roles().roles:
        before = f"  before: {', '.join(reversed(role.codes[:-1]))}" if role.codes[1:] else ""
        say(f"{role.code}  {role.name}{before}")


@roles.command("name")
@click.argument("code")
@click.argument("name")
def roles_name(code: str, name: str) -> None:
    """Gives the device CODE the role NAME; an empty NAME takes its role away."""
    _save(own_roles().named(_code(code), name))


@roles.command("replace")
@click.argument("old")
@click.argument("new")
def roles_replace(old: str, new: str) -> None:
    """Lets the device NEW take over the role of OLD; the history stays with the role."""
    known, old = own_roles(), _code(old)
    if known.role_of(old) is None:
        raise InputError(f"{old} has no role", "give it one with: pivet roles name")
    _save(known.replaced(old, _code(new)))
