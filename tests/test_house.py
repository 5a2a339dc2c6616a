"""The house: which room may import which, and that the core needs no Qt."""

import ast
import gc
import subprocess
import sys
import tempfile
import unittest
from collections.abc import Iterator
from functools import cache
from graphlib import CycleError, TopologicalSorter
from pathlib import Path

from pivet.sheets.families import FAMILY_KEYS

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
    "insight",
    "feeds",
    "bench",
    "cli",
    "ui",
)
"""From the ground up; each imports only rooms before it."""

STRANGERS = {("ui", "cli")}
"""Pairs that do not know each other, although one stands before the other."""

FOR_ALL = {"errors", "frozen", "progress", "__init__"}
"""Modules that every room may use."""


@cache
def code_of(path: Path) -> ast.Module:
    """A file's code, read once for all rules."""
    return ast.parse(path.read_text(encoding="utf-8"))


def setUpModule() -> None:
    """What is read is kept up to the end; it holds no circles that would have to be looked for."""
    unittest.addModuleCleanup(code_of.cache_clear)
    unittest.addModuleCleanup(gc.enable)
    gc.disable()


def statements(code: ast.AST) -> Iterator[ast.AST]:
    """All statements, those within others too; expressions are not gone through."""
    for block in ("body", "orelse", "finalbody", "handlers", "cases"):
        for node in getattr(code, block, ()):
            yield node
            yield from statements(node)


def imports_of(path: Path) -> set[str]:
    """Names of modules that a file imports, also inside functions."""
    found = set()
    for node in statements(code_of(path)):
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


KEY_NAMES = {"HUMIDITY_FRAME", "ONE_WIRE", "ECHO_PULSE"}
"""The constants of ``sheets/families.py``."""

KNOW_FAMILIES = (
    "judge/humidity/*",
    "families/*",
    "sheets/families.py",
    "listening/asking/explore.py",
    "listening/asking/single.py",
    "insight/registry.py",
    "ui/stack/registry.py",
    "ui/answer/registry.py",
    "cli/standin_scenes.py",
)
"""Packages of a family, and the one registry of each room that has some."""


def family_literals(source: Path) -> list[str]:
    """Where a family is asked for by its name, outside its packages and the registries."""
    found = []
    for path in sorted(source.rglob("*.py")):
        place = path.relative_to(source)
        if any(place.match(pattern) for pattern in KNOW_FAMILIES):
            continue
        text = path.read_text(encoding="utf-8")
        if not any(word in text for word in (*FAMILY_KEYS, *KEY_NAMES)):
            continue
        for node in ast.walk(code_of(path)):
            if not isinstance(node, ast.expr | ast.alias):
                continue
            literal = isinstance(node, ast.Constant) and node.value in FAMILY_KEYS
            if literal or (isinstance(node, ast.alias) and node.name in KEY_NAMES):
                found.append(f"{place}:{node.lineno}")
    return found


def module_name(path: Path, source: Path) -> str:
    """Of a file, as it is imported."""
    parts = [source.name, *path.relative_to(source).with_suffix("").parts]
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def circle(source: Path) -> list[str]:
    """Files that import each other in a circle, also only for their types; none when none do."""
    files = {module_name(path, source): path for path in sorted(source.rglob("*.py"))}
    graph = {}
    for name, path in files.items():
        found = imports_of(path) & files.keys() - {name}
        # A module that is imported by way of its package is not the package.
        graph[name] = {row for row in found if not any(one.startswith(f"{row}.") for one in found)}
    try:
        TopologicalSorter(graph).prepare()
    except CycleError as error:
        return list(error.args[1])
    return []


class House(unittest.TestCase):
    """Dependencies run one way."""

    def test_every_folder_is_a_room(self) -> None:
        """No room stands outside the list."""
        folders = {path.parent.name for path in SOURCE.glob("*/__init__.py")}
        self.assertEqual(set(ROOMS), folders)

    def test_directions(self) -> None:
        """Each room imports only rooms below it."""
        self.assertEqual([], broken_rules(SOURCE))

    def test_no_circles(self) -> None:
        """No two files import each other, over however many others."""
        self.assertEqual([], circle(SOURCE))

    def test_a_circle_is_seen(self) -> None:
        """Also one over three files, of which one imports for types only."""
        with tempfile.TemporaryDirectory() as folder:
            room = Path(folder) / "pivet" / "signal"
            room.mkdir(parents=True)
            for name, other in (("a", "b"), ("b", "c"), ("c", "a"), ("d", "a")):
                line = f"from pivet.signal.{other} import x"
                text = f"if TYPE_CHECKING:\n    {line}\n" if name == "c" else f"{line}\n"
                (room / f"{name}.py").write_text(text, encoding="utf-8")
            found = circle(Path(folder) / "pivet")
            self.assertEqual({"pivet.signal.a", "pivet.signal.b", "pivet.signal.c"}, set(found))

    def test_families_are_known_in_their_packages(self) -> None:
        """Nothing else asks which family it is."""
        self.assertEqual([], family_literals(SOURCE))

    def test_a_known_family_is_seen(self) -> None:
        """As a literal, and by the constant for it."""
        with tempfile.TemporaryDirectory() as folder:
            lines = f'from pivet.sheets.families import ONE_WIRE\nx = "{FAMILY_KEYS[0]}"\n'
            (Path(folder) / "bad.py").write_text(lines, encoding="utf-8")
            self.assertEqual(["bad.py:1", "bad.py:2"], family_literals(Path(folder)))

    def test_a_broken_rule_is_seen(self) -> None:
        """The scan finds an import against the direction, also inside a function."""
        with tempfile.TemporaryDirectory() as folder:
            room = Path(folder) / "signal"
            room.mkdir()
            lines = "def f():\n    from pivet.judge import verdict\n    import PySide6.QtCore\n"
            (room / "bad.py").write_text(lines, encoding="utf-8")
            self.assertEqual(3, len(broken_rules(Path(folder))))

    def test_properties_are_set_by_their_setters(self) -> None:
        """As words of a call Qt's binding does not find them where the capital of i is another."""
        tests = Path(__file__).parent / "ui"
        found = [
            f"{path.name}:{node.lineno}"
            for folder in (SOURCE / "ui", tests)
            for path in folder.rglob("*.py")
            for node in ast.walk(code_of(path))
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.keywords
            if node.func.id.startswith("Q") and node.func.id[1:2].isupper()
        ]
        self.assertEqual([], found)

    def test_one_family_loads_no_other(self) -> None:
        """What a long capture does not carry is not imported: the window is there sooner."""
        code = (
            "import sys\n"
            "from benchmarks.material import humidity_edges, trace_of\n"
            "from pivet.captures.capture import capture_of\n"
            "capture_of('x', trace_of(humidity_edges(86_000)))\n"
            "print([n for n in sys.modules if n.startswith(('pivet.judge.o', 'pivet.judge.echo'))])"
        )
        done = subprocess.run(
            [sys.executable, "-c", code],
            capture_output=True,
            text=True,
            check=True,
            cwd=SOURCE.parents[1],
        )
        self.assertEqual("[]", done.stdout.strip())

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
