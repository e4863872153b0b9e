"""Code of the page compiled so that it tells what it is about to do to things of libraries.

Whatever is about to be given an attribute is noted (`attributes`), and calls that look as if they set something are seen to
begin and to end (`setters`). Nothing else changes: lines and columns, frames and values are those of the code as it was written.
"""

from __future__ import annotations

import ast
import builtins
from types import CodeType
from typing import Any

from wornpage.session.python import acts, setters
from wornpage.session.python.attributes import ANY, noter
from wornpage.session.python.names import lost
from wornpage.session.python.scans import is_pattern, queried, sought

_PLACE = "\0the place of what is told"
"""Stands in compiled code until what is told takes its place: a constant, since no name of the page may be in the way."""
_SETTERS = {"__setattr__": 2, "__delattr__": 1}
"""With how many arguments the methods are called on an object."""
_TABLE_METHODS = frozenset({
    "update", "pop", "setdefault", "clear", "popitem", "append", "extend", "insert", "remove", "add", "discard", "sort", "reverse",
})  # fmt: skip


_QUERIES = frozenset({"sql", "query", "execute", "executemany", "from_query", "table"})
"""What libraries call by which databases are asked something."""


class _Told:
    """What code of the page tells, as the constant that stands in it."""

    __slots__ = ("acted", "acting", "beginning", "ended", "lost", "of", "opening", "queried", "sought", "within")

    def __init__(self) -> None:
        self.of, self.within = noter.of, noter.within
        self.beginning, self.ended, self.opening = setters.beginning, setters.ended, setters.opening
        self.acting, self.acted, self.queried, self.sought, self.lost = acts.acting, acts.acted, queried, sought, lost

    def __repr__(self) -> str:
        return "what is told"


_told = _Told()


def compile_telling(tree: ast.AST, file: str, mode: str, flags: int = 0) -> CodeType:
    """Compile code of the page, or of a module of the project, so that it tells."""
    marker = _Marker(_bound_in(tree))
    marked: Any = marker.visit(tree)
    code: CodeType = compile(marked, file, mode, flags=flags, dont_inherit=True)
    return _telling(code) if marker.has_marked else code


def compile_text(text: Any, mode: str, flags: int) -> CodeType:
    """The same for code in a string that `exec` or `eval` is given; a tree is the author's own, and left as it is."""
    if isinstance(text, ast.AST):
        return compile(text, "<string>", mode, flags=flags, dont_inherit=True)  # type: ignore[call-overload,no-any-return]
    text = text.lstrip(" \t") if mode == "eval" and isinstance(text, str) else text
    return compile_telling(ast.parse(text, "<string>", mode), "<string>", mode, flags)


def _telling(code: CodeType) -> CodeType:
    constants = tuple(
        _told
        if type(constant) is str and constant == _PLACE
        else _telling(constant)
        if isinstance(constant, CodeType)
        else constant
        for constant in code.co_consts
    )
    return code.replace(co_consts=constants)


