"""What the Printed view is."""

from pivet.ui.view import Around, ViewKind, ViewPage


def _make(around: Around) -> ViewPage:
    from pivet.ui.printed.page import PrintedPage

    return PrintedPage(around.session, around.whole)


PRINTED = ViewKind("printed", "Printed", "Ctrl+8", "printed", _make, many=True)
