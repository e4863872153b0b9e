"""`when`: an expression over given values that decides whether a chunk runs. Only looking is possible in it."""

from __future__ import annotations

import ast
import operator
from typing import Any

_COMPARE = {
    ast.Eq: operator.eq, ast.NotEq: operator.ne, ast.Lt: operator.lt, ast.LtE: operator.le, ast.Gt: operator.gt,
    ast.GtE: operator.ge, ast.In: lambda a, b: a in b, ast.NotIn: lambda a, b: a not in b, ast.Is: operator.is_,
    ast.IsNot: operator.is_not,
}  # fmt: skip
_BINARY = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.Mod: operator.mod,
}


class ConditionFault(ValueError):
    """A condition that makes no sense, or that would do more than look."""


def holds(expression: str, given: dict[str, object]) -> bool:
    """Whether a condition is true for these given values. Raises `ConditionFault`."""
    return bool(value_of(expression, given))


def value_of(expression: str, given: dict[str, object]) -> object:
    """What an expression over given values comes to, `given.year` or `year`. Raises `ConditionFault`."""
    known = {name.replace("-", "_"): value for name, value in given.items()}
    try:
        return _value(ast.parse(expression.strip(), mode="eval").body, known)
    except (SyntaxError, RecursionError):
        raise ConditionFault("it is no expression") from None
    except (TypeError, ValueError, ArithmeticError) as error:
        raise ConditionFault(str(error)) from None


def _combined(op: ast.operator, left: object, right: object) -> object:
    """A sum and its like; texts and lists are only joined, since a number times a text may be larger than any memory."""
    if not isinstance(op, ast.Add) and (isinstance(left, str | list) or isinstance(right, str | list)):
        raise ConditionFault("only numbers can be multiplied, divided or taken away")
    return _BINARY[type(op)](left, right)


def _value(node: ast.expr, given: dict[str, object]) -> Any:
    match node:
        case ast.Constant(value=value):
            return value
        case ast.Attribute(value=ast.Name(id="given"), attr=name):
            if name not in given:
                raise ConditionFault(f"there is no given value {name!r}; there are: {', '.join(given) or 'none'}")
            return given[name]
        case ast.Name(id=name):
            return _value(ast.Attribute(ast.Name("given"), name), given)
        case ast.BoolOp(op=ast.And(), values=values):
            return all(_value(value, given) for value in values)
        case ast.BoolOp(values=values):
            return any(_value(value, given) for value in values)
        case ast.UnaryOp(op=ast.Not(), operand=operand):
            return not _value(operand, given)
        case ast.UnaryOp(op=ast.USub(), operand=operand):
            return -_value(operand, given)
        case ast.BinOp(left=left, op=op, right=right) if type(op) in _BINARY:
            return _combined(op, _value(left, given), _value(right, given))
        case ast.List(elts=items) | ast.Tuple(elts=items) | ast.Set(elts=items):
            return [_value(item, given) for item in items]
        case ast.Compare(left=left, ops=ops, comparators=others):
            values = [_value(left, given), *(_value(other, given) for other in others)]
            return all(_COMPARE[type(op)](a, b) for op, a, b in zip(ops, values, values[1:], strict=False))
    raise ConditionFault("it may hold given values, constants, comparisons, `and`, `or`, `not` and sums")
