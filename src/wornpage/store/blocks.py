"""Small results kept between pressings, such as coloured code: never needed, only faster."""

from __future__ import annotations

from contextlib import suppress
from contextvars import ContextVar
from pathlib import Path
from typing import Any

from wornpage.store.addresses import digest
from wornpage.store.hashes import hash128
from wornpage.store.place import is_there, write_whole
from wornpage.store.signing import opened, sealed, unwrapped, wrapped
from wornpage.tree.version import VERSION

_MOST = 20_000
"""Entries that are kept; beyond, those not used in this pressing go."""


class Shelf:
    """The results kept in one folder; with None in memory alone."""

    def __init__(self, folder: Path | None) -> None:
        self.folder = folder
        self._files: dict[str, _File] = {}

    def file(self, name: str) -> _File:
        """What is kept under the name of a cache, read when it is first asked for."""
        found = self._files.get(name)
        if found is None:
            path = self.folder / f"{name}-{VERSION}.json" if self.folder else None
            found = self._files.setdefault(name, _File(path))
        return found

    def look_again(self) -> None:
        """Pass over what others have written anew since it was read."""
        for name, file in list(self._files.items()):
            if file.is_outdated():
                del self._files[name]

    def save(self) -> None:
        """Write down what is new."""
        for file in list(self._files.values()):
            file.save()


_shelves: dict[Path | None, Shelf] = {}
_in_use: ContextVar[Shelf] = ContextVar("shelf", default=Shelf(None))  # noqa: B039  # nothing but results, by content


def keep_in(store: Path | None) -> None:
    """Let all caches use files of a store from now on, in this thread; None, or one that is not there, to use none."""
    folder = store / "cache" if store is not None and is_there(store) else None
    shelf = _shelves.setdefault(folder, Shelf(folder))
    shelf.look_again()
    _in_use.set(shelf)


def save_all() -> None:
    """Write down what is new in any cache that this thread uses."""
    _in_use.get().save()


class BlockCache:
    """Plain data by key, in a file of the shelf in use. `name` says what is kept."""

    def __init__(self, name: str) -> None:
        self._name = name

    def get(self, *key: str) -> Any:
        """What is kept under `key`; None for nothing."""
        return _in_use.get().file(self._name).get(digest(*key))

    def put(self, value: object, *key: str) -> None:
        """Keep `value`."""
        _in_use.get().file(self._name).put(digest(*key), value)


class FileCache:
    """Bytes by what they were made of, a file each, in a folder of the shelf in use. `name` says what is kept."""

    def __init__(self, name: str) -> None:
        self._name = name

    def get(self, source: bytes, about: str) -> bytes | None:
        """What was made of `source`; None if it is not kept, or has been changed since."""
        path = self._place(source, about)
        if path is None:
            return None
        with suppress(OSError, ValueError):
            return unwrapped(path.read_bytes(), path.name)
        return None

    def put(self, made: bytes, source: bytes, about: str) -> None:
        """Keep what was `made`."""
        path = self._place(source, about)
        if path is not None:
            with suppress(OSError):
                write_whole(path, wrapped(made, path.name))

    def _place(self, source: bytes, about: str) -> Path | None:
        folder = _in_use.get().folder
        return folder / f"{self._name}-{VERSION}" / digest(hash128(source).hexdigest(), about) if folder else None


class _File:
    """One file, signed for its name; one that is damaged holds nothing."""

    def __init__(self, path: Path | None) -> None:
        self._path = path
        self._stamp = _stamp(path) if path else None
        self._known: dict[str, object] = {}
        self._used: dict[str, object] = {}
        self._changed = False
        if path is not None:
            with suppress(OSError, ValueError):
                self._known = opened(path.read_bytes(), path.name)

    def is_outdated(self) -> bool:
        """Whether the file is not as this process has read or left it."""
        return self._path is not None and self._stamp != _stamp(self._path)

    def get(self, name: str) -> object:
        """What is kept; None for nothing."""
        found = self._known.get(name)
        if found is not None:
            self._used[name] = found
        return found

    def put(self, name: str, value: object) -> None:
        """Keep `value`."""
        self._known[name] = self._used[name] = value
        self._changed = True

    def save(self) -> None:
        """Write the file if anything is new."""
        if self._changed and self._path is not None:
            kept = dict(self._known if len(self._known) <= _MOST else self._used)  # another thread may add to it
            write_whole(self._path, sealed(kept, self._path.name))
            self._stamp = _stamp(self._path)
        self._changed = False


def _stamp(path: Path) -> tuple[int, int] | None:
    """What tells a file from what it was before; None if there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_mtime_ns, found.st_size
