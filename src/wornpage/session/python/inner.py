"""Modules within packages: once anything has loaded `http.client`, whoever has a name for `http` finds it there.

What chunks ask for by name is carried to the chunks below, one item for each module; what libraries load of the standard
library besides is carried as a whole. They are loaded, as far as they are not there, when a chunk first has a name for their
package. A chunk reads those of which its code, or a function of the page that it used, has a name.
"""

from __future__ import annotations

import builtins
import re
import sys
from collections.abc import Iterable, Mapping
from importlib import import_module
from types import CodeType, FunctionType, ModuleType

from wornpage.session.python.atoms import is_a
from wornpage.session.python.modules import is_local, loaded
from wornpage.session.python.names import is_of_page, names_in
from wornpage.tree.older import STANDARD

PREFIX = "inner:"
BY_THE_WAY = "inner modules"
_first = frozenset(sys.modules)
_asked: dict[str, None] = {}
"""Those that chunks have asked for up to here, in this session or before it."""
_by_the_way: set[str] = set()
"""Those of the standard library that came with something else."""
_waiting: set[str] = set()
"""Those of both that are not loaded here yet."""
_counted: list[object] = [None]
_WORDS = re.compile(r"\w+")
_QUOTED = re.compile(r"""["'](\w+)["']""")
_ASKS = re.compile(r"\b(?:hasattr|getattr|attrgetter)\b")


def asked_for(imported: Iterable[str]) -> None:
    """Code of the page has asked for these modules, or for something in them."""
    for name in sorted({around for one in imported for around in _inner_ones(one)}):
        if name in sys.modules and not is_local(name):
            _asked[name] = None


def _inner_ones(name: str) -> list[str]:
    """`a.b.c` and `a.b`."""
    parts = name.split(".")
    return [".".join(parts[:length]) for length in range(2, len(parts) + 1)]


def told() -> dict[str, str]:
    """The items as they are now."""
    number: object = loaded.now() or len(sys.modules)
    if number != _counted[0]:
        _counted[0] = number
        _by_the_way.update(name for name in sys.modules.keys() - _first if _is_public(name))
    found = {PREFIX + name: "yes" for name in _asked}
    return {**found, BY_THE_WAY: "\n".join(sorted(_by_the_way))} if _by_the_way else found


def _is_public(name: str) -> bool:
    """Whether a module lies within a package of the standard library, for everybody to use."""
    root, _, inner = name.partition(".")
    return bool(inner) and root in STANDARD and "._" not in name


def is_one(item: str) -> bool:
    """Whether an item of the surroundings is one of these."""
    return item.startswith(PREFIX) or item == BY_THE_WAY


def put(item: str, value: str | None) -> None:
    """Bring an item to a value; None if nothing has been loaded. What is loaded stays so."""
    if item == BY_THE_WAY:
        names = set(value.split("\n")) if value else set()
        _by_the_way.update(names)
    else:
        names = {item.removeprefix(PREFIX)}
        if value is None:
            _asked.pop(item.removeprefix(PREFIX), None)
            return
        _asked.update(dict.fromkeys(names))
    _waiting.update(name for name in names if name not in sys.modules)


def bring(value: object) -> None:
    """A chunk has a name for the package `value`: what has been loaded within it is to be there."""
    for name in _waited_for(value):
        _waiting.discard(name)
        try:
            import_module(name)
        except Exception:
            continue  # then asking for it tells why


def is_waiting(package: str) -> bool:
    """Whether anything is yet to be loaded within the package that a module belongs to."""
    within = package.partition(".")[0] + "."
    return any(name.startswith(within) for name in _waiting)


def is_waited_for(value: object) -> bool:
    """Whether `value` is a package, and something within it is yet to be loaded."""
    return bool(_waiting and _waited_for(value))


def _waited_for(value: object) -> list[str]:
    if not is_a(value, ModuleType) or "__path__" not in vars(value):
        return []
    return sorted(one for one in _waiting if one.startswith(f"{vars(value)['__name__']}."))


def bring_in(package: str) -> None:
    """The same for a package that a chunk has just imported by its name."""
    if _waiting:
        bring(sys.modules.get(package.partition(".")[0]))


def read(names: Mapping[str, object], code: str, imported: set[str]) -> list[str]:
    """Items that a chunk has read which used `names`, and has imported for itself what is in `imported`."""
    packages = {name: value for name, value in names.items() if is_a(value, ModuleType) and "__path__" in vars(value)}
    if not packages:
        return []
    own = {around for one in imported for around in _inner_ones(one)}
    functions = [words for value in names.values() if (words := _words_of(value))]
    found: set[str] = set()
    for name, module in packages.items():
        within = {word for words in functions if name in words for word in words} - names.keys() - vars(builtins).keys()
        found |= _known(module.__name__, {*_WORDS.findall(code), *within} - {name}, own)
        known = {*own, *_asked, *_by_the_way}
        sought = {*re.findall(rf"\b{re.escape(name)}\s*\.\s*(\w+)", code), *_asked_by_text(code), *within}
        missing = {f"{module.__name__}.{word}" for word in sought if _lacks(module, word)}
        found |= {PREFIX + inner for inner in missing - known}
    return sorted(found)


def _asked_by_text(code: str) -> list[str]:
    """Words in quotes, where code asks for attributes by text."""
    return _QUOTED.findall(code) if _ASKS.search(code) else []


def _known(package: str, words: set[str], own: set[str]) -> set[str]:
    found: set[str] = set()
    for word in words:
        inner = f"{package}.{word}"
        is_asked = inner in _asked
        if inner not in own and (is_asked or inner in _by_the_way):
            found.add(PREFIX + inner if is_asked else BY_THE_WAY)
        if is_asked or inner in _by_the_way:
            found |= _known(inner, words - {word}, own)
    return found


def _lacks(module: ModuleType, word: str) -> bool:
    """Whether a package has nothing of a name, and does not load it when it is asked for it."""
    return word not in vars(module) and "__getattr__" not in vars(module) and word.isidentifier() and word[:2] != "__"


def _words_of(value: object) -> set[str]:
    """What code of a function of the page has names for."""
    code = value.__code__ if is_a(value, FunctionType) and is_of_page(value) else None
    return names_in(code) if isinstance(code, CodeType) else set()
