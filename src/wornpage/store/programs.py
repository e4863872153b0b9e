"""Programs of the machine, as short texts that tell one from another of its name."""

from __future__ import annotations

import os
from collections.abc import Mapping
from contextvars import ContextVar

_instead: ContextVar[Mapping[str, str]] = ContextVar("instead", default={})  # noqa: B039  # never changed in place


def call_instead(programs: Mapping[str, str]) -> None:
    """From now on, in this thread, other programs are called by these words: by word a path or a name."""
    _instead.set(programs)


def called(word: str) -> str:
    """What is called by a word."""
    return _instead.get().get(word, word)


def where(program: str) -> str:
    """The path of a program that can be called by this word; empty for none."""
    program = called(program)
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
