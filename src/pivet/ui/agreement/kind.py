"""What the Agreement view is."""

from pivet.ui.view import Around, ViewKind, ViewPage


def _make(around: Around) -> ViewPage:
    from pivet.ui.agreement.page import AgreementPage

    return AgreementPage(around.session, around.store())


AGREEMENT = ViewKind("agreement", "Agreement", "Ctrl+3", "readings", _make)
