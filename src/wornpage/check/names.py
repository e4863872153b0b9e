"""Names that code uses before anything has written them, told by reading it in the order in which it would run."""

from __future__ import annotations

import ast
import builtins
from collections.abc import Iterable, Iterator

ALWAYS = frozenset(dir(builtins)) | {"given", "page", "__name__", "__builtins__", "__doc__", "__class__"}
_OPEN = frozenset({"exec", "eval", "globals", "locals", "vars", "setattr", "__import__"})
"""After these nobody can tell which names there are."""


class Reading(ast.NodeVisitor):
    """Goes through code as Python does at its top level; bodies of functions run later and are only remembered."""

    def __init__(self, known: Iterable[str] = ()) -> None:
        self.known = set(known)
        self.missing: list[tuple[str, int, int]] = []
        """Name, line counted from 1, and bytes of UTF-8 before it, of each use of a name that is not known."""
        self.later: list[tuple[str, int, int]] = []
        """The same for bodies of functions: wanted by the time they are called."""
        self.gone: set[str] = set()
        """Names that were there and were deleted."""
        self.is_open = False
        """Whether the code may write names that cannot be read off it."""
        self._own: list[set[str]] = []
        self._are_annotations_read = True

    def read(self, tree: ast.AST) -> None:
        """Go through `tree`."""
        self.visit(tree)

    # --- names --------------------------------------------------------------------------------

    def visit_Name(self, node: ast.Name) -> None:
        if isinstance(node.ctx, ast.Load):
            if node.id in _OPEN:
                self.is_open = True
            if not self._is_known(node.id):
                self.missing.append((node.id, node.lineno, node.col_offset))
        elif isinstance(node.ctx, ast.Store):
            self._write(node.id)
        else:
            self.known.discard(node.id)
            self.gone.add(node.id)

    def _is_known(self, name: str) -> bool:
        return name in self.known or name in ALWAYS or any(name in own for own in self._own)

    def _write(self, name: str) -> None:
        (self._own[-1] if self._own else self.known).add(name)

    def visit_Import(self, node: ast.Import | ast.ImportFrom) -> None:
        if isinstance(node, ast.ImportFrom) and node.module == "__future__":
            self._are_annotations_read = all(alias.name != "annotations" for alias in node.names)
        for alias in node.names:
            if alias.name == "*":
                self.is_open = True
            else:
                self._write((alias.asname or alias.name).split(".")[0])

    visit_ImportFrom = visit_Import

    # --- order --------------------------------------------------------------------------------

    def visit_Assign(self, node: ast.Assign) -> None:
        self.visit(node.value)
        for target in node.targets:
            self.visit(target)

    def visit_AugAssign(self, node: ast.AugAssign) -> None:
        if isinstance(node.target, ast.Name) and not self._is_known(node.target.id):
            self.missing.append((node.target.id, node.lineno, node.col_offset))
        self.visit(node.value)
        self.visit(node.target)

    def visit_AnnAssign(self, node: ast.AnnAssign) -> None:
        if self._are_annotations_read:
            self.visit(node.annotation)
        if node.value is not None:
            self.visit(node.value)
            self.visit(node.target)

    def visit_For(self, node: ast.For | ast.AsyncFor) -> None:
        self.visit(node.iter)
        self.visit(node.target)
        self._all(node.body, node.orelse)

    visit_AsyncFor = visit_For

    def visit_NamedExpr(self, node: ast.NamedExpr) -> None:
        self.visit(node.value)
        self.known.add(node.target.id)

    def visit_Try(self, node: ast.Try | ast.TryStar) -> None:
        wanted = len(self.missing)
        self._all(node.body)
        if any(map(_catches_missing_names, node.handlers)):
            del self.missing[wanted:]  # whether they are there is just what is asked
        self._all(node.handlers, node.orelse, node.finalbody)

    visit_TryStar = visit_Try

    def visit_ExceptHandler(self, node: ast.ExceptHandler) -> None:
        if node.type is not None:
            self.visit(node.type)
        if node.name:
            self._write(node.name)
        self._all(node.body)

    def visit_MatchAs(self, node: ast.MatchAs) -> None:
        if node.name:
            self._write(node.name)
        self.generic_visit(node)

    def visit_MatchStar(self, node: ast.MatchStar) -> None:
        if node.name:
            self._write(node.name)

    def visit_MatchMapping(self, node: ast.MatchMapping) -> None:
        if node.rest:
            self._write(node.rest)
        self.generic_visit(node)

    # --- scopes -------------------------------------------------------------------------------

    def visit_FunctionDef(self, node: ast.FunctionDef | ast.AsyncFunctionDef) -> None:
        self._all(node.decorator_list, node.args.defaults, [one for one in node.args.kw_defaults if one])
        self._write(node.name)
        self._remember(node.args, node.body)

    visit_AsyncFunctionDef = visit_FunctionDef

    def visit_Lambda(self, node: ast.Lambda) -> None:
        self._all(node.args.defaults, [one for one in node.args.kw_defaults if one])
        self._remember(node.args, [node.body])

    def _remember(self, arguments: ast.arguments, body: Iterable[ast.AST]) -> None:
        """What a body uses that is not its own."""
        own = {one.arg for one in ast.walk(arguments) if isinstance(one, ast.arg)}
        for outer in self._own:
            own |= outer
        nodes = [inner for part in body for inner in _walk_code(part)]
        told_global = {name for node in nodes if isinstance(node, ast.Global) for name in node.names}
        for node in nodes:
            match node:
                case (
                    ast.Name(id=name, ctx=ast.Store() | ast.Del())
                    | ast.FunctionDef(name=name)
                    | ast.AsyncFunctionDef(name=name)
                    | ast.ClassDef(name=name)
                ):
                    own.add(name)
                case (
                    ast.arg(arg=name)
                    | ast.ExceptHandler(name=str(name))
                    | ast.MatchAs(name=str(name))
                    | ast.MatchStar(name=str(name))
                    | ast.MatchMapping(rest=str(name))
                ):
                    own.add(name)
                case ast.Import(names=names) | ast.ImportFrom(names=names):
                    own |= {(alias.asname or alias.name).split(".")[0] for alias in names}
        self.known |= own & told_global
        tried = {id(one) for node in nodes if isinstance(node, ast.Try) and any(map(_catches_missing_names, node.handlers))
                 for part in node.body for one in ast.walk(part)}  # fmt: skip
        for node in nodes:
            if (
                isinstance(node, ast.Name)
                and isinstance(node.ctx, ast.Load)
                and node.id not in own | ALWAYS
                and id(node) not in tried
            ):
                self.later.append((node.id, node.lineno, node.col_offset))

    def visit_ClassDef(self, node: ast.ClassDef) -> None:
        self._all(node.decorator_list, node.bases, [keyword.value for keyword in node.keywords])
        self._own.append({"__module__", "__qualname__"})
        self._all(node.body)
        self._own.pop()
        self._write(node.name)

    def _comprehension(self, node: ast.ListComp | ast.SetComp | ast.GeneratorExp | ast.DictComp) -> None:
        self.visit(node.generators[0].iter)
        self._own.append(set())
        for place, part in enumerate(node.generators):
            if place:
                self.visit(part.iter)
            self.visit(part.target)
            self._all(part.ifs)
        self._all([node.key, node.value] if isinstance(node, ast.DictComp) else [node.elt])
        self._own.pop()

    visit_ListComp = visit_SetComp = visit_GeneratorExp = visit_DictComp = _comprehension

    def _all(self, *parts: Iterable[ast.AST]) -> None:
        for part in parts:
            for node in part:
                self.visit(node)


def _catches_missing_names(handler: ast.ExceptHandler) -> bool:
    names = {one.id for one in ast.walk(handler.type) if isinstance(one, ast.Name)} if handler.type else {"Exception"}
    return bool(names & {"NameError", "Exception", "BaseException"})


def _walk_code(part: ast.AST) -> Iterator[ast.AST]:
    """Everything in a body that runs: what annotations of its names say is never looked up."""
    todo = [part]
    while todo:
        node = todo.pop()
        yield node
        skipped = node.annotation if isinstance(node, ast.AnnAssign) else None
        todo += [child for child in ast.iter_child_nodes(node) if child is not skipped]
