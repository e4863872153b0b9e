"""State of the session outside the page's names that has a way to be read and to be set: carried exactly.

Each item has a name; its value is told as plain text or pickled bytes. An item that nobody has changed is not told at
all, so that a library not yet imported and one in its first state are the same.
"""

from __future__ import annotations

import base64
import os
import pickle
import sys
import time
import warnings
from collections.abc import Callable
from functools import partial
from typing import Any

from wornpage.session.python import counters, hooks, inner
from wornpage.tree.older import beside, most_digits

_here = os.getcwd
_pristine: dict[str, str] = {}
_rc_pristine: dict[str, object] = {}
_pending: dict[str, dict[str, str]] = {}
rc_reads: set[str] = set()
logging_reads: list[bool] = []


def install(folder: str) -> None:
    """Take what there is now as the first state."""
    global _folder
    _folder = folder
    _pristine.update({item: value for item, (read, _) in _ITEMS.items() if (value := read()) is not None})
    hooks.after_import("matplotlib", _watch_matplotlib)
    hooks.after_import("logging", _watch_logging)
    for item, library in _LIBRARY.items():
        hooks.after_import(library, partial(_library_arrived, item))


def begin() -> None:
    """Code is about to run: nothing has been read so far."""
    rc_reads.clear()
    logging_reads.clear()
    _drawn_before.update({item: counters.read(counter) for item, counter in counters.COUNTERS.items()})


_drawn_before: dict[str, str | None] = {}
"""What the counters stood at when the running code began."""


def _library_arrived(item: str, module: object) -> None:
    _arrived(item)


def taken_to_be_read(named: set[str]) -> list[str]:
    """Items that count as read, where their library is there; single settings of Matplotlib and of the environment are
    seen one by one. Those that libraries look at all the time count only if it was asked whether a message is to be
    given, or the code itself has a name for the library, of which `named` tells."""
    from wornpage.session.python import notices

    asked = {"logging": bool(logging_reads), "warnings": notices.asked()}
    stood = {item: _drawn_before.get(item) or _pristine.get(item) for item in counters.COUNTERS}
    drawn = {item: counters.read(counter) != stood[item] for item, counter in counters.COUNTERS.items()}
    unread = {item for item, was_asked in (asked | drawn).items() if not was_asked and item not in named}
    return [item for item in _ITEMS if item not in unread and _LIBRARY.get(item, "sys") in sys.modules]


_folder = ""


def _arrived(item: str) -> None:
    """A library came in: note its first state, then put in what a chunk above had set."""
    read, write = _ITEMS[item]
    value = read()
    if value is not None:
        _pristine.setdefault(item, value)
    wanted = _pending.pop(item, None)
    if wanted is not None:
        write(wanted["value"])


_rc_first: dict[str, Any] = {}
"""Settings of Matplotlib as they were first."""


def _watch_matplotlib(module: Any) -> None:
    global _rc_pristine
    params = module.rcParams
    _rc_first.update({key: dict.__getitem__(params, key) for key in dict.keys(params) if key != "backend"})
    _rc_pristine = {key: repr(dict.__getitem__(params, key)) for key in dict.keys(params)}
    get = type(params).__getitem__

    def seen(self: object, key: str) -> object:
        if self is params:  # not a copy, made to be put back later
            rc_reads.add(key)
        return get(self, key)

    type(params).__getitem__ = seen
    for item in [item for item in _pending if item.startswith("rc:")]:
        params[item[3:]] = _unpack(_pending.pop(item)["value"])
    rc_reads.clear()


def _watch_logging(module: Any) -> None:
    level = module.Logger.isEnabledFor

    def seen(self: object, wanted: int) -> bool:
        logging_reads.append(True)
        answer: bool = level(self, wanted)
        return answer

    module.Logger.isEnabledFor = seen


def _pack(value: object) -> str:
    return base64.b64encode(pickle.dumps(value, 4)).decode()


def _pack_or_live(value: object) -> str:
    """The same; `live` for what only running gives, such as functions of the page's own."""
    try:
        return _pack(value)
    except Exception:
        return "live"


def _unpack(text: str) -> Any:
    return pickle.loads(base64.b64decode(text))


# --- one reader and one setter an item --------------------------------------------------------


def _cwd() -> str | None:
    try:
        return os.path.relpath(_here(), _folder)
    except OSError:
        return "gone"


