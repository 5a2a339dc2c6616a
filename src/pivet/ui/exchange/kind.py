"""What the Exchange view is."""

from pivet.ui.view import Around, ViewKind, ViewPage


def _make(around: Around) -> ViewPage:
    from pivet.ui.exchange.page import ExchangePage

    return ExchangePage(around.session, around.bar)


EXCHANGE = ViewKind("exchange", "Exchange", "Ctrl+1", "stack", _make)
