"""What the Rehearsal view is."""

from pivet.ui.view import Around, ViewKind, ViewPage


def _make(around: Around) -> ViewPage:
    from pivet.ui.rehearsal.page import RehearsalPage

    return RehearsalPage(around.session, around.whole)


REHEARSAL = ViewKind("rehearsal", "Rehearsal", "Ctrl+7", "margins", _make, many=True)
