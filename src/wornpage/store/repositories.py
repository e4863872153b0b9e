"""Which state a repository of Git's is in: what its program tells about commits, branches and tags hangs on that."""

from __future__ import annotations

import os
from collections.abc import Iterator

from wornpage.store.hashes import hash128


def repository_of(folder: str) -> str:
    """The folder at or above one that holds a repository; empty for none."""
    while not os.path.lexists(os.path.join(folder, ".git")):
        above = os.path.dirname(folder)
        if above == folder:
            return ""
        folder = above
    return folder


def state_of(root: str) -> str:
    """A hash of where its branches and tags stand, and which is checked out; `absent` if there is none."""
    own = os.path.join(root, ".git")
    if not os.path.lexists(own):
        return "absent"
    if os.path.isfile(own):  # a further tree of a repository that lies elsewhere
        own = os.path.join(root, _text(own).removeprefix("gitdir:").strip())
    shared = os.path.normpath(os.path.join(own, _text(os.path.join(own, "commondir")).strip() or "."))
    hasher = hash128(_text(os.path.join(own, "HEAD")).encode())
    for path in (os.path.join(shared, "packed-refs"), *_files_in(os.path.join(shared, "refs"))):
        hasher.update(f"{os.path.relpath(path, shared)}\n{_text(path)}\n".encode("utf-8", "surrogatepass"))
    return hasher.hexdigest()


def _files_in(folder: str) -> Iterator[str]:
    for place, folders, files in os.walk(folder):
        folders.sort()
        yield from (os.path.join(place, name) for name in sorted(files))


def _text(path: str) -> str:
    try:
        with open(path, "rb") as file:
            return file.read().decode("utf-8", "surrogateescape")
    except OSError:
        return ""
