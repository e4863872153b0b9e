"""Whether dictionaries are as they were, told in a moment: Python numbers every change that is made to any of them.

PEP 509 has the number; Pythons that have it hold it behind the length. Whether this one does, and numbers every kind of change,
is tried once. Where it does not, whoever asks has to look for himself.
"""

from __future__ import annotations

import ctypes
import gc
import sys
from collections.abc import Iterable, Mapping
from functools import cache
from types import MappingProxyType
from typing import Any

_PLACE = object.__basicsize__ + ctypes.sizeof(ctypes.c_ssize_t)
"""Bytes: a reference count and a type, and the length."""


class Versions:
    """Numbers of some dictionaries, or of those behind what classes show of theirs: as long as one stays, so does the other."""

    def __init__(self, tables: Iterable[Mapping[Any, Any]]) -> None:
        self._held = [_of_class(one) if type(one) is MappingProxyType else one for one in tables]
        """Kept, so that no other takes the place of one."""
        self._numbers = [_number(one) for one in self._held] if are_told() else None

    def now(self) -> list[int] | None:
        """A number for each; None where nobody tells."""
        return None if self._numbers is None else [number.value for number in self._numbers]


def differing(now: list[int] | None, before: list[int] | None) -> list[int] | None:
    """Places of the numbers that differ; None where they are not known."""
    if now is None or before is None:
        return None
    return [] if now == before else [at for at, (a, b) in enumerate(zip(now, before)) if a != b]


def _number(table: object) -> ctypes.c_uint64:
    return ctypes.c_uint64.from_address(id(table) + _PLACE)


def _of_class(shown: Mapping[Any, Any]) -> Mapping[Any, Any]:
    """The dictionary of a class behind what the class shows of it."""
    held: Mapping[Any, Any] = gc.get_referents(shown)[0]
    return held


class _Object:
    """Has an attribute."""

    a: int


@cache
def are_told() -> bool:
    """Whether this Python numbers changes: each that there is must give another number, and looking must not.

    From 3.13 on attributes of objects are set past their dictionaries.
    """
    if sys.implementation.name != "cpython":
        return False
    one = _Object()
    one.a = 0
    table = vars(one)
    number = _number(table)
    seen = [number.value]
    for change in _CHANGES:
        exec(change, {"table": table, "one": one})
        seen.append(number.value)
    list(table.items()), table.get("a"), len(table)
    return len(set(seen)) == len(seen) and number.value == seen[-1]


_CHANGES = (
    "one.a = 1", "one.a = 2", "one.c = 1", "del one.c", "table['b'] = 1", "table['b'] = 2", "table.update(c=3)", "table.setdefault('d', [])", "table.pop('b')", "table.popitem()",
    "del table['c']", "table.clear()", "exec('e = 1', table)", "exec('e = 2', table)", "exec('del e', table)", "table |= {'f': 1}",
)  # fmt: skip
