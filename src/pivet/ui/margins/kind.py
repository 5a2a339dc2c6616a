"""What the Margins view is."""

from pivet.ui.view import Around, ViewKind, ViewPage


def _make(around: Around) -> ViewPage:
    from pivet.ui.margins.page import MarginsPage

    return MarginsPage(around.session, around.whole, around.run)


MARGINS = ViewKind("margins", "Margins", "Ctrl+6", "margins", _make, many=True)
