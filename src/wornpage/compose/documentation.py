"""Names of libraries in shown code, led to their documentation: resolved through the imports of the page's chunks."""

from __future__ import annotations

import ast
import builtins
import sys
from collections.abc import Iterable, Mapping
from fnmatch import fnmatchcase
from importlib.resources import files

_LIBRARY = "https://docs.python.org/3/library/{module}.html#{name}"
Link = tuple[int, int, str]
"""First column and the one after the last, counted from 0, and the address."""


class Documentation:
    """What the names in a page's code stand for, and where each is told of."""

    def __init__(self, codes: Iterable[str], further: Mapping[str, str]) -> None:
        self._patterns = [*further.items(), *_shipped()]
        self._names: dict[str, str] = {}
        self._bound: set[str] = set()
        for code in codes:
            self._learn(code)

    def links(self, code: str) -> dict[int, list[Link]]:
        """Where names with documentation stand in `code`, by line counted from 0."""
        found: dict[int, list[Link]] = {}
        tree = _parsed(code)
        if tree is None:
            return found
        lines = code.split("\n")
        for node, name in self._named(tree):
            address = self._address(name)
            if address and node.end_lineno == node.lineno and node.end_col_offset is not None:
                line = lines[node.lineno - 1].encode()
                begin, end = (len(line[:at].decode()) for at in (node.col_offset, node.end_col_offset))
                found.setdefault(node.lineno - 1, []).append((begin, end, address))
        return found

    def _learn(self, code: str) -> None:
        """Note what `code` imports, and which names it gives to something else."""
        for node in ast.walk(_parsed(code) or ast.Module([], [])):
            match node:
                case ast.Import(names=names):
                    for alias in names:
                        self._names[alias.asname or alias.name.split(".")[0]] = (
                            alias.name if alias.asname else alias.name.split(".")[0]
                        )
                case ast.ImportFrom(module=str(module), names=names, level=0):
                    for alias in names:
                        self._names[alias.asname or alias.name] = f"{module}.{alias.name}"
                case ast.Name(id=name, ctx=ast.Store()) | ast.FunctionDef(name=name) | ast.ClassDef(name=name):
                    self._bound.add(name)
                case ast.arg(arg=name):
                    self._bound.add(name)

    def _named(self, tree: ast.AST) -> list[tuple[ast.expr, str]]:
        """Every name, or longest chain of attributes, that stands for something imported or built in."""
        found: list[tuple[ast.expr, str]] = []
        todo: list[ast.AST] = [tree]
        while todo:
            node = todo.pop()
            name = self._resolved(node) if isinstance(node, ast.Attribute | ast.Name) else ""
            if name and isinstance(node, ast.expr):
                found.append((node, name))
            else:
                todo.extend(ast.iter_child_nodes(node))
        return found

    def _resolved(self, node: ast.AST) -> str:
        parts: list[str] = []
        while isinstance(node, ast.Attribute):
            parts.append(node.attr)
            node = node.value
        if not isinstance(node, ast.Name) or isinstance(node.ctx, ast.Store) or node.id in self._bound:
            return ""
        base = self._names.get(node.id)
        if base is None:
            known = not parts and hasattr(builtins, node.id) and not node.id.startswith("_") and node.id != "page"
            return f"builtins.{node.id}" if known else ""
        return ".".join([base, *reversed(parts)])

    def _address(self, name: str) -> str:
        module, _, last = name.rpartition(".")
        if not module:
            return ""
        for pattern, address in self._patterns:
            if fnmatchcase(name, pattern):
                return address.format(name=name, module=module, last=last)
        if name.split(".", maxsplit=1)[0] in sys.stdlib_module_names:
            return _LIBRARY.format(module=module if module in _DOTTED else name.split(".", maxsplit=1)[0], name=name)
        return ""


_DOTTED = {
    "os.path", "collections.abc", "concurrent.futures", "urllib.request", "urllib.parse", "importlib.metadata",
    "importlib.resources", "unittest.mock", "logging.handlers", "email.message", "html.parser", "http.client",
}  # fmt: skip
"""Modules of the standard library below another that have a page of their own."""


def _shipped() -> list[tuple[str, str]]:
    text = (files("wornpage.compose") / "documentation.txt").read_text(encoding="utf-8")
    lines = (line.split(maxsplit=1) for line in text.splitlines() if line and not line.startswith("#"))
    return [(pattern, address) for pattern, address in lines]


def _parsed(code: str) -> ast.Module | None:
    try:
        return ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return None
