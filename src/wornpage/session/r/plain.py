"""Objects of R as plain values of Python, and the reverse: how the two ends of a session talk.

A list with names is a mapping, one without a list; a vector of one is what it holds, others are lists; NULL and what is missing
are None.
"""

from __future__ import annotations

import datetime
import math
import struct
from array import array

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

_NAN = struct.Struct("<d")
_EPOCH = datetime.date(1970, 1, 1).toordinal()
_HEAD = b"B\n" + struct.pack("<iii", 2, 0x040202, 0x020300)


def plain(node: object) -> object:
    """An object as a plain value. Raises `ValueError` for one that is none."""
    assert isinstance(node, Node)
    if node is NOTHING or node.kind == "nil":
        return None
    if node.kind == VECTOR:
        items = [plain(item) for item in node.data]  # type: ignore[attr-defined]
        names = named(node)
        return dict(zip(names, items, strict=True)) if names is not None else items
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
    return b"".join([_HEAD, *writer.parts])


class _Writer:
    def __init__(self) -> None:
        self.parts: list[bytes] = []
        self._symbols: dict[str, int] = {}

    def value(self, value: object) -> None:
        match value:
            case None:
                self._number(254)
            case bool():
                self._vector(LOGICAL, 1, struct.pack("<i", value))
            case int() if abs(value) < -MISSING:
                self._vector(INTEGER, 1, struct.pack("<i", value))
            case int() | float():
                self._vector(REAL, 1, _NAN.pack(value))
            case str():
                self._strings([value])
            case bytes() | bytearray() | memoryview():
                self._vector(RAW, len(value), bytes(value))
            case datetime.date():
                self._date(value)
            case dict():
                self._list(list(value.values()), [str(name) for name in value])
            case list() | tuple():
                self._list(list(value), None)
            case _:
                raise TypeError(type(value).__name__)

    def _number(self, number: int) -> None:
        self.parts.append(struct.pack("<i", number))

    def _vector(self, kind: int, count: int, data: bytes, flags: int = 0) -> None:
        if count < 2**31:
            self.parts.append(struct.pack("<ii", kind | flags, count))
        else:
            self.parts.append(struct.pack("<iiiI", kind | flags, -1, count >> 32, count & 0xFFFFFFFF))
        self.parts.append(data)

    def _strings(self, texts: list[str]) -> None:
        self.parts.append(struct.pack("<ii", STRINGS, len(texts)))
        for text in texts:
            self._character(text)

    def _character(self, text: str) -> None:
        data = text.encode("utf-8", "surrogateescape")
        self.parts += [struct.pack("<ii", CHARACTER | ((64 if data.isascii() else 8) << 12), len(data)), data]

    def _list(self, items: list[object], names: list[str] | None) -> None:
        self.parts.append(struct.pack("<ii", VECTOR | (512 if names is not None else 0), len(items)))
        for item in items:
            self.value(item)
        if names is not None:
            self._attribute("names", names)
            self._number(254)

    def _attribute(self, name: str, texts: list[str]) -> None:
        self._number(2 | 1024)
        if name in self._symbols:
            self._number(self._symbols[name] << 8 | 255)
        else:
            self._symbols[name] = len(self._symbols) + 1
            self._number(SYMBOL)
            self._character(name)
        self._strings(texts)

    def _date(self, day: datetime.date) -> None:
        self._vector(REAL, 1, _NAN.pack(day.toordinal() - _EPOCH), 512 | 256)
        self._attribute("class", ["Date"])
        self._number(254)