def _set_cwd(text: str) -> None:
    os.chdir(os.path.join(_folder, text))


def _path() -> str:
    return "\n".join(os.path.relpath(p, _folder) if p.startswith(_folder) else p for p in sys.path)


def _set_path(text: str) -> None:
    sys.path[:] = [
        p if os.path.isabs(p) or p == "" else os.path.normpath(os.path.join(_folder, p)) for p in text.split("\n")
    ]


def _set_arguments(text: str) -> None:
    sys.argv[:] = text.split("\0") if text else []


def _filters() -> str:
    try:
        return _pack([(a, _pattern(m), c, _pattern(mod), n) for a, m, c, mod, n in warnings.filters])
    except Exception:
        return "live"


def _pattern(part: Any) -> object:
    """A filter's pattern as text; in Python's own filters it is text already, which is told apart."""
    return part if part is None or isinstance(part, str) else (part.pattern, part.flags)


def _set_filters(text: str) -> None:
    import re

    def compiled(part: Any) -> object:
        return part if part is None or isinstance(part, str) else re.compile(*part)

    filters = [(a, compiled(m), c, compiled(mod), n) for a, m, c, mod, n in _unpack(text)]
    listed: Any = warnings.filters
    listed[:] = filters
    warnings._filters_mutated()  # type: ignore[attr-defined]


def _decimal() -> str | None:
    module = sys.modules.get("decimal")
    if module is None:
        return None
    context = module.getcontext().copy()
    context.clear_flags()  # what happened in arithmetic is forgotten with every chunk
    return repr(context)


def _set_decimal(text: str) -> None:
    import decimal

    scope = {"Context": decimal.Context, **vars(decimal)}
    from wornpage.session.python.names import run_eval

    wanted, context = run_eval(text, scope), decimal.getcontext()
    for part in ("prec", "rounding", "Emin", "Emax", "capitals", "clamp"):
        setattr(context, part, getattr(wanted, part))
    context.traps.update(wanted.traps)  # in place: names of the page may stand for it


def _locale() -> str | None:
    module = sys.modules.get("locale")
    return module.setlocale(module.LC_ALL) if module else None


def _set_locale(text: str) -> None:
    import locale

    locale.setlocale(locale.LC_ALL, text)


def _numpy(name: str) -> Callable[[], str | None]:
    def read() -> str | None:
        module = sys.modules.get("numpy")
        return _pack_or_live(getattr(module, f"get{name}")()) if module else None

    return read


def _set_numpy(name: str) -> Callable[[str], None]:
    def write(text: str) -> None:
        getattr(sys.modules["numpy"], f"set{name}")(**_unpack(text))

    return write


def _pandas_flat(node: Any, prefix: str = "") -> dict[str, object]:
    flat: dict[str, object] = {}
    for key, value in node.items():
        if isinstance(value, dict):
            flat |= _pandas_flat(value, f"{prefix}{key}.")
        else:
            flat[prefix + key] = value
    return flat


def _pandas() -> str | None:
    module = sys.modules.get("pandas._config.config")
    if "pandas" not in sys.modules or module is None:
        return None
    flat = _pandas_flat(module._global_config)
    return _pack_or_live(sorted(flat.items(), key=lambda item: item[0]))


def _set_pandas(text: str) -> None:
    pandas = sys.modules["pandas"]
    now = _pandas_flat(sys.modules["pandas._config.config"]._global_config)
    for key, value in _unpack(text):
        if key in now and now[key] is not value and now[key] != value:
            pandas.set_option(key, value)


def _logging() -> str | None:
    """Levels and the kinds of handlers; a change of handlers cannot be carried and is told by `live` before it."""
    module = sys.modules.get("logging")
    if module is None:
        return None
    loggers = [
        ("", module.root),
        *sorted((n, lg) for n, lg in module.root.manager.loggerDict.items() if hasattr(lg, "level")),
    ]
    told = [
        (name, logger.level, logger.disabled, [_handler(handler) for handler in logger.handlers])
        for name, logger in loggers
        if logger.level or logger.disabled or logger.handlers
        if name == "" or not _is_library(name)
    ]
    plain = not any(handlers for *_, handlers in told)
    return ("" if plain else "live ") + repr((module.root.manager.disable, told))


def _is_library(name: str) -> bool:
    return name.split(".", maxsplit=1)[0] in sys.modules and not name.startswith("__main__")


