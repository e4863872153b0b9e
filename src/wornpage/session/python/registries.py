"""Where things can be registered outside the page's names: hooks, codecs, finalizers, streams, tables of libraries.

A kind of registry is one line in `REGISTRIES`: words for it, the library it belongs to, and what is in it now. A chunk that
changes one is run again in every session that runs a chunk below it, and what is registered is looked at as if it were
held by a name. What has a getter and a setter is carried instead, by `ambient`.
"""

from __future__ import annotations

import contextvars
import operator
import os
import sys
from collections.abc import Callable, Iterable, Sequence
from functools import wraps
from itertools import chain
from types import FunctionType, ModuleType
from typing import Any, NamedTuple

from wornpage.session.python import hooks, notices
from wornpage.session.python.callers import globals_above
from wornpage.session.python.modules import is_local
from wornpage.session.python.names import Names
from wornpage.tree.older import STANDARD


class Registry(NamedTuple):
    """One place where code can leave something for later."""

    words: str
    library: str
    """The module that must be loaded for it to be there."""
    held: Callable[[Any], list[object]]
    """What is in it, in a fixed order; told apart by identity."""
    counts_from_import: bool = True
    """Whether libraries that are imported may add to it without that being the chunk's doing."""


_registered: dict[str, list[object]] = {
    "codecs": [],
    "errors": [],
    "exits": [],
    "audits": [],
    "forks": [],
    "variables": [],
}
"""What has been given to functions of Python's that do not tell."""
_HOOKS = ("excepthook", "displayhook", "unraisablehook", "breakpointhook")
_SIGNALS = (1, 2, 10, 12, 14, 15)
"""Those that people handle: hang-up, interrupt, the two of the user's own, alarm, termination."""
_OWN_VARIABLES = frozenset({"decimal_context", "format_options", "ufunc_extobj", "numpy_extobj", "_errstate", "extobj"})
"""Context variables whose values are carried in another way."""
_OF_SYS = frozenset({"last_type", "last_value", "last_traceback", "last_exc", "path_importer_cache", "stdout", "stderr",
                     "stdin", "modules", "path", "argv", "meta_path", "path_hooks", *_HOOKS})  # fmt: skip


def _variables(module: object) -> list[object]:
    found = sorted(
        ((var.name, id(var), value) for var, value in contextvars.copy_context().items()), key=lambda t: t[:2]
    )
    return [value for name, _, value in found if name not in _OWN_VARIABLES]


def _values(table: Any) -> list[object]:
    return [part for item in list(table.items()) for part in item]


def _names(table: Any) -> list[Any]:
    """What a table knows, in a fixed order: libraries put in the same things again and again."""
    return sorted(key if isinstance(key, str) else f"{key.__module__}.{key.__qualname__}" for key in list(table))


def _converted(table: Any) -> list[object]:
    """Types for whose axes somebody else than pandas and Matplotlib, who take turns, has given a converter."""
    return [
        kind
        for kind, converter in list(table.items())
        if kind.__module__ == "__main__" or not type(converter).__module__.startswith(("pandas", "matplotlib"))
    ]


def _attribute(*names: str) -> Callable[[object], list[object]]:
    return lambda module: [getattr(module, name, None) for name in names]


def _finalizers(module: Any) -> list[object]:
    """What is done, and for whom: told by the weak reference, so that it is not kept alive.

    What an installed library does for objects of its own is its affair; whoever holds one of them is known to end with an act.
    """
    held = [info for info in list(module.finalize._registry.values()) if not _is_of_library(info.func)]
    return [part for info in held for part in (info.weakref, info.func, info.args, info.kwargs)]


def _is_of_library(function: object) -> bool:
    """Whether an installed library has made a function: neither the page, nor the project, nor Python itself."""
    home = str(getattr(function, "__module__", None) or "__main__").partition(".")[0]
    return home != "__main__" and home not in STANDARD and not is_local(home)


def _set_up_of_logging(module: Any) -> list[object]:
    """Handlers, filters and manners of all loggers, and what all of them go by; levels are carried."""
    loggers = [
        module.root,
        *(one for _, one in sorted(module.root.manager.loggerDict.items()) if hasattr(one, "filters")),
    ]
    own = [
        part
        for logger in loggers
        if logger.handlers or logger.filters or not logger.propagate
        for part in (logger, logger.propagate, *logger.handlers, *logger.filters)
    ]
    shared = (
        module._warnings_showwarning,
        module.raiseExceptions,
        module.lastResort,
        module.getLoggerClass(),
        module.getLogRecordFactory(),
    )
    return [*own, *shared, *_values(module._levelToName)]


