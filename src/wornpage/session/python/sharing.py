"""Who holds what together: objects that two names reach, and objects that one value reaches twice.

Whatever can be changed in place is a node, told by its identity. A walk follows containers, attributes, closures, views,
iterators and bound methods down to what they look at; what it does not know it asks the collector for (`gc.get_referents`).
"""

from __future__ import annotations

import builtins
import gc
import io
import sys
from contextlib import suppress
from math import inf
from types import (
    AsyncGeneratorType,
    BuiltinMethodType,
    CellType,
    CodeType,
    CoroutineType,
    FrameType,
    FunctionType,
    GeneratorType,
    MethodType,
    MethodWrapperType,
    ModuleType,
    TracebackType,
)
from typing import Any
from weakref import getweakrefcount, getweakrefs

from wornpage.session.python import singles, tensors
from wornpage.session.python.atoms import ATOMS, attributes_of, is_a
from wornpage.session.python.modules import is_nowhere
from wornpage.session.python.names import is_of_page
from wornpage.tree.older import catches

MAX_NODES = 400_000
_DRAWN = ("matplotlib.", "mpl_toolkits.")
_OPAQUE = ("polars", "pyarrow", "seaborn", "sympy")
"""What is made by these holds nothing of the page's that could be changed: frames that copy, terms that never change."""
_ATOMIC = frozenset({*ATOMS, range, slice})
_CLOSED = (ModuleType, CodeType, FrameType, TracebackType)
_IMMUTABLE = frozenset({tuple, frozenset})
_BOUND_IN_C = frozenset({BuiltinMethodType, MethodWrapperType})

atoms_count = False
"""Whether code of the page asks if two things are one: then words and numbers that two names hold are nodes as well."""


def count_atoms(wanted: bool) -> None:
    """Set that, for all walks from now on."""
    global atoms_count
    atoms_count = wanted


class TooLarge(Exception):
    """More nodes than can be walked in reasonable time, or one that cannot be looked into."""


class Reach:
    """What one value, or several, reach."""

    __slots__ = ("acts", "definitions", "ends", "lent", "nans", "own", "twice")

    def __init__(self) -> None:
        self.acts = False
        """Whether something in it does more, when it goes, than leave weak references empty."""
        self.ends = False
        """Whether something in it does something when it goes: a file, a generator that cleans up, an object with `__del__`."""
        self.nans: list[str] = []
        """Of each not-a-number, which only its identity tells from another, which it is (`constant_of`), in order."""
        self.own: dict[int, int] = {}
        """Ids of changeable objects, in the order in which they were found; an array counts by the memory it looks at."""
        self.lent: set[int] = set()
        """Ids of memory that a frame holds: arrays that look at it share it, other frames copy before they write. And of the
        dictionaries that objects keep their attributes in."""
        self.definitions: set[int] = set()
        """Ids of the page's functions and classes."""
        self.twice: list[int] = []
        """By their place in that order: what was found again."""

    def meets(self, other: Reach) -> bool:
        """Whether a change in place of the one could be seen in the other."""
        return not (
            self.own.keys().isdisjoint(other.own)
            and other.lent.isdisjoint(self.own)
            and self.lent.isdisjoint(other.own)
        )

    def add(self, other: Reach) -> None:
        """Take in what another reaches."""
        self.own |= other.own
        self.lent |= other.lent
        self.definitions |= other.definitions


def reach(value: object, stops: frozenset[int] = frozenset()) -> Reach:
    """What `value` reaches; into functions and classes whose ids are in `stops` it does not look. Raises `TooLarge`."""
    try:
        return _reached(value, stops)
    except TooLarge:
        raise
    except Exception as error:  # whatever an object has against being looked at
        raise TooLarge(type(error).__name__) from None


def _reached(value: object, stops: frozenset[int]) -> Reach:
    found = Reach()
    own, twice = found.own, found.twice
    todo: list[object] = [value]
    alive: list[object] = []  # temporaries whose ids must stay theirs
    seen: set[int] = set()
    awaited = finalized()
    while todo:
        node = todo.pop()
        kind = type(node)
        if kind in _ATOMIC:
            if not _is_marked(node, found):
                continue
        elif _is_shut(node, kind):
            continue
        elif issubclass(kind, type) or kind is FunctionType:
            if not _is_open(node):
                continue
            if id(node) in found.definitions:
                continue
            found.definitions.add(id(node))
            if node is not value and id(node) in stops:
                continue
        owner = _owner(node)
        key = _key(owner)
        if key in own:
            twice.append(own[key])
            if owner is node or id(node) in seen:
                continue
        elif not (kind in _IMMUTABLE and not node) and id(node) not in found.definitions:
            own[key] = len(own)
            alive.append(owner)
        elif id(node) in seen:
            continue
        seen.add(id(node))
        if len(seen) > MAX_NODES:
            raise TooLarge
        if not found.acts and ends_with_an_act(node, kind, awaited):
            found.ends, found.acts = True, not _only_empties(node, kind)
        inner = _inner(node, kind, found)
        if inner:
            alive.append(inner)
            alive.append(node)
            todo.extend(inner)
    if is_a(value, (FunctionType, type)) and id(value) in found.definitions:
        own[id(value)] = len(own)
    twice += sorted(own[key] for key in found.lent & own.keys())
    return found


