"""What a chunk will probably read, change and leave behind: from its last run, or from its code where that is new.

Only which chunks are begun ahead of their turn hangs on it. What comes of such a chunk is taken if what it really read is what
holds when its turn has come, so a wrong guess costs time and nothing else.
"""

from __future__ import annotations

import ast
from collections.abc import Iterable
from functools import lru_cache
from symtable import SymbolTable, symtable

from msgspec import Struct

from wornpage.plan.bound_first import bound_first
from wornpage.plan.codes import reader_of
from wornpage.plan.languages import spoken
from wornpage.plan.need import WRITERS, imported_names, roots_in, sets_something
from wornpage.store.trace import Last
from wornpage.tree.nodes import Chunk

_CHANGES = ("append", "extend", "add", "insert", "update", "pop", "remove", "discard", "clear", "sort", "reverse", "fit",
            "set", "put", "push", "write", "feed", "send", "setdefault", "partial_fit", "train", "step")  # fmt: skip
"""How methods begin that change what they are called on."""
_HARMLESS = frozenset(
    {"print", "page", "display", "len", "repr", "str", "sorted", "sum", "min", "max", "round", "type"}
)
_PURE = frozenset({"to_datetime", "to_numeric", "to_timedelta", "to_numpy", "to_frame", "to_list", "to_dict", "to_string", "to_series",
                   "to_period", "to_timestamp", "to_pandas", "to_pydatetime", "to_array", "to_flat_index", "to_html", "to_julian_date"})  # fmt: skip
"""Of those that begin like functions which write files, some that do not."""
_READERS = ("read", "open", "load", "glob", "iterdir", "listdir", "scandir", "walk", "exists", "is_file", "isfile", "is_dir", "isdir",
            "stat")  # fmt: skip
_OF_FILES = ("file", "entry", "listing", "matching", "source")


class Guess(Struct, frozen=True):
    """What is likely of one chunk that must run."""

    reads: frozenset[str]
    """Names, and others that are reached through the functions among them."""
    changes: frozenset[str]
    """Names that it binds, or changes in place."""
    files_read: frozenset[str] | None
    """None where it may be any."""
    files_written: frozenset[str] | None
    sets: bool
    """Whether those below it find another session: settings, and what cannot be set back."""
    seconds: float | None
    """None where it has never run."""
    is_alone: bool
    """Whether nothing else is to run at the same time: it asks for the time."""

    @property
    def acts(self) -> bool:
        """Whether others can see that it has run, beside what it makes and shows."""
        return self.sets or self.files_written is None or bool(self.files_written)


class Page(Struct, frozen=True):
    """What is to be known of all chunks for that."""

    uses: dict[str, frozenset[str]]
    """For each function and class of the page: names of the page that it uses."""
    imported: frozenset[str]
    """Names for libraries, and for what is in them."""

    def reached(self, names: frozenset[str]) -> frozenset[str]:
        """Names, and all that is used by the functions among them."""
        found: set[str] = set()
        todo = set(names)
        while todo:
            name = todo.pop()
            if name not in found:
                found.add(name)
                todo |= self.uses.get(name, frozenset()) - found
        return frozenset(found)


def page_of(codes: Iterable[str]) -> Page:
    """What the Python of a page says."""
    uses: dict[str, frozenset[str]] = {}
    imported: set[str] = set()
    for code in codes:
        imported |= imported_names(code)
        for name, names in _used(code)[1].items():
            uses[name] = uses.get(name, frozenset()) | names
    return Page(uses, frozenset(imported))


def guess(chunk: Chunk, last: Last | None, page: Page) -> Guess:
    """What a chunk will do; `last` is the last run of this very code."""
    reader = reader_of(chunk.language)
    is_alone = bool(reader.clock(chunk.code))
    if last is not None:
        read = frozenset(name.partition("\t")[0] for kind in _OF_FILES for name in last.read(kind))
        written = frozenset(path for path, _ in last.written)
        sets = bool(last.effects or last.ambient or last.fleeting)
        names = frozenset(last.read("name"))
        return Guess(names, frozenset(last.names), read, written, sets, last.seconds, is_alone)
    does = _of_code(chunk.code, spoken(chunk) == "python", page.imported)
    changes = (does.changes | reader.bound(chunk.code)) - page.imported
    files = frozenset[str]()
    return Guess(
        page.reached(_used(chunk.code)[0]),
        changes,
        None if does.reads_files else files,
        None if does.writes_files else files,
        does.sets,
        None,
        is_alone,
    )


