"""Versions of installed packages, read from the names of their metadata folders: nothing is imported."""

from __future__ import annotations

import os
import re
import sys
from contextvars import ContextVar
from functools import cache

_FOLDER = re.compile(r"(.+?)-([^-]+?)\.(?:dist-info|egg-info)$")
_OTHER_NAMES = {"sklearn": "scikit-learn", "pil": "pillow", "yaml": "pyyaml", "dateutil": "python-dateutil", "attr": "attrs",
                "cv2": "opencv-python", "bs4": "beautifulsoup4", "skimage": "scikit-image"}  # fmt: skip
_REQUIRES = re.compile(r"^Requires-Dist: ([A-Za-z0-9._-]+)([^\n]*)$", re.MULTILINE)


def normal(name: str) -> str:
    """A distribution's name as indexes compare them."""
    return re.sub(r"[-_.]+", "-", name).lower()


_elsewhere: ContextVar[tuple[str, ...]] = ContextVar("elsewhere", default=())


def look_in(folders: tuple[str, ...]) -> None:
    """From now on, in this thread, packages of pages are those in these folders; none for our own."""
    _elsewhere.set(folders)


def _folders(ours: bool) -> tuple[str, ...]:
    return (not ours and _elsewhere.get()) or tuple(sys.path)


def look_again() -> None:
    """Packages may have been installed or taken away since they were last looked for: ask once for each pressing.

    Processes that live for hours must see that; folders whose time of change is the same are not read again.
    """
    now = [(folder, _changed(folder)) for folder in {*sys.path, *_elsewhere.get()}]
    if now != _looked:
        _looked[:] = now
        for kept in (_in, _distribution, _requirements_of):
            kept.cache_clear()


_looked: list[tuple[str, int]] = []
"""Where was looked, and when each folder had last been changed, in nanoseconds since the epoch."""


def _changed(folder: str) -> int:
    try:
        return os.stat(folder or ".").st_mtime_ns
    except OSError:
        return 0


def _installed(ours: bool = False) -> dict[str, tuple[str, str]]:
    return _in(_folders(ours))


@cache
def _in(folders: tuple[str, ...]) -> dict[str, tuple[str, str]]:
    """By normalised name: version and metadata folder."""
    found: dict[str, tuple[str, str]] = {}
    for folder in folders:
        try:
            names = os.listdir(folder or ".")
        except OSError:
            continue
        for name in names:
            match = _FOLDER.match(name)
            if match:
                found.setdefault(normal(match[1]), (match[2], os.path.join(folder, name)))
    return found


def distribution_of(package: str) -> str:
    """The distribution that a top-level package comes with, by its normalised name."""
    return _distribution(package, _folders(ours=False))


@cache
def _distribution(package: str, folders: tuple[str, ...]) -> str:
    name = normal(_OTHER_NAMES.get(package.lower(), package))
    if name in _in(folders):
        return name
    for candidate, (_, folder) in _in(folders).items():
        try:
            with open(os.path.join(folder, "RECORD"), encoding="utf-8") as file:
                if re.search(rf"^{re.escape(package)}(?:/|\.py,)", file.read(), re.MULTILINE):
                    return candidate
        except OSError:
            continue
    return name


def version_of(distribution: str) -> str:
    """The installed version; `absent` if there is none. `name@folder` is one that lies in a folder of its own."""
    name, _, folder = distribution.partition("@")
    return (_in((folder,)) if folder else _installed(ours=True)).get(name, ("absent", ""))[0]


def placed(distribution: str) -> str:
    """A distribution as traces have it: with its folder, where that is none of ours."""
    known = _installed().get(distribution) if _elsewhere.get() else None
    return f"{distribution}@{os.path.dirname(known[1])}" if known else distribution


def with_requirements(distribution: str) -> tuple[str, ...]:
    """A distribution and all that it needs, as installed here."""
    return _requirements_of(distribution, _folders(ours=False))


@cache
def _requirements_of(distribution: str, folders: tuple[str, ...]) -> tuple[str, ...]:
    found: dict[str, None] = {}
    todo = [distribution]
    while todo:
        name = todo.pop()
        if name in found or name not in _in(folders):
            continue
        found[name] = None
        todo += _requirements(name, folders)
    return tuple(sorted(found)) or (distribution,)


def needs_of(distribution: str) -> tuple[str, ...]:
    """The distributions that one names as what it needs, as installed here, by their normalised names."""
    folders = _folders(ours=False)
    return tuple(_requirements(distribution, folders)) if distribution in _in(folders) else ()


def _requirements(name: str, folders: tuple[str, ...]) -> list[str]:
    try:
        with open(os.path.join(_in(folders)[name][1], "METADATA"), encoding="utf-8") as file:
            text = file.read().partition("\n\n")[0]
    except OSError:
        return []
    return [normal(other) for other, rest in _REQUIRES.findall(text) if "extra ==" not in rest]
