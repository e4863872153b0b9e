"""Which names code binds, as far as can be told by reading it. Imports only the standard library: sessions use it."""

from __future__ import annotations

import ast
from collections.abc import Iterable, Iterator

_FUNCTIONS = (ast.FunctionDef, ast.AsyncFunctionDef)


def names_written(code: str) -> set[str]:
    """The names that code binds at its top level, as far as can be told by reading it."""
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        return set()
    found: set[str] = set()
    todo: list[ast.AST] = list(tree.body)
    while todo:  # and not by recursion: a sum may have thousands of terms
        node = todo.pop()
        names, inner = _bound(node)
        found.update(names)
        todo.extend(inner)
    return found


def _bound(node: ast.AST) -> tuple[Iterable[str], Iterable[ast.AST]]:
    """Names that a node itself binds, and what else stands in it that may; functions and classes have names of their own."""
    inner = ast.iter_child_nodes(node)
    if isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef)):
        return [node.name, *_declared(node)], ()
    if isinstance(node, ast.Lambda):
        return (), ()
    if isinstance(node, (ast.ListComp, ast.SetComp, ast.DictComp, ast.GeneratorExp)):
        return [one.target.id for one in ast.walk(node) if isinstance(one, ast.NamedExpr)], ()
    if isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store):
        return [node.id], ()
    if isinstance(node, (ast.Import, ast.ImportFrom)):
        return [(alias.asname or alias.name).split(".")[0] for alias in node.names if alias.name != "*"], ()
    # Names that patterns bind: such nodes are not there before Python 3.10.
    names = [getattr(node, _PATTERNS[type(node).__name__])] if type(node).__name__ in _PATTERNS else []
    return [name for name in names if name], inner


_PATTERNS = {"MatchAs": "name", "MatchStar": "name", "MatchMapping": "rest"}
"""By the kind of a pattern: which of its fields is a name that it binds, if it binds one."""


def _declared(node: ast.AST) -> Iterator[str]:
    """Names that functions in a definition bind at the top level, since they say so."""
    for function in (one for one in ast.walk(node) if isinstance(one, _FUNCTIONS)):
        named = {name for one in ast.walk(function) if isinstance(one, ast.Global) for name in one.names}
        stored = {one.id for one in ast.walk(function) if isinstance(one, ast.Name) and isinstance(one.ctx, ast.Store)}
        yield from named & stored
