"""Compile a chunk under its own name and run it so that its last expression is a value."""

from __future__ import annotations

import ast
import linecache
from dataclasses import dataclass
from types import CodeType

from wornpage.session.python.names import run_eval, run_exec


@dataclass(frozen=True, slots=True)
class Compiled:
    body: CodeType
    last: CodeType | None
    """The expression at the end, or None where the chunk ends otherwise."""


def chunk_file(label: str) -> str:
    """The file name under which a chunk is compiled; its lines are counted from the chunk's first."""
    return f"chunk:{label}"


def compile_chunk(code: str, label: str) -> Compiled:
    """Compile a chunk. Raises `SyntaxError` with lines relative to the chunk."""
    name = chunk_file(label)
    linecache.cache[name] = (len(code), None, code.splitlines(keepends=True), name)
    tree = ast.parse(code, name)
    last = None
    if tree.body and isinstance(tree.body[-1], ast.Expr):
        expression = ast.Expression(tree.body.pop().value)  # type: ignore[attr-defined]
        last = compile(expression, name, "eval", dont_inherit=True)
    return Compiled(compile(tree, name, "exec", dont_inherit=True), last)


def run_compiled(compiled: Compiled, names: dict[str, object]) -> object:
    """Run a chunk; returns the value of its last expression, or None."""
    run_exec(compiled.body, names)
    return run_eval(compiled.last, names) if compiled.last else None
