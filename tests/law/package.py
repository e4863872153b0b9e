"""A made-up library of which made-up pages have one version or another installed."""

from __future__ import annotations

import os
import sys
from pathlib import Path

CODE = """\
k = {version}
items = [k]
name = "version " + str(k)

def twice(value):
    return [value] * (2 + k)

class Thing:
    def __init__(self, v):
        self.v = v

    def show(self):
        return k, self.v

shelves = {"first": k}

def set_shelf(name, value):
    shelves[name] = value

def register_shelf(name):
    def put(function):
        shelves[name] = function
        return function
    return put
"""
_BEFORE = [place for place in os.environ.get("PYTHONPATH", "").split(os.pathsep) if place]
METADATA = "Metadata-Version: 2.1\nName: lawpkg\nVersion: {version}.0\n\n"


def install(folder: Path, version: int) -> None:
    """Have this version of it, and no other, where this process and its sessions look for libraries."""
    for old in folder.glob("lawpkg-*/*"):
        old.unlink()
    for old in folder.glob("lawpkg-*"):
        old.rmdir()
    told = folder / f"lawpkg-{version}.0.dist-info"
    told.mkdir(parents=True)
    (told / "METADATA").write_text(METADATA.format(version=version))
    (told / "RECORD").write_text("lawpkg.py,,\n")
    (folder / "lawpkg.py").write_text(CODE.replace("{version}", str(version)))
    os.environ["PYTHONPATH"] = os.pathsep.join((str(folder), *_BEFORE))
    os.environ["PYTHONDONTWRITEBYTECODE"] = "1"  # or a file changed within a second of time would be taken for the old
    sys.path[:] = [str(folder), *(place for place in sys.path if not place.endswith("law-packages"))]
