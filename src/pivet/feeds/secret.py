"""Passwords and keys of feeds: from the environment, or the desktop's keyring; never in a bench."""

import os

from pivet.errors import InputError, OutputError
from pivet.feeds.setup import FeedSetup

SERVICE = "Pivet feed"


def _account(setup: FeedSetup) -> str:
    """Bound to the host: a bench of somebody else cannot ask for it."""
    return f"{setup.id}@{setup.host}"


def secret_of(setup: FeedSetup) -> str:
    """The password or key of a feed; empty where it has none.

    Args:
        setup: says where it is.

    Raises:
        InputError: it is not there.
    """
    if not setup.secret:
        return ""
    if setup.secret != "keyring":
        name = setup.secret.removeprefix("env:")
        found = os.environ.get(name, "")
        if not found:
            raise InputError(f"the variable {name} is not set", "set it before Pivet starts")
        return found
    import keyring
    from keyring.errors import KeyringError

    try:
        kept = keyring.get_password(SERVICE, _account(setup))
    except KeyringError as error:
        raise InputError(f"the keyring cannot be read ({error})", "unlock it") from error
    if kept is None:
        raise InputError("the keyring has no key for this feed", "give it: pivet feed secret")
    return kept


def keep_secret(setup: FeedSetup, secret: str) -> None:
    """Puts a password or key into the keyring.

    Args:
        setup: of the feed.
        secret: what is kept.

    Raises:
        OutputError: there is no keyring, or it is locked.
    """
    import keyring
    from keyring.errors import KeyringError

    try:
        keyring.set_password(SERVICE, _account(setup), secret)
    except KeyringError as error:
        raise OutputError(
            f"the keyring cannot be written ({error})", "unlock it, or use --secret-from env:"
        ) from error


def forget_secret(setup: FeedSetup) -> None:
    """Takes a password or key out of the keyring, if it is there.

    Args:
        setup: of the feed.
    """
    if setup.secret != "keyring":
        return
    import contextlib

    import keyring
    from keyring.errors import KeyringError

    with contextlib.suppress(KeyringError):
        keyring.delete_password(SERVICE, _account(setup))
