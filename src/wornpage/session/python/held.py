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
_FIXED = (str, bytes, float, complex, tuple, frozenset)
CARRIED = frozenset({"sys", "os", "builtins", "warnings", "wornpage", "__main__", "__mp_main__"})
"""Modules whose tables are carried in another way, or no library's."""


def place_of(name: str, value: object, code: str) -> tuple[str, str] | None:
    """Module and attribute that hold the table which `name` stands for, if `code` has got it from there; None otherwise.

    Where the page asks if two things are one, words, numbers and the like count, too.
    """
    counts = type(value) in _TABLES or (sharing.atoms_count and type(value) in _FIXED)
    return place_in_library(value) if counts and _is_got(name, code) else None


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
