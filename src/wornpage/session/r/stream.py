"""R's serialization (native little endian, versions 2 and 3), read into nodes; nothing in it is ever evaluated.

The format is described in the manual "R Internals", section "Serialization Formats". What is code may be compiled: of that
only the expression that it was compiled from is kept.
"""

from __future__ import annotations

import struct
from collections.abc import Callable
from dataclasses import dataclass, field

from wornpage.tree.older import SLOTTED

_INT = struct.Struct("<i")
_PAIR = struct.Struct("<ii")
NIL, SYMBOL, PAIRLIST, CLOSURE, ENVIRONMENT, PROMISE, LANGUAGE = 0, 1, 2, 3, 4, 5, 6
SPECIAL, BUILTIN, CHARACTER, LOGICAL, INTEGER, REAL, COMPLEX, STRINGS, DOTS = 7, 8, 9, 10, 13, 14, 15, 16, 17
VECTOR, EXPRESSION, BYTECODE, POINTER, WEAK, RAW, S4 = 19, 20, 21, 22, 23, 24, 25
_REFERENCE, _NIL, _PERSISTENT, _PACKAGE, _NAMESPACE, _ALTERNATIVE = 255, 254, 247, 250, 249, 238
_PLACES = {253: "global", 252: "unbound", 251: "missing", 248: "base", 242: "empty", 241: "base"}
_PERSISTENT_IN_STREAM = 247
_REPEATED, _REPEAT, _LANGUAGE_WITH, _LIST_WITH = 243, 244, 240, 239
"""In compiled code: a place that was given before, one that may be again, and cells with attributes."""
_ITEMS = {LOGICAL: 4, INTEGER: 4, REAL: 8, COMPLEX: 16, RAW: 1}
MISSING = -(2**31)
"""What stands for a missing whole number or truth value."""


@dataclass(**SLOTTED)
class Node:
    """One object of R's."""

    kind: int | str
    """The number of its type, or the name of a place: `global`, `base`, `empty`, `missing`, `unbound`, `nil`."""
    data: object = None
    """Bytes of a vector, strings, nodes, or what else the type has."""
    attributes: Node | None = None
    """A chain of cells."""


@dataclass(**SLOTTED)
class Cell:
    """One cell of a chain: of a list of arguments, or a call."""

    kind: int
    car: object = None
    tag: Node | None = None
    cdr: object = None
    attributes: Node | None = None
    binding: int = 0
    """Of a name in an environment: 1 where it is locked, 2 where it is made anew each time it is asked for, 3 for both."""


@dataclass(**SLOTTED)
class Frame:
    """What an environment holds."""

    locked: int = 0
    around: object = None
    chain: object = None
    table: object = None


@dataclass(**SLOTTED)
class Function:
    """A function, or a promise: then `head` is its value."""

    around: object
    head: object
    body: object


