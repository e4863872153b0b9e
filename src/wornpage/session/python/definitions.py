"""Functions and classes that running their statement again gives back exactly."""

from __future__ import annotations

import ast
from types import BuiltinFunctionType, FunctionType, ModuleType

from wornpage.session.bindings import names_written
from wornpage.session.python.atoms import ATOMS, is_a
from wornpage.session.python.fingerprint import HOOKS

_FIXED = (*ATOMS, FunctionType, BuiltinFunctionType, type, ModuleType)
"""What a default or an attribute may be where its expression is a name: nothing that somebody else can change."""


def is_plain_definition(code: str, name: str, value: object) -> bool:
    """Whether running the last top-level statement that defines `name` again gives it back and does nothing else."""
    try:
        tree = ast.parse(code)
    except SyntaxError:
        return False
    statements = [s for s in tree.body if name in _bound_by(s)]
    if not statements or not isinstance(statements[-1], (ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef)):
        return False
    statement = statements[-1]
    if isinstance(statement, ast.ClassDef):
        return is_a(value, type) and _is_plain_class(statement, value)
    if not is_a(value, FunctionType) or statement.decorator_list or value.__closure__ is not None:
        return False
    written = [*statement.args.defaults, *(d for d in statement.args.kw_defaults if d)]
    made = [*(value.__defaults__ or ()), *(value.__kwdefaults__ or {}).values()]
    return len(written) == len(made) and all(map(_stays, written, made))


def _stays(written: ast.expr, made: object) -> bool:
    """Whether an expression gives the same again: one that is a name only if what it stands for cannot be changed."""
    return _is_inert(written) and (not isinstance(written, (ast.Name, ast.Attribute)) or isinstance(made, _FIXED))


def _bound_by(statement: ast.stmt) -> set[str]:
    return names_written(ast.unparse(statement))


def _is_plain_class(statement: ast.ClassDef, value: type) -> bool:
    if type(value).__name__ not in {"type", "ABCMeta"} or statement.keywords:
        return False
    for base in value.__mro__[1:-1]:
        if "__init_subclass__" in vars(base) or any(hook in vars(base) for hook in HOOKS[-2:]):
            return False
    for decorator in statement.decorator_list:
        if ast.unparse(decorator).split("(")[0] not in {
            "dataclass",
            "dataclasses.dataclass",
            "total_ordering",
            "functools.total_ordering",
        }:
            return False
    return all(_is_plain_member(member, value) for member in statement.body)


def _is_plain_member(member: ast.stmt, made: type) -> bool:
    if isinstance(member, (ast.FunctionDef, ast.AsyncFunctionDef)):
        known = {"property", "staticmethod", "classmethod", "cached_property", "abstractmethod"}
        names = {ast.unparse(d).split("(")[0].rpartition(".")[2] for d in member.decorator_list}
        return names <= known | {"setter", "getter"}
    if isinstance(member, (ast.Assign, ast.AnnAssign)):
        targets = member.targets if isinstance(member, ast.Assign) else [member.target]
        target = targets[0] if len(targets) == 1 else None
        if not isinstance(target, ast.Name):
            return False
        return member.value is None or _stays(member.value, vars(made).get(target.id))
    return isinstance(member, ast.Pass) or (isinstance(member, ast.Expr) and isinstance(member.value, ast.Constant))


def _is_inert(node: ast.expr) -> bool:
    """Whether evaluating an expression can do nothing but give a value that is the same each time."""
    if isinstance(node, ast.Call):
        return ast.unparse(node.func) in {"field", "dataclasses.field"} and all(
            _is_inert(k.value) for k in node.keywords
        )
    if isinstance(node, (ast.Constant, ast.Name)):
        return True
    if isinstance(node, ast.Attribute):
        return _is_inert(node.value)
    if isinstance(node, ast.Tuple):
        return all(map(_is_inert, node.elts))
    if isinstance(node, (ast.List, ast.Dict, ast.Set)):
        return not ast.unparse(node).strip("[]{}").strip()
    return isinstance(node, ast.UnaryOp) and _is_inert(node.operand)
