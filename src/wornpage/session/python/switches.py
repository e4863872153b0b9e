"""Settings that installed libraries keep within their modules: small tables, objects and variables with words and numbers in them.

A call such as `sklearn.set_config(…)` changes what other calls do, and no name of the page shows it. What a library
remembers only for speed grows; a setting keeps its name and gets another value, and by that it is known. What counts by its
name sets nothing. Libraries whose settings are carried (`ambient`) are not looked at here.
"""

from __future__ import annotations

import contextvars
import hashlib
import operator
import pickle
import sys
import threading
from collections.abc import Iterator
from itertools import chain
from types import BuiltinFunctionType, FunctionType, ModuleType
from typing import NamedTuple

from wornpage.session.python.atoms import attributes_of, lasting_attributes
from wornpage.session.python.modules import is_local, loaded
from wornpage.session.python.versions import Versions
from wornpage.tree.older import STANDARD

_CARRIED = frozenset({"pandas", "matplotlib", "mpl_toolkits", "numpy", "polars", "wornpage", "__main__", "__mp_main__"})
"""Libraries that are not looked at, and the page itself."""
_ATOMS = frozenset({bool, int, float, str, type(None)})
_MOST = 100
"""Entries of a table of settings; what has more is data."""
_DEEPEST = 2
_GENERATORS = frozenset({"RandomState", "Generator", "Random"})
_NEVER = (type, ModuleType, FunctionType, BuiltinFunctionType)
_ABSENT = object()
_EVERYBODYS = "everybody's"

Values = dict[str, object]
Part = tuple[dict[str, object], tuple[object, ...]]
"""A table, and the keys and values that were in it, one after the other."""


class Holder(NamedTuple):
    """One table, object or variable of a module."""

    module: ModuleType
    name: str
    source: object
    values: Values
    parts: tuple[Part, ...] = ()
    """Its tables with the very things in them: while these stay, so do the values. Empty where that does not hold."""


_modules: dict[str, ModuleType] = {}
"""Modules that have been gone through."""
_holders: dict[int, Holder] = {}
"""What they hold, by identity: some is imported into many modules."""


_all_taken: list[int] | None = None
"""The number of the loaded modules when all of them had been gone through."""
_tables: Versions | None = None
"""Those that are in the holders; None where that is not known."""
_settled: list[int] | None = None
"""Their numbers when all of them were taken, or found to hold the same."""


def take() -> None:
    """From now on what is set now counts as before."""
    global _all_taken, _tables, _settled
    number = loaded.now()
    if number is None or number != _all_taken:
        for name, module in list(sys.modules.items()):
            if _modules.get(name) is not module:
                _modules[name] = module
                _look_through(name, module)
        _all_taken, _tables = number, None
    now = _tables.now() if _tables else None
    for one in _moved(now):
        parts = _parts_of(one.source)
        _holders[id(one.source)] = one._replace(values=_values_of(one.source), parts=parts)
        if one.parts or parts:
            _tables = None
    if _tables is None:
        _tables = Versions([table for one in _holders.values() for table, _ in one.parts])
        now = None  # they are compared once more before their numbers count
    _settled = now


def changed() -> str:
    """Words for the first setting that has been changed since; empty for none."""
    for one in _moved(_tables.now() if _tables else None):
        if (now := _values_of(one.source)) == one.values:
            continue
        for key, value in now.items():
            before = one.values.get(key, _ABSENT)
            if before is _ABSENT:
                before = _before_it_was_there(one, key, value)
            if before != value or type(before) is not type(value):
                return f"{one.module.__name__}.{one.name}"
    return ""


def _moved(numbers: list[int] | None) -> list[Holder]:
    """Those that may not hold the very same things as when their values were taken; `numbers` of all tables as they are."""
    if numbers is not None and numbers == _settled:
        return [one for one in _holders.values() if not one.parts]
    return [one for one in list(_holders.values()) if not _holds_the_same(one)]


