"""How much memory a process may take."""

from __future__ import annotations

import sys
from contextlib import suppress


def bound(process: int, memory: int | None) -> None:
    """Let a process, and those that it will start, each take no more than `memory` bytes of its own; None is no bound.

    It holds where the system can do that to a process that runs (Linux): its data, as `RLIMIT_DATA` counts it.
    """
    if memory is None or sys.platform != "linux":
        return
    import resource

    with suppress(OSError, ValueError):  # it has ended, or may take less already
        resource.prlimit(process, resource.RLIMIT_DATA, (memory, memory))
