"""What files and folders hold, as short texts; contents are remembered by what `stat` says of them."""

from __future__ import annotations

import os

_known: dict[tuple[str, int, int, int, int], str] = {}


def content(path: str) -> str:
    """A hash of a file's bytes; `absent`, `folder`, or `unreadable`."""
    try:
        found = os.stat(path)
    except (OSError, ValueError):
        return "absent"
    if os.path.isdir(path):
        return "folder"
    key = (path, found.st_size, found.st_mtime_ns, found.st_ctime_ns, found.st_ino)
    if key not in _known:
        try:
            _known[key] = _hashed(path)
        except OSError:
            return "unreadable"
    return _known[key]


def _hashed(path: str) -> str:
    from xxhash import xxh3_128

    hasher = xxh3_128()
    with open(path, "rb") as file:
        while data := file.read(1 << 20):
            hasher.update(data)
    return hasher.hexdigest()


def listing(path: str) -> str:
    """A hash of the names in a folder, those of folders told apart; `absent` if there is none."""
    from xxhash import xxh3_128

    try:
        with os.scandir(path) as entries:
            found = [entry for entry in entries if entry.name not in {".worn", "__pycache__"}]
        names = sorted(entry.name + "/" * _is_folder(entry) for entry in found)
    except (OSError, ValueError):
        return "absent"
    return xxh3_128("\0".join(names).encode("utf-8", "surrogatepass")).hexdigest()


def _is_folder(entry: os.DirEntry[str]) -> bool:
    try:
        return entry.is_dir()
    except OSError:
        return False


def times(path: str) -> str:
    """When a file was changed; `absent` if there is none."""
    try:
        return str(os.stat(path).st_mtime_ns)
    except (OSError, ValueError):
        return "absent"
