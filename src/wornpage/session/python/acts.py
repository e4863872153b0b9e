"""Calls for what they do, and not for what they give: `duckdb.sql("create table …")`, `pa.register_extension_type(…)`.

A library that is not written in Python, or not only, keeps what it has been told where nobody can look. So a function of such a
library that code of the page calls as a statement, and of whose answer nothing is used, has left something behind, unless its name says
that it writes or shows something, or it was handed what it may have changed instead.
"""

from __future__ import annotations

import re
import sys
from importlib.machinery import ExtensionFileLoader
from types import BuiltinFunctionType, FunctionType, MethodType, ModuleType
from typing import Any

from wornpage.session.python.atoms import is_a
from wornpage.session.python.modules import is_local
from wornpage.session.python.names import is_of_page
from wornpage.session.python.setters import looks_like_one, words_in
from wornpage.tree.older import STANDARD

_SEEN = frozenset({"numpy", "pandas", "matplotlib", "mpl_toolkits", "scipy", "torch", "wornpage", "cython", ""})
"""Libraries whose settings are carried, or which are looked into."""
_SHOWS = frozenset(
    "write save dump export to print show display draw plot read load get info versions help sleep wait check assert validate seed".split()
)
_PLAIN = (str, bytes, int, float, bool, type(None))
_THINGS = r"(?:table|view|macro|function|schema|sequence|index|type|trigger|database)\b"
_OF_DATA = (
    rf"create\s[\w\s]*?{_THINGS}|(?:drop|alter)\s+{_THINGS}|insert\s+(?:into|or)\b|update\s+\S+\s+set\b|delete\s+from\b|"
    r"copy\s.*\s(?:to|from)\s|merge\s+into\b|truncate\s+\w|(?:import|attach|detach)\s+database\b"
)
_OF_SESSION = (
    r"set\s+(?:(?:global|session|local|variable)\s+)?\w+\s*(?:=|\sto\b)|reset\s+(?:(?:global|session|local|variable)\s+)?\w+\s*(?:;|$)|"
    r"pragma\s+\w+|(?:at|de)tach\s+['\"\w./-]+\s*(?:;|$|as\b|\()|(?:use|install|load)\s+['\"\w./]+\s*(?:;|$)|"
    r"(?:prepare|deallocate)\s+\w+\s*(?:as\b|;|$)|(?:begin|start|commit|rollback|checkpoint)(?:\s+transaction)?\s*(?:;|$)"
)
_CHANGES = re.compile(rf"(?:^|;)\s*(?:--[^\n]*\s+)*(?:{_OF_DATA}|{_OF_SESSION})", re.IGNORECASE | re.DOTALL)
"""Statements that change what is in a database, or what holds for its connection."""
_LOOKED_AT = 10_000
"""Letters of a text in which such are looked for."""
_OF_MODULES = (ModuleType, type(None))
"""What functions, and not methods, of C belong to."""
_NOTHING = ("", "")
_native: dict[str, tuple[int, bool]] = {}
"""By library: how many modules were loaded when it was looked at, and whether some of it is not Python."""
_begun: list[tuple[str, str]] = []
_done: list[str] = []


def changes_something(text: object) -> bool:
    """Whether a text is a statement that changes something in a database."""
    return isinstance(text, str) and _CHANGES.search(text[:_LOOKED_AT]) is not None


def begin_chunk() -> None:
    """Nothing has been done so far."""
    _begun.clear()
    _done.clear()


def acting(function: object) -> object:
    """`function`, which is about to be called as a statement."""
    kind = type(function)
    if kind is MethodType or (kind is BuiltinFunctionType and type(function.__self__) not in _OF_MODULES):  # type: ignore[attr-defined]
        _begun.append(_NOTHING)  # the usual: a method, which changes its object
    else:
        library = _library_of(function)
        _begun.append((library, str(getattr(function, "__name__", ""))) if library else _NOTHING)
    return function


def acted(value: object, is_used: bool, is_plain: bool, *handed: object) -> object:
    """`value`, which that call has come to; `is_used` if it is shown where it is anything.

    The call was `handed` these things, and nothing else if `is_plain`.
    """
    library, function = _begun.pop() if _begun else _NOTHING
    if library and not _done and _is_out_of_sight(library):
        is_set = looks_like_one(function) or any(map(changes_something, handed))
        is_for_itself = value is None or not is_used
        may_have_changed_them = not (is_plain and all(type(one) in _PLAIN for one in handed))
        if is_set or (is_for_itself and not may_have_changed_them and not words_in(function) & _SHOWS):
            _done.append(f"it left something in {library}, by {function}")
    return value


def done() -> str:
    """Words for what the chunk has done to a library; empty for nothing. What ended in an error counts too."""
    for library, function in _begun:
        if not _done and library and _is_out_of_sight(library) and not words_in(function) & _SHOWS:
            _done.append(f"it left something in {library}, by {function}")
    _begun.clear()
    return _done[0] if _done else ""


def _library_of(function: Any) -> str:
    """The installed library that a function is of; empty for methods of objects, which change those, and for whatever is not called so."""
    if is_a(function, type) or (is_a(function, FunctionType) and is_of_page(function)):
        return ""
    if not is_a(function, (FunctionType, BuiltinFunctionType)) and not _is_made_elsewhere(function):
        return ""
    home = str(getattr(function, "__module__", None) or "__main__")
    root = home.partition(".")[0]
    if root in _SEEN or root in STANDARD or root in {"__main__", "__mp_main__"} or is_local(home):
        return ""
    return root.lstrip("_")


def _is_made_elsewhere(function: object) -> bool:
    """Whether something is a function of a compiler's own making."""
    kind = type(function).__name__
    return "func" in kind or "builtin" in kind


def _is_out_of_sight(library: str) -> bool:
    """Whether a library has loaded anything that is not Python."""
    known = _native.get(library)
    if known is None or (not known[1] and known[0] != len(sys.modules)):
        known = _native[library] = (len(sys.modules), any(map(_is_extension, _modules_of(library))))
    return known[1]


def _modules_of(library: str) -> list[ModuleType]:
    return [
        module for name, module in list(sys.modules.items()) if name.partition(".")[0].strip("_").startswith(library)
    ]


def _is_extension(module: object) -> bool:
    return isinstance(getattr(getattr(module, "__spec__", None), "loader", None), ExtensionFileLoader)
