"""Keeping roles in a file."""

from pathlib import Path

from pivet.person.roles import Role, Roles


def load_roles(path: Path) -> Roles:
    """Roles from a file; none when there is no such file.

    Args:
        path: the file.

    Raises:
        InputError: it cannot be used.
    """
    if not path.exists():
        return Roles()
    from pivet.files.roles_json import read_roles  # most have no roles: the window starts sooner

    return Roles(tuple(Role(name, codes) for name, codes in read_roles(path)))


def save_roles(roles: Roles, path: Path) -> None:
    """Writes roles to a file.

    Args:
        roles: all of them.
        path: the file, which is replaced whole.

    Raises:
        OutputError: it cannot be written.
    """
    from pivet.files.roles_json import write_roles

    write_roles([(role.name, role.codes) for role in roles.roles], path)
