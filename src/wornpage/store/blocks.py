"""Small results kept between pressings, such as coloured code: never needed, only faster."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from wornpage.store.addresses import digest
from wornpage.store.place import write_whole
from wornpage.store.signing import opened, sealed
from wornpage.tree.version import VERSION

_MOST = 20_000
"""Entries that are kept; beyond, those not used in this pressing go."""


_ALL: list[BlockCache] = []
_folder: Path | None = None
"""Where caches that are imported later find theirs."""


def keep_in(folder: Path | None) -> None:
    """Let all caches use files in `folder` from now on; None to use none."""
    global _folder
    _folder = folder
    for cache in _ALL:
        cache.open(folder)


def save_all() -> None:
    """Write down what is new in any cache."""
    for cache in _ALL:
        cache.save()


class BlockCache:
    """Plain data by key, in one file with its own checksum. `name` says what is kept."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._path: Path | None = None
        self._stamp: tuple[int, int] | None = None
        _ALL.append(self)
        self.open(_folder)

    def open(self, folder: Path | None) -> None:
        """Use the file in `folder`; None to use none."""
        path = folder / f"{self._name}-{VERSION}.json" if folder else None
        if path is not None and path == self._path and self._stamp == _stamp(path):
            return  # it is as this process has left it
        self._path = path
        self._stamp = _stamp(path) if path else None
        self._known: dict[str, object] = {}
        self._used: dict[str, object] = {}
        self._changed = False
        if self._path is not None:
            try:
                self._known = opened(self._path.read_bytes(), self._path.name)
            except (OSError, ValueError):
                self._known = {}

    def get(self, *key: str) -> Any:
        """What is kept under `key`; None for nothing."""
        name = digest(*key)
        found = self._known.get(name)
        if found is not None:
            self._used[name] = found
        return found

    def put(self, value: object, *key: str) -> None:
        """Keep `value`."""
        name = digest(*key)
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
