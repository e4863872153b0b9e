"""Fingerprints of values: equal only if a reader could not tell the two apart.

The C pickler streams a value into a hash, without memo so that equal values give equal bytes however they were
made. Memory layout is content: it changes digits. What belongs to the page (its functions, classes and
their instances) is taken by what it is made of, never by hooks of its own. A false "different" costs a run, a false
"equal" would break the law; so whatever cannot be told has no fingerprint at all.
"""

from __future__ import annotations

import io
import os
import pickle
import sys
from functools import cached_property
from types import (
    BuiltinFunctionType,
    CellType,
    CodeType,
    FunctionType,
    GeneratorType,
    MappingProxyType,
    MethodType,
    ModuleType,
)
from typing import Any

from wornpage.session.python import constants, singles, tensors
from wornpage.session.python.arrays import (
    Plain,
    is_any_array,
    is_array,
    is_locked_kind,
    is_of_a_file,
    plainly_told,
    told,
    warns_of_writing,
)
from wornpage.session.python.atoms import ATOMS, NoFingerprint, attributes_of, is_a, lasting_attributes
from wornpage.session.python.modules import is_local, is_nowhere, local_modules
from wornpage.session.python.names import is_of_page
from wornpage.session.python.sharing import pattern
from wornpage.store.sources import looks_at_itself, source_form
from wornpage.tree.older import handlers_of

HOOKS = ("__reduce__", "__reduce_ex__", "__getstate__", "__setstate__", "__getnewargs__", "__getnewargs_ex__", "__del__",
         "__copy__", "__deepcopy__")  # fmt: skip
_SKIPPED = {"__weakref__", "__dict__", "__module__", "__firstlineno__", "__static_attributes__", "_abc_impl",
            "__dataclass_fields__", "__dataclass_params__", "__match_args__", "__abstractmethods__"}  # fmt: skip
_LIVE_MODULES = ("matplotlib.", "mpl_toolkits.", "sqlite3", "socket", "subprocess", "threading", "_thread", "multiprocessing",
                 "asyncio", "concurrent.", "duckdb", "sqlalchemy", "_io", "itertools", "weakref", "contextvars", "mmap")  # fmt: skip


def fingerprint(value: object) -> str:
    """A hash of `value` and its layout. Raises `NoFingerprint`."""
    if type(value) in ATOMS and sys.getsizeof(value) < 200:
        return f"{type(value).__name__}:{value!r}{pattern(value)}"
    sharing = pattern(value)
    try:
        return _hashed(value, fast=True) + sharing
    except (ValueError, RecursionError):
        return _hashed(value, fast=False) + sharing  # cycles need the pickler's memo
    except NoFingerprint:
        raise
    except Exception as error:
        raise NoFingerprint(f"{type(value).__name__}: {error}") from None


def _hashed(value: object, fast: bool, inside: bool = False) -> str:
    """The hash of a value; `inside` tells that it is held within a container of a library."""
    from wornpage.store.hashes import hash128

    hasher = hash128()

    class Sink(io.RawIOBase):
        def write(self, data: Any) -> int:
            hasher.update(data)
            return len(data)

    def out_of_band(buffer: pickle.PickleBuffer) -> bool:
        hasher.update(b"buffer")
        hasher.update(buffer.raw())
        return False

    pickler = Canonical(Sink(), protocol=5, buffer_callback=out_of_band)
    pickler.fast, pickler.inside = fast, inside
    try:
        pickler.dump(value)
    except NoFingerprint:
        raise
    except (ValueError, RecursionError):
        if not fast:
            raise NoFingerprint(type(value).__name__) from None
        raise
    except Exception as error:
        raise NoFingerprint(f"{type(value).__name__}: {error}") from None
    if pickler.held:
        hasher.update(repr(pickler.held).encode())
    return hasher.hexdigest()


def _place(value: object) -> tuple[str, str] | None:
    """Where a library holds this very object, which a copy could be told from."""
    told = constants.dtype_as_told(value)
    return ("numpy", told) if told else constants.place_of(value)


