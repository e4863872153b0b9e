"""What Python code names of frames and mappings: columns that they are known to have, and what picks rows of them.

Only what is written out and rooted in the name itself counts; the rest is not guessed at.
"""

from __future__ import annotations

import ast
from collections.abc import Iterator, Mapping

from wornpage.lineage.steps import Named

_PICKS = {"query", "head", "tail", "nlargest", "nsmallest"}
"""Methods whose arguments pick rows."""
_CONDITIONS = (ast.Compare, ast.BoolOp, ast.Slice)


def named_in(code: str, parts: Mapping[str, tuple[str, ...]]) -> dict[str, Named]:
    """By name: what `code` names of it. `parts` has the columns or keys of each name that may be asked of."""
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return {}
    columns: dict[str, dict[str, None]] = {}
    rows: dict[str, dict[str, None]] = {}
    for node in ast.walk(tree):
        root = _root(node)
        if root is None or root not in parts:
            continue
        for word in _words(node):
            if word in parts[root]:
                columns.setdefault(root, {})[word] = None
        for picked in _picks(node):
            said = ast.get_source_segment(code, picked)
            if said:
                rows.setdefault(root, {})[" ".join(said.split())] = None
    return {name: Named(tuple(columns.get(name, ())), tuple(rows.get(name, ()))) for name in {*columns, *rows}}


def lines_binding(code: str, name: str) -> list[int]:
    """The lines of `code` that give a name its value, counted from 0."""
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return []
    found = []
    for node in ast.walk(tree):
        match node:
            case ast.FunctionDef(name=bound) | ast.AsyncFunctionDef(name=bound) | ast.ClassDef(name=bound):
                found += [node.lineno - 1] if bound == name else []
            case ast.Name(id=bound, ctx=ast.Store()) if bound == name:
                found.append(node.lineno - 1)
            case ast.Subscript(ctx=ast.Store()) | ast.Attribute(ctx=ast.Store()) if _root(node) == name:
                found.append(node.lineno - 1)
            case ast.alias(name=module, asname=bound) if (bound or module.partition(".")[0]) == name:
                found.append(node.lineno - 1)
    return sorted(set(found))


def read_into(code: str, files: set[str]) -> dict[str, tuple[str, tuple[str, ...]]]:
    """By file: the name that a call which names it is bound to as it comes (else empty), and the columns that the call asks for."""
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return {}
    bound = {
        id(node.value): node.targets[0].id
        for node in ast.walk(tree)
        if isinstance(node, ast.Assign) and len(node.targets) == 1 and isinstance(node.targets[0], ast.Name)
    }
    found: dict[str, tuple[str, tuple[str, ...]]] = {}
    for node in ast.walk(tree):
        if not isinstance(node, ast.Call):
            continue
        for argument in node.args[:1]:
            if isinstance(argument, ast.Constant) and argument.value in files:
                asked = [one.value for one in node.keywords if one.arg in {"usecols", "columns"}]
                columns = tuple(word for one in asked for word in _constants(one))
                found[str(argument.value)] = (bound.get(id(node), ""), columns)
    return found


def _root(node: ast.AST) -> str | None:
    """The name that a chain of attributes, subscripts and calls begins with."""
    if not isinstance(node, ast.Attribute | ast.Subscript | ast.Call):
        return None
    inner: ast.AST = node
    while isinstance(inner, ast.Attribute | ast.Subscript | ast.Call):
        inner = inner.func if isinstance(inner, ast.Call) else inner.value
    return inner.id if isinstance(inner, ast.Name) else None


def _words(node: ast.AST) -> Iterator[str]:
    """Words by which one link of a chain asks for something."""
    match node:
        case ast.Attribute(attr=word):
            yield word
        case ast.Subscript(slice=asked):
            yield from _constants(asked)
        case ast.Call(func=ast.Attribute(), args=arguments, keywords=keywords):
            for one in (*arguments, *(keyword.value for keyword in keywords)):
                yield from _constants(one)


def _constants(node: ast.AST) -> Iterator[str]:
    match node:
        case ast.Constant(value=str(word)):
            yield word
        case ast.List(elts=several) | ast.Tuple(elts=several):
            for one in several:
                yield from _constants(one)


def _picks(node: ast.AST) -> Iterator[ast.AST]:
    """What picks rows in one link of a chain."""
    match node:
        case ast.Subscript(slice=ast.Tuple(elts=[first, *_])) if _is_condition(first):
            yield first
        case ast.Subscript(slice=asked) if _is_condition(asked):
            yield asked
        case ast.Call(func=ast.Attribute(attr=method), args=[first, *_]) if method in _PICKS:
            yield first
        case ast.Call(func=ast.Attribute(attr="dropna")):
            yield node


def _is_condition(node: ast.AST) -> bool:
    match node:
        case ast.UnaryOp(op=ast.Invert()):
            return True
        case ast.BinOp(op=ast.BitAnd() | ast.BitOr(), left=left):
            return _is_condition(left)
        case ast.Call(func=ast.Attribute(attr="isin" | "between" | "notna" | "isna" | "duplicated")):
            return True
    return isinstance(node, _CONDITIONS)
