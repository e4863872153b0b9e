"""Reading a file that somebody has named: it must be an ordinary one of a size that a page can have."""

from __future__ import annotations

import stat
from pathlib import Path

MOST = 256_000_000
"""Bytes that a file may have which a page names."""


class NotReadable(OSError):
    """A file that is no ordinary one, too large, or cannot be one by its name; `strerror` says which."""

    def __init__(self, reason: str) -> None:
        super().__init__(0, reason)


def file_bytes(path: Path, most: int = MOST) -> bytes:
    """The bytes of an ordinary file of at most `most` bytes. Raises `OSError`; devices and pipes are not opened."""
    try:
        found = path.stat()
        kind = found.st_mode
        if stat.S_ISDIR(kind):
            raise IsADirectoryError(21, "it is a folder")
        if not stat.S_ISREG(kind):
            raise NotReadable("it is no ordinary file")
        if found.st_size > most:
            raise NotReadable(f"it has {found.st_size / 1e6:,.0f} MB, more than the {most / 1e6:,.0f} MB that are read")
        with path.open("rb") as file:
            data = file.read(most + 1)
    except ValueError:
        raise NotReadable("its name has a letter that no file's name can have") from None
    if len(data) > most:
        raise NotReadable(f"it has more than the {most / 1e6:,.0f} MB that are read")
    return data


def no_name(name: str) -> str:
    """Why no file can have this name, or path; empty if one can."""
    if "\0" in name:
        return "its name has a letter that no file's name can have"
    parts = name.split("/")
    if len(name.encode("utf-8", "surrogatepass")) > _LONGEST_PATH or any(
        len(part.encode("utf-8", "surrogatepass")) > _LONGEST for part in parts
    ):
        return "its name is too long"
    return ""


_LONGEST, _LONGEST_PATH = 255, 4_000


def as_utf8(text: str) -> bytes:
    """Text as a file has it. Halves of letters, which UTF-8 has no place for, become U+FFFD; `as_json` keeps them."""
    return text.encode("utf-16", "surrogatepass").decode("utf-16", "replace").encode()


def as_json(text: str) -> bytes:
    """JSON as a file has it: halves of letters, as names of files may hold, by their numbers."""
    return text.encode("utf-8", "backslashreplace")


def file_text(path: Path, most: int = MOST) -> str:
    """The same as text. Raises `OSError`, `UnicodeDecodeError`."""
    return file_bytes(path, most).decode("utf-8-sig")