def _of_sys(module: object) -> list[object]:
    return [value for name, value in sorted(vars(module).items()) if name not in _OF_SYS and not name.startswith("__")]


def _loop(module: Any) -> list[object]:
    """The loop that has been set for this thread, and stays."""
    return [
        one for one in [getattr(getattr(module._event_loop_policy, "_local", None), "_loop", None)] if one is not None
    ]


def _folder_for_temporary() -> bytes:
    """What the environment says; it is we who ask, and no chunk."""
    held: dict[bytes, bytes] = os.environ._data  # type: ignore[attr-defined]
    return held.get(b"TMPDIR", b"/tmp")


def _limits(module: Any) -> list[object]:
    processors = tuple(sorted(module.sched_getaffinity(0))) if hasattr(module, "sched_getaffinity") else ()
    return [processors, module.getpriority(module.PRIO_PROCESS, 0)]


def _ways(stream: Any) -> tuple[object, ...]:
    if stream is None or stream.closed:
        return ("closed",)
    return stream.encoding, stream.errors, stream.newlines, stream.line_buffering, stream.write_through


PRINTING = "where print writes"
REGISTRIES = (
    Registry(PRINTING, "sys", _attribute("stdout", "stderr", "stdin")),
    Registry("how standard output writes", "sys", lambda m: [_ways(m.__stdout__), _ways(m.__stderr__)]),
    Registry("how modules are found", "sys", lambda m: [*m.meta_path, *m.path_hooks]),
    Registry("a hook of the interpreter", "sys", _attribute(*_HOOKS)),
    Registry("how code is traced", "sys", lambda m: [m.gettrace(), m.getprofile()]),
    Registry("something in sys", "sys", _of_sys),
    Registry("what is done when a thread fails", "threading", _attribute("excepthook")),
    Registry("signal handlers", "signal", lambda m: [m.getsignal(number) for number in _SIGNALS]),
    Registry("how things are copied", "copyreg", lambda m: _values(m.dispatch_table)),
    Registry("codecs", "codecs", lambda m: list(_registered["codecs"])),
    Registry("how encoding errors are met", "codecs", lambda m: list(_registered["errors"])),
    Registry("what is done at the end", "atexit", lambda m: list(_registered["exits"])),
    Registry("who is told of what Python does", "sys", lambda m: list(_registered["audits"])),
    Registry("what is done at forks", "os", lambda m: list(_registered["forks"])),
    Registry("the environment of the process", "os", lambda m: list(_registered["variables"])),
    Registry("signals that are held back", "signal", lambda m: [tuple(sorted(m.pthread_sigmask(m.SIG_BLOCK, ())))]),
    Registry("hooks of coroutines", "sys", lambda m: [*m.get_asyncgen_hooks(), m.get_coroutine_origin_tracking_depth()]),
    Registry("the loop of events", "asyncio.events", _loop),
    Registry("files in memory", "fsspec.implementations.memory", lambda m: _values(m.MemoryFileSystem.store)),
    Registry("what is done when an object goes", "weakref", _finalizers),
    Registry("a context variable", "contextvars", _variables),
    Registry("how threads take turns", "sys", lambda m: [m.getswitchinterval()]),
    Registry("how much room threads have", "threading", lambda m: [m.stack_size()]),
    Registry("what is told of crashes", "faulthandler", lambda m: [m.is_enabled()]),
    Registry("how memory is traced", "tracemalloc", lambda m: [m.is_tracing(), m.get_traceback_limit()]),
    Registry("what the collector is told", "gc", lambda m: [*m.callbacks, m.get_debug()]),
    Registry("an alarm", "signal", lambda m: [m.getitimer(which)[0] > 0 for which in (0, 1, 2)]),
    Registry("what the system allows the process", "os", _limits),
    Registry("limits of the process", "resource", lambda m: [m.getrlimit(which) for which in range(m.RLIM_NLIMITS if hasattr(m, "RLIM_NLIMITS") else 10)]),
    Registry("how processes are started", "multiprocessing", lambda m: [m.get_start_method(allow_none=True)]),
    Registry("how event loops are made", "asyncio.events", lambda m: [p for p in [m._event_loop_policy] if p and not type(p).__module__.startswith("asyncio")]),
    Registry("how warnings are shown", "warnings", lambda m: notices.put_in_place()),
    Registry("how warnings are written", "warnings", _attribute("formatwarning")),
    Registry("where temporary files go", "tempfile", lambda m: [m.tempdir or _folder_for_temporary()]),
    Registry("how many threads pyarrow has", "pyarrow", lambda m: [m.cpu_count(), m.io_thread_count()]),
    Registry("how polars writes tables", "polars", lambda m: [repr(m.Config.state(if_set=True))]),
    Registry("how logging is set up", "logging", _set_up_of_logging),
    Registry("how a database takes values", "sqlite3", lambda m: [*_values(m.adapters), *_values(m.converters)]),
    Registry("types of files", "mimetypes", lambda m: _values(m._db.types_map[True]) if m._db else []),
    Registry("colour maps", "matplotlib.cm", lambda m: list(sys.modules["matplotlib"].colormaps)),
    Registry("contexts of decimal fractions", "decimal", lambda m: [repr(m.DefaultContext), repr(m.ExtendedContext), repr(m.BasicContext)]),
    Registry("functions of pyarrow", "pyarrow.compute", lambda m: [len(m.list_functions())]),
    Registry("how special functions meet errors", "scipy.special", lambda m: [tuple(m.geterr().items())]),
    Registry("fonts", "matplotlib.font_manager", lambda m: [None] * len(m.fontManager.ttflist) if hasattr(m, "fontManager") else []),
    Registry("units of axes", "matplotlib.units", lambda m: _names(_converted(m.registry))),
    Registry("scales of axes", "matplotlib.scale", lambda m: _names(m._scale_mapping)),
    Registry("projections", "matplotlib.projections", lambda m: _names(m.projection_registry._all_projection_types)),
)  # fmt: skip