class Canonical(pickle.Pickler):
    """Pickles only to be hashed: nothing it writes is ever loaded."""

    inside = False
    """Whether it is at work within a container of a library, where arrays count by content alone."""

    def __init__(self, sink: io.RawIOBase, **options: Any) -> None:
        super().__init__(sink, **options)
        self.seen = 0
        self.held: list[tuple[int, str, str]] = []
        """Which of the objects, counted as they are looked at, a library holds, and where."""

    def reducer_override(self, value: Any) -> Any:
        kind = type(value)
        if value is _token:
            return NotImplemented
        self.seen += 1
        if place := _place(value):
            self.held.append((self.seen, *place))
        if kind is FunctionType:
            return _function(value)
        if is_a(value, type):
            return _class(value)
        if is_a(value, ModuleType):
            if is_nowhere(value):
                raise NoFingerprint("a module that cannot be imported")
            return _token, (("module", value.__name__, module_token(value.__name__)),)
        if single := singles.name_of(value):
            return _token, (("single", single),)
        if is_live(value):
            raise NoFingerprint(kind.__name__)
        if kind.__module__ == "__main__":
            return _instance(value)
        if tensors.is_tensor(value):
            return _token, (tensors.told(value),)
        if kind is MethodType:
            return _token, (("method", value.__func__, value.__self__),)
        if kind is CodeType:
            return _token, (code_parts(value),)
        if kind is MappingProxyType:
            raise NoFingerprint("a view")
        if kind is CellType:
            return _token, (("cell", cell_content(value)),)
        if kind is Plain:
            return value.array.__reduce_ex__(5)
        if is_any_array(value) and is_of_a_file(value):
            raise NoFingerprint("an array in a file")
        if is_any_array(value) and warns_of_writing(value):
            raise NoFingerprint("an array that warns when it is written to")
        if is_array(value):
            parts = plainly_told(value) if self.inside else told(value)
            return NotImplemented if parts is None else (_token, (parts,))
        if is_locked_kind(value):
            raise NoFingerprint("a kind of array that does not tell others that it must not be written to")
        if kind.__module__.startswith("pandas.") and not self.inside:
            return _token, (("pandas", _hashed(value, self.fast, inside=True)),)
        return _without_caches(value) or canonical_pandas(value)


_caches: dict[type, frozenset[str]] = {}
"""Attributes of classes of libraries that are only remembered (`functools.cached_property`)."""


def _without_caches(value: object) -> object:
    """An object of a library's by what it keeps, without what it has only remembered of that; None if there is no such thing."""
    kind = type(value)
    names = _caches.get(kind)
    if names is None:
        held = (name for base in kind.__mro__ for name, one in vars(base).items() if type(one) is cached_property)
        names = _caches[kind] = frozenset(held)
    if not names or names.isdisjoint(lasting_attributes(value) or ()):
        return None
    reduced = value.__reduce_ex__(5)
    if not isinstance(reduced, tuple) or len(reduced) < 3 or type(reduced[2]) is not dict:
        return None
    return (*reduced[:2], {name: one for name, one in reduced[2].items() if name not in names}, *reduced[3:])


def _token(*parts: object) -> object:
    """Stands for something in the bytes that are hashed."""
    return parts


def is_interned(text: str) -> bool:
    """Whether CPython holds this very string as the one of its kind, which `is` can tell; asking changes nothing.

    Reads the first two bits of `PyASCIIObject.state` (Include/cpython/unicodeobject.h).
    """
    if hasattr(sys, "_is_interned"):  # from Python 3.13 on
        return bool(sys._is_interned(text))
    if sys.implementation.name != "cpython" or sys.maxsize < 2**32:
        return False
    import ctypes

    return bool(ctypes.c_uint32.from_address(id(text) + 32).value & 3)


