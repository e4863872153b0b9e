"""Objects of which a library, or a class, holds the one that counts: a sentinel, a kind of numbers, a generator of its own.

They go by where they are held, since a copy would be another: `is` tells them apart, and so does `==` where a class says nothing
of it. Sources: pickle's documentation ("What can be pickled and unpickled?").
"""

from __future__ import annotations

import sys
from functools import reduce
from importlib import import_module
from types import BuiltinFunctionType, BuiltinMethodType, FunctionType, MethodType, ModuleType
from typing import Any

from wornpage.session.python.held import CARRIED
from wornpage.session.python.modules import is_local

_OTHERS = frozenset({
    int, float, complex, bool, str, bytes, bytearray, list, dict, tuple, set, frozenset, type(None), type(Ellipsis), type(NotImplemented),
    type, FunctionType, BuiltinFunctionType, BuiltinMethodType, MethodType, ModuleType, property, classmethod, staticmethod,
})  # fmt: skip
"""Kinds that are told in other ways, or are no objects of a library's making."""


class _Package:
    """What the modules of one package hold, as far as they have been gone through."""

    def __init__(self) -> None:
        self.places: dict[type, dict[int, tuple[str, str]]] = {}
        """Module and name by the ids of objects, by their kind."""
        self.modules = 0
        """How many modules there were of all packages."""
        self.known: set[str] = set()


_packages: dict[str, _Package] = {}
_kinds: dict[type, tuple[int, dict[int, tuple[str, str]]]] = {}
"""By kind: how many modules there were when it was last asked for, and which objects of it are held where."""


def place_of(value: object) -> tuple[str, str] | None:
    """Module and name (dotted, within a class) that hold this very object; None if none does."""
    kind = type(value)
    known = _kinds.get(kind)
    if known is None or known[0] != len(sys.modules):
        known = _kinds[kind] = (len(sys.modules), {**_held_by(kind), **_constants(kind)})
    place = known[1].get(id(value)) if known[1] else None
    return place if place is not None and _found_at(*place) is value else None


def _found_at(module: str, name: str) -> object:
    try:
        return reduce(getattr, name.split("."), sys.modules[module])
    except (KeyError, AttributeError):
        return None


def held_at(module: str, name: str) -> object:
    """What is held there. Raises `AttributeError`, `ImportError`."""
    return reduce(getattr, name.split("."), import_module(module))


def dtype_as_told(value: Any) -> str:
    """The words for which NumPy gives this very type of numbers; empty for anything else."""
    if not type(value).__module__.startswith("numpy"):
        return ""
    numpy = sys.modules["numpy"]
    if not issubclass(type(value), numpy.dtype):
        return ""
    words = str(value.str)
    try:
        return words if numpy.dtype(words) is value else ""
    except TypeError:
        return ""


def _constants(kind: type) -> dict[int, tuple[str, str]]:
    """Constants that a class of a library holds of itself, such as `datetime.timedelta.max`."""
    module, name = kind.__module__, kind.__qualname__
    if kind in _OTHERS or "<locals>" in name or module == "__main__" or is_local(module):
        return {}
    return {id(one): (module, f"{name}.{own}") for own, one in vars(kind).items() if type(one) is kind}


def _held_by(kind: type) -> dict[int, tuple[str, str]]:
    """Where the package of a kind holds objects of it. The first place counts, in the order of import."""
    package = kind.__module__.partition(".")[0]
    found = _packages.setdefault(package, _Package())
    if package not in CARRIED and found.modules != len(sys.modules):
        found.modules = len(sys.modules)
        for name in [one for one in sys.modules if one == package or one.startswith(package + ".")]:
            _go_through(name, found)
    return found.places.get(kind, {})


def _go_through(name: str, package: _Package) -> None:
    """Note what a module holds, once."""
    module = sys.modules[name]
    if name in package.known or type(module) is not ModuleType:
        return
    package.known.add(name)
    if is_local(name):
        return
    for attribute, one in list(module.__dict__.items()):
        kind = type(one)
        if kind not in _OTHERS and not issubclass(kind, type):
            package.places.setdefault(kind, {}).setdefault(id(one), (name, attribute))
