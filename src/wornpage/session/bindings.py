"""Which names code binds, as far as can be told by reading it. Imports only the standard library: sessions use it."""

from __future__ import annotations

import ast


def names_written(code: str) -> set[str]:
    """The names that code binds at its top level, as far as can be told by reading it."""
    try:
        tree = ast.parse(code)
    except SyntaxError:
        return set()
    found: set[str] = set()
    todo: list[ast.AST] = list(tree.body)
    while todo:
        node = todo.pop()
        match node:
            case ast.FunctionDef(name=name) | ast.AsyncFunctionDef(name=name) | ast.ClassDef(name=name):
                found.add(name)
                continue
            case ast.Name(id=name, ctx=ast.Store()):
                found.add(name)
            case ast.Import(names=names) | ast.ImportFrom(names=names):
                found.update((alias.asname or alias.name).split(".")[0] for alias in names)
        todo.extend(ast.iter_child_nodes(node))
    return found
