"""The environment that a page's Python comes from: Worn Page's own, a folder with one of its own, or any program."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Sequence
from contextvars import ContextVar
from functools import cache
from pathlib import Path
from typing import Any

from msgspec import Struct

from wornpage.session.environment import session_environment
from wornpage.store.hashes import use_plain
from wornpage.store.programs import where

OWN = "own"
"""What the setting says to have Worn Page's own in any case."""
USUAL = ".venv"
"""The folder that is looked for beside the page, and beside its project's settings."""
OLDEST = (3, 9)
_PATIENCE = 30
_ASKED = """
import json, sys
from importlib.util import find_spec
has = all(find_spec(name) is not None for name in ("xxhash", "blake3"))
print(json.dumps([sys.version, list(sys.version_info[:2]), sys.prefix, [one for one in sys.path if one], has]))
"""


class PythonAt(Struct, frozen=True):
    """One Python."""

    program: str
    version: str
    """As it tells it of itself."""
    folders: tuple[str, ...] = ()
    """Where its packages lie; empty for our own."""
    has_hashes: bool = True
    """Whether the packages of fast hashes are there."""
    trouble: str = ""
    """Why no session of it can be had, and, in a second line, what would help."""

    @property
    def is_own(self) -> bool:
        """Whether it is the one that runs Worn Page."""
        return not self.folders and not self.trouble

    @property
    def identity(self) -> str:
        """What tells it from others: with another nothing made before is reused."""
        return self.version if self.is_own else f"{self.version}\0{self.program}\0{_stamp(self.program)}"


_ours = PythonAt(sys.executable, sys.version)
_current: ContextVar[PythonAt] = ContextVar("current", default=_ours)


def current() -> PythonAt:
    """The Python of the page that is worked on in this thread."""
    return _current.get()


def choose(asked: str, beside: Sequence[Path]) -> PythonAt:
    """Take the Python that a page's settings ask for, or that lies `beside` it; from now on it is the current one."""
    found = _asked_for(asked, beside) if asked and asked != OWN else None if asked else _found(beside)
    return take(found or _ours)


def take(python: PythonAt) -> PythonAt:
    """Take this one; from now on it is the current one."""
    _current.set(python)
    use_plain(not python.has_hashes)
    return python


def _asked_for(asked: str, beside: Sequence[Path]) -> PythonAt:
    for folder in beside:
        path = folder / os.path.expanduser(asked)
        if path.is_dir():
            return _in_folder(path, asked)
        if path.is_file():
            return _of_program(str(path), asked)
    if os.sep not in asked and asked.startswith("py") and (program := where(asked)):
        return _of_program(program, asked)
    return _bad(
        asked, f"there is no Python at {asked!r}", f"Make one: `python3 -m venv {asked}`, or take the setting away."
    )


def _found(beside: Sequence[Path]) -> PythonAt | None:
    for folder in beside:
        if (folder / USUAL / "pyvenv.cfg").is_file():
            return _in_folder(folder / USUAL, USUAL)
    return None


def _in_folder(folder: Path, asked: str) -> PythonAt:
    programs = [folder / "bin" / "python", folder / "Scripts" / "python.exe"]
    program = next((one for one in programs if os.path.lexists(one)), None)
    if program is None:
        return _bad(asked, f"there is no Python in {asked!r}", f"Make it: `python3 -m venv {asked}`.")
    if not program.exists():
        what = f"the Python of {asked!r} is a broken link: what it was made with is gone"
        return _bad(asked, what, f"Make it anew: `python3 -m venv --clear {asked}`.")
    return _of_program(str(program), asked)


def _of_program(program: str, asked: str) -> PythonAt:
    told = _told(program, _stamp(program))
    if told is None:
        return _bad(asked, f"{asked!r} is no Python, or does not run", "Name a folder that holds one, or a program.")
    version, numbers, prefix, folders, has_hashes = told
    if os.path.realpath(prefix) == os.path.realpath(sys.prefix):
        return _ours
    if tuple(numbers) < OLDEST:
        what = f"the Python of {asked!r} is {'.'.join(map(str, numbers))}; sessions need {'.'.join(map(str, OLDEST))} or later"
        return _bad(asked, what, "Make the environment with a newer one.")
    return PythonAt(program, version, tuple(folders), bool(has_hashes))


def _bad(asked: str, what: str, hint: str) -> PythonAt:
    return PythonAt(asked, "", trouble=f"{what}\n{hint}")


@cache
def _told(program: str, stamp: str) -> Any:
    """What a Python tells of itself; None if it does not answer."""
    try:
        done = subprocess.run(
            [program, "-c", _ASKED],
            capture_output=True,
            timeout=_PATIENCE,
            check=True,
            env=session_environment(None),
            text=True,
        )
        return json.loads(done.stdout)
    except (OSError, subprocess.SubprocessError, ValueError):
        return None


def _stamp(program: str) -> str:
    """What tells whether a program, or the environment it is in, is another now."""
    found = []
    for path in (program, os.path.join(os.path.dirname(os.path.dirname(program)), "pyvenv.cfg")):
        try:
            stat = os.stat(path)
            found.append(f"{stat.st_size} {stat.st_mtime_ns}")
        except OSError:
            found.append("")
    return " ".join(found)