def is_live(value: object) -> bool:
    """Whether a value has a place or a life outside itself: iterators, files, connections, drawings, locks."""
    kind = type(value)
    if is_a(value, GeneratorType) or kind.__name__ in {
        "coroutine",
        "async_generator",
        "memoryview",
        "_lru_cache_wrapper",
    }:
        return True
    if kind.__module__.startswith(_LIVE_MODULES):
        return True
    if is_a(value, BaseException) and (value.__traceback__ or value.__cause__ or value.__context__):
        return True  # where it was raised, and because of what, would be lost
    # An iterator has a place that using it changes; a few types of data have `__next__` for other reasons.
    return hasattr(kind, "__next__") and hasattr(kind, "__iter__")


def canonical_pandas(value: Any) -> object:
    """pandas' containers without their caches, each block with its layout."""
    kind = type(value)
    if kind.__module__ == "pandas._libs.internals" and kind.__name__ == "BlockManager":
        return NotImplemented
    if kind.__name__ == "Block" and kind.__module__.startswith("pandas."):
        return _token, (("block", value.mgr_locs.as_array, value.values, value.ndim),)
    if kind.__module__.startswith("pandas.") and kind.__name__ in {"DatetimeArray", "TimedeltaArray", "PeriodArray"}:
        return _token, ((kind.__name__, value._ndarray, str(value.dtype), str(getattr(value, "_freq", None))),)
    if kind.__name__ in {"NumpyBlock", "ExtensionBlock", "DatetimeLikeBlock", "NumericBlock", "ObjectBlock"}:
        return _token, (("block", value.mgr_locs.as_array, value.values, value.ndim),)
    return NotImplemented


def cell_content(cell: CellType) -> object:
    try:
        return cell.cell_contents
    except ValueError:
        return ("empty",)


def code_parts(code: CodeType, documented: bool = True) -> tuple[object, ...]:
    """What code does, without where it stands; and without what is said of it, if it is not to be `documented`."""
    held = code.co_consts
    if not documented and held and isinstance(held[0], str) and not code.co_name.startswith("<"):
        held = ("", *held[1:])  # the first constant of a function is its docstring, or None
    constants = tuple(
        code_parts(c, documented) if isinstance(c, CodeType) else (type(c).__name__, repr(c)) for c in held
    )
    return (
        code.co_name, code.co_code, constants, code.co_names, code.co_varnames, code.co_freevars, code.co_cellvars,
        code.co_flags, code.co_argcount, code.co_kwonlyargcount, code.co_posonlyargcount, handlers_of(code),
    )  # fmt: skip


def _function(value: FunctionType) -> object:
    if is_of_page(value):
        closure = tuple(cell_content(cell) for cell in value.__closure__ or ())
        state = {k: v for k, v in value.__dict__.items() if k != "__wrapped__"}
        parts = (code_parts(value.__code__), value.__defaults__, value.__kwdefaults__, closure, state,
                 value.__doc__, value.__qualname__, sorted(map(str, value.__annotations__.items())), value.__dict__.get("__wrapped__"))  # fmt: skip
        return _token, (("function", parts),)
    return _reference(value)


def _reference(value: Any) -> object:
    """Something of a library, by its name; found there again, or it has none."""
    module = sys.modules.get(value.__module__ or "")
    found: Any = module
    for part in value.__qualname__.split("."):
        found = getattr(found, part, None)
    if found is not value:
        raise NoFingerprint(f"{value.__qualname__} is not where it says")
    return _token, (("reference", value.__module__, value.__qualname__, module_token(value.__module__)),)


def _class(value: type) -> object:
    if value.__module__ != "__main__":
        if value.__module__ == "builtins" and not hasattr(__builtins__, value.__name__):
            return NotImplemented
        return _reference(value)
    items = sorted((k, _unwrapped(v)) for k, v in vars(value).items() if k not in _SKIPPED)
    bases = tuple(base for base in value.__bases__ if base is not object)
    return _token, (("class", value.__qualname__, bases, type(value), [k for k, _ in items], [v for _, v in items]),)


def _unwrapped(value: Any) -> object:
    if isinstance(value, (staticmethod, classmethod)):
        return (type(value).__name__, value.__func__)
    if is_a(value, property):
        return ("property", value.fget, value.fset, value.fdel)
    if type(value).__name__ in {"member_descriptor", "getset_descriptor", "wrapper_descriptor"}:
        return (type(value).__name__, value.__name__)
    if type(value).__name__ == "cached_property":
        return ("cached_property", value.func)
    return value


