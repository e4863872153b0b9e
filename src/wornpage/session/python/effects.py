"""Changes that nobody can set back: a patched library, a registry, a thread, a module of the project with state.

A chunk that leaves one behind is replayed in every session that runs a later chunk. Looked for in what can be
seen cheaply: the names of every loaded module and the attributes of its classes, by identity.
"""

from __future__ import annotations

import io
import operator
import sys
import time
from collections import Counter
from collections.abc import Iterable, Mapping
from types import FunctionType, ModuleType
from typing import Any, NamedTuple

from wornpage.session.python import registries, switches
from wornpage.session.python.atoms import NoFingerprint
from wornpage.session.python.attributes import hung, noter
from wornpage.session.python.fingerprint import fingerprint, module_token
from wornpage.session.python.looks import Look, Looks
from wornpage.session.python.modules import is_being_loaded, is_local, loaded, local_modules
from wornpage.session.python.names import identity_is_watched
from wornpage.tree.older import STANDARD

_QUIET = frozenset({
    "__main__", "matplotlib.backends", "matplotlib.backend_bases", "matplotlib.style", "matplotlib.colors", "os", "posixpath", "linecache", "warnings", "sre_parse", "re", "threading", "tracemalloc",
    "tempfile", "matplotlib._pylab_helpers", "matplotlib.pyplot", "matplotlib", "numpy.random", "random", "sys", "__mp_main__",
})  # fmt: skip
"""Modules whose names change in ordinary use, or whose state is carried elsewhere."""
_DEEP = frozenset({
    "numpy", "pandas.core.frame", "pandas.core.series", "pandas.core.indexes.base", "pandas.core.generic", "pandas.core.base",
    "pandas.core.groupby.groupby", "pandas.core.groupby.generic", "matplotlib.figure", "matplotlib.axes._axes",
    "matplotlib.axes._base", "matplotlib.artist", "json.encoder", "json.decoder", "datetime", "decimal", "_decimal", "fractions",
    "collections", "pathlib", "random", "string", "statistics", "csv", "argparse", "enum", "dataclasses",
})  # fmt: skip
"""Modules whose classes are looked into as well: those whose methods people replace."""
_known = Looks()
"""What modules looked like when last seen."""


_MOMENT = 0.15
"""Seconds."""


class Watch:
    """What the session's modules look like at the start of a chunk."""

    def __init__(self, anew: bool = False) -> None:
        if anew or len(sys.modules) != _loaded[0]:
            _known.forget()  # something was loaded that is no chunk's doing, and has changed who knows what
        _snapshot()
        self.modules = frozenset(sys.modules)
        self.local = {name: module_token(name) for name in local_modules()}
        held = registries.state()
        _registered_things[:] = [held]
        _baseline[0] = registered()
        switches.take()
        self.hung = hung_now(held)
        self.threads = _threads()
        self.children = _children()

    def renewed(self) -> Watch:
        """What modules look like now; threads and children are those of before."""
        again = Watch(anew=True)
        again.threads, again.children = self.threads, self.children
        return again

    def left_behind(self, midway: bool = False, named: frozenset[str] = frozenset()) -> str:
        """What has been changed since that cannot be set back, in words; empty for nothing.

        What libraries hold in tables of theirs counts for those that the code has a name for, which are `named`.
        `midway` through a chunk threads and children are at work that may well end with it.
        """
        _loaded[0] = len(sys.modules)
        return self._found() or _held_by_libraries(named) or ("" if midway else self._still_running())

    def _still_running(self) -> str:
        if self._left_threads():
            return "it left a thread running"
        return "it left a child process running" if _children() != self.children else ""

    def _found(self) -> str:
        found = self._of_modules()
        if found:
            _known.forget()
            return found
        for name, token in self.local.items():
            if module_token(name) != token:
                return f"it changed {name}, a module of the project"
        now_held = registries.state()
        for what, before in _registered_things[0].items():
            if what in now_held and not registries.same(before, now_held[what]):
                return f"it changed {what}"
        changed = changed_among(self.hung, now_held)
        if changed:
            return f"it changed {changed}"
        if setting := switches.changed():
            return f"it changed settings in {setting}"
        made = [
            name
            for name in list(sys.modules)
            if name not in self.modules and name not in _imported and _is_made_up(name)
        ]
        if made:
            return f"it put a module {made[0]} of its own making in place"
        if registered() != _baseline[0]:
            return "it registered a class as another's"
        new_local = sorted(name for name in local_modules() if name not in self.modules)
        return f"it imported {new_local[0]}, a module of the project" if new_local else ""

    def _left_threads(self) -> bool:
        """Whether there are more threads than before; those of a pool that was closed have a moment to end."""
        deadline = time.monotonic() + _MOMENT
        while _threads() > self.threads and time.monotonic() < deadline:
            time.sleep(0.005)
        return _threads() > self.threads

    def _of_modules(self) -> str:
        """The first change of a module; all names that were put into modules are remembered."""
        found = ""
        if _known.unmoved():
            for name in _known.moved_tables():
                module, look = _known[name]
                found = found or _changed_table(name, module, look.tables, moved=False)
            return found
        for name, (module, before) in list(_known.items()):
            if sys.modules.get(name) is not module:
                return found or f"it replaced the module {name}"
            found = found or _difference(name, module, before)
        return found


