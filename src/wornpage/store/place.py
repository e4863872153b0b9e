"""Where the store of a page lies, and making room for it."""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path

from wornpage.tree.project import project_of

FORMAT = "2"
"""Changes whenever what is kept changes its meaning; an older store is left alone and never read."""


def store_of(page: Path) -> Path:
    """The folder of the store for a page, whether it is there or not."""
    return project_of(page) / ".worn" / "store" / FORMAT


def own_name(page: Path, edition: str = "") -> str:
    """Under what name things of a page, or of one of its editions, are kept: its path in the project, told apart from all others."""
    path = page.resolve()
    name = path.relative_to(project_of(page)).as_posix()
    return f"{name}\0{edition}" if edition else name


def make_store(folder: Path) -> bool:
    """Make the folder of a store, kept out of version control; False where nothing can be written."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        ignore = folder.parent.parent / ".gitignore"
        if not ignore.exists():
            ignore.write_text("*\n", encoding="ascii")
    except OSError:
        return False
    return os.access(folder, os.W_OK)


def write_whole(path: Path, data: bytes) -> None:
    """Write a file of the store whole or not at all; what cannot be written is not kept, and that is no error."""
    part = path.with_name(f"{path.name}.{os.getpid()}.part")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        part.write_bytes(data)
        part.replace(path)
    except OSError:
        with suppress(OSError):
            part.unlink()
