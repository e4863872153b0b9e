"""Files are written beside their target and moved into place: whole, or not at all."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterable
from contextlib import suppress
from pathlib import Path


def write_file(path: Path, data: bytes) -> bool:
    """Write `data` to `path`; a file that holds it already is not touched. Returns whether it was written.

    Raises `OSError`; an earlier file is then as it was.
    """
    with suppress(OSError):
        if path.stat().st_size == len(data) and path.read_bytes() == data:
            return False
    handle, name = tempfile.mkstemp(prefix=f".{path.name[:80]}.", suffix=".part", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
        part = Path(name)
        part.chmod(_mode(path))
        part.replace(path)
    except BaseException:
        with suppress(OSError):
            Path(name).unlink()
        raise
    return True


class IsSource(OSError):
    """A file that is read to make what would be written over it."""


def spare(path: Path, sources: Iterable[Path]) -> None:
    """Raise `IsSource` if writing to `path` would write over one of `sources`, by whatever name."""
    for source in sources:
        if _is_same(path, source):
            raise IsSource(0, "it is a source, and sources are never written over")


def _is_same(path: Path, source: Path) -> bool:
    try:
        return path.resolve() == source.resolve() or path.samefile(source)
    except (OSError, ValueError):
        return False


def _mode(path: Path) -> int:
    """The mode of the file that is replaced; that of a new file otherwise."""
    try:
        return path.stat().st_mode & 0o777
    except OSError:
        mask = os.umask(0)
        os.umask(mask)
        return 0o666 & ~mask
