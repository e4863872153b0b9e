"""Functions of Python that tell a watcher what passes its audit by: whether a path is there, what folders and the environment hold."""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from wornpage.tree.older import unbound

if TYPE_CHECKING:
    from wornpage.session.python.watching import Watcher


def wrap_all(watcher: Watcher) -> None:
    """Have all of them tell."""
    for wrap in (_wrap_stat, _wrap_scandir, _wrap_getcwd, _wrap_environment, _wrap_processes):
        wrap(watcher)


def _wrap_stat(watcher: Watcher) -> None:
    """See looks at files that are not opened: `exists`, `stat`, `access`."""
    for name in ("stat", "lstat", "access", "fstat", "readlink", "open"):
        original = getattr(os, name)

        def seen(
            path: object, *arguments: object, _original: Any = original, _name: str = name, **options: Any
        ) -> object:
            folder = options.get("dir_fd")
            if _name != "open":
                watcher.looked(path, folder)
            elif folder is not None:
                watcher.looked(path, folder)
                watcher._led = True
            try:
                return _original(path, *arguments, **options)
            finally:
                watcher._led = False

        seen.__doc__, seen.__name__ = original.__doc__, name
        setattr(os, name, unbound(seen))


_scandir = os.scandir


def _wrap_scandir(watcher: Watcher) -> None:
    """See looks at what `os.scandir` has found."""

    class Entry:
        """An entry of a folder, whose being asked for is seen."""

        __slots__ = ("_entry",)

        def __init__(self, entry: os.DirEntry[Any]) -> None:
            self._entry = entry

        def __getattr__(self, name: str) -> object:
            return getattr(self._entry, name)

        def __fspath__(self) -> object:
            return self._entry.__fspath__()

        def __repr__(self) -> str:
            return repr(self._entry)

        def stat(self, *, follow_symlinks: bool = True) -> object:
            watcher.looked(self._entry.path, is_listed=True)
            return self._entry.stat(follow_symlinks=follow_symlinks)

    Entry.__name__ = Entry.__qualname__ = "DirEntry"

    class Entries:
        """The entries of a folder, one after the other."""

        def __init__(self, path: Any) -> None:
            self._entries = _scandir(path)

        def __iter__(self) -> object:
            return self

        def __next__(self) -> object:
            return Entry(next(self._entries))

        def __enter__(self) -> object:
            return self

        def __exit__(self, *reason: object) -> None:
            self._entries.close()

        def close(self) -> None:
            self._entries.close()

    def scandir(path: object = ".") -> Any:
        return Entries(path) if watcher.on else _scandir(path)

    os.scandir = unbound(scandir)


def _wrap_getcwd(watcher: Watcher) -> None:
    """See who asks where the page's folder lies."""
    original = os.getcwd

    def getcwd() -> str:
        if watcher.on and not watcher.placed:
            watcher.saw_place()
        return original()

    os.getcwd = unbound(getcwd)


def _wrap_environment(watcher: Watcher) -> None:
    """See which variables of the environment are read."""
    kind = type(os.environ)
    get: Callable[[Any, Any], Any] = kind.__getitem__
    each = kind.__iter__

    def seen(self: Any, key: Any) -> Any:
        if watcher.on and isinstance(key, (str, bytes)):
            try:
                watcher.saw_variable(os.fsdecode(key), os.fsdecode(get(self, key)))
            except KeyError:
                watcher.saw_variable(os.fsdecode(key), None)
        return get(self, key)

    def all_seen(self: Any) -> Any:
        if watcher.on:
            for key in list(each(self)):
                watcher.saw_variable(os.fsdecode(key), os.fsdecode(get(self, key)))
        return each(self)

    kind.__getitem__ = seen  # type: ignore[method-assign]
    kind.__iter__ = all_seen  # type: ignore[method-assign]


def _wrap_processes(watcher: Watcher) -> None:
    """See processes that are begun below what Python's audit tells of: pools of workers do so."""
    try:
        import _posixsubprocess
    except ImportError:  # another system
        return

    original = _posixsubprocess.fork_exec

    def fork_exec(arguments: Any, *others: Any) -> Any:
        if watcher.on:
            watcher.executes([list(arguments or ())], for_library=True)
        return original(arguments, *others)

    _posixsubprocess.fork_exec = fork_exec
