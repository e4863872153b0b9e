"""Statements that make a folder where there is none, and do nothing else: whether there was one does not matter to what follows.

`if not os.path.exists("out"): os.makedirs("out")` is one, and so are its kin with `isdir` and with paths of `pathlib`.
"""

from __future__ import annotations

import ast
import linecache
import re
from functools import lru_cache

_MAY_BE = re.compile(r"\bif not\b.*(?:exists|isdir|is_dir)")
_ASKS = frozenset({"exists", "isdir", "is_dir"})
_MAKES = frozenset({"mkdir", "makedirs"})


def guarded_lines(file: str) -> frozenset[int]:
    """Lines of such statements in the code of a chunk, by the name that its code goes by."""
    known = linecache.cache.get(file)
    return _lines("".join(known[2])) if known is not None and len(known) > 2 else frozenset()


@lru_cache(64)
def _lines(code: str) -> frozenset[int]:
    if not _MAY_BE.search(code):
        return frozenset()
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return frozenset()
    found = (node for node in ast.walk(tree) if isinstance(node, ast.If) and _only_makes(node))
    return frozenset(line for node in found for line in range(node.lineno, (node.end_lineno or node.lineno) + 1))


def _only_makes(node: ast.If) -> bool:
    """Whether an `if` makes the folder that it asks for."""
    if (
        node.orelse
        or len(node.body) != 1
        or not isinstance(node.test, ast.UnaryOp)
        or not isinstance(node.test.op, ast.Not)
    ):
        return False
    (made,) = node.body
    asked, makes = (
        _path_in(node.test.operand, _ASKS),
        _path_in(made.value, _MAKES) if isinstance(made, ast.Expr) else "",
    )
    return bool(asked) and asked == makes


def _path_in(node: ast.expr, names: frozenset[str]) -> str:
    """The path that a call of one of these functions is about, as it stands there; empty for anything else."""
    if not isinstance(node, ast.Call) or not isinstance(node.func, (ast.Attribute, ast.Name)):
        return ""
    if isinstance(node.func, ast.Name):
        return ast.unparse(node.args[0]) if node.func.id in names and node.args else ""
    if node.func.attr not in names:
        return ""
    owner = ast.unparse(node.func.value)
    if owner in {"os", "os.path"}:
        return ast.unparse(node.args[0]) if node.args else ""
    return owner
