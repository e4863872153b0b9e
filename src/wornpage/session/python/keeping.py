"""Values into the store and back, each proved on the way in: loaded again, it must have the same fingerprint."""

from __future__ import annotations

import io
import pickle
import re
import struct
import sys
from collections.abc import Callable
from importlib import import_module
from types import FunctionType, ModuleType
from typing import Any

from wornpage.session.python import constants, singles, tensors
from wornpage.session.python.arrays import Plain, is_array, plainly_reduced, reduced, with_plain_arrays
from wornpage.session.python.atoms import NoFingerprint, is_a
from wornpage.session.python.fingerprint import fingerprint, instance_state, is_interned, is_live
from wornpage.session.python.modules import is_local, is_nowhere
from wornpage.session.python.names import is_of_page
from wornpage.session.python.sharing import constant_of, is_known_by_identity, lone_byte, pattern, reach
from wornpage.store.blobs import Blobs


class CannotKeep(Exception):
    """A value that cannot be had back from the store."""


class Keeper(pickle.Pickler):
    """Pickles values so that they come back exactly. What belongs to the page goes by name, never by its own hooks."""

    def __init__(self, file: Any, buffers: list[Any], names: dict[str, object]) -> None:
        super().__init__(file, protocol=5, buffer_callback=buffers.append)
        self._names = names

    def reducer_override(self, value: object) -> Any:
        kind: Any = type(value)
        if is_a(value, ModuleType):
            if is_local(value.__name__) or is_nowhere(value):
                raise CannotKeep("a module of the project, or one that cannot be imported")
            return _module, (value.__name__,)
        if is_a(value, (FunctionType, type)):
            if is_of_page(value):
                return self._by_name(value)
            if is_local(value.__module__):
                raise CannotKeep("it belongs to a module of the project")
            return NotImplemented
        if name := singles.name_of(value):
            return singles.single, (name,)
        if place := constants.place_of(value):
            return constants.held_at, place
        if told := constants.dtype_as_told(value):
            return _dtype, (told,)
        if kind is re.Pattern:
            return re.compile, _as_compiled(value)
        if tensors.is_tensor(value):
            return tensors.reduced(value)
        if is_live(value) or is_local(kind.__module__):
            raise CannotKeep(kind.__name__)
        if kind.__module__ == "__main__":
            if is_a(value, tuple) and hasattr(kind, "_fields"):
                return _tuple, (kind, tuple(value))
            return _instance, (kind,), instance_state(value), None, None, _set_state
        return _with_layout(value)

    def _by_name(self, value: Any) -> object:
        """A function or class of the page, which must be what its name stands for now."""
        name: str = value.__qualname__
        if self._names.get(name) is not value:
            raise CannotKeep(f"{name} is not what its name stands for")
        return _by_name, (name,)


class NanKeeper(Keeper):
    """Keeps which not-a-number is which: they have no other way to be told apart. Slower, since asked of every object."""

    def __init__(self, file: object, buffers: list[Any], names: dict[str, object]) -> None:
        super().__init__(file, buffers, names)
        self._seen: dict[int, int] = {}
        self._alive: list[object] = []

    def persistent_id(self, value: object) -> object:
        if not is_known_by_identity(value):
            return None
        if which := constant_of(value):
            return which
        self._alive.append(value)
        return self._seen.setdefault(id(value), len(self._seen)), _bits(value)


class _Loader(pickle.Unpickler):
    """Loads what either of them has written."""

    def __init__(self, data: bytes, buffers: list[object]) -> None:
        super().__init__(io.BytesIO(data), buffers=buffers)
        self._nans: dict[int, float | complex] = {}

    def persistent_load(self, which: Any) -> object:
        if isinstance(which, str):
            module, _, name = which.partition(".")
            if module == "bytes":
                return lone_byte(int(name))
            return getattr(import_module(module), name)
        number, bits = which
        return self._nans.setdefault(number, _from_bits(bits))


def _bits(number: Any) -> bytes:
    """A not-a-number as it is: which one, and of a complex number both parts."""
    return struct.pack("<dd", number.real, number.imag) if type(number) is complex else struct.pack("<d", number)


def _from_bits(bits: bytes) -> float | complex:
    parts = struct.unpack(f"<{len(bits) // 8}d", bits)
    return complex(*parts) if len(parts) > 1 else parts[0]


