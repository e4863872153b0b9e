"""What a chunk's code is, without comments and layout; and which names it mentions."""

from __future__ import annotations

import ast
import hashlib
import sys
from collections.abc import Iterable
from functools import lru_cache

from wornpage.store.traces import digest
from wornpage.tree.nodes import Chunk

ENGINE = "1"
"""Changes whenever running or recording changes its meaning."""


@lru_cache(maxsize=4_096)
def normal_form(code: str) -> str:
    """A hash of the code's syntax tree; of the text where it has none."""
    try:
        form = ast.dump(ast.parse(code))
    except (SyntaxError, ValueError, RecursionError):
        form = "text:" + code
    return hashlib.blake2b(form.encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()


def layout(code: str) -> str:
    """A hash of the code as written."""
    return hashlib.blake2b(code.encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()


def code_key(chunk: Chunk, options: Iterable[object], threads: int | None) -> str:
    """The address under which a chunk's traces lie: its code, the options that change what it makes, the interpreter."""
    return digest(
        "chunk", ENGINE, normal_form(chunk.code), chunk.binds, list(options), threads, sys.version, sys.platform
    )


@lru_cache(maxsize=4_096)
def compares_identity(code: str) -> bool:
    """Whether code asks if two things are one object, beside the usual `is None`."""
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return "is" in code
    for node in ast.walk(tree):
        if isinstance(node, ast.Compare) and any(isinstance(op, ast.Is | ast.IsNot) for op in node.ops):
            sides = [node.left, *node.comparators]
            if not any(isinstance(side, ast.Constant) for side in sides):
                return True
        if isinstance(node, ast.Name) and node.id in {"id", "intern"}:
            return True
    return False


@lru_cache(maxsize=4_096)
def mentioned(code: str) -> frozenset[str]:
    """Every name that code mentions anywhere, also in functions it defines and in short strings."""
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return frozenset()
    found: set[str] = set()
    for node in ast.walk(tree):
        match node:
            case ast.Name(id=name) | ast.FunctionDef(name=name) | ast.ClassDef(name=name):
                found.add(name)
            case ast.Constant(value=str(text)) if len(text) < 80 and text.isidentifier():
                found.add(text)
    return frozenset(found)


def reachable(code: str, definitions: dict[str, set[str]]) -> set[str]:
    """Names mentioned by code, and by every function and class of the page that it reaches through them."""
    found: set[str] = set()
    todo = set(mentioned(code))
    while todo:
        name = todo.pop()
        if name not in found:
            found.add(name)
            todo |= definitions.get(name, set()) - found
    return found


def definitions_in(codes: Iterable[str]) -> dict[str, set[str]]:
    """For each function or class that the codes define: the names it mentions."""
    found: dict[str, set[str]] = {}
    for code in codes:
        try:
            tree = ast.parse(code)
        except (SyntaxError, ValueError, RecursionError):
            continue
        for node in tree.body:
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
                names = {inner.id for inner in ast.walk(node) if isinstance(inner, ast.Name)}
                found.setdefault(node.name, set()).update(names)
    return found
