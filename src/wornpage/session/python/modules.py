"""Which modules are the project's: what the author edits, and not what is installed."""

from __future__ import annotations

import os
import sys
from importlib.util import find_spec
from types import ModuleType
from typing import Any

from wornpage.session.python.versions import Versions

_folder = ""
_local: dict[str, tuple[object, bool]] = {}
"""Every module by name, and whether it is the project's: asked thousands of times a chunk."""


def set_folder(folder: str) -> None:
    """From now on modules below `folder` are the project's own."""
    global _folder
    _folder = folder + os.sep
    _local.clear()
    _looked_through[:] = [None, []]


def is_nowhere(value: object) -> bool:
    """Whether a value is a module that importing its name does not give: loaded from a file by hand, or made up."""
    return isinstance(value, ModuleType) and sys.modules.get(value.__name__) is not value


def is_local(name: str) -> bool:
    """Whether a module is a file of the project."""
    module = sys.modules.get(name)
    known = _local.get(name)
    if known is None or known[0] is not module:
        known = _local[name] = (module, name != "__main__" and _lies_in_project(module))
    return known[1]


def is_being_loaded(name: str) -> bool:
    """Whether a module, or the package it belongs to, is still running its own code."""
    for one in {name, name.partition(".")[0]}:
        if getattr(getattr(sys.modules.get(one), "__spec__", None), "_initializing", False):
            return True
    return False


def local_modules() -> list[str]:
    """Names of all loaded modules that are the project's: found anew only when another set of modules is loaded."""
    now: object = loaded.now() or list(sys.modules.values())
    if now != _looked_through[0]:
        _looked_through[:] = [now, [name for name in list(sys.modules) if is_local(name)]]
    return list(_looked_through[1])


loaded = Versions([sys.modules])
"""Whether other modules are loaded than before."""
_looked_through: list[Any] = [None, []]
"""The loaded modules, or their number, when they were last looked through, and the names of the project's among them."""


def is_of_project(name: str) -> bool:
    """Whether a module that may not be loaded yet will be one of the project's."""
    root = name.partition(".")[0]
    if root in sys.modules:
        return is_local(root)
    try:
        spec = find_spec(root)
    except (ImportError, AttributeError, ValueError):
        return False
    places = [spec.origin or "", *(spec.submodule_search_locations or ())] if spec else []
    return any(is_the_projects(place) for place in places if place and os.path.isabs(place))


def _lies_in_project(module: object) -> bool:
    """Whether a module's file is the author's."""
    path = getattr(module, "__file__", None) or ""
    if not path:
        path = next(iter(getattr(module, "__path__", ())), "")
    # Some libraries make modules up that say a file which there is not.
    return bool(path) and is_the_projects(path) and (os.path.isabs(path) or os.path.exists(path))


def is_the_projects(path: str) -> bool:
    """Whether a module's file is the author's: in the page's folder, or anywhere else where nothing is installed."""
    if not _folder:
        return False
    path = os.path.abspath(path)
    if path.startswith(_OURS) or "site-packages" in path or "dist-packages" in path:
        return False
    return path.startswith(_folder) or (path.endswith(".py") and not path.startswith(_PREFIXES))


_OURS = (os.path.dirname(os.__file__) + os.sep, os.path.abspath(__file__ + 3 * (os.sep + os.pardir)) + os.sep)
"""Where the standard library lies, which may be within the page's folder, and where we do."""
_PREFIXES = tuple({os.path.realpath(path) + os.sep for path in (sys.prefix, sys.base_prefix, sys.exec_prefix)})
