"""What files and folders hold, as short texts; contents are remembered by what `stat` says of them."""

from __future__ import annotations

import os
import stat
import time

from wornpage.store.hashes import hash128, is_plain

PAGES = (".md", ".html", ".pdf")
"""Endings of a page, and of what is mostly pressed from it: under the page's name they are no data."""
FOLDER = "folder"
"""What a folder holds, where one is asked for as a file."""

_known: dict[tuple[str, int, int, int, int, bool], str] = {}


def content(path: str) -> str:
    """A hash of a file's bytes; `absent`, `folder`, or `unreadable`."""
    try:
        found = os.stat(path)
    except (OSError, ValueError):
        return "absent"
    if os.path.isdir(path):
        return FOLDER
    key = (path, found.st_size, found.st_mtime_ns, found.st_ctime_ns, found.st_ino, is_plain())
    if key in _known:
        return _known[key]
    try:
        held = hashed(path)
    except OSError:
        return "unreadable"
    # One that was written just now may be written once more within one tick of the file system's clock.
    if time.time_ns() - max(found.st_mtime_ns, found.st_ctime_ns) > SLACK:
        _known[key] = held
    return held


def entry(path: str) -> str:
    """What lies at a path: `file`, `folder`, or `absent`."""
    try:
        found = os.stat(path)
    except (OSError, ValueError):
        return "absent"
    return FOLDER if stat.S_ISDIR(found.st_mode) else "file"


def hashed(path: str) -> str:
    """A hash of a file's bytes as they are now, whatever is remembered of it. Raises `OSError`."""
    hasher = hash128()
    with open(path, "rb") as file:
        while data := file.read(1 << 20):
            hasher.update(data)
    return hasher.hexdigest()


def listing(path: str) -> str:
    """A hash of the names in a folder, those of folders told apart; `absent` if there is none."""
    return listing_of(names_in(path))


def names_in(path: str) -> list[str] | None:
    """The names in a folder, those of folders with a stroke behind; None if there is none."""
    try:
        with os.scandir(path) as entries:
            found = [entry for entry in entries if entry.name not in {".worn", "__pycache__"}]
        return sorted(entry.name + "/" * _is_folder(entry) for entry in found)
    except (OSError, ValueError):
        return None


def matching(path: str, pattern: str) -> list[str] | None:
    """The names in a folder that a regular expression fits; of folders alone where a stroke stands before it. None if there is no folder."""
    return fitting(names_in(path), pattern)


def fitting(names: list[str] | None, pattern: str) -> list[str] | None:
    """The same of names that `names_in` gave."""
    import re

    fits, last = re.compile(pattern.removeprefix("/")).fullmatch, "/" * pattern.startswith("/")
    return None if names is None else [name for name in names if name.endswith(last) and fits(name.rstrip("/"))]


def listing_of(names: list[str] | None) -> str:
    """The hash of names as `names_in` gives them."""
    return "absent" if names is None else hash128("\0".join(names).encode("utf-8", "surrogatepass")).hexdigest()


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


def rights(path: str) -> str:
    """Whose a file is, and who may do what with it; `absent` if there is none."""
    try:
        found = os.stat(path)
    except (OSError, ValueError):
        return "absent"
    return f"{found.st_mode:o} {found.st_uid} {found.st_gid}"


ASKED_BESIDE = {"times": times, "rights": rights}
"""What can be asked of a file beside what it holds, by the kind of read."""


def globbed(folder: str, pattern: str) -> str:
    """A hash of the names and contents of the files in a folder that a pattern fits."""
    from pathlib import Path

    hasher = hash128()
    for path in sorted(Path(folder).glob(pattern)):
        if path.is_file():
            name = str(path.relative_to(folder))
            hasher.update(f"{len(name)} {name} {content(str(path))}".encode("utf-8", "surrogatepass"))
    return hasher.hexdigest()


SLACK = 20_000_000
"""Nanoseconds by which a file system's clock may lag behind."""


def as_it_was_read(path: str, begun: int) -> str:
    """The content of a file that was read after `begun` (nanoseconds since the epoch); told as changed if it may be
    another by now, so that whoever compares it looks again."""
    try:
        changed = os.stat(path).st_ctime_ns
    except (OSError, ValueError):
        return content(path)
    return content(path) if changed < begun - SLACK else "changed while it was read"
