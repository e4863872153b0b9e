"""Calls that look as if they set something in a library: `yaml.add_constructor(…)`, `@xr.register_dataset_accessor("x")`.

Libraries remember things all the time, most of them only for speed, so that a change within one tells nothing by itself. One
that happens while a function of the library's runs whose name says `set`, `register` or the like is meant. Code of the page is
compiled so that such calls are seen to begin and to end; the library is looked through before and after.
"""

from __future__ import annotations

import contextvars
import operator
import re
import sys
import threading
from collections import Counter
from itertools import chain
from types import BuiltinFunctionType, FunctionType, MethodType, ModuleType
from typing import Any, NamedTuple

from wornpage.session.python import registries, switches
from wornpage.session.python.atoms import is_a
from wornpage.session.python.held import place_in_library
from wornpage.session.python.modules import is_local
from wornpage.session.python.names import is_of_page
from wornpage.tree.older import STANDARD

_VERBS = frozenset(
    "set reset register unregister enable disable install uninstall use configure reconfigure config option options init initialize "
    "activate deactivate add seterr default defaults theme backend switch turn patch".split()
)
"""Words of which a name has one that sets something."""
_WORDS = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+")
_CARRIED = frozenset({"numpy", "pandas", "matplotlib", "mpl_toolkits"})
"""Libraries whose settings are carried, and whose classes are looked into at every chunk."""
_CLASSES_ONLY = frozenset({"polars"})
_QUIET = 8
"""Calls of a function that have changed nothing, after which it is taken for no setter."""
_LARGE = 2_000
_DEEPEST = 2
_PLAIN = (int, float, str, bool, bytes, type(None), FunctionType, BuiltinFunctionType, ModuleType)
_TABLES = (dict, list, set, tuple)
_ATOMS = frozenset({int, float, str, bool, type(None)})

Look = dict[tuple[object, ...], tuple[object, ...]]
"""By the way there: what is in one place, told apart by identity."""


class Open(NamedTuple):
    """A call that has begun."""

    library: str
    function: str
    modules: int
    """How many modules were loaded."""
    look: Look


_open: list[Open] = []
_kept: dict[str, Open] = {}
"""What decorators may have set, by library."""
_quiet = Counter[tuple[str, str]]()
_unheld = Counter[tuple[str, str]]()
"""Objects of a class of which none was held by its library."""
_found: list[str] = []


def looks_like_one(name: str) -> bool:
    """Whether a function of that name may be meant to set something; `add` alone is what sets and sums have."""
    return name != "add" and not _VERBS.isdisjoint(words_in(name))


def words_in(name: str) -> set[str]:
    """The words that a function's name is made of, in small letters."""
    return {word.lower() for word in _WORDS.findall(name)}


def begin_chunk() -> None:
    """Nothing has been set so far."""
    _open.clear()
    _kept.clear()
    _found.clear()


def beginning(function: object) -> object:
    """`function`, which is about to be called."""
    library = _library_of(function)
    name = getattr(function, "__qualname__", "") if library else ""
    if not library or _quiet[library, name] >= _QUIET or len(_open) > _QUIET:
        _open.append(_NOTHING)
    else:
        _open.append(Open(library, name, len(sys.modules), _look(library)))
    return function


def opening(function: object) -> object:
    """`function`, which is about to make a decorator, or is one: what it does is done later in the chunk."""
    library = _library_of(function)
    if library and library not in _kept:
        _kept[library] = Open(library, getattr(function, "__qualname__", ""), len(sys.modules), _look(library))
    return function


def ended(value: object) -> object:
    """`value`, which the last call that has begun has come to."""
    if _open:
        _compare(_open.pop())
    return value


def changed() -> str:
    """Words for what the chunk's calls have set; empty for nothing. Calls that ended in an error, and decorators, count too."""
    for one in (*_open, *_kept.values()):
        _compare(one)
    _open.clear()
    _kept.clear()
    return _found[0] if _found else ""


def _compare(before: Open) -> None:
    if not before.library or _found:
        return
    now = _look(before.library)
    if _differs(before.look, now, len(sys.modules) != before.modules):
        _found.append(f"it changed settings in {before.library}, by {before.function}")
    else:
        _quiet[before.library, before.function] += 1


_NOTHING = Open("", "", 0, {})