def ends_with_an_act(node: object, kind: type, awaited: set[int] | None = None) -> bool:
    """Whether something happens when this object goes that code can see; `awaited` is what `finalized` gives, if it is known."""
    if kind is GeneratorType or kind is CoroutineType or kind is AsyncGeneratorType:
        frame = getattr(node, "gi_frame", None) or getattr(node, "cr_frame", None) or getattr(node, "ag_frame", None)
        return frame is not None and frame.f_lasti > 0 and catches(frame.f_code)
    if issubclass(kind, io.IOBase):
        return not issubclass(kind, (io.BytesIO, io.StringIO)) and not getattr(node, "closed", True)
    if kind.__module__ == "__main__" and hasattr(kind, "__del__"):
        return True
    if kind.__module__ == "__main__" and not issubclass(kind, type) and getweakrefcount(node):
        return True
    return id(node) in (finalized() if awaited is None else awaited)


def goes_unseen(value: object) -> bool:
    """Whether nothing happens when an object goes, but that weak references to what is in it are empty then."""
    try:
        return not reach(value).acts
    except TooLarge:
        return False


def _only_empties(node: object, kind: type) -> bool:
    """Whether of an object that `ends_with_an_act` the act is but that weak references to it, of which nobody is told, are empty."""
    if issubclass(kind, (GeneratorType, CoroutineType, AsyncGeneratorType, io.IOBase)) or hasattr(kind, "__del__"):
        return False
    told = [reference.__callback__ for reference in getweakrefs(node)]
    return all(act is None or act.__module__ in _OWN_CALLBACKS for act in told) and id(node) not in finalized()


_OWN_CALLBACKS = frozenset({"weakref", "_weakrefset"})
"""Modules whose tables of weak references forget what is gone."""


def finalized() -> set[int]:
    """Ids of the objects for which something is to be done when they go."""
    finalizers: Any = getattr(sys.modules.get("weakref"), "finalize", None)
    return set() if finalizers is None else {id(info.weakref()) for info in list(finalizers._registry.values())}


def _is_marked(atom: object, found: Reach) -> bool:
    """Whether a number or a word can be told from its equals: not-a-number always, others where the page asks."""
    if is_known_by_identity(atom):
        which = constant_of(atom)
        found.nans.append(which)
        return not which
    if not atoms_count or atom is None or type(atom) in {bool, type(Ellipsis), type(NotImplemented)}:
        return False
    return not (type(atom) is int and -5 <= atom <= 256) and atom not in {"", b""} and not _is_single(atom)


def is_nan(atom: object) -> bool:
    """Whether it is a not-a-number, which equals nothing, so that containers find it by its identity alone."""
    return type(atom) in _WITH_NAN and atom != atom  # noqa: PLR0124


_WITH_NAN = frozenset({float, complex})


def is_known_by_identity(atom: object) -> bool:
    """Whether it is a not-a-number, or, where the page asks if two things are one, infinity or a byte of which there is one."""
    if is_nan(atom):
        return True
    return atoms_count and ((type(atom) is float and atom in {inf, -inf}) or _is_lone_byte(atom))


def _is_lone_byte(atom: object) -> bool:
    """Whether these are the one bytes object that Python holds of a byte; others come from files."""
    return type(atom) is bytes and len(atom) == 1 and atom is lone_byte(atom[0])


def lone_byte(number: int) -> bytes:
    """The one object of that byte: a slice gives it, some other ways to make bytes do not."""
    return _BYTES[number : number + 1]


_BYTES = bytes(range(256))


def constant_of(atom: object) -> str:
    """The constant that a number is, by which it is kept, such as `math.nan`, or a byte, such as `bytes.97`; empty for one of its own."""
    if type(atom) is bytes:
        return f"bytes.{atom[0]}"
    for module, name in (("math", "nan"), ("numpy", "nan"), ("math", "inf"), ("numpy", "inf")):
        if atom is getattr(sys.modules.get(module), name, None):
            return f"{module}.{name}"
    return ""


