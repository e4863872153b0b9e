"""Attributes that code of the page gives to things of libraries: `json.dumps.calls = 0`, `logging.getLogger("x").room = room`.

Such a thing is there without any name of the page, or is kept by its own name alone, so that nothing which keeps the page's
names keeps the attribute. Code of the page and of the project's modules is compiled so that whatever is about to be given an
attribute, or to lose one, is noted first. A chunk that has done that to something of a library's left it behind.
"""

from __future__ import annotations

import ast
import builtins
import gc
import sys
import weakref
from collections.abc import Callable, Collection, Iterator
from types import BuiltinFunctionType, CodeType, FunctionType, MethodType, ModuleType
from typing import Any

from wornpage.session.python.modules import is_local
from wornpage.session.python.names import is_of_page

_PLACE = "\0the place of what notes attributes"
"""Stands in compiled code until what notes takes its place: a constant, since no name of the page may be in the way."""
_ANY = "*"
"""Some attribute: which one was not told by name."""
_DRAWING = ("matplotlib.ticker", "matplotlib.axis", "matplotlib.spines", "matplotlib.dates", "matplotlib.backend")
"""Modules of what belongs to figures, which are kept or shown as wholes."""
_SETTERS = {"__setattr__": 2, "__delattr__": 1}
"""With how many arguments the methods are called on an object."""
_BY_NAME = (FunctionType, BuiltinFunctionType, MethodType, type)


class Noter:
    """Notes what is given attributes, without holding it."""

    __slots__ = ("passed", "things")

    def __init__(self) -> None:
        self.things: dict[int, tuple[weakref.ref[Any], set[str]]] = {}
        self.passed: set[type] = set()
        """Kinds that need not be noted, which is soon seen."""

    def of(self, thing: Any, name: str) -> Any:
        """`thing`, whose attribute `name` is about to change."""
        kind = type(thing)
        if kind not in self.passed and kind.__module__ != "__main__":
            known = self.things.get(id(thing))
            if known is None:
                self._note(thing, name)
            else:
                known[1].add(name)
        return thing

    def by(self, function: Any, *arguments: Any, **more: Any) -> Any:
        """Call what is called `setattr` or `delattr`."""
        if arguments and function in (builtins.setattr, builtins.delattr):
            self.of(arguments[0], _ANY)
        return function(*arguments, **more)

    def _note(self, thing: Any, name: str) -> None:
        """Modules are looked at as wholes; the project's classes are its own affair."""
        key, kind = id(thing), type(thing)
        if isinstance(thing, ModuleType) or is_local(kind.__module__) or _table_of(thing) is None:
            self.passed.add(kind)
            return
        try:
            self.things[key] = weakref.ref(thing, lambda _: self.things.pop(key, None)), {name}
        except TypeError:
            self.passed.add(kind)

    def __repr__(self) -> str:
        return "what notes attributes"


noter = Noter()
_hung: dict[str, tuple[weakref.ref[Any], str]] = {}
"""What hangs on things of libraries: by words for it, the thing and the attribute."""


def hung() -> Iterator[tuple[str, object]]:
    """Words for each attribute that code has given to a thing of a library's, and its value."""
    for words, (thing, name) in list(_hung.items()):
        table = _table_of(thing())
        if table is not None and name in table:
            yield words, table[name]


def left(names: dict[str, object], reached: Callable[[], Collection[int] | None]) -> str:
    """What the chunk has done to a thing of a library's, in words; empty for nothing.

    `names` is what the page's names stand for. `reached` gives ids of all that they reach, or None if that cannot be told.
    """
    found = ""
    for thing, changed in _outside(names, reached):
        words = _words(thing)
        table = _table_of(thing) or {}
        known = changed if all(name in table for name in changed) else table
        for name in known:
            if not name.startswith("__"):
                _hung[f"{words}.{name}"] = weakref.ref(thing), name
        one = min(changed)
        found = found or f"it changed {'an attribute of ' + words if one == _ANY else f'{words}.{one}'}"
    return found


def _outside(names: dict[str, object], reached: Callable[[], Collection[int] | None]) -> list[tuple[Any, set[str]]]:
    """What was given attributes, and is kept with none of the page's names."""
    noted = [(thing, changed) for ref, changed in list(noter.things.values()) if (thing := ref()) is not None]
    found = [(thing, changed) for thing, changed in noted if isinstance(thing, _BY_NAME) and not _is_the_pages(thing)]
    others = [(thing, changed) for thing, changed in noted if not isinstance(thing, _BY_NAME) and not _is_drawn(thing)]
    if not others:
        return found
    held = {id(value) for value in names.values()}
    if any(id(thing) not in held for thing, _ in others):
        more = reached()
        if more is None:
            return found
        held.update(more)
    found += [(thing, changed) for thing, changed in others if id(thing) in held and _is_lost(thing, changed)]
    return found + _still_there(
        [(id(thing), changed) for thing, changed in others if id(thing) not in held], noted, others
    )


def _still_there(keys: list[tuple[int, set[str]]], *holding: list[Any]) -> list[tuple[Any, set[str]]]:
    """Those that somebody else holds: what only holds itself goes now. `holding` are lists of ours, which let go."""
    if not keys:
        return []
    for one in holding:
        one.clear()
    gc.collect()
    return [
        (thing, changed)
        for key, changed in keys
        if key in noter.things and (thing := noter.things[key][0]()) is not None
    ]


def _is_the_pages(thing: Any) -> bool:
    """Whether a function or class is the page's or the project's, which are kept, or looked at, with all they have."""
    inner = thing.__func__ if isinstance(thing, MethodType) else thing
    return is_local(getattr(inner, "__module__", None) or "") or is_of_page(inner)


