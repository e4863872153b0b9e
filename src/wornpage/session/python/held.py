"""Tables that libraries hold in their modules, for which a name of the page may stand: `from matplotlib.colors import cnames`.

A copy from the store would be another table than the one that the library looks into. So such a name is had again from
its library, and what a chunk changes in the table it has left behind.
"""

from __future__ import annotations

import re
import sys
from types import ModuleType

from wornpage.session.python import sharing
from wornpage.session.python.modules import is_local

_TABLES = (dict, list, set)
_FIXED = (tuple, frozenset)
_CHANCE = (str, bytes, float, complex)
CARRIED = frozenset({"sys", "os", "builtins", "warnings", "wornpage", "__main__", "__mp_main__"})
"""Modules whose tables are carried in another way, or no library's."""


def place_of(name: str, value: object, code: str) -> tuple[str, str] | None:
    """Module and attribute that hold the table which `name` stands for; None if it is the page's own.

    Where the page asks if two things are one, words, numbers and the like count, too. One of those may be a library's by chance, since
    equal ones can be one: `code` must have got it from there. Any other thing is a library's if a library holds it, however it was got.
    """
    kind = type(value)
    if kind in _CHANCE:
        return place_in_library(value) if sharing.atoms_count and _is_got(name, code) else None
    if kind not in _TABLES and not (kind in _FIXED and sharing.atoms_count and value):
        return None
    return place_in_library(value) if id(value) in _ids_held() or _is_got(name, code) else None


def _ids_held() -> set[int]:
    """The ids of all that stood in modules of libraries when they last got a name more or less: most values are not among them."""
    for name, module in list(sys.modules.items()):
        if type(module) is ModuleType and _counted.get(name) != len(module.__dict__):
            _counted[name] = len(module.__dict__)
            _ids.update(map(id, module.__dict__.values()))
    return _ids


_ids: set[int] = set()
_counted: dict[str, int] = {}


def place_in_library(value: object, package: str = "") -> tuple[str, str] | None:
    """Module and attribute that hold a value, in one `package` or in any library; None if none does."""
    for name, module in list(sys.modules.items()):
        root = name.partition(".")[0]
        if root in CARRIED or root != (package or root) or not isinstance(module, ModuleType) or is_local(name):
            continue
        for attribute, held in list(vars(module).items()):
            if held is value:
                return name, attribute
    return None


def _is_got(name: str, code: str) -> bool:
    """Whether code imports a name, or has it stand for an attribute of something."""
    word = re.escape(name)
    return bool(
        re.search(rf"\bimport\b[^\n#]*\b{word}\b|\b{word}\s*=\s*\w+(?:\.\w+)+\s*(?:[#;]|$)", code, re.MULTILINE)
    )
