"""Imports: what code asks for, what loading does elsewhere, and which modules each module asked for as it was loaded.

A library works with others where they happen to be installed, of which its requirements say nothing. Which ones those are is found
in what its modules asked for when they were loaded, whoever had them loaded: what is loaded anew depends on what went before.
"""

from __future__ import annotations

import builtins
import importlib
import importlib.util
import sys
from collections.abc import Callable, Iterable
from importlib.machinery import PathFinder
from types import FrameType
from typing import TYPE_CHECKING, Any

from wornpage.session.python import effects, inner
from wornpage.session.python.callers import above, globals_above
from wornpage.session.python.modules import is_local, is_of_project
from wornpage.session.python.names import Names, watch_identity

if TYPE_CHECKING:
    from wornpage.session.python.watching import Watcher

_Asked = tuple[str, tuple[str, ...], int]
"""A name as it was asked for, the names wanted from there, and how many packages up."""
_asked: dict[str, set[_Asked]] = {}
"""By module: what it asked for while it was loaded."""
_meant: dict[str, tuple[int, set[str]]] = {}
"""By module: how often it had asked, and what was loaded for it, with the packages that lie around that."""
_behind: dict[frozenset[str], set[str]] = {}
"""What `packages_behind` has found out; forgotten when more is loaded."""


def packages_behind(modules: set[str]) -> set[str]:
    """Top-level packages of these modules and of all that was loaded for them, ours left out."""
    if len(_asked) != _counted[0]:
        _counted[0] = len(_asked)
        _behind.clear()
    asked = frozenset(modules)
    if asked not in _behind:
        _behind[asked] = {name.partition(".")[0] for name in _reached(modules)} - {"wornpage"}
    return _behind[asked]


_counted = [0]


def _reached(modules: set[str]) -> set[str]:
    """These modules and all that was loaded for them; what we have loaded for ourselves is not gone into."""
    found: set[str] = set()
    todo = {around for name in modules for around in _with_parents(name)}
    while todo:
        found |= todo
        todo = {one for name in todo if not name.startswith("wornpage") for one in _loaded_for(name)} - found
    return found


def _loaded_for(module: str) -> set[str]:
    asked = _asked.get(module)
    if asked is None:
        return set()
    known = _meant.get(module)
    if known is None or known[0] != len(asked):
        package = getattr(sys.modules.get(module), "__package__", None) or ""
        bases = [(_absolute(name, package, level), parts) for name, parts, level in asked]
        meant = {one for base, _ in bases for one in _with_parents(base)}
        meant |= {f"{base}.{part}" for base, parts in bases for part in parts} & sys.modules.keys()
        known = _meant[module] = (len(asked), meant)
    return known[1]


def _with_parents(name: str) -> list[str]:
    found = [name]
    while (at := name.rfind(".")) > 0:
        name = name[:at]
        found.append(name)
    return found


def _absolute(name: str, package: str, level: int) -> str:
    if not level:
        return name
    base = package.rsplit(".", level - 1)[0] if level > 1 else package
    return f"{base}.{name}" if name else base


def _note(frame: FrameType | None, name: str, parts: Iterable[str] | None, level: int) -> bool:
    """Note what is asked for while a module is loaded: it counts for the module whose loading goes on, not for whose code it is.

    Returns whether one is being loaded.
    """
    while frame is not None and frame.f_code.co_name != "<module>":
        frame = frame.f_back
    loaded = "__main__" if frame is None else str(frame.f_globals.get("__name__"))
    if loaded == "__main__":  # a chunk, or the session itself
        return False
    _asked.setdefault(loaded, set()).add((name, tuple(parts or ()), level))
    return True


def _see_searches(watcher: Watcher) -> None:
    """See what is searched for along the import path: a file that is put there later may be found instead, or at all."""
    original = PathFinder.find_spec

    def find_spec(name: str, path: Any = None, target: Any = None) -> Any:
        if watcher.on:
            watcher.searches(name.rpartition(".")[2], sys.path if path is None else path)
        return original(name, path, target)

    PathFinder.find_spec = staticmethod(find_spec)  # type: ignore[method-assign,assignment]


def _see_questions(watcher: Watcher) -> None:
    """See of what it is asked whether it could be imported."""
    find = importlib.util.find_spec

    def seen(name: str, package: str | None = None) -> Any:
        if watcher.on:
            watcher.imported.add(name)
        return find(name, package)

    importlib.util.find_spec = seen


def watch(watcher: Watcher) -> None:
    """See which modules the author's code imports, also those that are loaded already."""
    original, original_by_name = builtins.__import__, importlib.import_module
    depth = [0]  # imports within imports are counted with the outermost

    def loading(name: str, by_library: bool, act: Callable[[], object], loads: bool) -> object:
        """Import something; what a library changes elsewhere meanwhile is not the chunk's doing, what a module of the project does is."""
        outermost = watcher.on and depth[0] == 0 and loads
        if outermost and is_of_project(name):
            return act()
        loaded = len(sys.modules)
        before = effects.before_import(name, by_library) if outermost else effects.Before()
        depth[0] += 1
        try:
            module = act()
        finally:
            depth[0] -= 1
        if outermost and len(sys.modules) != loaded:
            effects.after_import(before)
            effects.note_new_modules()  # what the chunk changes in them from here on is its doing
        return module

    def seen(name: str, globals: Any = None, locals: Any = None, fromlist: Any = (), level: int = 0) -> Any:
        where = globals_above() if globals is None else globals
        if depth[0] and type(where) is dict:  # an import within an import, of which there are thousands
            _note(above(), name, fromlist, level)
            return original(name, globals, locals, fromlist, level)
        if isinstance(where, Names):
            if watcher.on and level == 0:
                watcher.imported.add(name)
                watcher.imported.update(f"{name}.{part}" for part in fromlist or () if isinstance(part, str))
                if name == "builtins":
                    watch_identity()
        elif not _note(above(), name, fromlist, level) and watcher.on and level == 0 and not _is_ours(where):
            watcher.asked_for.add(name)
        loads = watcher.on and depth[0] == 0 and (_loads(name, globals, fromlist, level) or inner.is_waiting(name))
        by_library = not isinstance(where, Names) and not is_local(str(where.get("__name__")))
        package = str((globals or {}).get("__package__") or "") if level else name

        def act() -> object:
            found = original(name, globals, locals, fromlist, level)
            if not by_library:
                inner.bring_in(name)
            return found

        return loading(package, by_library, act, loads)

    def seen_by_name(name: str, package: str | None = None) -> Any:
        where = globals_above()
        target = str(package or "") if name.startswith(".") else name
        if isinstance(where, Names):
            if watcher.on:
                watcher.imported.add(name)
        elif not _note(above(), target, (), 0) and watcher.on and not _is_ours(where):
            watcher.asked_for.add(target)
        by_library = not isinstance(where, Names) and not is_local(str(where.get("__name__")))
        return loading(target, by_library, lambda: original_by_name(name, package), name not in sys.modules)

    _see_searches(watcher)
    _see_questions(watcher)
    builtins.__import__, importlib.import_module = seen, seen_by_name


def _is_ours(where: Any) -> bool:
    return str(where.get("__name__")).partition(".")[0] == "wornpage"


def _loads(name: str, globals: Any, fromlist: Any, level: int) -> bool:
    """Whether an import will load anything that is not there yet."""
    name = _absolute(name, (globals or {}).get("__package__") or "", level)
    module = sys.modules.get(name)
    if module is None:
        return True
    return any(
        f"{name}.{part}" not in sys.modules and not hasattr(module, part)
        for part in fromlist or ()
        if isinstance(part, str)
    )
