"""Attributes that code of the page gives to things of libraries: `json.dumps.calls = 0`, `logging.getLogger("x").room = room`.

Such a thing is there without any name of the page, or is kept by its own name alone, so that nothing which keeps the page's
names keeps the attribute. Whatever is about to be given an attribute by code of the page, or to lose one, is noted first
(`marking`). A chunk that has done that to something of a library's left it behind.
"""

from __future__ import annotations

import gc
import sys
import weakref
from collections import Counter
from collections.abc import Callable, Collection, Iterator
from functools import partial
from types import BuiltinFunctionType, FunctionType, MethodType, ModuleType
from typing import Any

from wornpage.session.python import registries, singles
from wornpage.session.python.atoms import attributes_of, is_a
from wornpage.session.python.held import CARRIED, place_in_library
from wornpage.session.python.modules import is_local
from wornpage.session.python.names import is_of_page

ANY = "*"
"""Some attribute: which one was not told by name."""
_DRAWING = ("matplotlib.ticker", "matplotlib.axis", "matplotlib.spines", "matplotlib.dates", "matplotlib.backend")
"""Modules of what belongs to figures, which are kept or shown as wholes."""
_WHOLE = CARRIED | {"numpy", "pandas"}
"""Modules whose tables are looked at, or carried, in another way."""
_CONTAINERS = (dict, list, set)
_BY_NAME = (FunctionType, BuiltinFunctionType, MethodType, type)
_DEEP = 2
"""Tables in tables of an object's state that are looked into."""
_FEW = 50
"""Things with slots that are looked at in a chunk."""


class Noter:
    """Notes what is given attributes, without holding it."""

    __slots__ = ("in_modules", "passed", "slotted", "tables", "things")

    def __init__(self) -> None:
        self.things: dict[int, tuple[weakref.ref[object], set[str]]] = {}
        """Things by their identity, with the names of the attributes."""
        self.passed: set[type] = set()
        """Kinds that need not be noted, which is soon seen."""
        self.in_modules: set[tuple[int, str]] = set()
        """Names that code has set in modules, by the identity of their tables."""
        self.tables: dict[int, tuple[str, registries.Table]] = {}
        """Tables of libraries, each with its library, and with what was in it."""
        self.slotted: dict[int, tuple[object, dict[str, object]]] = {}
        """What keeps its attributes in slots, and what they were: it lets itself be held, but not be noted."""

    def begin_chunk(self) -> None:
        """Nothing is noted so far."""
        self.things.clear()
        self.tables.clear()
        self.slotted.clear()
        self.in_modules.clear()

    @property
    def has_noted(self) -> bool:
        """Whether there is anything to look at."""
        return bool(self.things or self.tables or self.slotted)

    def of(self, thing: object, name: str) -> object:
        """`thing`, whose attribute `name` is about to change."""
        kind = type(thing)
        if kind not in self.passed and kind.__module__ != "__main__":
            known = self.things.get(id(thing))
            if known is None:
                self._note(thing, name)
            else:
                known[1].add(name)
        return thing

    def has_set(self, table: object, name: str) -> bool:
        """Whether code of the page has set a name in the module that has this table."""
        return (id(table), name) in self.in_modules or (id(table), ANY) in self.in_modules

    def within(self, thing: object, root: object) -> object:
        """`thing`, in which something is about to change; the way to it begins with `root`, which may be a library."""
        if is_a(root, ModuleType) and _is_library(root.__name__) and not singles.name_of(thing):
            if type(thing) not in _CONTAINERS:
                self.of(thing, ANY)
            elif id(thing) not in self.tables:
                table = registries.Table(thing, list(registries.parts_of(thing)))
                self.tables[id(thing)] = root.__name__, table
        return thing

    def _note(self, thing: object, name: str) -> None:
        """Modules are looked at as wholes; the project's classes are its own affair."""
        key, kind = id(thing), type(thing)
        if is_a(thing, ModuleType):
            self.in_modules.add((id(vars(thing)), name))
        elif is_local(kind.__module__):
            self.passed.add(kind)
        elif _table_of(thing) is not None:
            try:
                self.things[key] = weakref.ref(thing, lambda _: self.things.pop(key, None)), {name}
            except TypeError:
                self.passed.add(kind)
        elif len(self.slotted) < _FEW and (held := attributes_of(thing)):
            self.slotted.setdefault(key, (thing, held))
        else:
            self.passed.add(kind)


noter = Noter()
_hung: dict[tuple[int, str], tuple[str, Callable[[], object]]] = {}
"""What hangs on things of libraries, by the thing's identity and the attribute: words for it, and how to have it."""


def hung() -> Iterator[tuple[str, object]]:
    """Words for all that code has given to things of libraries, each once, and what it is now."""
    said = Counter[str]()
    for words, now in list(_hung.values()):
        said[words] += 1
        yield words if said[words] == 1 else f"{words} ({said[words]})", now()


