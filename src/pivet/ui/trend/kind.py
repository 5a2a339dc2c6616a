"""What the Trend view is."""

from pivet.ui.view import Around, ViewKind, ViewPage


def _make(around: Around) -> ViewPage:
    from pivet.ui.trend.page import TrendPage

    return TrendPage(around.session, around.store(), around.run)


TREND = ViewKind("trend", "Trend", "Ctrl+2", "readings", _make, over_time=True)
