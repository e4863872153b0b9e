"""Do something as soon as a chunk has imported a certain module, and not before."""

from __future__ import annotations

import sys
from collections.abc import Callable, Sequence
from importlib.machinery import ModuleSpec
from types import ModuleType

_after: dict[str, list[Callable[[ModuleType], None]]] = {}


def after_import(name: str, act: Callable[[ModuleType], None]) -> None:
    """Call `act(module)` right after `name` is imported, or now if it has been."""
    if name in sys.modules:
        act(sys.modules[name])
    else:
        _after.setdefault(name, []).append(act)


class _Finder:
    """Finds the modules that are waited for as Python would, and wraps how they are loaded."""

    def find_spec(self, name: str, path: Sequence[str] | None, target: ModuleType | None = None) -> ModuleSpec | None:
        if name not in _after:
            return None
        spec = None
        for finder in sys.meta_path:
            if finder is not self and (spec := finder.find_spec(name, path, target)):
                break
        if spec is None or spec.loader is None or not hasattr(spec.loader, "exec_module"):
            return None
        load = spec.loader.exec_module

        def load_then_act(module: ModuleType) -> None:
            load(module)
            for act in _after.pop(name, []):
                act(module)

        spec.loader.exec_module = load_then_act  # type: ignore[method-assign]
        return spec


def install() -> None:
    """Watch imports from now on."""
    sys.meta_path.insert(0, _Finder())