def install() -> None:
    """Note what is given to `codecs` from now on, and what code of the page gives to `atexit`."""
    import atexit
    import codecs

    for module, name, where in (
        (atexit, "register", "exits"),
        (sys, "addaudithook", "audits"),
        (os, "register_at_fork", "forks"),
        (os, "putenv", "variables"),
        (os, "unsetenv", "variables"),
    ):
        if hasattr(module, name):
            _note_calls(module, name, _registered[where])

    register, register_error, unregister = codecs.register, codecs.register_error, getattr(codecs, "unregister", None)

    def init_now(module: Any) -> None:
        module.init()  # it would do so itself when first asked

    hooks.after_import("mimetypes", init_now)

    def noted(search: Any) -> None:
        register(search)
        _registered["codecs"].append(search)

    def noted_error(name: str, handler: Any) -> None:
        register_error(name, handler)
        _registered["errors"].append((name, handler))

    def noted_end(search: Any) -> None:
        assert unregister is not None
        unregister(search)
        _registered["codecs"].append(None)

    codecs.register, codecs.register_error = noted, noted_error
    if unregister is not None:
        codecs.unregister = noted_end


def _note_calls(module: Any, name: str, calls: list[object]) -> None:
    """Note with what code of the page, or of its project, calls a function of Python's."""
    original = getattr(module, name)

    @wraps(original)
    def noted(*arguments: object, **options: object) -> object:
        where = globals_above()
        if isinstance(where, Names) or is_local(str(where.get("__name__"))):
            calls.append((arguments, options))
        return original(*arguments, **options)

    setattr(module, name, noted)


def exits() -> list[object]:
    """Calls of code of the page that gave something to `atexit`."""
    return _registered["exits"]


def state() -> dict[str, list[object]]:
    """What is in every registry whose library is loaded, by words: held, so that no place is taken by another."""
    found = {}
    for registry in REGISTRIES:
        module = sys.modules.get(registry.library)
        if module is not None:
            try:
                found[registry.words] = registry.held(module)
            except (AttributeError, KeyError, TypeError):
                continue
    return found


def same(before: Sequence[object], now: Sequence[object]) -> bool:
    """Whether a registry holds the very same things."""
    return len(before) == len(now) and all(a is b or _equal(a, b) for a, b in zip(before, now))


def _equal(a: object, b: object) -> bool:
    if type(a) is tuple and type(b) is tuple:  # what is in it may not let itself be compared
        return same(a, b)
    return type(a) is type(b) and type(a) in {int, float, str, bytes, bool} and a == b


# --- tables within modules of the standard library --------------------------------------------

