"""Changes that nobody can set back: a patched library, a registry, a thread, a module of the project with state.

A chunk that leaves one behind is replayed in every session that runs a later chunk. Looked for in what can be
seen cheaply: the names of every loaded module and the attributes of its classes, by identity.
"""

from __future__ import annotations

import operator
import sys
from types import FunctionType, ModuleType
from typing import Any

from wornpage.session.python.fingerprint import is_local, module_token

_QUIET = frozenset({
    "__main__", "matplotlib.backends", "matplotlib.backend_bases", "matplotlib.style", "matplotlib.colors", "os", "posixpath", "linecache", "warnings", "sre_parse", "re", "threading", "tracemalloc",
    "matplotlib._pylab_helpers", "matplotlib.pyplot", "matplotlib", "numpy.random", "random", "sys", "__mp_main__",
})  # fmt: skip
"""Modules whose names change in ordinary use, or whose state is carried elsewhere."""
_DEEP = frozenset({
    "numpy", "pandas.core.frame", "pandas.core.series", "pandas.core.indexes.base", "pandas.core.generic", "pandas.core.base",
    "pandas.core.groupby.groupby", "pandas.core.groupby.generic", "matplotlib.figure", "matplotlib.axes._axes",
    "matplotlib.axes._base", "matplotlib.artist", "json.encoder", "json.decoder", "datetime", "decimal", "_decimal", "fractions",
    "collections", "pathlib", "random", "string", "statistics", "csv", "argparse", "enum", "dataclasses",
})  # fmt: skip
"""Modules whose classes are looked into as well: those whose methods people replace."""
_known: dict[str, tuple[ModuleType, Any]] = {}
"""What modules looked like when last seen."""


class Watch:
    """What the session's modules look like at the start of a chunk."""

    def __init__(self, anew: bool = False) -> None:
        if anew:
            _known.clear()
        self.modules = _snapshot()
        self.local = {name: module_token(name) for name in sys.modules if is_local(name)}
        _registered_things[:] = [_registries()]
        _baseline[0] = registered()
        self.threads = _threads()
        self.atexit = _exits()
        self.children = _children()

    def left_behind(self) -> str:
        """What has been changed since that cannot be set back, in words; empty for nothing."""
        for name, (module, before) in list(_known.items()):
            if sys.modules.get(name) is not module:
                return f"it replaced the module {name}"
            difference = _difference(name, module, before)
            if difference:
                _known.clear()
                return difference
        new_local = sorted(name for name in sys.modules if name not in self.modules and is_local(name))
        if new_local:
            return f"it imported {new_local[0]}, a module of the project"
        for name, token in self.local.items():
            if module_token(name) != token:
                return f"it changed {name}, a module of the project"
        for what, before, now in zip(_REGISTRIES, _registered_things[0], _registries(), strict=True):
            if before is not None and before != now:
                return f"it changed {what}"
        made = [
            name for name in sys.modules if name not in self.modules and name not in _imported and _is_made_up(name)
        ]
        if made:
            return f"it put a module {made[0]} of its own making in place"
        if _threads() > self.threads:
            return "it left a thread running"
        if _children() != self.children:
            return "it left a child process running"
        if registered() != _baseline[0]:
            return "it registered a class as another's"
        loaded = any(name not in self.modules for name in sys.modules)  # libraries tidy up after themselves
        if _exits() != self.atexit and not loaded:
            return "it registered something for the end"
        return ""


def _threads() -> int:
    module = sys.modules.get("threading")
    return module.active_count() if module else 1


def _children() -> tuple[int, ...]:
    module = sys.modules.get("subprocess")
    running = sys.modules.get("multiprocessing.process")
    found = [] if running is None else [child.pid or 0 for child in list(running._children)]
    try:
        with open(f"/proc/self/task/{_main_thread()}/children", encoding="ascii") as file:
            found += [int(word) for word in file.read().split()]
    except OSError:
        pass
    return tuple(sorted(found)) if module or running else ()


def _main_thread() -> int:
    import os

    return os.getpid()


def _exits() -> int:
    module = sys.modules.get("atexit")
    return module._ncallbacks() if module and hasattr(module, "_ncallbacks") else 0


def _snapshot() -> dict[str, tuple[ModuleType, Any]]:
    """What every module looks like. Those seen at the end of the last chunk are as they were then, or were told of."""
    for name, module in list(sys.modules.items()):
        if name in _QUIET or not isinstance(module, ModuleType) or name.startswith(("wornpage", "_cython")):
            continue
        known = _known.get(name)
        if known is None or known[0] is not module:
            _known[name] = (module, _state(name, module))
    return dict(_known)


