"""The views, in the order of their names in the bar."""

from importlib import import_module

from pivet.ui.agreement.kind import AGREEMENT
from pivet.ui.exchange.kind import EXCHANGE
from pivet.ui.margins.kind import MARGINS
from pivet.ui.overview.kind import OVERVIEW
from pivet.ui.printed.kind import PRINTED
from pivet.ui.rehearsal.kind import REHEARSAL
from pivet.ui.trend.kind import TREND

VIEWS = (EXCHANGE, MARGINS, REHEARSAL, PRINTED, TREND, AGREEMENT, OVERVIEW)

OVER_TIME = next(kind for kind in VIEWS if kind.over_time)
"""The one that shows a stretch of time."""


def load_pages() -> None:
    """Imports the page of every view, ``page.py`` in its folder: the first look waits for none."""
    for kind in VIEWS:
        import_module(f"pivet.ui.{kind.key}.page")