class _Does(Struct, frozen=True):
    changes: frozenset[str]
    reads_files: bool
    writes_files: bool
    sets: bool


@lru_cache(4096)
def _of_code(code: str, is_python: bool, imported: frozenset[str]) -> _Does:
    """What can be told of code by reading it. Code that is not Python may do anything."""
    try:
        tree = ast.parse(code) if is_python else None
    except (SyntaxError, ValueError, RecursionError):
        tree = None
    if tree is None:
        return _Does(frozenset(), True, True, True)
    called = {_called(node) for node in ast.walk(tree) if isinstance(node, ast.Call)}
    changes, sets = set[str](), False
    for node in ast.walk(tree):
        if isinstance(node, (ast.Attribute, ast.Subscript)) and isinstance(node.ctx, (ast.Store, ast.Del)):
            changes |= roots_in(node)
            sets |= bool(roots_in(node) & imported)
        elif isinstance(node, ast.Expr):
            sets |= bool(roots_in(node.value) & imported) and sets_something(node.value)
            if _may_change(node, is_last=node is tree.body[-1]):
                changes |= roots_in(node.value) - _HARMLESS
        elif isinstance(node, ast.Name) and isinstance(node.ctx, ast.Del):
            changes.add(node.id)
        elif isinstance(node, (ast.Global, ast.Nonlocal)):
            changes |= set(node.names)
    return _Does(
        frozenset(changes),
        any(name.startswith(_READERS) for name in called),
        any(map(_may_write, (node for node in ast.walk(tree) if isinstance(node, ast.Call)))),
        sets,
    )


def _may_change(statement: ast.Expr, is_last: bool) -> bool:
    """Whether a statement that binds nothing may be there for what it changes; the last one may be there to be shown."""
    calls = [node for node in ast.walk(statement.value) if isinstance(node, ast.Call)]
    if any(_called(call).startswith(_CHANGES) for call in calls):
        return True
    if any(keyword.arg == "inplace" for call in calls for keyword in call.keywords):
        return True
    return bool(calls) and not is_last and _called(calls[0]) not in _HARMLESS


def _may_write(call: ast.Call) -> bool:
    """Whether a call looks as if it wrote a file."""
    name = _called(call)
    if name == "open":
        modes = [
            node.value
            for node in (*call.args[1:], *(one.value for one in call.keywords))
            if isinstance(node, ast.Constant)
        ]
        return any(isinstance(mode, str) and not set(mode).isdisjoint("wax+") for mode in modes)
    if name == "copy" and len(call.args) + len(call.keywords) < 2:
        return False  # of a value: a file needs a place to be copied to
    return name.startswith(WRITERS) and name not in _PURE


def _called(call: ast.Call) -> str:
    function = call.func
    return function.attr if isinstance(function, ast.Attribute) else getattr(function, "id", "")


@lru_cache(4096)
def _used(code: str) -> tuple[frozenset[str], dict[str, frozenset[str]]]:
    """Names of the page that code uses where it runs; and those that each function or class uses which it defines."""
    try:
        table = symtable(code, "chunk", "exec")
    except (SyntaxError, ValueError, RecursionError):
        return frozenset(), {}
    here = {symbol.get_name() for symbol in table.get_symbols() if symbol.is_referenced()} - bound_first(code)
    defined = {}
    for inner in table.get_children():
        names = frozenset(_globals_in(inner))
        if inner.get_name() in table.get_identifiers():
            defined[inner.get_name()] = names
        else:  # a comprehension, or the like
            here |= names
    return frozenset(here), defined


def _globals_in(table: SymbolTable) -> set[str]:
    own = {symbol.get_name() for symbol in table.get_symbols() if symbol.is_global()}
    return own.union(*map(_globals_in, table.get_children()))