def _held_by_libraries(named: frozenset[str]) -> str:
    """The first public table of a library that code has changed by its name."""
    for name in sorted(named & _known.keys()):
        module, (_, _, tables) = _known[name]
        if tables and not registries.is_looked_into(name) and (key := registries.changed_table(name, module, tables)):
            _known.forget(name)
            return f"it changed {name}.{key}"
    return ""


_hung: dict[tuple[str, str], None] = {}
"""Names that chunks have put into modules of libraries."""


def roots(registered: dict[str, list[object]] | None = None) -> dict[str, object]:
    """Everything outside the page's names that may hold things of the page, by words for it.

    `registered` is what is in the registries, where that has just been asked.
    """
    found: dict[str, object] = {}
    for name, attribute in _hung:
        value = getattr(sys.modules.get(name), attribute, None)
        if not isinstance(value, ModuleType):
            found[f"{name}.{attribute}"] = value
    found.update(hung())
    for name in local_modules():
        held = vars(sys.modules[name]).items()
        values = [v for k, v in held if not k.startswith("__") and not isinstance(v, ModuleType)]
        found[f"{name}, a module of the project"] = values
    for words, now in (registries.state() if registered is None else registered).items():
        first = _first_state.get(words, {})
        new = [value for value in now if id(value) not in first and not _holds_nothing(value)]
        if new:
            found[words] = new
    return found


def _holds_nothing(value: object) -> bool:
    """Whether it is a number or a word, or a row of such: nothing of the page can be in it."""
    if type(value) is tuple:
        return all(map(_holds_nothing, value))
    return value is None or type(value) in _PLAIN


_first_state: dict[str, dict[int, object]] = {}
"""What was in the registries when the session began, and what imports have put there since, by identity."""


def begin_session() -> None:
    """Take the registries as they are for their first state."""
    registries.install()
    identity_is_watched.append(_known.renew)
    _first_state.update({words: _by_identity(held) for words, held in registries.state().items()})


def take_as_it_is(module: str, name: str) -> None:
    """What stands for a name in a module is of our own making, and no chunk's."""
    _known.renew(module, name)


def _by_identity(things: Iterable[object]) -> dict[int, object]:
    return {id(thing): thing for thing in things}


def hung_now(registered: dict[str, list[object]] | None = None) -> dict[str, str]:
    """What those things are now, but for the project's modules, which have tokens of their own."""
    return {
        words: _token(value)
        for words, value in roots(registered).items()
        if not words.endswith("a module of the project")
    }


def changed_among(before: dict[str, str], registered: dict[str, list[object]] | None = None) -> str:
    """Words for the first of those things that is another now; empty for none. New ones are told elsewhere.

    What the page has put in the place of standard output changes with each chunk, unless it can be seen that it has not.
    """
    now = hung_now(registered)
    for words, token in before.items():
        if words in now and (now[words] != token or (words == registries.PRINTING and "unknown" in token)):
            return words
    return ""


def _token(value: object, within: tuple[int, ...] = ()) -> str:
    """What something is now; lists by their parts, of which some may have no fingerprint. `within` are the lists around it."""
    if isinstance(value, list) and id(value) not in within and len(within) < _DEEPEST:
        return " ".join(_token(part, (*within, id(value))) for part in value)
    if isinstance(value, (io.StringIO, io.BytesIO)):
        try:
            return f"{value.getvalue()!r} {value.tell()}"
        except ValueError:
            return "closed"
    try:
        return fingerprint(value)
    except NoFingerprint:
        return "unknown"


_DEEPEST = 20
"""Lists in lists whose parts are looked at one by one."""


def _threads() -> int:
    module = sys.modules.get("threading")
    return module.active_count() if module else 1


def _children() -> tuple[int, ...]:
    module = sys.modules.get("subprocess")
    running = sys.modules.get("multiprocessing.process")
    found = [] if running is None else [child.pid or 0 for child in list(running._children)]
    try:
        with open(f"/proc/self/task/{_main_thread()}/children", encoding="ascii") as file:
            found += [int(word) for word in file.read().split()]
    except OSError:
        pass
    return tuple(sorted(found)) if module or running else ()


