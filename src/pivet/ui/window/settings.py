"""What the window remembers from one start to the next."""

from pathlib import Path

from PySide6.QtCore import QByteArray, QSettings, QStandardPaths

from pivet.readings.units import AS_KEPT, UnitChoice
from pivet.ui.drawing.theme import ThemeChoice

MOST_RECENT = 10


class Settings:
    """Remembered state, in the place that the system has for it.

    Args:
        kept: False for state that is forgotten with this object, and begins empty.
    """

    def __init__(self, kept: bool = True) -> None:
        self._store = QSettings("Pivet", "Pivet") if kept else _Forgetful()
        self.roles_path: Path | None = _roles_path() if kept else None
        self.unsaved_folder: Path | None = _unsaved_folder() if kept else None

    def recent(self) -> list[Path]:
        """Files opened last, newest first."""
        stored = self._store.value("recent", [])
        names = stored if isinstance(stored, list) else [stored]
        return [Path(name) for name in names if isinstance(name, str) and name][:MOST_RECENT]

    def add_recent(self, path: Path) -> None:
        """Puts a file first."""
        own = path.resolve()
        rest = [other for other in self.recent() if other != own]
        self._store.setValue("recent", [str(one) for one in (own, *rest)][:MOST_RECENT])

    def clear_recent(self) -> None:
        """Forgets all files."""
        self._store.remove("recent")

    @property
    def folder(self) -> str:
        """Folder of the last file."""
        return str(self._store.value("folder", str(Path.home())))

    @folder.setter
    def folder(self, path: str) -> None:
        self._store.setValue("folder", path)

    @property
    def theme(self) -> ThemeChoice:
        """Chosen theme."""
        stored = str(self._store.value("theme", ThemeChoice.SYSTEM))
        known = stored in ThemeChoice.__members__.values()
        return ThemeChoice(stored) if known else ThemeChoice.SYSTEM

    @theme.setter
    def theme(self, choice: ThemeChoice) -> None:
        self._store.setValue("theme", str(choice))

    @property
    def units(self) -> UnitChoice:
        """The units in which readings are shown."""
        stored = self._store.value("units", [])
        rows = [stored] if isinstance(stored, str) else stored if isinstance(stored, list) else []
        units = AS_KEPT
        for symbol in rows:
            units = units.with_unit(str(symbol))
        return units

    @units.setter
    def units(self, units: UnitChoice) -> None:
        self._store.setValue("units", list(units.chosen.values()))

    @property
    def log(self) -> str:
        """The running log that is kept, as JSON; empty while none is."""
        return str(self._store.value("log", ""))

    @log.setter
    def log(self, wish: str) -> None:
        self._store.setValue("log", wish)

    @property
    def last_log(self) -> str:
        """The running log that was wanted last, as JSON."""
        return str(self._store.value("last_log", ""))

    @last_log.setter
    def last_log(self, wish: str) -> None:
        self._store.setValue("last_log", wish)

    def bytes_of(self, key: str) -> QByteArray:
        """Stored state of a widget; empty when there is none."""
        stored = self._store.value(key)
        return stored if isinstance(stored, QByteArray) else QByteArray()

    def keep_bytes(self, key: str, state: QByteArray) -> None:
        """Stores state of a widget."""
        self._store.setValue(key, state)


def _roles_path() -> Path:
    """Where the command line keeps the roles too."""
    folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericConfigLocation)
    return Path(folder) / "pivet" / "roles.json"


def _unsaved_folder() -> Path:
    """Where a bench is kept that has no name yet."""
    places = QStandardPaths.StandardLocation
    return Path(QStandardPaths.writableLocation(places.GenericDataLocation)) / "pivet" / "unsaved"


class _Forgetful:
    """The part of QSettings that is used here, in memory."""

    def __init__(self) -> None:
        self._values: dict[str, object] = {}

    def value(self, key: str, default: object = None) -> object:
        """A stored value."""
        return self._values.get(key, default)

    def setValue(self, key: str, value: object) -> None:
        """Stores a value."""
        self._values[key] = value

    def remove(self, key: str) -> None:
        """Forgets a value."""
        self._values.pop(key, None)
