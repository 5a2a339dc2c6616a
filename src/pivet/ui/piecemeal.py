"""A large package imported one statement of its first file at a time.

The import of the package that plots are drawn with takes longer in one piece than a person's hand
may wait, and must be in the window's thread, since it makes classes of Qt.
"""

import ast
import sys
from collections.abc import Iterator
from importlib import import_module
from importlib.util import find_spec, module_from_spec
from pathlib import Path


def import_piecemeal(name: str) -> Iterator[None]:
    """Imports a package as ``import`` does, with a step after each statement of it.

    Until the last step the package has only some of its names: nothing else may import it.  When it
    is left halfway, it is as if it had not been imported.

    Args:
        name: of a package; what is imported already takes no step.

    Raises:
        ImportError: there is no such package, or one of its statements fails so.
    """
    if name in sys.modules:
        return
    spec = find_spec(name)
    if spec is None or spec.origin is None or not spec.origin.endswith(".py"):
        import_module(name)
        return
    module = module_from_spec(spec)
    sys.modules[name] = module
    try:
        for statement in ast.parse(Path(spec.origin).read_bytes()).body:
            code = compile(ast.Module([statement], []), spec.origin, "exec")
            exec(code, module.__dict__)
            yield
    except BaseException:
        del sys.modules[name]
        raise