def _with_layout(value: Any) -> object:
    """Arrays, and what pandas holds, with the memory and the layout they have."""
    kind = type(value)
    if kind is Plain:
        return plainly_reduced(value.array)
    if is_array(value):
        return reduced(value)
    if not kind.__module__.startswith("pandas."):
        return NotImplemented
    # A block's own way of protocol 5 would make it contiguous.
    made = value.__reduce__() if kind.__name__ in _BLOCKS else value.__reduce_ex__(5)
    return made if isinstance(made, str) else (made[0], *map(with_plain_arrays, made[1:3]), *made[3:])


_BLOCKS = frozenset({"NumpyBlock", "ExtensionBlock", "DatetimeLikeBlock", "NumericBlock", "ObjectBlock", "Block"})


def _module(name: str) -> ModuleType:
    return import_module(name)


def _dtype(told: str) -> object:
    return import_module("numpy").dtype(told)


def _as_compiled(pattern: Any) -> tuple[str | bytes, int]:
    """What such a pattern was compiled from, so that it is the one that compiling gives again; what it says of itself in front is no flag."""
    plain = re.compile(pattern.pattern)
    if plain.flags == pattern.flags:
        return pattern.pattern, 0
    return pattern.pattern, pattern.flags & ~plain.flags


def _tuple(kind: Any, items: tuple[object, ...]) -> object:
    return tuple.__new__(kind, items)


def _instance(kind: Any) -> object:
    return object.__new__(kind)


def _set_state(value: object, state: dict[str, object]) -> None:
    for name, item in state.items():
        object.__setattr__(value, name, item)


_lookup: Callable[[str], object] | None = None


def _by_name(name: str) -> object:
    if _lookup is None:
        raise CannotKeep(name)
    return _lookup(name)


def keep(
    values: dict[str, object], prints: dict[str, str], names: dict[str, object], blobs: Blobs
) -> dict[str, object]:
    """Store `values` together, so that what they share stays shared. Returns how to have them back.

    Raises `CannotKeep` if they would not come back as they are.
    """
    file = io.BytesIO()
    buffers: list[pickle.PickleBuffer] = []
    try:
        (NanKeeper if reach(values).nans else Keeper)(file, buffers, names).dump(values)
    except CannotKeep:
        raise
    except (NoFingerprint, Exception) as error:
        raise CannotKeep(str(error)) from None
    _prove(file.getvalue(), [buffer.raw() for buffer in buffers], prints, names, values)
    addresses = [blobs.put(buffer.raw()) for buffer in buffers]
    locked = [place for place, buffer in enumerate(buffers) if buffer.raw().readonly]
    interned = [name for name, value in sorted(values.items()) if type(value) is str and is_interned(value)]
    blob = blobs.put(file.getbuffer())
    return {"blob": blob, "buffers": addresses, "locked": locked, "group": sorted(values), "interned": interned}


def _prove(
    data: bytes, buffers: list[object], prints: dict[str, str], names: dict[str, object], values: dict[str, object]
) -> None:
    """Load it again onto the same memory and compare fingerprints."""
    try:
        again = _load(data, buffers, names.__getitem__)
        same = all(fingerprint(again[name]) == prints[name] for name in prints)
        # What the names of a group share must be shared again: views of one array come back as two.
        same = same and pattern([again[name] for name in sorted(values)]) == pattern(
            [values[name] for name in sorted(values)]
        )
    except Exception as error:
        raise CannotKeep(str(error)) from None
    if not same:
        raise CannotKeep("it does not come back as it is")


def _load(data: bytes, buffers: list[Any], lookup: Callable[[str], object]) -> dict[str, Any]:
    global _lookup
    before, _lookup = _lookup, lookup
    try:
        found: dict[str, object] = _Loader(data, buffers).load()
        return found
    finally:
        _lookup = before


def bring_back(provider: dict[str, Any], lookup: Callable[[str], object], blobs: Blobs) -> dict[str, object]:
    """The values that `keep` stored. Raises `KeyError` where one is missing or damaged."""
    data = blobs.get(provider["blob"])
    locked, addresses = set(provider.get("locked", ())), enumerate(provider.get("buffers", ()))
    buffers = [blobs.get(address) if place in locked else bytearray(blobs.get(address)) for place, address in addresses]
    values = _load(data, buffers, lookup)
    for name in provider.get("interned", ()):
        values[name] = sys.intern(values[name])  # so that `is` says what it said
    return values
