"""The page's names, hidden at the start of every chunk so that each use of one is seen.

`Names` is the dictionary that chunks have as their globals. A name that has not been used yet is not in it: the first
use misses, is told to the tracker and brought in; from then on it is an ordinary hit. CPython asks a
dictionary subclass through `__missing__` everywhere but in class bodies and in `eval` and `exec` with
locals of their own, whose names `install` therefore brings in beforehand.
"""

from __future__ import annotations

import builtins
import sys
from collections.abc import Callable, ItemsView, Iterator, KeysView, ValuesView
from types import CodeType, FunctionType, ModuleType
from typing import Any, Protocol

from wornpage.session.python.callers import globals_above

ALWAYS = frozenset({"__builtins__", "__name__", "__doc__", "given"})
"""Names that are not the page's own and always there."""


class Fetches(Protocol):
    """Who brings in hidden names."""

    @property
    def is_looking(self) -> bool:
        """Whether it is we who ask: then what is fetched stays hidden."""

    def fetch(self, name: str) -> object:
        """The value of a hidden name. Raises `KeyError` if there is none."""

    def knows(self, name: str) -> bool:
        """Whether there is a hidden name."""

    def mentions(self, name: str) -> bool:
        """Whether there is a hidden name, without counting as read."""

    def listing(self) -> list[str]:
        """Every name there is, hidden ones too, in the order in which they were bound."""

    def forget(self, name: str) -> bool:
        """Delete a hidden name; False if there is none."""


class Names(dict[str, object]):
    """Globals that bring in what is asked for."""

    __slots__ = ("tracker",)
    tracker: Fetches

    def __missing__(self, name: str) -> object:
        if name == "id":
            watch_identity()
        value = self.tracker.fetch(name)
        if not self.tracker.is_looking:
            dict.__setitem__(self, name, value)
        return value

    def __contains__(self, name: object) -> bool:
        return dict.__contains__(self, name) or self.tracker.knows(str(name))

    def __delitem__(self, name: str) -> None:
        hidden = self.tracker.forget(name)
        if dict.__contains__(self, name):
            dict.__delitem__(self, name)
        elif not hidden:
            raise KeyError(name)

    def get(self, name: str, default: object = None) -> object:
        try:
            return self[name]
        except KeyError:
            return default

    def pop(self, name: str, *default: object) -> object:
        try:
            value = self[name]
        except KeyError:
            if default:
                return default[0]
            raise
        del self[name]
        return value

    def setdefault(self, name: str, default: object = None) -> object:
        if name not in self:
            self[name] = default
        return self[name]

    def copy(self) -> Names:
        """A child that asks this one for what it has not."""
        child = Names(dict.items(self))
        child.tracker = _Parent(self, child)
        return child

    def __iter__(self) -> Iterator[str]:
        return iter(self.tracker.listing())

    def __reversed__(self) -> Iterator[str]:
        return reversed(self.tracker.listing())

    def __bool__(self) -> bool:
        return True  # libraries ask `if globals`, which tells nothing of what is in them

    def __len__(self) -> int:
        return len(self.tracker.listing())

    def keys(self) -> Any:
        return KeysView(self)

    def values(self) -> Any:
        return ValuesView(self)

    def items(self) -> Any:
        return ItemsView(self)

    def popitem(self) -> tuple[str, object]:
        name = self.tracker.listing()[-1]
        return name, self.pop(name)

    def clear(self) -> None:
        for name in self.tracker.listing():
            del self[name]

    def __or__(self, other: Any) -> Any:
        return {**self} | other

    def __ror__(self, other: Any) -> Any:
        return other | {**self}

    def __ior__(self, other: Any) -> Any:
        self.update(other)
        return self

    def __repr__(self) -> str:
        return repr({**self})

    def __eq__(self, other: object) -> bool:
        return self is other

    def __hash__(self) -> int:  # type: ignore[override]
        return id(self)

    def __reduce__(self) -> Any:
        raise TypeError("the names of a page cannot be pickled")


class _Parent:
    """The tracker of a copy: its parent."""

    def __init__(self, parent: Names, child: Names) -> None:
        self.parent, self.child = parent, child
        self.gone: set[str] = set()
        """Names that have been taken away from the copy."""

    @property
    def is_looking(self) -> bool:
        return self.parent.tracker.is_looking

    def fetch(self, name: str) -> object:
        if name in self.gone:
            raise KeyError(name)
        return self.parent[name]

    def knows(self, name: str) -> bool:
        return name not in self.gone and name in self.parent

    def mentions(self, name: str) -> bool:
        return name not in self.gone and self.parent.tracker.mentions(name)

    def listing(self) -> list[str]:
        own = list(dict.keys(self.child))
        taken = [name for name in self.parent.tracker.listing() if name not in self.gone or name in own]
        known = {*taken}
        return taken + [name for name in own if name not in known]

    def forget(self, name: str) -> bool:
        knew = self.knows(name)
        self.gone.add(name)
        return knew