def _main_thread() -> int:
    import os

    return os.getpid()


def _snapshot() -> None:
    """What every module looks like. Those seen at the end of the last chunk are as they were then, or were told of."""
    number = loaded.now()
    if number is not None and number == _known.all_in:
        return
    for name, module in list(sys.modules.items()):
        known = _known.get(name)
        if known is not None and known[0] is module:
            continue
        if (
            name in _QUIET
            or not isinstance(module, ModuleType)
            or name.startswith(("wornpage", "_cython", "matplotlib.backends."))
        ):
            continue
        if is_being_loaded(name):
            number = None  # it is not whole yet: what it looks like afterwards counts
        elif not is_local(name):  # what the project's modules are is told by their tokens
            _known[name] = (module, _state(name, module))
    _known.all_in = number


def _is_made_up(name: str) -> bool:
    """Whether a module comes from nowhere: made by hand and put among those that are imported."""
    module = sys.modules.get(name)
    if name.startswith(("_", "cython")) or type(module) is not ModuleType:
        return False
    return getattr(module, "__spec__", None) is None and getattr(module, "__file__", None) is None and "." not in name


def look_anew() -> None:
    """A change has been told that was found in another way: no later chunk is to be told of it again."""
    _known.forget()


def note_new_modules() -> None:
    """Modules have been imported: this is what they look like before anybody changes them."""
    _snapshot()


class Before(NamedTuple):
    """How things were before an import."""

    classes: int = 0
    """How many classes had been registered as another's."""
    untouched: bool = False
    """Whether the chunk had changed nothing so far."""
    held: dict[str, list[object]] = {}
    """What was in the registries."""
    filled: frozenset[str] | None = None
    """Libraries whose public tables the chunk may have filled already; None if nobody has looked."""


def before_import(name: str, by_library: bool) -> Before:
    """What `after_import` wants to know, before `name` is imported by the author or by a library that is at work.

    Some libraries load hundreds of their modules only when they are asked for. All modules are looked through before
    the first of them; after those, what such an import changes elsewhere counts as the chunk's doing.
    """
    held = registries.state()
    if by_library:
        package = name.partition(".")[0]
        _late[package] += 1
        if _late[package] > _FULLY_SEEN:
            return Before(registered(), False, held)
    untouched = bool(_registered_things) and _are_same(_registered_things[0], held) and not switches.changed()
    untouched = untouched and not _any_differs()
    return Before(registered(), untouched, held, frozenset(_with_other_tables()))


_FULLY_SEEN = 40
_late = Counter[str]()
"""How often each package has loaded modules of its own while it was at work."""


def _with_other_tables() -> list[str]:
    """Names of the libraries whose public tables are not what they were when last seen."""
    return [
        name
        for name, (module, (_, _, tables)) in list(_known.items())
        if tables and not registries.is_looked_into(name) and registries.changed_table(name, module, tables, False)
    ]


def _any_differs() -> bool:
    if _known.unmoved():
        seen = ((name, *_known[name]) for name in _known.moved_tables())
        return any(registries.changed_table(name, module, look.tables, moved=False) for name, module, look in seen)
    return any(_differs(name, module, look) for name, (module, look) in list(_known.items()))


def _differs(name: str, module: ModuleType, held: Look) -> bool:
    """Whether somebody has changed a module, beside its caches."""
    names, classes, tables = held
    moved = not _same(names, module.__dict__)
    if moved and _changed_names(names, module.__dict__):
        return True
    if any(
        not _same(attributes, kind.__dict__) and _changed_names(attributes, dict(kind.__dict__))
        for kind, attributes in classes
    ):
        return True
    if tables and registries.is_looked_into(name) and registries.changed_table(name, module, tables, moved):
        return True
    if moved:  # nothing that counts: it is not gone through again each time
        _known[name] = (module, Look(dict(module.__dict__), classes, tables))
    return False


def after_import(before: Before) -> None:
    """An import is done: what it has registered, or changed in other modules, is not the chunk's doing."""
    _baseline[0] += registered() - before.classes
    _imported.update(sys.modules)
    now = registries.state()
    for words, held in now.items():
        earlier = _by_identity(before.held.get(words, ()))
        first = _first_state.setdefault(words, {})
        first |= {key: value for key, value in _by_identity(held).items() if key not in earlier}
    if before.filled is None:
        return
    for name in _with_other_tables():
        if name not in before.filled:
            module, look = _known[name]
            _known[name] = (module, look._replace(tables=registries.tables_of(name, module)))
    if not before.untouched:
        return
    _registered_things[:] = [now]
    switches.take()
    for name, (module, state) in list(_known.items()):
        if sys.modules.get(name) is module and _differs(name, module, state):
            _known[name] = (module, _state(name, module))


