"""Which file a descriptor is of."""

from __future__ import annotations

import os

_readlink = os.readlink


def path_of(handle: int) -> str | None:
    """The path of an open file or folder; None where the system does not tell."""
    try:
        return _readlink(f"/proc/self/fd/{handle}")
    except OSError:
        return None
