"""Where the store of a page lies, and making room for it."""

from __future__ import annotations

import os
from collections.abc import Iterator
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


def is_there(folder: Path) -> bool:
    """Whether there is a store that can be looked for; in a folder that is closed to us there is none."""
    try:
        return folder.is_dir()
    except OSError:
        return False


def trouble_with(folder: Path) -> str:
    """Why a store that is there cannot be looked into, in the system's words; empty where it can, or there is none."""
    try:
        os.scandir(folder).close()
    except FileNotFoundError:
        return ""
    except OSError as error:
        return error.strerror or str(error)
    return ""


def files_in(folder: Path, suffix: str = "") -> Iterator[Path]:
    """Every file in or below a folder of the store whose name ends so; what cannot be looked into has none."""
    for place, _, names in os.walk(folder):
        yield from (Path(place, name) for name in sorted(names) if name.endswith(suffix))


def make_store(folder: Path) -> bool:
    """Make the folder of a store, kept out of version control; False where nothing can be written."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        ignore = folder.parent.parent / ".gitignore"
        if not os.path.exists(ignore):
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