def _handler(handler: Any) -> tuple[object, ...]:
    formatter = handler.formatter
    return (type(handler).__name__, handler.level, formatter and (formatter._fmt, formatter.datefmt))


def _set_logging(text: str) -> None:
    import ast
    import logging

    if text.startswith("live"):
        return  # handlers come back when the chunk that made them runs again
    disable, told = ast.literal_eval(text)
    logging.disable(disable)
    for name, level, disabled, _ in told:
        logger = logging.getLogger(name or None)
        logger.setLevel(level)
        logger.disabled = disabled


def _umask() -> str:
    mask = os.umask(0)
    os.umask(mask)
    return str(mask)


_FORMAT = (
    "delimiter",
    "quotechar",
    "doublequote",
    "skipinitialspace",
    "lineterminator",
    "quoting",
    "escapechar",
    "strict",
)


def _set_digits(text: str) -> None:
    if hasattr(sys, "set_int_max_str_digits"):
        sys.set_int_max_str_digits(int(text))


def _dialects() -> str | None:
    module = sys.modules.get("csv")
    if module is None:
        return None
    dialects = [(name, [getattr(module.get_dialect(name), key) for key in _FORMAT]) for name in module.list_dialects()]
    return repr((module.field_size_limit(), dialects))


def _set_dialects(text: str) -> None:
    import ast
    import csv

    limit, wanted = ast.literal_eval(text)
    csv.field_size_limit(limit)
    for name in csv.list_dialects():
        csv.unregister_dialect(name)
    for name, values in wanted:
        csv.register_dialect(name, **dict(beside(_FORMAT, values)))


def _collector() -> str:
    import gc

    return repr((gc.isenabled(), gc.get_threshold()))


def _set_collector(text: str) -> None:
    import ast
    import gc

    enabled, threshold = ast.literal_eval(text)
    gc.set_threshold(*threshold)
    (gc.enable if enabled else gc.disable)()


def _timeout() -> str | None:
    module = sys.modules.get("socket")
    return repr(module.getdefaulttimeout()) if module else None


def _set_timeout(text: str) -> None:
    import socket

    socket.setdefaulttimeout(None if text == "None" else float(text))


def _torch() -> str | None:
    torch: Any = sys.modules.get("torch")
    if not hasattr(torch, "are_deterministic_algorithms_enabled"):
        return None  # it is being loaded
    told = (
        str(torch.get_default_dtype()).rpartition(".")[2], torch.is_grad_enabled(), torch.get_num_threads(),
        torch.are_deterministic_algorithms_enabled(),
    )  # fmt: skip
    return " ".join(map(str, told))


def _set_torch(text: str) -> None:
    torch: Any = sys.modules["torch"]
    kind, grad, threads, deterministic = text.split()
    torch.set_default_dtype(getattr(torch, kind))
    torch.set_grad_enabled(grad == "True")
    torch.set_num_threads(int(threads))
    torch.use_deterministic_algorithms(deterministic == "True")


_ITEMS: dict[str, tuple[Callable[[], str | None], Callable[[str], None]]] = {
    "cwd": (_cwd, _set_cwd),
    "path": (_path, _set_path),
    "arguments": (lambda: "\0".join(map(str, sys.argv)), _set_arguments),
    "warnings": (_filters, _set_filters),
    "decimal": (_decimal, _set_decimal),
    "locale": (_locale, _set_locale),
    "recursion": (lambda: str(sys.getrecursionlimit()), lambda text: sys.setrecursionlimit(int(text))),
    "numpy.errors": (_numpy("err"), _set_numpy("err")),
    "numpy.print": (_numpy("_printoptions"), _set_numpy("_printoptions")),
    "pandas.options": (_pandas, _set_pandas),
    "socket.timeout": (_timeout, _set_timeout),
    "zone": (lambda: repr(time.tzname), lambda text: time.tzset()),
    "digits": (lambda: str(most_digits()), _set_digits),
    "umask": (_umask, lambda text: (os.umask(int(text)), None)[1]),
    "logging": (_logging, _set_logging),
    "csv": (_dialects, _set_dialects),
    "collector": (_collector, _set_collector),
    "torch.settings": (_torch, _set_torch),
    **{item: (partial(counters.read, one), partial(counters.write, one)) for item, one in counters.COUNTERS.items()},
}
_LIBRARY = {"numpy.errors": "numpy", "numpy.print": "numpy", "pandas.options": "pandas", "decimal": "decimal", "locale": "locale",
            "socket.timeout": "socket", "torch.settings": "torch", "logging": "logging", "csv": "csv",
            **{item: counter.library for item, counter in counters.COUNTERS.items()}}  # fmt: skip