def _library_of(function: Any) -> str:
    """The library that a function belongs to; empty for what sets nothing of a library's: a method of an object of the page's."""
    kind = type(function)
    if kind is FunctionType or issubclass(kind, type):  # an object that stands for another is not asked what it is
        home = function.__module__
    elif kind is BuiltinFunctionType:
        home = function.__module__ if isinstance(function.__self__, ModuleType) else ""
    elif kind is MethodType:
        owner = function.__self__
        home = owner.__module__ if issubclass(type(owner), type) else _home_of_held(owner)
    else:
        return ""
    root = str(home or "").partition(".")[0]
    if root in _CARRIED and kind is FunctionType:
        return str(home)
    if _is_passed(root):
        return ""
    return "" if is_local(str(home)) or (kind is FunctionType and is_of_page(function)) else root


def _is_passed(root: str) -> bool:
    """Whether a library's settings are carried, or looked at in another way; or whether it is the page itself, which is not asked."""
    return root in _CARRIED or root in STANDARD or root in {"", "wornpage", "__main__", "__mp_main__"}


def _home_of_held(owner: object) -> str:
    """The module of an object that its library holds in one of its modules; empty for one that only the page has."""
    home, kind = str(type(owner).__module__), type(owner).__qualname__
    root = home.partition(".")[0]
    if _is_passed(root) or is_local(home) or _unheld[home, kind] >= _QUIET:
        return ""
    is_held = place_in_library(owner, root) is not None
    _unheld[home, kind] = 0 if is_held else _unheld[home, kind] + 1
    return home if is_held else ""


# --- looking through a library ----------------------------------------------------------------


def _look(root: str) -> Look:
    """All that modules of a library hold, two tables deep, with the attributes of its classes.

    Of one module of a library whose settings are carried it is words and numbers: those are kept apart from the settings.
    """
    found: Look = {}
    if root.partition(".")[0] in _CARRIED:
        held = vars(sys.modules[root]).items() if root in sys.modules else ()
        return {
            (root, key): (value,) for key, value in list(held) if type(value) in _ATOMS and not key.startswith("__")
        }
    seen: set[int] = set()
    for name, module in list(sys.modules.items()):
        if (name == root or name.startswith(root + ".")) and isinstance(module, ModuleType):
            for key, value in list(vars(module).items()):
                if not key.startswith("__") and (root not in _CLASSES_ONLY or is_a(value, type)):
                    _see(value, (name, key), root, found, seen, 0)
    return found


def _see(value: object, way: tuple[object, ...], root: str, found: Look, seen: set[int], depth: int) -> None:
    found[way] = (value,)
    if is_a(value, _PLAIN) or id(value) in seen or depth > _DEEPEST:
        return
    seen.add(id(value))
    table = _table_of(value, root)
    if table is None or len(table) > _LARGE:
        return
    if not is_a(table, dict):
        found[(*way, "#")] = tuple(table)
        return
    found[(*way, "#")] = tuple(chain.from_iterable(table.items()))
    for key, inner in list(table.items()):
        if is_a(inner, _TABLES) or _is_of(inner, root):
            _see(inner, (*way, key), root, found, seen, depth + 1)


def _table_of(value: object, root: str) -> Any:
    """What may be set within something that a library holds; None for nothing."""
    if type(value) in _TABLES:
        return value
    if is_a(value, type):
        held = vars(value) if str(value.__module__).partition(".")[0] == root else {}
        return {key: inner for key, inner in held.items() if not key.startswith(("__", "_abc"))}
    if is_a(value, contextvars.ContextVar):
        return (value.get(None),)
    return switches.kept_in(value) if _is_of(value, root) or is_a(value, threading.local) else None


def _is_of(value: object, root: str) -> bool:
    return str(type(value).__module__).partition(".")[0] == root


def _differs(before: Look, now: Look, has_imported: bool) -> bool:
    """Whether anything is another; what modules that were loaded meanwhile have added to others is no doing of the call's."""
    for way, held in now.items():
        earlier = before.get(way)
        if earlier is None:
            if not has_imported and len(way) == _OF_MODULE:
                return True
        elif not registries.same(earlier, held) and not (has_imported and _has_only_grown(earlier, held)):
            return True
    return False


_OF_MODULE = 2
"""How long the way to a name of a module is."""


def _has_only_grown(one: tuple[object, ...], other: tuple[object, ...]) -> bool:
    return len(other) > len(one) and all(map(operator.is_, one, other))
