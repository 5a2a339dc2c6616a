"""The house: which room may import which, and that the core needs no Qt."""

import ast
import subprocess
import sys
import unittest
from pathlib import Path

SOURCE = Path(__file__).parent.parent / "src" / "pivet"

ROOMS = (
    "signal",
    "sheets",
    "decode",
    "readings",
    "judge",
    "files",
    "person",
    "sources",
    "standin",
    "families",
    "captures",
    "history",
    "listening",
    "keeping",
    "bench",
    "cli",
    "ui",
)
"""From the ground up; each imports only rooms before it."""

STRANGERS = {("ui", "cli")}
"""Pairs that do not know each other, although one stands before the other."""

FOR_ALL = {"errors", "progress", "__init__"}
"""Modules that every room may use."""


def imports_of(path: Path) -> set[str]:
    """Names of modules that a file imports, also inside functions."""
    found = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found |= {name.name for name in node.names}
        elif isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{path} imports relatively"
            found.add(node.module or "")
            found |= {f"{node.module}.{name.name}" for name in node.names}
    return found


def broken_rules(source: Path) -> list[str]:
    """What stands against the house, one line each."""
    broken = []
    for path in sorted(source.rglob("*.py")):
        place = path.relative_to(source).parts
        if len(place) == 1:
            continue
        room = place[0]
        for name in sorted(imports_of(path)):
            parts = name.split(".")
            if parts[0] in ("PySide6", "shiboken6") and room != "ui":
                broken.append(f"{path}: {name} outside ui")
            if parts[0] != "pivet" or len(parts) < 2 or parts[1] in FOR_ALL | {"__version__"}:
                continue
            other = parts[1]
            allowed = other == room or ROOMS.index(other) < ROOMS.index(room)
            if not allowed or (room, other) in STRANGERS:
                broken.append(f"{path}: {room} imports {name}")
    return broken


class House(unittest.TestCase):
    """Dependencies run one way."""

    def test_every_folder_is_a_room(self) -> None:
        """No room stands outside the list."""
        folders = {path.parent.name for path in SOURCE.glob("*/__init__.py")}
        self.assertEqual(set(ROOMS), folders)

    def test_directions(self) -> None:
        """Each room imports only rooms below it."""
        self.assertEqual([], broken_rules(SOURCE))

    def test_a_broken_rule_is_seen(self) -> None:
        """The scan finds an import against the direction, also inside a function."""
        import tempfile

        with tempfile.TemporaryDirectory() as folder:
            room = Path(folder) / "signal"
            room.mkdir()
            lines = "def f():\n    from pivet.judge import verdict\n    import PySide6.QtCore\n"
            (room / "bad.py").write_text(lines, encoding="utf-8")
            self.assertEqual(3, len(broken_rules(Path(folder))))

    def test_core_starts_without_qt_and_scipy(self) -> None:
        """The command line imports neither Qt nor SciPy nor the VCD package."""
        code = (
            "import sys, pivet.cli.commands, pivet.bench.demo\n"
            "print([n for n in ('PySide6', 'scipy', 'vcd') if n in sys.modules])"
        )
        done = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, check=True
        )
        self.assertEqual("[]", done.stdout.strip())


if __name__ == "__main__":
    unittest.main()