_CACHES: dict[str, frozenset[str]] = {
    "mimetypes": frozenset({"_db", "inited", "common_types", "types_map", "encodings_map", "suffix_map"}),
    "subprocess": frozenset({"_active"}), "ctypes": frozenset({"_pointer_type_cache", "_c_functype_cache"}),
    "encodings": frozenset({"_cache"}), "gettext": frozenset({"_translations"}), "uuid": frozenset({"_node", "_last_timestamp"}),
    "urllib.request": frozenset({"_proxies"}), "calendar": frozenset(), "locale": frozenset(), "sysconfig": frozenset({"_CONFIG_VARS", "_CONFIG_VARS_INITIALIZED"}),
    "sqlite3": frozenset(), "pickle": frozenset(), "statistics": frozenset(), "doctest": frozenset({"master"}),
    "zoneinfo": frozenset(), "heapq": frozenset(), "datetime": frozenset(), "pprint": frozenset(), "shutil": frozenset({"_WIN_DEFAULT_PATHEXT"}),
    "html": frozenset(), "html.entities": frozenset(), "xml.etree.ElementTree": frozenset(), "email.charset": frozenset(), "string": frozenset(),
    "asyncio": frozenset(), "configparser": frozenset(), "optparse": frozenset(), "argparse": frozenset(), "csv": frozenset(), "json": frozenset(),
    "decimal": frozenset(), "fractions": frozenset(), "numbers": frozenset(), "textwrap": frozenset(), "difflib": frozenset(), "codecs": frozenset(),
    "encodings.aliases": frozenset(), "webbrowser": frozenset(), "turtle": frozenset(), "timeit": frozenset(), "netrc": frozenset(),
    "http.client": frozenset(), "http.cookies": frozenset(), "urllib.parse": frozenset({"_parse_cache", "_typeprog", "_hostprog", "_portprog"}), "imghdr": frozenset(), "sndhdr": frozenset(),
    "wave": frozenset(), "colorsys": frozenset(), "cmd": frozenset(), "shlex": frozenset(), "unicodedata": frozenset(), "stringprep": frozenset(),
    "dbm": frozenset({"_defaultmod", "_modules"}), "shelve": frozenset(), "socket": frozenset(), "ssl": frozenset(), "bdb": frozenset(), "reprlib": frozenset(),
}  # fmt: skip
"""Modules of the standard library into whose tables is looked, each with the names that ordinary use changes."""


def is_looked_into(name: str) -> bool:
    """Whether a module is one of them."""
    return name in _CACHES


class Table(NamedTuple):
    """One table, or private value, of a module: where it is, and what was in it."""

    source: object
    held: list[object]


Tables = dict[str, Table]


def tables_of(name: str, module: ModuleType) -> Tables:
    """The tables and private values of a module of the standard library, shallowly; of others the public tables."""
    caches = _CACHES.get(name)
    if caches is None:
        held = [(key, value) for key, value in list(vars(module).items()) if type(value) in _PUBLIC and key[:1] != "_"]
        return {key: Table(value, list(parts_of(value))) for key, value in held if len(value) < _FEW}
    found: Tables = {}
    for key, value in list(vars(module).items()):
        if key.startswith("__") or key in caches or isinstance(value, (ModuleType, FunctionType, type)):
            continue
        own = type(value).__module__ == name and hasattr(value, "__dict__") and not isinstance(value, _CONTAINERS)
        source = vars(value) if own else value
        found[key] = Table(source, list(parts_of(source)))
    return found


def parts_of(source: object) -> Iterable[object]:
    """What is in a table, one after the other; what is no table is taken for its only part."""
    if isinstance(source, dict):
        return chain.from_iterable(source.items())
    return source if isinstance(source, (list, set, tuple)) else (source,)


def changed_table(name: str, module: ModuleType, before: Tables, moved: bool = True) -> str:
    """The name of a table of a module that is not what it was; empty for none. `moved` if its names stand for other things."""
    if not moved and all(map(is_as_before, before.values())):
        return ""
    now = tables_of(name, module)
    for key in {*before, *now}:
        a, b = before.get(key, _NONE).held, now.get(key, _NONE).held
        if not same(a, b):
            return key
    return ""


def is_as_before(table: Table) -> bool:
    """Whether a table holds the very same things."""
    source, held = table
    if not isinstance(source, _CONTAINERS):
        return True
    length = 2 * len(source) if isinstance(source, dict) else len(source)
    return length == len(held) and all(map(operator.is_, parts_of(source), held))


_PUBLIC = (dict, list, set)
_FEW = 2_000
CHANGING = (dict, list, set)
"""Tables that can be changed in place."""
_CONTAINERS = (*CHANGING, tuple)
_NONE = Table(None, [object()])
