"""One process at a time for one piece of work: who comes second waits, and finds what the first has kept."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO


@contextmanager
def alone(folder: Path | None, name: str) -> Iterator[None]:
    """Hold the lock `name` of the store in `folder`; where there are no locks, go on without."""
    path = folder / "running" / name if folder is not None else None
    handle = _locked(path) if path is not None else None
    try:
        yield
    finally:
        if handle is not None and path is not None:
            with suppress(OSError):
                path.unlink()
            handle.close()


def is_held(folder: Path, name: str) -> bool:
    """Whether somebody holds a lock at this moment."""
    try:
        import fcntl

        with (folder / "running" / name).open("rb") as handle:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except (ImportError, FileNotFoundError):
        return False
    except OSError:
        return True
    return False


def _locked(path: Path) -> IO[bytes] | None:
    """The lock file, held; None where the system or the folder has no locks."""
    try:
        import fcntl
    except ImportError:
        return None
    while True:
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            handle = path.open("ab")
            fcntl.flock(handle, fcntl.LOCK_EX)
        except OSError:
            return None
        with suppress(OSError):
            if os.path.samestat(os.fstat(handle.fileno()), path.stat()):
                return handle
        handle.close()  # who held it has taken the file away: begin again with a new one
