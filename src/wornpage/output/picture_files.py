"""Pictures as files beside a source that names them."""

from __future__ import annotations

import re
from collections.abc import Callable

from wornpage.tree import nodes as n

_UNFIT = re.compile(r"[^A-Za-z0-9_-]+")


class PictureFiles:
    """The files of one source, by their names in its folder; `as_file` gives a picture's bytes and the ending of their file."""

    def __init__(self, folder: str, as_file: Callable[[n.Picture], tuple[bytes, str]]) -> None:
        self.folder, self._as_file = folder, as_file
        self.files: dict[str, bytes] = {}

    def file(self, picture: n.Picture, name: str) -> str:
        """The path of a picture as the source names it; `name` is what it may be called."""
        data, suffix = self._as_file(picture)
        stem = _UNFIT.sub("-", name).strip("-") or "figure"
        path, at = f"{stem}.{suffix}", 2
        while self.files.get(path, data) != data:
            path, at = f"{stem}-{at}.{suffix}", at + 1
        self.files[path] = data
        return f"{self.folder}/{path}"
