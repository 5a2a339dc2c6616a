"""What the Overview view is."""

from pivet.ui.view import Around, ViewKind, ViewPage


def _make(around: Around) -> ViewPage:
    from pivet.ui.overview.page import OverviewPage

    return OverviewPage(around.session, around.store())


OVERVIEW = ViewKind("overview", "Overview", "Ctrl+4", "readings", _make)
