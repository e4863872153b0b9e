"""Compile a chunk under its own name and run it so that its last expression is a value."""

from __future__ import annotations

import ast
import linecache
from dataclasses import dataclass
from types import CodeType

from wornpage.session.python.marking import compile_telling
from wornpage.session.python.names import run_eval, run_exec


@dataclass(frozen=True)
class Compiled:
    body: CodeType
    last: CodeType | None
    """The expression at the end, or None where the chunk ends otherwise."""
    is_hidden: bool = False
    """Whether its value is not to be shown: a semicolon stands behind it."""
    caller: str = ""
    """The name whose method the expression calls, such as `ax`; empty for another expression, or one that asks for something."""


def chunk_file(label: str) -> str:
    """The file name under which a chunk is compiled; its lines are counted from the chunk's first."""
    return f"chunk:{label}"


def compile_chunk(code: str, label: str) -> Compiled:
    """Compile a chunk. Raises `SyntaxError` with lines relative to the chunk."""
    name = chunk_file(label)
    linecache.cache[name] = (len(code), None, code.splitlines(keepends=True), name)
    tree = ast.parse(code, name)
    last, is_hidden, caller = None, False, ""
    if tree.body and isinstance(tree.body[-1], ast.Expr):
        is_hidden, caller = _ends_with_semicolon(code, tree.body[-1]), _caller(tree.body[-1].value)
        expression = ast.Expression(tree.body.pop().value)  # type: ignore[attr-defined]
        last = compile_telling(expression, name, "eval")
    return Compiled(compile_telling(tree, name, "exec"), last, is_hidden, caller)


def _ends_with_semicolon(code: str, last: ast.stmt) -> bool:
    """Whether a semicolon follows on the last statement, as people write it who do not want to see a value."""
    line = code.encode().splitlines()[(last.end_lineno or 1) - 1]
    return line[last.end_col_offset :].lstrip().startswith(b";")


def _caller(node: ast.expr) -> str:
    if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Attribute) or node.func.attr.startswith("get"):
        return ""
    root: ast.expr = node.func.value
    while isinstance(root, (ast.Attribute, ast.Subscript, ast.Call)):
        root = root.func if isinstance(root, ast.Call) else root.value
    return root.id if isinstance(root, ast.Name) else ""


def run_compiled(compiled: Compiled, names: dict[str, object]) -> object:
    """Run a chunk; returns the value of its last expression, or None."""
    run_exec(compiled.body, names)
    return run_eval(compiled.last, names) if compiled.last else None
