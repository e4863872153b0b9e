"""Where R is on this machine, and which one it is."""

from __future__ import annotations

import re
from pathlib import Path

from wornpage.store.programs import identity, where

PROGRAM = "R"
"""By what word it is called."""
_HOME = re.compile(r"^R_HOME_DIR=(\S+)$", re.MULTILINE)


def program() -> str:
    """The path of the program; empty for none."""
    return where(PROGRAM)


def version() -> str:
    """What tells this R from another: its program, and its library."""
    return "\0".join((identity(PROGRAM), *map(_stamp, _parts())))


def _stamp(path: Path) -> str:
    stat = path.stat()
    return f"{path} {stat.st_size} {stat.st_mtime_ns}"


def _parts() -> list[Path]:
    """Files that become others when R does."""
    home = _home()
    inner = [Path(home, "bin", "exec", "R"), Path(home, "lib", "libR.so")] if home else []
    return [path for path in inner if path.exists()]


def _home() -> str:
    """The folder that R lies in, as the program itself says; empty if it does not."""
    try:
        with Path(program()).open(encoding="utf-8", errors="replace") as file:
            found = _HOME.search(file.read(20_000))
    except OSError:
        return ""
    return found[1] if found else ""