def changed() -> dict[str, str]:
    """Every item that is not in its first state, with its value."""
    found: dict[str, str] = {}
    for item, (read, _) in _ITEMS.items():
        if item in _LIBRARY and _LIBRARY[item] not in sys.modules:
            if item in _pending:
                found[item] = _pending[item]["value"]
            continue
        value = read()
        if value is not None and item not in _pristine:
            _pristine[item] = value
        if value is not None and value != _pristine.get(item):
            found[item] = value
    found |= _changed_rc() | _changed_environment() | inner.told()
    return found


def is_set(since: dict[str, str]) -> bool:
    """Whether any item has been set since those were all that had changed; to load a module is to set nothing."""
    then, now = ({k: v for k, v in one.items() if not inner.is_one(k)} for one in (since, changed()))
    return then != now


def _changed_rc() -> dict[str, str]:
    module = sys.modules.get("matplotlib")
    if module is None or not _rc_pristine:
        return {item: told["value"] for item, told in _pending.items() if item.startswith("rc:")}
    params = module.rcParams
    found = {}
    for key in dict.keys(params):
        value = dict.__getitem__(params, key)
        if repr(value) != _rc_pristine.get(key):
            found[f"rc:{key}"] = _pack_or_live(value)
    return found


_environment: dict[str, str] = dict(os.environ)


def begin_with(variables: dict[str, str | None]) -> None:
    """Variables of the environment as they are from the beginning in a session that was forked; None for those that are not."""
    for name, value in variables.items():
        if value is None:
            os.environ.pop(name, None)
            _environment.pop(name, None)
        else:
            os.environ[name] = _environment[name] = value
    _last_environment[0] = None


_last_environment: list[Any] = [None, {}]
"""The variables when they were last looked at, as the system has them, and what had changed of them."""


def _changed_environment() -> dict[str, str]:
    variables: Any = os.environ
    now, decode = variables._data, variables.decodevalue
    if now != _last_environment[0]:
        _last_environment[:] = [dict(now), _differences(now, decode)]
    found: dict[str, str] = _last_environment[1]
    return found


def _differences(now: dict[Any, Any], decode: Callable[[Any], str]) -> dict[str, str]:
    """Variables that are not as they were first."""
    current = {decode(key): decode(value) for key, value in now.items()}
    found = {f"env:{k}": f"={v}" for k, v in current.items() if _environment.get(k) != v}
    return found | {f"env:{k}": "gone" for k in _environment if k not in current}


def put(wanted: dict[str, str]) -> dict[str, str]:
    """Bring every item to the state in `wanted`; what is not in it goes back to its first state. Returns what is changed then."""
    decimal = sys.modules.get("decimal")
    if decimal is not None:
        decimal.getcontext().clear_flags()
    now = changed()
    other: dict[str, str | None] = {item: None for item in now if item not in wanted}
    other |= {item: value for item, value in wanted.items() if now.get(item) != value}
    for item, value in other.items():
        _set(item, value)
    rc_reads.clear()
    return changed() if other else now


def _set(item: str, value: str | None) -> None:
    if value == "live":
        return  # it comes back when the chunk that set it runs again
    if inner.is_one(item):
        inner.put(item, value)
    elif item.startswith("env:"):
        first = _environment.get(item[4:])
        text = value[1:] if value and value.startswith("=") else None if value == "gone" else first
        if text is None:
            os.environ.pop(item[4:], None)
        else:
            os.environ[item[4:]] = text
    elif item.startswith("rc:"):
        module = sys.modules.get("matplotlib")
        if module is None:
            _pending.pop(item, None)
            if value is not None:
                _pending[item] = {"value": value}
        elif value is not None:
            module.rcParams[item[3:]] = _unpack(value)
        else:
            module.rcParams[item[3:]] = (
                _rc_first.get(item[3:], module.rcParamsDefault[item[3:]]) if item != "rc:backend" else "agg"
            )
    elif item in _LIBRARY and _LIBRARY[item] not in sys.modules:
        _pending.pop(item, None)
        if value is not None:
            _pending[item] = {"value": value}
    else:
        text = value if value is not None else _pristine.get(item)
        if text is not None:
            _ITEMS[item][1](text)