def _is_single(atom: object) -> bool:
    return type(atom) is str and len(atom) == 1 and ord(atom) < 256


def _is_open(definition: Any) -> bool:
    """Whether a function or class can hold things of the page: one of the page, or one made by a library's function."""
    if is_of_page(definition):
        return True
    if isinstance(definition, type):
        return "<locals>" in definition.__qualname__
    return bool(definition.__closure__) and not _is_where_it_says(definition)


def _is_shut(node: Any, kind: type) -> bool:
    """Whether nothing of the page's can be reached through an object."""
    if kind in _BOUND_IN_C:
        return _is_of_nobody(node.__self__)
    return bool(singles.name_of(node)) or (issubclass(kind, _CLOSED) and not is_nowhere(node))


def _is_of_nobody(owner: object) -> bool:
    """Whether a function in C belongs to a library, so that nothing can be changed through it."""
    return owner is None or isinstance(owner, ModuleType) or (isinstance(owner, type) and not _is_open(owner))


def _is_where_it_says(value: Any) -> bool:
    found: object = sys.modules.get(value.__module__ or "")
    for part in value.__qualname__.split("."):
        found = getattr(found, part, None)
    return found is value


def _owner(node: Any) -> object:
    """The object whose memory an array looks at, the figure that something is drawn in; anything else itself."""
    if type(node).__module__.startswith(_DRAWN):
        figure = getattr(node, "figure", None)
        return node if figure is None else figure
    numpy = sys.modules.get("numpy")
    if numpy is not None and isinstance(node, numpy.ndarray):
        while getattr(node, "base", None) is not None:
            base = node.base
            if not isinstance(base, numpy.ndarray):
                if not isinstance(getattr(base, "base", None), numpy.ndarray):
                    return base.obj if type(base) is memoryview else base
                base = base.base  # a stand-in that lays an array's memory out in another way
            node = base
    return node


def _key(owner: object) -> int:
    """By what an owner is told: itself, or, where tensors and arrays may look at one memory, where that begins."""
    return (-tensors.address(owner) or id(owner)) if "torch" in sys.modules else id(owner)


# --- what is inside a node --------------------------------------------------------------------


def _inner(node: Any, kind: type, found: Reach) -> list[object]:
    if issubclass(kind, dict):
        inner = _worth(list(dict.keys(node))) + _worth(list(dict.values(node)))
        return inner if kind is dict else inner + _attributes(node, found)
    if issubclass(kind, (list, tuple, set, frozenset)):
        inner = _worth(list(_plainly(node)))
        return inner if kind.__module__ == "builtins" else inner + _attributes(node, found)
    if kind is FunctionType:
        return [
            *(node.__closure__ or ()),
            node.__dict__,
            *(node.__defaults__ or ()),
            *(node.__kwdefaults__ or {}).values(),
        ]
    if kind is CellType:
        return _content(node)
    if kind is MethodType:
        return [node.__self__, node.__func__]
    if kind in _BOUND_IN_C:
        return [node.__self__]
    if kind is memoryview:
        return _looked_at(node)
    if issubclass(kind, type):
        found.lent.update(map(id, gc.get_referents(vars(node))))  # the dictionary that `A.__dict__` looks at
        return _worth([_plain(v) for k, v in vars(node).items() if not k.startswith("__")]) + list(node.__bases__)
    if issubclass(kind, ModuleType):
        found.lent.add(id(node.__dict__))
        return [held for name, held in node.__dict__.items() if not name.startswith("__")]
    if issubclass(kind, BaseException):
        return [*node.args, node.__cause__, node.__context__, *vars(node).values()]
    return _of_library(node, kind, found)


def _of_library(node: Any, kind: type, found: Reach) -> list[object]:
    home = kind.__module__
    if tensors.is_tensor(node):
        return tensors.within(node)
    if home == "__main__":
        return [*_attributes(node, found), kind]
    if home.startswith(_DRAWN):
        return []
    if home.startswith("numpy"):
        return _of_numpy(node, kind, found)
    if home.startswith("pandas"):
        held = _of_pandas(node, found)
        if held is not None:
            return held
    if home.startswith(_OPAQUE):
        return []
    attributes = _attributes(node, found)
    known = {id(one) for one in attributes}
    instance = getattr(node, "__dict__", None)
    pointed = [one for one in gc.get_referents(node) if one is not instance and id(one) not in known]
    if kind.__name__ in {"ReferenceType", "weakref", "KeyedRef", "WeakMethod"} and home in {"weakref", "_weakref"}:
        pointed.append(node())
    return attributes + [one for one in pointed if not isinstance(one, type) and one is not builtins.__dict__]


