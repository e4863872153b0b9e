"""Programs of the machine, as short texts that tell one from another of its name."""

from __future__ import annotations

import os


def where(program: str) -> str:
    """The path of a program that can be called by this word; empty for none."""
    if os.sep in program:
        return program if _can_run(program) else ""
    folders = os.environ.get("PATH", os.defpath).split(os.pathsep)
    return next((path for folder in folders if _can_run(path := os.path.join(folder or os.curdir, program))), "")


def identity(program: str) -> str:
    """Where it lies, its size, and when it was changed; `absent` if there is none."""
    path = where(program)
    try:
        whole = os.path.realpath(path)
        stat = os.stat(whole)
    except OSError:
        return "absent"
    return f"{whole} {stat.st_size} {stat.st_mtime_ns}" if path else "absent"


def _can_run(path: str) -> bool:
    return os.path.isfile(path) and os.access(path, os.X_OK)