def left(names: dict[str, object], reached: Callable[[], Collection[int] | None]) -> str:
    """What the chunk has done to a thing of a library's, in words; empty for nothing.

    `names` is what the page's names stand for. `reached` gives ids of all that they reach, or None if that cannot be told.
    """
    found = ""
    for library, table in noter.tables.values():
        if not registries.is_as_before(table):
            _hung[id(table.source), ANY] = f"a table of {library}", partial(_all_in, table.source)
            found = f"it changed a table of {library}"
    for thing, before in noter.slotted.values():
        now = attributes_of(thing)
        if not registries.same([*before, *before.values()], [*now, *now.values()]) and place_in_library(thing):
            _hung[id(thing), ANY] = _words(thing), partial(_all_in_slots, thing)
            found = found or f"it changed {_words(thing)}"
    for thing, changed in _outside(names, reached):
        words, table_now = _words(thing), _table_of(thing) or {}
        for name in changed if all(name in table_now for name in changed) else table_now:
            if not name.startswith("__"):
                _hung[id(thing), name] = f"{words}.{name}", partial(_attribute, weakref.ref(thing), name)
        one = min(changed)
        found = found or f"it changed {'an attribute of ' + words if one == ANY else f'{words}.{one}'}"
    return found


def _all_in(table: object) -> list[object]:
    return list(registries.parts_of(table))


def _all_in_slots(thing: object) -> list[object]:
    return list(attributes_of(thing).values())


def _attribute(thing: weakref.ref[object], name: str) -> object:
    return (_table_of(thing()) or {}).get(name)


def _outside(names: dict[str, object], reached: Callable[[], Collection[int] | None]) -> list[tuple[object, set[str]]]:
    """What was given attributes, and is kept with none of the page's names."""
    noted = [(ref(), changed) for ref, changed in list(noter.things.values())]
    noted = [(thing, changed) for thing, changed in noted if thing is not None]
    found: list[tuple[object, set[str]]] = [
        (thing, changed) for thing, changed in noted if is_a(thing, _BY_NAME) and not _is_the_pages(thing)
    ]
    others = [(thing, changed) for thing, changed in noted if not is_a(thing, _BY_NAME) and not _is_drawn(thing)]
    if not others:
        return found
    held = {id(value) for value in names.values()}
    if any(id(thing) not in held for thing, _ in others):
        more = reached()
        if more is None:
            return found
        held.update(more)
    found += [(thing, changed) for thing, changed in others if id(thing) in held and _is_lost(thing, changed)]
    return found + _still_there(
        [(id(thing), changed) for thing, changed in others if id(thing) not in held], noted, others
    )


def _still_there(keys: list[tuple[int, set[str]]], *holding: list[Any]) -> list[tuple[object, set[str]]]:
    """Those that somebody else holds: what only holds itself goes now. `holding` are lists of ours, which let go."""
    if not keys:
        return []
    for one in holding:
        one.clear()
    gc.collect()
    return [
        (thing, changed)
        for key, changed in keys
        if key in noter.things and (thing := noter.things[key][0]()) is not None
    ]


def _is_the_pages(thing: object) -> bool:
    """Whether a function or class is the page's or the project's, which are kept, or looked at, with all they have."""
    inner = thing.__func__ if is_a(thing, MethodType) else thing
    return is_local(getattr(inner, "__module__", None) or "") or is_of_page(inner)


def _is_library(name: str) -> bool:
    """Whether a module is installed, and none of those whose tables are looked at as wholes or carried."""
    root = name.partition(".")[0]
    return root not in _WHOLE and not is_local(name)


def _is_drawn(thing: object) -> bool:
    artist = getattr(sys.modules.get("matplotlib.artist"), "Artist", None)
    return (artist is not None and is_a(thing, artist)) or type(thing).__module__.startswith(_DRAWING)


def _is_lost(thing: object, changed: set[str]) -> bool:
    """Whether an object is kept without those attributes: by its name, or by what its library thinks of as its state."""
    table = _table_of(thing) or {}
    own = set(table) if ANY in changed else table.keys() & changed
    if not own:
        return False
    try:
        reduced = thing.__reduce_ex__(4)
    except Exception:
        return False  # it cannot be kept at all, and is had again by running the chunk
    if isinstance(reduced, str):
        return getattr(thing, "__module__", None) != "__main__"
    held = _within(reduced[2:3])
    return not any(one is table for one in held) and not all(any(one is table[name] for one in held) for name in own)


def _within(state: object, depth: int = 0) -> list[object]:
    """What an object's state is made of, as far as libraries nest it."""
    parts = list(state.values()) if isinstance(state, dict) else list(state) if isinstance(state, (tuple, list)) else []
    return [*parts, *(inner for part in parts if depth < _DEEP for inner in _within(part, depth + 1))]


def _table_of(thing: object) -> Any:
    """What a thing keeps its attributes in; None if it has nothing of the kind."""
    try:
        return thing.__dict__ if is_a(thing, type) else object.__getattribute__(thing, "__dict__")
    except Exception:
        return None


def _words(thing: object) -> str:
    if is_a(thing, _BY_NAME):
        return f"{getattr(thing, '__module__', '')}.{getattr(thing, '__qualname__', '')}"
    name = attributes_of(thing).get("name")
    called = f" {name!r}" if isinstance(name, str) and name else ""
    return f"a {type(thing).__module__}.{type(thing).__qualname__}{called}"
