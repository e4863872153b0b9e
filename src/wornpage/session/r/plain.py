"""Objects of R as plain values of Python, and the reverse: how the two ends of a session talk.

A list with names is a mapping, one without a list; a vector of one is what it holds, others are lists; NULL and what is missing
are None.
"""

from __future__ import annotations

import datetime
import math
import struct
from array import array
from collections.abc import Callable, Sequence
from typing import Any

from wornpage.session.r.stream import (
    CHARACTER,
    INTEGER,
    LOGICAL,
    MISSING,
    NOTHING,
    RAW,
    REAL,
    STRINGS,
    SYMBOL,
    VECTOR,
    Cell,
    Node,
)  # fmt: skip
from wornpage.session.r.written import Attributes, Written
from wornpage.tree.older import beside

_EPOCH = datetime.date(1970, 1, 1).toordinal()


def plain(node: object) -> object:
    """An object as a plain value. Raises `ValueError` for one that is none."""
    assert isinstance(node, Node)
    if node is NOTHING or node.kind == "nil":
        return None
    if node.kind == VECTOR:
        items = [plain(item) for item in node.data]  # type: ignore[attr-defined]
        names = named(node)
        return dict(beside(names, items)) if names is not None else items
    if node.kind == RAW:
        return bytes(node.data)  # type: ignore[call-overload]
    if node.kind == STRINGS:
        return _one_or_all(node.data)
    if node.kind in (INTEGER, LOGICAL):
        numbers = array("i")
        numbers.frombytes(node.data)  # type: ignore[arg-type]
        is_truth = node.kind == LOGICAL
        return _one_or_all([None if n == MISSING else bool(n) if is_truth else n for n in numbers])
    if node.kind == REAL:
        reals = array("d")
        reals.frombytes(node.data)  # type: ignore[arg-type]
        return _one_or_all([None if math.isnan(n) else n for n in reals])
    if node.kind in (CHARACTER, SYMBOL):
        return node.data
    raise ValueError(f"an object of type {node.kind} is no plain value")


def _one_or_all(items: object) -> object:
    assert isinstance(items, list)
    return items[0] if len(items) == 1 else items


def named(node: Node) -> list[str] | None:
    """The names of the items of a list; None if they have none."""
    for tag, value in attributes(node):
        if tag == "names" and isinstance(value, Node):
            return [name or "" for name in value.data]  # type: ignore[attr-defined]
    return None


def attributes(node: Node) -> list[tuple[str, object]]:
    """Names and values of what an object is told to have."""
    found: list[tuple[str, object]] = []
    cell = node.attributes.data if node.attributes is not None else None
    while isinstance(cell, Cell):
        found.append((str(cell.tag.data) if cell.tag else "", cell.car))
        cell = cell.cdr
    return found


def packed(value: object) -> bytes:
    """A plain value as R reads it. Raises `TypeError` for any other."""
    writer = _Writer()
    writer.value(value)
    return writer.stream()


class _Writer(Written):
    encoding_errors = "surrogateescape"  # names of files may be no text

    def value(self, value: Any) -> None:
        for kinds, write in _KINDS.items():
            if isinstance(value, kinds):
                return write(self, value)
        raise TypeError(type(value).__name__)

    def whole(self, value: int) -> None:
        if abs(value) < -MISSING:
            self.ints([value])
        else:
            self.real(value)

    def real(self, value: float) -> None:
        self.vector(REAL, 1, struct.pack("<d", value))

    def day(self, value: datetime.date) -> None:
        days = struct.pack("<d", value.toordinal() - _EPOCH)
        self.vector(REAL, 1, days, {"class": lambda: self.texts(["Date"])}, is_object=True)

    def mapping(self, value: dict[object, object]) -> None:
        names = [str(name) for name in value]
        self.items(list(value.values()), {"names": lambda: self.texts(names)})

    def items(self, items: Sequence[object], more: Attributes | None = None) -> None:
        self.head_of_list(len(items), bool(more))
        for item in items:
            self.value(item)
        self.attributes(more)


_KINDS: dict[Any, Callable[[_Writer, Any], None]] = {
    type(None): lambda writer, value: writer.nothing(),
    bool: lambda writer, value: writer.vector(LOGICAL, 1, struct.pack("<i", value)),
    int: _Writer.whole,
    float: _Writer.real,
    str: lambda writer, value: writer.texts([value]),
    (bytes, bytearray, memoryview): lambda writer, value: writer.vector(RAW, len(value), bytes(value)),
    datetime.date: _Writer.day,
    dict: _Writer.mapping,
    (list, tuple): _Writer.items,
}
"""How values are written; the first kind that fits counts."""
