"""Versions of packages that lie in folders of their own, with a description in each: nothing is loaded."""

from __future__ import annotations

import os
import re

from wornpage.store.files import content

_VERSION = re.compile(r"^Version:\s*(\S+)", re.MULTILINE)
_known: dict[tuple[str, int, int], str] = {}


def version_in(folder: str) -> str:
    """The version of the package in a folder, and what tells one build of it from another; `absent` if there is none."""
    path = os.path.join(folder, "DESCRIPTION")
    try:
        found = os.stat(path)
        key = (path, found.st_size, found.st_mtime_ns)
        if key not in _known:
            with open(path, encoding="utf-8", errors="replace") as file:
                version = _VERSION.search(file.read())
            _known[key] = f"{version[1] if version else 'unknown'} {content(path)[:16]}"
        return _known[key]
    except OSError:
        return "absent"


def name_of(folder: str) -> str:
    """What the package in a folder is called; R's own first package stands for R itself."""
    name = folder.rpartition("/")[2]
    return "R" if name == "base" else name
