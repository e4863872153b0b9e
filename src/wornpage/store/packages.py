"""Versions of installed packages, read from the names of their metadata folders: nothing is imported."""

from __future__ import annotations

import os
import re
import sys
from functools import cache

_FOLDER = re.compile(r"(.+?)-([^-]+?)\.(?:dist-info|egg-info)$")
_OTHER_NAMES = {"sklearn": "scikit-learn", "pil": "pillow", "yaml": "pyyaml", "dateutil": "python-dateutil", "attr": "attrs",
                "cv2": "opencv-python", "bs4": "beautifulsoup4", "skimage": "scikit-image"}  # fmt: skip
_REQUIRES = re.compile(r"^Requires-Dist: ([A-Za-z0-9._-]+)([^\n]*)$", re.MULTILINE)


def _normal(name: str) -> str:
    return re.sub(r"[-_.]+", "-", name).lower()


def look_again() -> None:
    """Packages may have been installed or taken away since they were last looked for: ask once for each pressing.

    Processes that live for hours must see that; folders whose time of change is the same are not read again.
    """
    now = [(folder, _changed(folder)) for folder in sys.path]
    if now != _looked:
        _looked[:] = now
        for kept in (_installed, distribution_of, with_requirements):
            kept.cache_clear()


_looked: list[tuple[str, int]] = []
"""Where was looked, and when each folder had last been changed, in nanoseconds since the epoch."""


def _changed(folder: str) -> int:
    try:
        return os.stat(folder or ".").st_mtime_ns
    except OSError:
        return 0


@cache
def _installed() -> dict[str, tuple[str, str]]:
    """By normalised name: version and metadata folder."""
    found: dict[str, tuple[str, str]] = {}
    for folder in sys.path:
        try:
            names = os.listdir(folder or ".")
        except OSError:
            continue
        for name in names:
            match = _FOLDER.match(name)
            if match:
                found.setdefault(_normal(match[1]), (match[2], os.path.join(folder, name)))
    return found


@cache
def distribution_of(package: str) -> str:
    """The distribution that a top-level package comes with, by its normalised name."""
    name = _normal(_OTHER_NAMES.get(package.lower(), package))
    if name in _installed():
        return name
    for candidate, (_, folder) in _installed().items():
        try:
            with open(os.path.join(folder, "RECORD"), encoding="utf-8") as file:
                if re.search(rf"^{re.escape(package)}(?:/|\.py,)", file.read(), re.MULTILINE):
                    return candidate
        except OSError:
            continue
    return name


def version_of(distribution: str) -> str:
    """The installed version; `absent` if there is none."""
    return _installed().get(distribution, ("absent", ""))[0]


@cache
def with_requirements(distribution: str) -> tuple[str, ...]:
    """A distribution and all that it needs, as installed here."""
    found: dict[str, None] = {}
    todo = [distribution]
    while todo:
        name = todo.pop()
        if name in found or name not in _installed():
            continue
        found[name] = None
        todo += _requirements(name)
    return tuple(sorted(found)) or (distribution,)


def _requirements(name: str) -> list[str]:
    try:
        with open(os.path.join(_installed()[name][1], "METADATA"), encoding="utf-8") as file:
            text = file.read().partition("\n\n")[0]
    except OSError:
        return []
    return [_normal(other) for other, rest in _REQUIRES.findall(text) if "extra ==" not in rest]