def _of_numpy(node: object, kind: type, found: Reach) -> list[object]:
    numpy = sys.modules["numpy"]
    if isinstance(node, numpy.ndarray):
        items = node.ravel().tolist() if node.dtype.hasobject and node.size < MAX_NODES and not node.dtype.names else []
        return _worth(items) + (_attributes(node, found) if kind is not numpy.ndarray else [])
    held = [
        getattr(node, name, None) for name in ("base", "bit_generator", "_bit_generator", "pyfunc", "operands", "iters")
    ]
    return [one for one in (*held, *_attributes(node, found), *gc.get_referents(node)) if not _is_bare(one)]


def _is_bare(one: object) -> bool:
    return one is None or isinstance(one, type)


def _of_pandas(node: Any, found: Reach) -> list[object] | None:
    """What a frame, a series or a column holds besides plain data; None for anything else of pandas."""
    manager: object = getattr(node, "_mgr", None)
    arrays = [block.values for block in manager.blocks] if hasattr(manager, "blocks") else None
    if arrays is None:
        name = type(node).__name__
        if not name.endswith(("Index", "Array", "Dtype", "Categorical")):
            return None
        if name == "MultiIndex":
            return list(node.levels)
        if not name.endswith("Index"):
            return [held for part in _PARTS if (held := getattr(node, part, None)) is not None]
        arrays = [getattr(node, "_values", None)] if name != "RangeIndex" else []
    inner: list[object] = [node.attrs] if getattr(node, "attrs", None) else []
    inner += getattr(manager, "axes", ())  # two frames may have one index, whose name can be changed
    for array in arrays:
        parts: list[Any] = (
            [array] if type(array).__name__ == "ndarray" else [getattr(array, part, None) for part in _PARTS]
        )
        for memory in parts:
            if type(memory).__name__ != "ndarray":
                continue
            found.lent.add(_key(_owner(memory)))
            if memory.dtype.hasobject and memory.size < MAX_NODES:
                inner += [
                    one
                    for one in _worth(memory.ravel().tolist())
                    if atoms_count or type(one) not in _ATOMIC or is_nan(one)
                ]
    return inner


_PARTS = ("_ndarray", "_data", "_mask", "_codes", "_sp_values", "_left", "_right")
"""Where pandas' own kinds of arrays keep their memory: two that look at one see each other's changes."""


def _plainly(node: object) -> Any:
    """The items of a container, whatever it says of itself."""
    kinds: tuple[Any, ...] = (list, tuple, set, frozenset)
    return next(kind.__iter__(node) for kind in kinds if isinstance(node, kind))


def _looked_at(view: memoryview) -> list[object]:
    try:
        return [view.obj]
    except ValueError:
        return []  # it has been let go of


def _content(cell: CellType) -> list[object]:
    try:
        return [cell.cell_contents]
    except ValueError:
        return []


def _plain(member: object) -> object:
    """The function in a static or class method; anything else itself."""
    return member.__func__ if isinstance(member, (staticmethod, classmethod)) else member


def _attributes(node: object, found: Reach) -> list[object]:
    """What an object holds; who has its dictionary of attributes shares it."""
    with suppress(AttributeError, TypeError):
        found.lent.add(id(object.__getattribute__(node, "__dict__")))
    held = attributes_of(node)
    if type(node).__module__ == "__main__":
        return list(held.values())
    return [held[name] for name in sorted(held, key=str)]  # libraries may put them into another order


def _worth(items: list[object]) -> list[object]:
    """`items` if one of them can hold anything; a list of mere numbers or words is not walked."""
    kinds = set(map(type, items))
    if kinds <= _ATOMIC and not atoms_count:
        return [] if kinds.isdisjoint(_WITH_NAN) else [item for item in items if is_nan(item)]
    return items


def pattern(value: object) -> str:
    """What `value` reaches more than once, as part of its fingerprint; empty for a tree."""
    if type(value) in _ATOMIC:
        return f"+{constant_of(value)}" if is_known_by_identity(value) else ""
    try:
        found = reach(value)
    except TooLarge:
        from wornpage.session.python.atoms import NoFingerprint

        raise NoFingerprint("too large to be walked") from None
    if not found.twice and not any(found.nans):
        return ""
    from wornpage.store.hashes import hash64

    known = found.nans if any(found.nans) else []
    return "+" + hash64(repr((found.twice, *known)).encode()).hexdigest()
