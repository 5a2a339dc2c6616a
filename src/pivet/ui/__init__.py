"""The window: everything that needs Qt."""

import sys

import PySide6.QtCore  # noqa: F401


def _read_no_sources() -> None:
    """Keeps the Qt binding from reading the source of every module that is imported after it.

    It looks there for ``from __feature__ import``, which nothing here uses; a start of the window
    is a tenth shorter without.
    """
    feature = sys.modules.get("shibokensupport.feature")
    if feature is not None and hasattr(feature, "_mod_uses_pyside"):
        vars(feature)["_mod_uses_pyside"] = lambda _module: False


_read_no_sources()