def _look_through(name: str, module: object) -> None:
    root = name.partition(".")[0]
    if not isinstance(module, ModuleType) or root in _CARRIED or root in STANDARD or is_local(name):
        return
    for key, value in list(vars(module).items()):
        if (
            key.startswith("__")
            or "count" in key.lower()
            or id(value) in _holders
            or type(value) in _ATOMS
            or isinstance(value, _NEVER)
        ):
            continue
        if _may_be_set(value, root):
            _holders[id(value)] = Holder(module, key, value, {})


def _may_be_set(value: object, root: str) -> bool:
    """Whether something that a module of the library `root` holds has the looks of settings."""
    if isinstance(value, (threading.local, contextvars.ContextVar)):
        return True
    if type(value) is dict:
        return len(value) <= _MOST and any(_plain(value))
    if str(type(value).__module__).partition(".")[0] != root:
        return False
    held = kept_in(value)
    return len(held) <= _MOST and any(_plain(held))


def _values_of(source: object) -> Values:
    if isinstance(source, contextvars.ContextVar):
        value = source.get(None)
        return {"": value} if type(value) in _ATOMS else {}
    return dict(_plain(_table_of(source)))


def _table_of(source: object) -> dict[str, object]:
    return source if type(source) is dict else kept_in(source)


def kept_in(value: object) -> dict[str, object]:
    """The attributes of an object; of one that each thread has for itself, those of this thread."""
    return value.__dict__ if isinstance(value, threading.local) else attributes_of(value)


def _parts_of(source: object) -> tuple[Part, ...]:
    table = source if type(source) is dict else lasting_attributes(source)
    if table is None or isinstance(source, threading.local):
        return ()
    found: list[Part] = []
    return tuple(found) if _gather(table, found) else ()


def _gather(table: dict[str, object], found: list[Part], depth: int = 0) -> bool:
    """Put a table and those in it, as far as `_plain` goes, into `found`; False if something in them has a state of its own."""
    found.append((table, (*table, *table.values())))
    for value in table.values():
        if type(value).__name__ in _GENERATORS and _state_of(value) != _EVERYBODYS:
            return False
        if type(value) is dict and depth < _DEEPEST and not _gather(value, found, depth + 1):
            return False
    return True


def _holds_the_same(one: Holder) -> bool:
    """Whether the very same things are in it as when its values were taken, which is soon seen."""
    return bool(one.parts) and all(
        2 * len(now) == len(before) and all(map(operator.is_, chain(now, now.values()), before))
        for now, before in one.parts
    )


def _plain(table: dict[str, object], before: str = "", depth: int = 0) -> Iterator[tuple[str, object]]:
    """Words and numbers in a table, and in the tables in it, each with the way there."""
    for key, value in list(table.items()):
        if type(key) is not str:
            return
        if type(value) in _ATOMS:
            yield before + key, value
        elif type(value).__name__ in _GENERATORS:
            yield before + key, _state_of(value)
        elif type(value) is dict and depth < _DEEPEST and len(value) <= _MOST:
            yield from _plain(value, f"{before}{key}\0", depth + 1)


def _state_of(generator: object) -> str:
    """Where a generator of random numbers stands; the one that everybody uses is told of elsewhere."""
    everybodys = getattr(sys.modules.get("numpy.random.mtrand"), "_rand", None)
    if generator is everybodys:
        return _EVERYBODYS
    try:
        return hashlib.blake2b(pickle.dumps(generator), digest_size=16).hexdigest()
    except Exception:
        return "unknown"


def _before_it_was_there(one: Holder, key: str, value: object) -> object:
    """What a new entry is to be held against: itself, unless it must have been set.

    A thread's own copy of settings is made from a table of the same module that has the same entry. A table of options
    within an object is filled by whoever sets them; other tables that grow remember something.
    """
    where, _, last = key.rpartition("\0")
    if isinstance(one.source, threading.local):
        tables = [other.values for other in _holders.values() if other.module is one.module and other is not one]
        return next((table[last] for table in tables if last in table), value)
    is_option = any(word in where.lower() for word in _OPTIONS) and type(one.source) is not dict
    return _ABSENT if is_option else value


_OPTIONS = ("option", "config", "setting", "default", "param")
