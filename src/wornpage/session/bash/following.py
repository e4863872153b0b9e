"""What a shell has asked of paths, from what it tells of each command that it carries out."""

from __future__ import annotations

import os
import re
import shlex
from pathlib import Path

_MOST = 4 << 20
"""Bytes of it that are read."""
_ASKS = re.compile(r"^\++ (?:'\['|test) (?:'?!'? )?-[bcdefghkLOprsuwx] (\S.*?)(?: '\]')?$")
_ASKS_AS_IT_IS = re.compile(r"^\++ \[\[ (?:! )?-[bcdefghkLOprsuwx] (\S.*) \]\]$")
_GOES = re.compile(r"^(\++) cd (\S.*)$")


def asked_for(told: Path, folder: Path) -> tuple[tuple[str, str], ...]:
    """Looks at paths, as `Footprints.end` takes them, in the lines that a shell has `told`; none where it was not followed."""
    try:
        with told.open("rb") as file:
            lines = file.read(_MOST).decode("utf-8", "surrogateescape").splitlines()
    except OSError:
        return ()
    here = folder
    found: dict[str, None] = {}
    for line in lines:
        if went := _GOES.match(line):
            here = here / _plain(went[2])
        elif asks := _ASKS.match(line):
            found[os.path.normpath(here / _plain(asks[1]))] = None
        elif asks := _ASKS_AS_IT_IS.match(line):
            found[os.path.normpath(here / asks[1])] = None
    return tuple(("file", path) for path in found)


def _plain(word: str) -> str:
    """A word without its quotes."""
    try:
        parts = shlex.split(word)
    except ValueError:
        return word
    return parts[0] if parts else word
