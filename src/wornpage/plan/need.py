"""Which chunks above one it needs: what `worn run --only` brings up to date.

A chunk that has run tells what it wrote; of one that has not, its code must do. This serves only the choice of what to
run: whatever then runs keeps traces that say what was really read, so the law does not hang on it.
"""

from __future__ import annotations

import ast
from collections.abc import Mapping, Sequence

from msgspec import Struct

from wornpage.plan.codes import Definitions
from wornpage.plan.languages import spoken
from wornpage.store.trace import Last
from wornpage.tree.nodes import Chunk

WRITERS = ("to_", "write", "save", "dump", "makedirs", "mkdir", "copy", "rename", "unlink", "remove", "rmtree", "rmdir",
           "symlink", "hardlink", "touch", "open")  # fmt: skip
"""How functions begin that write files."""
_SETTERS = ("set", "use", "seed", "regist", "filter", "simplefilter", "option", "rc", "update", "config", "basic", "chdir",
            "append", "insert", "put", "add", "patch", "reset", "enable", "disable", "activate")  # fmt: skip
"""How functions of libraries begin that change something in them."""
_HARMLESS = {"print", "page", "display"}


class _Does(Struct, frozen=True):
    """What a chunk may do for those below it."""

    changes: frozenset[str]
    """Names."""
    files: bool
    """It may write files."""
    effects: bool
    """It leaves something behind that is no name."""


def needed_by(label: str, chunks: Sequence[Chunk], last: Mapping[str, Last]) -> list[Chunk]:
    """The chunk `label` and those above it that it needs, in page order. `last` tells of each chunk's last run."""
    at = next(index for index, chunk in enumerate(chunks) if chunk.label == label)
    definitions = Definitions(chunks[: at + 1])
    libraries = {name for chunk in chunks[: at + 1] for name in imported_names(chunk.code)}
    wanted = [chunks[at]]
    names = _mentions(chunks[at], definitions, last)
    for chunk in reversed(chunks[:at]):
        does = _of_last_run(last[chunk.label]) if chunk.label in last else _of_code(chunk.code, libraries)
        same_code = any(chunk.code == other.code for other in wanted)  # their seeds follow from their order
        if does.changes & names or does.effects or does.files or same_code:
            wanted.append(chunk)
            names |= _mentions(chunk, definitions, last)
    return wanted[::-1]


def _mentions(chunk: Chunk, definitions: Definitions, last: Mapping[str, Last]) -> set[str]:
    read = set(last[chunk.label].read("name")) if chunk.label in last else set()
    return definitions.reachable(chunk.code, spoken(chunk)) | read


def _of_last_run(last: Last) -> _Does:
    return _Does(frozenset(last.names), bool(last.written), bool(last.effects or last.ambient))


def imported_names(code: str) -> set[str]:
    """Names that code binds to libraries and what is in them."""
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return set()
    return {node.asname or node.name.partition(".")[0] for node in ast.walk(tree) if isinstance(node, ast.alias)}


def _of_code(code: str, libraries: set[str]) -> _Does:
    """What can be told from code alone; rather too much than too little. `libraries` are names the page imports."""
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return _Does(frozenset(), True, True)
    names: set[str] = set()
    files = effects = False
    for node in ast.walk(tree):
        match node:
            case ast.Name(id=name, ctx=ast.Store() | ast.Del()):
                names.add(name)
            case ast.Attribute(ctx=ast.Store() | ast.Del()) | ast.Subscript(ctx=ast.Store() | ast.Del()):
                names |= roots_in(node)
                effects |= bool(roots_in(node) & libraries)
            case ast.FunctionDef(name=name) | ast.AsyncFunctionDef(name=name) | ast.ClassDef(name=name):
                names.add(name)
            case ast.alias(name=name, asname=known_as):
                names.add(known_as or name.partition(".")[0])
            case ast.Expr(value=value):
                names |= roots_in(value) - _HARMLESS
                effects |= bool(roots_in(value) & libraries) and sets_something(value)
            case ast.Call(func=ast.Name(id=name) | ast.Attribute(attr=name)) if name.startswith(WRITERS):
                files = True
    return _Does(frozenset(names), files, effects or "*" in names)


def roots_in(expression: ast.AST) -> set[str]:
    """Every name in an expression: whatever it calls might change each of them in place."""
    return {node.id for node in ast.walk(expression) if isinstance(node, ast.Name)}


def sets_something(expression: ast.AST) -> bool:
    """Whether an expression calls something whose name says that it sets something."""
    calls = (node.func for node in ast.walk(expression) if isinstance(node, ast.Call))
    names = (func.attr if isinstance(func, ast.Attribute) else getattr(func, "id", "") for func in calls)
    return any(name.startswith(_SETTERS) for name in names)
