"""The views, in the order of their names in the bar."""

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


DIALOGS = (
    "pivet.ui.live.add_wire",
    "pivet.ui.live.session",
    "pivet.ui.feeds.cards",
    "pivet.ui.readings.limits",
    "pivet.ui.readings.out",
    "pivet.ui.glance.window",
    "pivet.ui.many.report",
    "pivet.ui.window.adding",
    "pivet.ui.window.by_hand",
    "pivet.ui.help.viewer",
    "pivet.ui.standin.pane",
)
"""What is asked for by a key or a menu, and takes a while to load."""
