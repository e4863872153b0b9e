"""Names of Python that code gives a value before it can ask for one: what they stood for above is nothing to it.

Plots are written like that (`fig, ax = plt.subplots()`), one chunk after the other with the same names. Whoever is wrong about such a
name loses time and nothing else: a session that is asked for it after all has it made again.
"""

from __future__ import annotations

import ast
from collections.abc import Iterable
from functools import lru_cache

_LOOPS = (ast.For, ast.AsyncFor)
_WITHS = (ast.With, ast.AsyncWith)
_FUNCTIONS = (ast.FunctionDef, ast.AsyncFunctionDef, ast.Lambda)
_DEFINITIONS = (ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef)


@lru_cache(4096)
def bound_first(code: str) -> frozenset[str]:
    """Those names; none for code that cannot be read."""
    try:
        body = ast.parse(code).body
    except (SyntaxError, ValueError, RecursionError):
        return frozenset()
    asked: set[str] = set()
    bound = _through(body, frozenset(), asked)
    given = {node.id for node in ast.walk(ast.Module(body, [])) if isinstance(node, ast.Name) and not _loads(node)}
    return (bound | given) - asked


def _through(body: Iterable[ast.stmt], bound: frozenset[str], asked: set[str]) -> frozenset[str]:
    """Names that are bound for certain behind some statements; those that are asked for while they may not be go into `asked`."""
    for statement in body:
        bound = _behind(statement, bound, asked)
    return bound


def _behind(statement: ast.stmt, bound: frozenset[str], asked: set[str]) -> frozenset[str]:
    """The same behind one statement."""
    if isinstance(statement, (ast.Import, ast.ImportFrom)):
        return bound | {one.asname or one.name.partition(".")[0] for one in statement.names}
    if isinstance(statement, ast.Assign):
        asked |= _mentioned(statement.value) - bound
        asked |= _mentioned(*statement.targets) - bound
        return bound | _names(statement.targets)
    if isinstance(statement, _LOOPS):
        asked |= _mentioned(statement.iter, statement.target) - bound
        _through(statement.body, bound | _names([statement.target]), asked)
        _through(statement.orelse, bound, asked)
        return bound
    if isinstance(statement, _WITHS):
        for item in statement.items:
            asked |= _mentioned(item.context_expr) - bound
            bound |= _names([item.optional_vars] if item.optional_vars else [])
        return _through(statement.body, bound, asked)
    if isinstance(statement, ast.If):
        asked |= _mentioned(statement.test) - bound
        return _through(statement.body, bound, asked) & _through(statement.orelse, bound, asked)
    if isinstance(statement, ast.While):
        asked |= _mentioned(statement.test) - bound
        _through([*statement.body, *statement.orelse], bound, asked)
        return bound
    asked |= _mentioned(statement) - bound
    return bound | ({statement.name} if isinstance(statement, _DEFINITIONS) else set())


def _loads(node: ast.Name) -> bool:
    return not isinstance(node.ctx, ast.Store)


def _mentioned(*nodes: ast.AST) -> set[str]:
    """Names that are asked for, or deleted, anywhere in some code, also where it runs later; not those of its own functions and comprehensions."""
    found: set[str] = set()
    for node in nodes:
        own: set[str] = set()
        for one in ast.walk(node):
            if isinstance(one, ast.comprehension):
                own |= _names([one.target])
            elif isinstance(one, _FUNCTIONS):
                own |= {inner.arg for inner in ast.walk(one) if isinstance(inner, ast.arg)}
                own |= {inner.id for inner in ast.walk(one) if isinstance(inner, ast.Name) and not _loads(inner)}
        names = {one.id for one in ast.walk(node) if isinstance(one, ast.Name) and _loads(one)}
        added = {
            one.target.id
            for one in ast.walk(node)
            if isinstance(one, ast.AugAssign) and isinstance(one.target, ast.Name)
        }
        found |= (names - own) | added
    return found


def _names(targets: Iterable[ast.expr]) -> frozenset[str]:
    """Names that are bound by assigning to targets."""
    return frozenset(
        one.id for target in targets for one in ast.walk(target) if isinstance(one, ast.Name) and not _loads(one)
    )