_REGISTRIES = (
    "where print writes",
    "how modules are found",
    "signal handlers",
    "how things are copied",
    "colour maps",
    "fonts",
)


def _registries() -> tuple[Any, ...]:
    """State of well-known registries, by identity or size; None where the library is not there."""
    matplotlib, copyreg, signal = (sys.modules.get(name) for name in ("matplotlib", "copyreg", "signal"))
    fonts = sys.modules.get("matplotlib.font_manager")
    maps = getattr(matplotlib, "colormaps", None) if "matplotlib.cm" in sys.modules else None
    return (
        (id(sys.stdout), id(sys.stderr), id(sys.stdin)),
        (tuple(map(id, sys.meta_path)), tuple(map(id, sys.path_hooks))),
        tuple(id(signal.getsignal(number)) for number in _SIGNALS) if signal else None,
        len(copyreg.dispatch_table) if copyreg else None,
        len(maps) if maps is not None else None,
        len(fonts.fontManager.ttflist) if fonts and hasattr(fonts, "fontManager") else None,
    )


_SIGNALS = (1, 2, 10, 12, 14, 15)
"""Those that people handle: hang-up, interrupt, the two of the user's own, alarm, termination."""


def _is_made_up(name: str) -> bool:
    """Whether a module comes from nowhere: made by hand and put among those that are imported."""
    module = sys.modules.get(name)
    if name.startswith(("_", "cython")) or type(module) is not ModuleType:
        return False
    return getattr(module, "__spec__", None) is None and getattr(module, "__file__", None) is None and "." not in name


def note_new_modules() -> None:
    """Modules have been imported: this is what they look like before anybody changes them."""
    _snapshot()


def before_import(by_author: bool) -> tuple[int, bool]:
    """What `after_import` wants to know: how much was registered, and whether the chunk has left the registries alone so far.

    Libraries import within their functions thousands of times; they are trusted not to handle registries otherwise.
    """
    return registered(), not by_author or (bool(_registered_things) and _registered_things[0] == _registries())


def after_import(before: tuple[int, bool]) -> None:
    """An import is done: what it has registered is not the chunk's doing."""
    count, untouched = before
    _baseline[0] += registered() - count
    _imported.update(sys.modules)
    if untouched:
        _registered_things[:] = [_registries()]


def registered() -> int:
    """A number that grows with every class registered as a subclass of another; libraries do so when they are imported."""
    module = sys.modules.get("abc")
    return module.get_cache_token() if module else 0


_imported: set[str] = set()
"""Modules that were there when an import was done: it, and no author, put them there."""
_registered_things: list[tuple[Any, ...]] = []
"""The state of the registries at the start of the chunk, and what imports have made of it since."""
_baseline: list[int] = [0]
"""That number at the start of the chunk, and what imports have added to it since."""


def _state(name: str, module: ModuleType) -> Any:
    """The objects themselves: held, so that none of their places is taken by another."""
    classes = _classes(name, module.__dict__) if name in _DEEP else ()
    return dict(module.__dict__), [(kind, dict(kind.__dict__)) for kind in classes]


def _classes(name: str, values: dict[str, Any]) -> list[type]:
    """Classes of the same package; pandas says of its classes that they live at its top."""
    package = name.split(".", maxsplit=1)[0]
    return [value for value in values.values() if isinstance(value, type) and value.__module__.split(".")[0] == package]


def _difference(name: str, module: ModuleType, before: Any) -> str:
    names, classes = before
    if not _same(names, module.__dict__):
        changed = _changed_names(names, module.__dict__)
        if changed:
            return f"it changed {name}.{changed}"
        _known[name] = (module, _state(name, module))
    for kind, attributes in classes:
        if not _same(attributes, kind.__dict__):
            changed = _changed_names(attributes, dict(kind.__dict__))
            if changed:
                return f"it changed {name}.{kind.__name__}.{changed}"
    return ""


def _same(before: Any, now: Any) -> bool:
    return len(before) == len(now) and all(map(operator.is_, before.values(), now.values()))


def _changed_names(before: dict[str, Any], now: dict[str, Any]) -> str:
    """A public name that stands for something else now; lazy imports, private caches and equal constants are no change."""
    for name in {*before, *now}:
        old, new = before.get(name, _NOTHING), now.get(name, _NOTHING)
        if name.startswith("_") and not (isinstance(old, FunctionType) and new is not old):
            continue  # private names come and go; a private function that is replaced is a patch
        if old is new or isinstance(new, ModuleType) or isinstance(old, ModuleType):
            continue
        if type(old) is type(new) and type(old) in _PLAIN and old == new:
            continue
        return name
    return ""


_NOTHING = object()
_PLAIN = (int, float, str, bytes, bool, tuple)