def _are_same(before: dict[str, list[object]], now: dict[str, list[object]]) -> bool:
    return all(words not in now or registries.same(held, now[words]) for words, held in before.items())


def registered() -> int:
    """A number that grows with every class registered as a subclass of another; libraries do so when they are imported."""
    module = sys.modules.get("abc")
    return module.get_cache_token() if module else 0


_imported: set[str] = set()
"""Modules that were there when an import was done: it, and no author, put them there."""
_registered_things: list[dict[str, list[object]]] = []
"""The state of the registries at the start of the chunk, and what imports have made of it since."""
_loaded: list[int] = [0]
"""How many modules there were when it was last looked for what a chunk has left behind."""
_baseline: list[int] = [0]
"""That number at the start of the chunk, and what imports have added to it since."""


def _state(name: str, module: ModuleType) -> Look:
    classes = _classes(name, module.__dict__) if name in _DEEP or registries.is_looked_into(name) else ()
    attributes = [(kind, dict(kind.__dict__)) for kind in classes]
    return Look(dict(module.__dict__), attributes, registries.tables_of(name, module))


def _classes(name: str, values: dict[str, object]) -> list[type]:
    """Classes of the same package; pandas says of its classes that they live at its top."""
    package = name.split(".", maxsplit=1)[0]
    return [value for value in values.values() if isinstance(value, type) and value.__module__.split(".")[0] == package]


def _difference(name: str, module: ModuleType, before: Look) -> str:
    names, classes, tables = before
    moved = not _same(names, module.__dict__)
    if moved:
        changed = _changed_names(names, module.__dict__)
        if changed:
            for one in [key for key in module.__dict__ if module.__dict__[key] is not names.get(key, _NOTHING)]:
                _hung[name, one] = None
            return f"it changed {name}.{changed}"
        _known[name] = (module, before._replace(names=dict(module.__dict__)))
    if registries.is_looked_into(name) and (table := _changed_table(name, module, tables, moved)):
        return table
    for kind, attributes in classes:
        if not _same(attributes, kind.__dict__):
            changed = _changed_names(attributes, dict(kind.__dict__))
            if changed:
                return f"it changed {name}.{kind.__name__}.{changed}"
    return ""


def _changed_table(name: str, module: ModuleType, before: registries.Tables, moved: bool) -> str:
    table = registries.changed_table(name, module, before, moved) if before else ""
    if not table:
        return ""
    _hung[name, table] = None
    return f"it changed {name}.{table}"


def _same(before: Any, now: Any) -> bool:
    return len(before) == len(now) and all(map(operator.is_, before.values(), now.values()))


def _changed_names(before: Mapping[str, object], now: Mapping[str, object]) -> str:
    """A public name that stands for something else now; lazy imports, private caches and equal constants are no change."""
    for name in {*before, *now}:
        old, new = before.get(name, _NOTHING), now.get(name, _NOTHING)
        if name.startswith("_") and len(name) > 1 and not (isinstance(old, FunctionType) and new is not old):
            continue  # private names come and go; a private function that is replaced is a patch
        if old is new or isinstance(new, ModuleType) or isinstance(old, ModuleType):
            continue
        if type(old) is type(new) and type(old) in _PLAIN and old == new:
            continue
        if old is _NOTHING and "__getattr__" in now and _is_of_package(name, new, now):
            continue  # the module loads it when it is first asked for
        if old is _NOTHING and _is_made_by_package(new, now) and not noter.has_set(now, name):
            continue  # the library has put together something of its own, as some do at the first call
        return name
    return ""


def _is_of_package(name: str, value: object, names: Mapping[str, object]) -> bool:
    """Whether a function or class belongs, under its own name, to the package of the module with these names."""
    home = value.__module__ if isinstance(value, (FunctionType, type)) and value.__name__ == name else None
    return bool(home) and str(home).partition(".")[0] == str(names.get("__name__")).partition(".")[0]


def _is_made_by_package(value: object, names: Mapping[str, object]) -> bool:
    """Whether a function, or an object of a class, is of the package of the module with these names."""
    home = value.__module__ if isinstance(value, FunctionType) else type(value).__module__
    root = str(names.get("__name__", "")).partition(".")[0]
    return root not in STANDARD and str(home).partition(".")[0] == root


_NOTHING = object()
_PLAIN = (int, float, str, bytes, bool, tuple)