class PageModule(ModuleType):
    """`__main__`: attributes are the page's names."""

    names: Names

    def __init__(self, names: Names) -> None:
        super().__init__("__main__")
        object.__setattr__(self, "names", names)

    def __getattribute__(self, name: str) -> object:
        if name == "__dict__":  # what `vars` and `inspect` look into
            return object.__getattribute__(self, "names")
        return super().__getattribute__(name)

    def __getattr__(self, name: str) -> object:
        try:
            return object.__getattribute__(self, "names")[name]
        except KeyError:
            raise AttributeError(f"the page defines no {name!r}") from None

    def __setattr__(self, name: str, value: object) -> None:
        object.__getattribute__(self, "names")[name] = value

    def __delattr__(self, name: str) -> None:
        del object.__getattribute__(self, "names")[name]

    def __dir__(self) -> list[str]:
        return sorted(object.__getattribute__(self, "names"))


def new_names(tracker: Fetches) -> Names:
    """Empty names that live in `__main__`."""
    names = Names({"__name__": "__main__", "__builtins__": builtins, "__doc__": None})
    names.tracker = tracker
    sys.modules["__main__"] = PageModule(names)
    _install()
    return names


def is_of_page(definition: object) -> bool:
    """Whether code of the page has made a function or a class, whatever module it says that it is of (`functools.wraps`)."""
    if definition.__module__ == "__main__":
        return True
    if not isinstance(definition, FunctionType):
        return False
    return type(definition.__globals__) is Names or definition.__code__.co_filename.startswith("chunk:")


def names_in(code: CodeType) -> set[str]:
    """Every name that `code` or a function inside it may look up."""
    found = set(code.co_names)
    for constant in code.co_consts:
        if isinstance(constant, CodeType):
            found |= names_in(constant)
    return found


def bring(code: CodeType, names: object) -> None:
    """Bring in the names that `code` may look up, where CPython would look into the dictionary itself."""
    if isinstance(names, Names):
        wanted = names_in(code)
        if "id" in wanted:
            watch_identity()
        for name in wanted:
            if not dict.__contains__(names, name) and names.tracker.knows(name):
                names[name]


def lost(name: str) -> None:
    """A function of the page has taken a global name away."""
    names = globals_above()
    if isinstance(names, Names) and names.tracker.forget(name) and dict.__contains__(names, name):
        dict.__delitem__(names, name)


identified: list[object] = []
"""What the running chunk has asked the `id` of: what it is now must be the very same object later."""
identity_is_watched: list[Callable[[str, str], None]] = []
"""Who is to be told of that name in that module when it is replaced, which is our doing and no chunk's."""
_identify = builtins.id


def watch_identity() -> None:
    """See what code of the page asks the `id` of. Done when it first has that name: libraries ask some ten thousand times."""
    if builtins.id is _identify:
        builtins.id = _id
        for tell in identity_is_watched:
            tell("builtins", "id")


def _id(thing: object, /) -> int:
    if isinstance(globals_above(), Names):
        identified.append(thing)
    return _identify(thing)


_id.__name__ = "id"
_installed = False


def locals_of(frame: Any) -> object:
    """The names that code in a frame sees as its own: a copy where newer Pythons give but a view of a function's."""
    held = frame.f_locals
    return dict(held) if type(held).__name__ == "FrameLocalsProxy" else held


def _install() -> None:
    """Bring in names where CPython looks into the dictionary itself."""
    global _installed
    if _installed:
        return
    _installed = True
    build, evaluate, execute = builtins.__build_class__, builtins.eval, builtins.exec

    def build_class(body: FunctionType, name: str, /, *bases: object, **options: object) -> object:
        bring(body.__code__, body.__globals__)
        return build(body, name, *bases, **options)

    def prepared(source: Any, mode: str, names: object, own: object, frame: Any) -> tuple[object, Any, Any]:
        if names is None:
            names = frame.f_globals
            own = locals_of(frame) if own is None else own
        futures = frame.f_code.co_flags & 0x1FF0000
        if not isinstance(source, CodeType) and (isinstance(names, Names) or isinstance(frame.f_globals, Names)):
            from wornpage.session.python.marking import compile_text

            source = compile_text(source, mode, futures)
        elif isinstance(source, (str, bytes)) or hasattr(
            source, "_fields"
        ):  # what holds in our file does not hold in theirs
            if mode == "eval" and isinstance(source, (str, bytes)):
                source = source.lstrip(" \t" if isinstance(source, str) else b" \t")  # type: ignore[arg-type]
            source = compile(source, "<string>", mode, flags=futures, dont_inherit=True)
        if isinstance(names, Names):
            bring(source, names)
        elif isinstance(names, dict):
            # Ours are not those of whoever calls: modules are run by this, too.
            names.setdefault("__builtins__", frame.f_builtins)
        return source, names, own

    def eval(source: Any, globals: object = None, locals: object = None, /) -> object:
        source, names, own = prepared(source, "eval", globals, locals, sys._getframe(1))
        return evaluate(source, names) if own is None else evaluate(source, names, own)

    def exec(source: Any, globals: object = None, locals: object = None, /, **more: Any) -> None:
        source, names, own = prepared(source, "exec", globals, locals, sys._getframe(1))
        if own is None:
            execute(source, names, **more)
        else:
            execute(source, names, own, **more)

    builtins.__build_class__ = build_class  # type: ignore[assignment]
    builtins.eval, builtins.exec = eval, exec


run_eval: Callable[..., Any] = builtins.eval
run_exec: Callable[..., object] = builtins.exec
"""The true `eval` and `exec`, for the driver's own use."""