class _Marker(ast.NodeTransformer):
    """Puts what notes around whatever is given an attribute, or loses one; a method's own object is known to be the page's."""

    def __init__(self, bound: frozenset[str]) -> None:
        self.has_marked = False
        self.bound = bound
        """Names that the code binds, other than by importing: they stand for no library."""
        self.acts: set[ast.Call] = set()
        """Calls that are seen to begin and to end already."""
        self.globals: frozenset[str] = frozenset()
        """Names that the function which is looked through says are not its own."""
        self.may_repeat = False
        """Whether what is looked through stands in a loop or a function."""
        self.in_class = False
        self.own = ""
        """What the method that is looked through calls its object."""

    def visit_ClassDef(self, node: ast.ClassDef) -> ast.AST:
        before, self.in_class = self.in_class, True
        node.decorator_list = [self._decorator(one) for one in node.decorator_list]
        self.generic_visit(node)
        self.in_class = before
        return node

    def visit_FunctionDef(self, node: ast.FunctionDef) -> ast.AST:
        return self._function(node)

    def visit_AsyncFunctionDef(self, node: ast.AsyncFunctionDef) -> ast.AST:
        return self._function(node)

    def _function(self, node: ast.FunctionDef | ast.AsyncFunctionDef) -> ast.AST:
        before = self.in_class, self.own, self.globals, self.may_repeat
        first = [*node.args.posonlyargs, *node.args.args][:1]
        is_method = self.in_class and not any(
            isinstance(one, ast.Name) and one.id == "staticmethod" for one in node.decorator_list
        )
        if is_method:
            self.own = first[0].arg if first else ""
        self.in_class, self.globals, self.may_repeat = False, _globals_of(node), True
        node.decorator_list = [self._decorator(one) for one in node.decorator_list]
        returns, node.returns = node.returns, None
        self.generic_visit(node)
        node.returns = returns
        self.in_class, self.own, self.globals, self.may_repeat = before
        return node

    def visit_Attribute(self, node: ast.Attribute) -> ast.AST:
        self.generic_visit(node)
        if not isinstance(node.ctx, ast.Load):
            node.value = self._noted(node.value, node.attr)
        return node

    def visit_Delete(self, node: ast.Delete) -> Any:
        """`del name` of a global one in a function takes it away without asking: it is had before, and told of."""
        self.generic_visit(node)
        names = [one for one in node.targets if isinstance(one, ast.Name) and one.id in self.globals]
        had = [_at(ast.Expr(_at(ast.Name(one.id, ast.Load()), one)), one) for one in names]
        told = [_at(ast.Expr(self._call("lost", _at(ast.Constant(one.id), one), one)), one) for one in names]
        return [*had, node, *told]

    def visit_Subscript(self, node: ast.Subscript) -> ast.AST:
        """`thing.__dict__["name"] = …`, `library.table["name"] = …`."""
        self.generic_visit(node)
        if not isinstance(node.ctx, ast.Load):
            node.value = self._table(node.value)
        return node

    def visit_Call(self, node: ast.Call) -> ast.AST:
        """`setattr(thing, …)`, `vars(thing).update(…)`, and what looks as if it set something in a library."""
        if node not in self.acts and _changes_by_text(node):
            return self._acted(node, is_used=True)
        self.generic_visit(node)
        if isinstance(node.func, (ast.Attribute, ast.Name)) and _last_name(node.func) in _QUERIES:
            node.args[:1] = [
                one if isinstance(one, ast.Starred) else self._call("queried", one, one) for one in node.args[:1]
            ]
        if isinstance(node.func, (ast.Attribute, ast.Name)) and setters.looks_like_one(_last_name(node.func)):
            self._begun(node)
            return self._call("ended", node, node)
        if isinstance(node.func, ast.Name) and node.func.id in {"setattr", "delattr"} and len(node.args) > 1:
            name = node.args[1].value if isinstance(node.args[1], ast.Constant) else ANY
            node.args[0] = self._noted(node.args[0], str(name))
        elif isinstance(node.func, ast.Attribute) and node.func.attr in _SETTERS:
            if len(node.args) > _SETTERS[node.func.attr]:  # called on the class: `object.__setattr__(thing, …)`
                node.args[0] = self._noted(node.args[0], ANY)
            else:
                node.func.value = self._noted(node.func.value, ANY)
        elif isinstance(node.func, ast.Attribute) and node.func.attr in _TABLE_METHODS:
            node.func.value = self._table(node.func.value)
        return node

    def visit_Constant(self, node: ast.Constant) -> ast.AST:
        """`"data/*.csv"`."""
        return self._call("sought", node, node) if isinstance(node.value, str) and is_pattern(node.value) else node

    def visit_JoinedStr(self, node: ast.JoinedStr) -> ast.AST:
        """`f"{folder}/*.csv"`."""
        ends = [one.value for one in node.values[-1:] if isinstance(one, ast.Constant)]
        self._visit_parts(node)
        return (
            self._call("sought", node, node) if any(isinstance(end, str) and is_pattern(end) for end in ends) else node
        )

    def _visit_parts(self, text: ast.JoinedStr) -> None:
        """What is put into a text; how it is written there is no text of its own."""
        for one in text.values:
            if isinstance(one, ast.FormattedValue):
                one.value = self.visit(one.value)
                if isinstance(one.format_spec, ast.JoinedStr):
                    self._visit_parts(one.format_spec)

    def visit_MatchValue(self, node: ast.MatchValue) -> ast.AST:
        """A pattern of `case` stays a literal."""
        return node

    def visit_arg(self, node: ast.arg) -> ast.AST:
        """Annotations may be kept as the text that they are written in."""
        return node

    def visit_AnnAssign(self, node: ast.AnnAssign) -> ast.AST:
        node.target = self.visit(node.target)
        node.value = None if node.value is None else self.visit(node.value)
        return node

    def visit_BinOp(self, node: ast.BinOp) -> ast.AST:
        """`folder + "/*.csv"`."""
        last = node.right.value if isinstance(node.right, ast.Constant) else None
        if not isinstance(last, str) or not is_pattern(last):
            self.generic_visit(node)
            return node
        node.left = self.visit(node.left)
        return self._call("sought", node, node)

    def visit_Expr(self, node: ast.Expr) -> ast.AST:
        """A call as a statement; a text that stands there may be what a function says of itself."""
        if not isinstance(node.value, ast.Constant):
            node.value = self._acted(node.value, is_used=False)
        return node

    def visit_Expression(self, node: ast.Expression) -> ast.AST:
        """The last one of a chunk, whose value is shown."""
        node.body = self._acted(node.body, is_used=True)
        return node

    def _acted(self, call: ast.expr, is_used: bool) -> ast.expr:
        """A call, seen to begin and to end, if it may be of a library's function; otherwise as it stands."""
        handed = self._handed(call) if self._may_act(call) else None
        self.acts |= {call} if isinstance(call, ast.Call) else set()
        visited: ast.expr = self.visit(call)
        if handed is None or not isinstance(call, ast.Call):
            return visited
        call.func = self._call("acting", call.func, call.func)
        flags = [_at(ast.Constant(flag), call) for flag in (is_used, all(one is not None for one in handed))]
        given = [one for one in handed if one is not None]
        return self._call("acted", visited, call, *flags, *given)

    def _may_act(self, call: ast.expr) -> bool:
        """Whether a call is worth being seen: what may be done a million times only if it has a text, or a verb for it."""
        if not isinstance(call, ast.Call) or not isinstance(call.func, (ast.Attribute, ast.Name)):
            return False
        name = _last_name(call.func)
        if self.may_repeat or isinstance(call.func, ast.Name):
            texts = [one.value for one in map(_plainly, call.args) if isinstance(one, ast.Constant)]
            has_text = any(isinstance(text, str) for text in texts)
            return has_text or name in _QUERIES or setters.looks_like_one(name)
        return name not in _TABLE_METHODS

    def visit_For(self, node: ast.For) -> ast.AST:
        return self._loop(node)

    def visit_AsyncFor(self, node: ast.AsyncFor) -> ast.AST:
        return self._loop(node)

    def visit_While(self, node: ast.While) -> ast.AST:
        return self._loop(node)

    def _loop(self, node: ast.AST) -> ast.AST:
        before, self.may_repeat = self.may_repeat, True
        self.generic_visit(node)
        self.may_repeat = before
        return node

    def _handed(self, call: ast.expr) -> list[ast.expr | None] | None:
        """What a call is handed: names, plain things, and None for anything else. None for what is no call of a library's function."""
        root = _root_of(call.func) if isinstance(call, ast.Call) else None
        if not isinstance(call, ast.Call) or root is None or root.id in self.bound or hasattr(builtins, root.id):
            return None
        given = [*call.args, *(one.value for one in call.keywords)]
        return [_plainly(one) for one in given] if _is_way(call.func) else None

    def _decorator(self, node: ast.expr) -> ast.expr:
        """`@lib.register_this`, `@lib.register("this")`: what it does is done when it is called with what it decorates."""
        called = node.func if isinstance(node, ast.Call) else node
        if not isinstance(called, (ast.Attribute, ast.Name)) or not setters.looks_like_one(_last_name(called)):
            return node
        opened = self._call("opening", called, called)
        if not isinstance(node, ast.Call):
            return opened
        node.func = opened
        return node

    def _begun(self, node: ast.Call) -> None:
        node.func = self._call("beginning", node.func, node.func)

    def _call(self, method: str, argument: ast.expr, place: ast.AST, *more: ast.expr) -> ast.expr:
        self.has_marked = True
        called: ast.expr = _at(
            ast.Call(
                _at(ast.Attribute(_at(ast.Constant(_PLACE), place), method, ast.Load()), place), [argument, *more], []
            ),
            place,
        )
        return called

    def _table(self, node: ast.expr) -> ast.expr:
        """A table that is about to change: that of an object's attributes, or one that a module may hold."""
        if isinstance(node, ast.Attribute) and node.attr == "__dict__":
            node.value = self._noted(node.value, ANY)
        elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "vars" and node.args:
            node.args[0] = self._noted(node.args[0], ANY)
        elif isinstance(node, (ast.Attribute, ast.Call)) and (root := _root_of(node)) and root.id != self.own:
            return self._call("within", node, node, _at(ast.Name(root.id, ast.Load()), root))
        return node

    def _noted(self, node: ast.expr, name: str) -> ast.expr:
        if isinstance(node, ast.Starred) or (isinstance(node, ast.Name) and node.id == self.own):
            return node
        self.has_marked = True
        method = _at(ast.Attribute(_at(ast.Constant(_PLACE), node), "of", ast.Load()), node)
        noted: ast.expr = _at(ast.Call(method, [node, _at(ast.Constant(name), node)], []), node)
        return noted