@dataclass(**SLOTTED)
class Reader:
    """Reads one serialized object."""

    data: memoryview
    at: int = 0
    references: list[object] = field(default_factory=list)
    repeats: list[object] = field(default_factory=list)

    def begin(self) -> None:
        """Pass over what stands in front. Raises `ValueError` for another format."""
        if bytes(self.data[:2]) != b"B\n":
            raise ValueError("not a native binary stream of R")
        self.at = 2
        version, _, _ = self.number(), self.number(), self.number()
        if version == 3:
            self.at += self.number()

    def number(self) -> int:
        """The next whole number."""
        (found,) = _INT.unpack_from(self.data, self.at)
        self.at += 4
        return int(found)

    def length(self) -> int:
        """The next length; long ones have two numbers."""
        found = self.number()
        return found if found != -1 else (self.number() << 32) + self.number()

    def item(self) -> object:
        """The next object."""
        return self.thing(self.number())

    def thing(self, flags: int) -> object:
        """The object whose flags have been read."""
        kind = flags & 255
        has_attributes, has_tag = bool(flags & 512), bool(flags & 1024)
        if kind in (PAIRLIST, LANGUAGE, DOTS):
            return self._chain(flags)
        if kind in _ITEMS:
            size = self.length() * _ITEMS[kind]
            made = Node(kind, self.data[self.at : self.at + size])
            self.at += size
            return self._with_attributes(made, has_attributes)
        if kind == STRINGS:
            return self._with_attributes(Node(kind, self._strings(self.length())), has_attributes)
        if kind in (VECTOR, EXPRESSION):
            items = [self.item() for _ in range(self.length())]
            return self._with_attributes(Node(kind, items), has_attributes)
        if kind in (_NIL, NIL):
            return NOTHING
        if kind in _PLACES:
            return Node(_PLACES[kind])
        if kind == _REFERENCE:
            return self.references[(flags >> 8 or self.number()) - 1]
        if kind in _RARE:
            return _RARE[kind](self, has_attributes, has_tag)
        raise ValueError(f"an object of type {kind}, which is not known")

    def _with_attributes(self, made: Node, has: bool) -> Node:
        if has:
            made.attributes = self.item()  # type: ignore[assignment]
        return made

    def _strings(self, count: int) -> list[str | None]:
        data, at, unpack = self.data, self.at, _PAIR.unpack_from
        found: list[str | None] = [None] * count
        for place in range(count):
            flags, size = unpack(data, at)
            at += 8
            if size >= 0:
                text = bytes(data[at : at + size])
                found[place] = text.decode("latin-1" if flags >> 12 & 4 else "utf-8", "surrogateescape")
                at += size
        self.at = at
        return found

    def _chain(self, flags: int) -> Node:
        """Cells one after the other, without going deeper for each."""
        first: Cell | None = None
        last: Cell | None = None
        while flags & 255 in (PAIRLIST, LANGUAGE, DOTS):
            made = Cell(flags & 255, binding=flags >> 26 & 3)
            if flags & 512:
                made.attributes = self.item()  # type: ignore[assignment]
            if flags & 1024:
                made.tag = self.item()  # type: ignore[assignment]
            made.car = self.item()
            if last is None:
                first = made
            else:
                last.cdr = made
            last = made
            flags = self.number()
        assert first is not None and last is not None
        last.cdr = self.thing(flags)
        return Node(first.kind, first)

    def _symbol(self, has_attributes: bool, has_tag: bool) -> Node:
        self.number()
        made = Node(SYMBOL, self._character())
        self.references.append(made)
        return made

    def _character(self) -> str:
        size = self.number()
        if size < 0:
            return "NA"
        text = bytes(self.data[self.at : self.at + size]).decode("utf-8", "surrogateescape")
        self.at += size
        return text

    def _text(self, has_attributes: bool, has_tag: bool) -> Node:
        return self._with_attributes(Node(CHARACTER, self._character()), has_attributes)

    def _environment(self, has_attributes: bool, has_tag: bool) -> Node:
        made = Node(ENVIRONMENT)
        self.references.append(made)
        held = Frame(self.number(), self.item(), self.item(), self.item())
        made.data = held
        attributes = self.item()
        made.attributes = None if attributes is NOTHING else attributes  # type: ignore[assignment]
        return made

    def _named(self, has_attributes: bool, has_tag: bool) -> Node:
        """A namespace, a package or a persistent object, by its words."""
        self.number()
        words = []
        for _ in range(self.length()):
            self.number()
            words.append(self._character())
        made = Node("named", words)
        self.references.append(made)
        return made

    def _pointer(self, has_attributes: bool, has_tag: bool) -> Node:
        made = Node(POINTER)
        self.references.append(made)
        made.data = [self.item(), self.item()]
        return self._with_attributes(made, has_attributes)

    def _weak(self, has_attributes: bool, has_tag: bool) -> Node:
        made = Node(WEAK)
        self.references.append(made)
        return self._with_attributes(made, has_attributes)

    def _function(self, has_attributes: bool, has_tag: bool, kind: int = CLOSURE) -> Node:
        attributes = self.item() if has_attributes else None
        around = self.item() if has_tag else NOTHING
        made = Node(kind, Function(around, self.item(), self.item()))
        made.attributes = attributes  # type: ignore[assignment]
        return made

    def _promise(self, has_attributes: bool, has_tag: bool) -> Node:
        return self._function(has_attributes, has_tag, PROMISE)

    def _inner(self, has_attributes: bool, has_tag: bool) -> Node:
        """A function of R's own, by its name."""
        size = self.number()
        name = bytes(self.data[self.at : self.at + size]).decode("utf-8", "replace")
        self.at += size
        return Node(BUILTIN, name)

    def _s4(self, has_attributes: bool, has_tag: bool) -> Node:
        return self._with_attributes(Node(S4), has_attributes)

    def _alternative(self, has_attributes: bool, has_tag: bool) -> Node:
        information, state, attributes = self.item(), self.item(), self.item()
        return Node("other form", [information, state], attributes)  # type: ignore[arg-type]

    # --- compiled code ------------------------------------------------------------------------

    def _bytecode(self, has_attributes: bool, has_tag: bool) -> object:
        """What it was compiled from: the first of its constants."""
        before, self.repeats = self.repeats, [None] * self.number()
        found = self._compiled()
        self.repeats = before
        if has_attributes:
            self.item()
        return found

    def _compiled(self) -> object:
        self.item()  # the instructions
        constants = [self._constant(self.number()) for _ in range(self.number())]
        return constants[0] if constants else NOTHING

    def _constant(self, kind: int) -> object:
        if kind == BYTECODE:
            return self._compiled()
        if kind in (LANGUAGE, PAIRLIST, _REPEAT, _REPEATED, _LANGUAGE_WITH, _LIST_WITH):
            return self._code(kind)
        return self.item()

    def _code(self, kind: int) -> object:
        """A call or a list within compiled code; what follows in it is read without going deeper."""
        first: Node | None = None
        last: Cell | None = None
        while True:
            if kind == _REPEATED:
                made: object = self.repeats[self.number()]
                is_cell = False
            elif kind in (_REPEAT, LANGUAGE, PAIRLIST, _LANGUAGE_WITH, _LIST_WITH):
                position = -1
                if kind == _REPEAT:
                    position, kind = self.number(), self.number()
                cell = Cell(LANGUAGE if kind in (LANGUAGE, _LANGUAGE_WITH) else PAIRLIST)
                node = Node(cell.kind, cell)
                if position >= 0:
                    self.repeats[position] = node
                if kind in (_LANGUAGE_WITH, _LIST_WITH):
                    cell.attributes = self.item()  # type: ignore[assignment]
                tag = self.item()
                cell.tag = None if tag is NOTHING else tag  # type: ignore[assignment]
                cell.car = self._code(self.number())
                made, is_cell = node, True
            else:
                made, is_cell = self.item(), False
            if last is not None:
                last.cdr = made.data if is_cell else made  # type: ignore[attr-defined]
            elif not is_cell:
                return made
            else:
                first = made  # type: ignore[assignment]
            if not is_cell:
                return first
            last = made.data  # type: ignore[attr-defined]
            kind = self.number()


NOTHING = Node("nil")
_RARE: dict[int, Callable[[Reader, bool, bool], object]] = {
    SYMBOL: Reader._symbol, CHARACTER: Reader._text, ENVIRONMENT: Reader._environment, _NAMESPACE: Reader._named,
    _PACKAGE: Reader._named, _PERSISTENT_IN_STREAM: Reader._named, POINTER: Reader._pointer, WEAK: Reader._weak,
    CLOSURE: Reader._function, PROMISE: Reader._promise, SPECIAL: Reader._inner, BUILTIN: Reader._inner, S4: Reader._s4,
    _ALTERNATIVE: Reader._alternative, BYTECODE: Reader._bytecode,
}  # fmt: skip


def read(data: bytes | memoryview) -> object:
    """One object. Raises `ValueError` for what is no such stream, or is cut off."""
    reader = Reader(memoryview(data))
    try:
        reader.begin()
        return reader.item()
    except (struct.error, IndexError) as error:
        raise ValueError(f"a stream of R that is cut off: {error}") from None
