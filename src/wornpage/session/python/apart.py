"""Builtins of our own: a chunk that replaces `print` or `sorted` changes nothing here.

Imported before anything else of a session, so that all the rest of it is loaded with them.
"""

from __future__ import annotations

import builtins
import sys
from importlib.abc import MetaPathFinder
from importlib.machinery import ModuleSpec, PathFinder
from typing import Any

_own = dict(vars(builtins))


class _Apart(MetaPathFinder):
    """Finds our own modules as Python would, and gives them those builtins."""

    def find_spec(self, name: str, path: Any = None, target: Any = None) -> ModuleSpec | None:
        if not name.startswith("wornpage."):
            return None
        spec = PathFinder.find_spec(name, path, target)
        if spec is None or spec.loader is None:
            return spec
        load = spec.loader.exec_module

        def load_apart(module: Any) -> None:
            module.__dict__["__builtins__"] = _own
            load(module)

        spec.loader.exec_module = load_apart  # type: ignore[method-assign]
        return spec


def stand_apart() -> None:
    """Load what comes of ours with builtins of its own. It stays first among the finders but for the one that waits for imports."""
    sys.meta_path.insert(0, _Apart())