def _is_drawn(thing: Any) -> bool:
    artist = getattr(sys.modules.get("matplotlib.artist"), "Artist", None)
    return (artist is not None and isinstance(thing, artist)) or type(thing).__module__.startswith(_DRAWING)


def _is_lost(thing: Any, changed: set[str]) -> bool:
    """Whether an object is kept without those attributes: by its name, or by what its library thinks of as its state."""
    own = (_table_of(thing) or {}).keys() & changed
    if not own and _ANY not in changed:
        return False
    try:
        reduced = thing.__reduce_ex__(4)
    except Exception:
        return False  # it cannot be kept at all, and is had again by running the chunk
    if isinstance(reduced, str):
        return getattr(thing, "__module__", None) != "__main__"
    state = reduced[2] if len(reduced) > 2 else None
    if isinstance(state, tuple) and len(state) == 2:
        state = state[0]
    return state is None or (isinstance(state, dict) and not own <= state.keys())


def _table_of(thing: Any) -> Any:
    """What a thing keeps its attributes in; None if it has nothing of the kind."""
    try:
        return thing.__dict__ if isinstance(thing, type) else object.__getattribute__(thing, "__dict__")
    except Exception:
        return None


def _words(thing: Any) -> str:
    if isinstance(thing, _BY_NAME):
        return f"{getattr(thing, '__module__', '')}.{getattr(thing, '__qualname__', '')}"
    name = getattr(thing, "name", "")
    called = f" {name!r}" if isinstance(name, str) and name else ""
    return f"a {type(thing).__module__}.{type(thing).__qualname__}{called}"


# --- compiling --------------------------------------------------------------------------------


def compile_noting(tree: ast.AST, file: str, mode: str) -> CodeType:
    """Compile code of the page so that it notes what it gives attributes to."""
    marker = _Marker()
    marked: Any = marker.visit(tree)
    code: CodeType = compile(marked, file, mode, dont_inherit=True)
    return _noting(code) if marker.has_marked else code


def _noting(code: CodeType) -> CodeType:
    constants = tuple(
        noter
        if type(constant) is str and constant == _PLACE
        else _noting(constant)
        if isinstance(constant, CodeType)
        else constant
        for constant in code.co_consts
    )
    return code.replace(co_consts=constants)


class _Marker(ast.NodeTransformer):
    """Puts what notes around whatever is given an attribute, or loses one; a method's own object is known to be the page's."""

    def __init__(self) -> None:
        self.has_marked = False
        self.in_class = False
        self.own = ""
        """What the method that is looked through calls its object."""

    def visit_ClassDef(self, node: ast.ClassDef) -> ast.AST:
        before, self.in_class = self.in_class, True
        self.generic_visit(node)
        self.in_class = before
        return node

    def visit_FunctionDef(self, node: ast.FunctionDef) -> ast.AST:
        return self._function(node)

    def visit_AsyncFunctionDef(self, node: ast.AsyncFunctionDef) -> ast.AST:
        return self._function(node)

    def _function(self, node: ast.FunctionDef | ast.AsyncFunctionDef) -> ast.AST:
        before = self.in_class, self.own
        first = [*node.args.posonlyargs, *node.args.args][:1]
        is_method = self.in_class and not any(
            isinstance(one, ast.Name) and one.id == "staticmethod" for one in node.decorator_list
        )
        if is_method:
            self.own = first[0].arg if first else ""
        self.in_class = False
        self.generic_visit(node)
        self.in_class, self.own = before
        return node

    def visit_Attribute(self, node: ast.Attribute) -> ast.AST:
        self.generic_visit(node)
        if not isinstance(node.ctx, ast.Load):
            node.value = self._noted(node.value, node.attr)
        return node

    def visit_Subscript(self, node: ast.Subscript) -> ast.AST:
        """`thing.__dict__["name"] = …`."""
        self.generic_visit(node)
        if not isinstance(node.ctx, ast.Load):
            self._mark_table(node.value)
        return node

    def visit_Call(self, node: ast.Call) -> ast.AST:
        """`setattr(thing, …)`, and `vars(thing).update(…)`."""
        self.generic_visit(node)
        if isinstance(node.func, ast.Name) and node.func.id in {"setattr", "delattr"}:
            self.has_marked = True
            node.args = [node.func, *node.args]
            node.func = _at(ast.Attribute(_at(ast.Constant(_PLACE), node.func), "by", ast.Load()), node.func)
        elif isinstance(node.func, ast.Attribute) and node.func.attr in _SETTERS:
            if len(node.args) > _SETTERS[node.func.attr]:  # called on the class: `object.__setattr__(thing, …)`
                node.args[0] = self._noted(node.args[0], _ANY)
            else:
                node.func.value = self._noted(node.func.value, _ANY)
        elif isinstance(node.func, ast.Attribute) and node.func.attr in {
            "update",
            "pop",
            "setdefault",
            "clear",
            "popitem",
        }:
            self._mark_table(node.func.value)
        return node

    def _mark_table(self, node: ast.expr) -> None:
        if isinstance(node, ast.Attribute) and node.attr == "__dict__":
            node.value = self._noted(node.value, _ANY)
        elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "vars" and node.args:
            node.args[0] = self._noted(node.args[0], _ANY)

    def _noted(self, node: ast.expr, name: str) -> ast.expr:
        if isinstance(node, ast.Name) and node.id == self.own:
            return node
        self.has_marked = True
        method = _at(ast.Attribute(_at(ast.Constant(_PLACE), node), "of", ast.Load()), node)
        noted: ast.expr = _at(ast.Call(method, [node, _at(ast.Constant(name), node)], []), node)
        return noted


def _at(made: Any, place: ast.AST) -> Any:
    return ast.copy_location(made, place)