def _root_of(node: ast.expr) -> ast.Name | None:
    """The name that a way through attributes, tables and calls begins with."""
    while isinstance(node, (ast.Attribute, ast.Subscript, ast.Call)):
        node = node.func if isinstance(node, ast.Call) else node.value
    return node if isinstance(node, ast.Name) else None


def _is_way(node: ast.expr) -> bool:
    """Whether an expression is a name, or attributes of one."""
    while isinstance(node, ast.Attribute):
        node = node.value
    return isinstance(node, ast.Name)


def _plainly(node: ast.expr) -> ast.expr | None:
    """A name or a constant, and how a text begins; None for anything else."""
    if isinstance(node, ast.JoinedStr):
        begins = node.values[0] if node.values else None
        return begins if isinstance(begins, ast.Constant) else _at(ast.Constant(""), node)
    return node if isinstance(node, (ast.Name, ast.Constant)) else None


def _changes_by_text(node: ast.Call) -> bool:
    """Whether a call is handed a text that tells a database to change something."""
    given = [_plainly(one) for one in [*node.args, *(one.value for one in node.keywords)]]
    return any(isinstance(one, ast.Constant) and acts.changes_something(one.value) for one in given)


def _globals_of(function: ast.AST) -> frozenset[str]:
    """Names that a function, and none within it, declares to be global."""
    found: set[str] = set()
    todo = list(ast.iter_child_nodes(function))
    while todo:
        node = todo.pop()
        if isinstance(node, ast.Global):
            found.update(node.names)
        elif not isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef, ast.Lambda, ast.ClassDef)):
            todo += ast.iter_child_nodes(node)
    return frozenset(found)


def _bound_in(tree: ast.AST) -> frozenset[str]:
    """Names that code binds, other than by importing."""
    found: set[str] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Name) and not isinstance(node.ctx, ast.Load):
            found.add(node.id)
        elif isinstance(node, ast.arg):
            found.add(node.arg)
        elif isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef, ast.ExceptHandler)):
            found.add(node.name or "")
    return frozenset(found)


def _last_name(function: ast.Attribute | ast.Name) -> str:
    """What a function is called by; nothing for the types that everybody has."""
    if isinstance(function, ast.Attribute):
        return function.attr
    return "" if hasattr(builtins, function.id) else function.id


def _at(made: Any, place: ast.AST) -> Any:
    return ast.copy_location(made, place)
