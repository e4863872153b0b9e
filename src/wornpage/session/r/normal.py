"""Fingerprints of what is more than data in R: functions, environments, models, calls.

Bytes will not do there: a function is compiled when it has been called twice, and a promise that has been kept is written
otherwise than its value. So the stream is read, and hashed in a normal form: code as it was written, without places in a
source; environments by name, each once; what has been promised and kept as what it is.
"""

from __future__ import annotations

import hashlib
import sys
from typing import cast

from msgspec import Struct

from wornpage.session.r.plain import attributes
from wornpage.session.r.stream import (
    BUILTIN,
    CLOSURE,
    ENVIRONMENT,
    INTEGER,
    LANGUAGE,
    LOGICAL,
    POINTER,
    PROMISE,
    RAW,
    REAL,
    STRINGS,
    SYMBOL,
    WEAK,
    Cell,
    Frame,
    Function,
    Node,
    read,
)  # fmt: skip

_PASSED_OVER = frozenset({"srcref", "srcfile", "wholeSrcref"})
_TABLE = ".internal.selfref"
"""Points from a table that grows to itself; it has no content."""
ASIDE = {"problems": frozenset({"problems", "stop_for_problems", "identical", "all.equal", "setequal"})}
"""By attribute: pointers that readers of files leave at a frame, and the words by which code can see such a pointer.

The frame is the same without it to all other code. Points to what a reader could not make out in a file."""
_DEEP = 200_000


class Normal(Struct, frozen=True):
    """What is to be told of a value."""

    print: str
    is_live: bool
    """Whether it holds what belongs to one process: a pointer into its memory, a weak reference."""
    words: frozenset[str]
    """Names, and texts within code, that it mentions."""
    aside: frozenset[str] = frozenset()
    """Attributes of `ASIDE` in which it has a pointer."""


def normal(data: bytes | memoryview) -> Normal:
    """The fingerprint of a serialized value. Raises `ValueError` for what cannot be read."""
    before = sys.getrecursionlimit()
    sys.setrecursionlimit(_DEEP)
    try:
        walker = _Walker()
        walker.go(read(data))
    except RecursionError:
        raise ValueError("it is nested too deeply") from None
    finally:
        sys.setrecursionlimit(before)
    return Normal(walker.hash.hexdigest(), walker.is_live, frozenset(walker.words), frozenset(walker.aside))


class _Walker:
    def __init__(self) -> None:
        self.hash = hashlib.blake2b(digest_size=16)
        self.is_live = False
        self.words: set[str] = set()
        self.aside: set[str] = set()
        self._seen: dict[int, int] = {}
        self._kept: list[object] = []
        self._code = 0
        """How deep in code we are."""

    def put(self, *parts: str | bytes) -> None:
        """Count texts in, each apart from the next."""
        for part in parts:
            data = part if isinstance(part, bytes) else part.encode("utf-8", "surrogateescape")
            self.hash.update(b"%d:" % len(data))
            self.hash.update(data)

    def go(self, node: object) -> None:
        """Count an object in."""
        assert isinstance(node, Node | Cell)
        if isinstance(node, Cell):
            return self._chain(node)
        match node.kind:
            case str():
                self.put(
                    node.kind,
                    *(str(word) for word in (cast("list[object]", node.data) if node.kind == "named" else ())),
                )
                if node.kind == "other form":
                    for part in cast("list[object]", node.data):
                        self.go(part)
            case kind if kind == SYMBOL:
                self.words.add(str(node.data))
                self.put("symbol", str(node.data))
            case kind if kind == ENVIRONMENT:
                return self._environment(node)
            case kind if kind in (CLOSURE, PROMISE):
                self._function(node)
            case kind if kind in (POINTER, WEAK):
                self.is_live = True
                self.put("pointer")
            case kind if kind == BUILTIN:
                self.put("inner", str(node.data))
            case _:
                self._data(node)
        self._attributes(node)
        return None

    def _data(self, node: Node) -> None:
        if isinstance(node.data, Cell):
            return self._chain(node.data)
        self.put(f"type {node.kind}")
        if node.kind == STRINGS:
            texts = cast("list[str | None]", node.data)
            self.put(str(len(texts)), *("\1" if text is None else f"={text}" for text in texts))
            if self._code:
                self.words.update(text for text in texts if text)
        elif node.kind in (INTEGER, LOGICAL, REAL, RAW) or isinstance(node.data, memoryview):
            self.put(bytes(cast("memoryview", node.data)))
        elif isinstance(node.data, list):
            self.put(str(len(node.data)))
            for item in node.data:
                self.go(item)
        elif node.data is not None:
            self.put(str(node.data))
        return None

    def _attributes(self, node: Node) -> None:
        for name, value in sorted(attributes(node), key=lambda one: one[0]):
            if name == _TABLE:
                continue
            if name in ASIDE and isinstance(value, Node) and value.kind == POINTER:
                self.aside.add(name)
                self.put("@", name, "pointer")
            elif name not in _PASSED_OVER:
                self.put("@", name)
                self.go(value)

    def _chain(self, cell: Cell) -> None:
        is_code = cell.kind == LANGUAGE
        self._code += is_code
        self.put("call" if is_code else "cells")
        rest: object = cell
        while isinstance(rest, Cell):
            self.put("," if rest.tag is None else f"{rest.tag.data}=")
            self.go(rest.car)
            if is_code and rest.attributes is not None:
                self._attributes(Node(LANGUAGE, None, rest.attributes))
            rest = rest.cdr.data if isinstance(rest.cdr, Node) and isinstance(rest.cdr.data, Cell) else rest.cdr
        self.put(")")
        self._code -= is_code

    def _environment(self, node: Node) -> None:
        if id(node) in self._seen:
            return self.put("environment again", str(self._seen[id(node)]))
        self._seen[id(node)] = len(self._seen)
        self._kept.append(node)
        held = _held(cast("Frame", node.data))
        self.put("locked environment" if cast("Frame", node.data).locked else "environment", str(len(held)))
        for name in sorted(held):
            if name != ".Random.seed":
                self.put(name, f"binding {held[name].binding}" if held[name].binding else "")
                self.go(held[name].car)
        self.go(cast("Frame", node.data).around)
        return self._attributes(node)

    def _function(self, node: Node) -> None:
        made = cast("Function", node.data)
        if node.kind == PROMISE:
            is_kept = not (isinstance(made.head, Node) and made.head.kind == "unbound")
            self.put("" if is_kept else "promise")
            if is_kept:
                return self.go(made.head)
            self.go(made.body)
            return self.go(made.around)
        self._code += 1
        self.put("function")
        self.go(made.head)
        self.go(made.body)
        self._code -= 1
        return self.go(made.around)


def _held(frame: Frame) -> dict[str, Cell]:
    """What an environment holds, by name, whether it has a table or not."""
    found: dict[str, Cell] = {}
    chains = [frame.chain]
    if isinstance(frame.table, Node) and isinstance(frame.table.data, list):
        chains += frame.table.data
    for chain in chains:
        cell = chain.data if isinstance(chain, Node) else chain
        while isinstance(cell, Cell):
            found[str(cell.tag.data) if cell.tag else ""] = cell
            cell = cell.cdr.data if isinstance(cell.cdr, Node) else cell.cdr
    return found