def _instance(value: object) -> object:
    """An instance of a page's class by its class and its attributes; none with hooks of its own."""
    kind = type(value)
    if is_a(value, tuple) and hasattr(kind, "_fields"):
        return _token, (("tuple", kind, tuple(value)),)
    state = instance_state(value)
    return _token, (("instance", kind, state),)


def instance_state(value: object) -> dict[str, object]:
    """The attributes of an instance of a page's class. Raises `NoFingerprint` for one that is more than them."""
    kind = type(value)
    for base in kind.__mro__[:-1]:
        if base.__module__ != "__main__" and base.__module__ not in {"abc", "typing"}:
            raise NoFingerprint(f"{kind.__name__} holds more than its attributes")
        if any(hook in vars(base) for hook in HOOKS):
            raise NoFingerprint(f"{kind.__name__} has hooks of its own")
    return attributes_of(value)


# --- modules ----------------------------------------------------------------------------------

_tokens: dict[str, str] = {}
_seen: list[bool] = []
_at_lines = [False]
"""Whether code of the page looks at lines: then comments and docstrings of modules count too."""


def look_at_lines(looks: bool) -> None:
    """Say whether code of the page looks at lines."""
    _at_lines[0] = looks
    forget_tokens()


def forget_tokens() -> None:
    """Modules of the project may have changed: look at them anew."""
    _tokens.clear()
    _seen.clear()


def module_token(name: str) -> str:
    """What a module of the project is now: its file and its state. Empty for a library, whose version is told elsewhere."""
    if not is_local(name):
        return ""
    if name not in _tokens:
        _tokens[name] = "..."  # a module that refers to itself
        _tokens[name] = _local_token(sys.modules[name])
    return _tokens[name]


def _local_token(module: ModuleType) -> str:
    """With `~` behind it where something cannot be told: what it holds then hangs on all that those who used it had read."""
    from wornpage.store.hashes import hash128

    hasher, live = hash128(), ""
    path = getattr(module, "__file__", None)
    documented = _is_documented()
    if path and os.path.exists(path):
        if documented or not path.endswith(".py"):
            with open(path, "rb") as file:
                hasher.update(file.read())
        else:
            hasher.update(source_form(path).encode())
    for name, value in sorted(vars(module).items()):
        if name.startswith("__"):
            continue
        hasher.update(name.encode())
        try:
            if is_a(value, FunctionType) and value.__module__ == module.__name__:
                hasher.update(repr(code_parts(value.__code__, documented)).encode())
                hasher.update(fingerprint((value.__defaults__, value.__dict__)).encode())
            elif is_a(value, type) and value.__module__ == module.__name__:
                state = [(k, v) for k, v in sorted(vars(value).items()) if not callable(v) and not k.startswith("__")]
                hasher.update(repr(list(vars(value))).encode() + fingerprint(state).encode())
            elif not is_a(value, BuiltinFunctionType):
                hasher.update(fingerprint(value).encode())
        except NoFingerprint:
            filled = _filled(value)
            hasher.update(f"live {filled}".encode())
            live = max(live, "~filled" if filled else "~used")
    return hasher.hexdigest() + live


def _is_documented() -> bool:
    """Whether something at hand may look at the text of modules, and so all of it counts; found out once a chunk."""
    if not _seen:
        _seen.append(_at_lines[0] or any(map(looks_at_itself, _sources())))
    return _seen[0]


def _sources() -> list[str]:
    """The files of all modules of the project."""
    paths = (getattr(sys.modules.get(name), "__file__", None) or "" for name in local_modules())
    return [path for path in paths if path.endswith(".py")]


def _filled(value: Any) -> str:
    """How far a cache of results has been filled, whose content nobody can see; empty for anything else."""
    if type(value).__name__ != "_lru_cache_wrapper":
        return ""
    _, misses, _, size = value.cache_info()
    return f"{misses} {size}"
