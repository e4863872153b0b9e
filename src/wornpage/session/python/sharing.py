"""Who holds what together: objects that two names reach, and objects that one value reaches twice."""

from __future__ import annotations

from types import FunctionType
from typing import Any

from wornpage.session.python.fingerprint import ATOMS

MAX_NODES = 400_000
_DRAWN = ("matplotlib.", "mpl_toolkits.")
_ATOMIC = frozenset({*ATOMS, type, range, slice})


class TooLarge(Exception):
    """More nodes than can be walked in reasonable time."""


def reach(value: Any) -> tuple[set[int], list[int]]:
    """Ids of all changeable objects that `value` reaches, and the order in which those seen twice come up.

    Frames and arrays are single nodes; an array counts by the memory it looks at. Raises `TooLarge`.
    """
    seen: dict[int, int] = {}
    twice: list[int] = []
    todo: list[Any] = [value]
    keep: list[Any] = []  # temporaries whose ids must stay theirs
    while todo:
        node = todo.pop()
        kind = type(node)
        if kind in _ATOMIC:
            continue
        key = id(_owner(node))
        if key in seen:
            twice.append(seen[key])
            continue
        if kind in {tuple, frozenset} and not node:
            continue
        seen[key] = len(seen)
        if len(seen) > MAX_NODES:
            raise TooLarge
        inner = _children(node, kind)
        if inner:
            keep.append(inner)
            todo.extend(inner)
    return set(seen), twice


def _owner(node: Any) -> Any:
    """The object whose memory an array looks at, the figure that something is drawn in; anything else itself."""
    if type(node).__module__.startswith(_DRAWN):
        figure = getattr(node, "figure", None)
        return node if figure is None else figure
    while type(node).__name__ == "ndarray" and getattr(node, "base", None) is not None:
        if type(node.base).__name__ != "ndarray":
            return node.base
        node = node.base
    return node


def _children(node: Any, kind: type) -> list[Any]:
    if kind is dict or isinstance(node, dict):
        inner = _worth(list(node.keys())) + _worth(list(node.values()))
    elif kind in {list, tuple, set, frozenset} or isinstance(node, list | tuple | set | frozenset):
        inner = _worth(list(node))
    elif kind is FunctionType:
        if node.__module__ != "__main__":
            return []
        inner = list(node.__closure__ or ())
        inner += [node.__dict__, *(node.__defaults__ or ())]
    elif kind.__name__ == "cell":
        try:
            inner = [node.cell_contents]
        except ValueError:
            inner = []
    elif kind.__name__ == "method":
        inner = [node.__self__]
    elif kind.__name__ == "ndarray":
        inner = _worth(node.ravel().tolist()) if node.dtype.hasobject and node.size < MAX_NODES else []
    elif isinstance(node, type):
        inner = (
            _worth([v for k, v in vars(node).items() if not k.startswith("__")])
            if node.__module__ == "__main__"
            else []
        )
    elif kind.__module__.startswith(("pandas", "polars", "pyarrow", "numpy", "scipy.sparse")):
        inner = [node.attrs] if getattr(node, "attrs", None) else []
    elif kind.__name__ == "module" or kind.__module__.startswith(_DRAWN):
        inner = []
    else:
        inner = _attributes(node)
    if inner and isinstance(node, dict | list | set) and getattr(node, "__dict__", None):
        inner.append(node.__dict__)
    return inner


def _attributes(node: Any) -> list[Any]:
    try:
        inner = list(vars(node).values())
    except TypeError:
        inner = []
    for base in type(node).__mro__:
        slots = vars(base).get("__slots__", ())
        for slot in (slots,) if isinstance(slots, str) else slots:
            value = base.__dict__.get(slot)
            if value is not None and hasattr(value, "__get__"):
                try:
                    inner.append(value.__get__(node, base))
                except AttributeError:
                    continue
    wrapped = getattr(node, "obj", None) if type(node).__name__ == "memoryview" else None
    return [*inner, wrapped] if wrapped is not None else inner


def _worth(items: list[Any]) -> list[Any]:
    """`items` if one of them can hold anything; a list of mere numbers or words is not walked."""
    if set(map(type, items)) <= _ATOMIC:
        return []
    return [item for item in items if type(item) not in _ATOMIC]


def pattern(value: Any) -> str:
    """What `value` reaches more than once, as part of its fingerprint; empty for a tree."""
    if type(value) in _ATOMIC:
        return ""
    try:
        _, twice = reach(value)
    except TooLarge:
        from wornpage.session.python.fingerprint import NoFingerprint

        raise NoFingerprint("too large to be walked") from None
    if not twice:
        return ""
    from xxhash import xxh3_64

    return "+" + xxh3_64(repr(twice).encode()).hexdigest()
