"""Encrypted connections: whom a feed trusts, and how it shows who it is."""

import ssl

from pivet.feeds.setup import FeedSetup
from pivet.feeds.trouble import FeedTrouble, words_of


def tls_context(setup: FeedSetup) -> ssl.SSLContext:
    """The authority that is trusted, and the client's certificate.

    Args:
        setup: says their files.

    Raises:
        FeedTrouble: one cannot be used.
    """
    try:
        context = ssl.create_default_context(cafile=setup.ca or None)
        if setup.cert:
            context.load_cert_chain(setup.cert, setup.cert_key, password="")
    except (OSError, ssl.SSLError) as error:
        raise FeedTrouble(
            f"the certificates cannot be used ({words_of(error)})", "check their files"
        ) from error
    return context
