"""What the machine offers."""

from __future__ import annotations

import os

_sharers = 1
_is_helper = False


def processors() -> int:
    """How many processors this process may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


def share_with(sharers: int) -> None:
    """So many processes do the same work side by side, this one among them."""
    global _sharers, _is_helper
    _sharers, _is_helper = max(1, sharers), True


def is_helper() -> bool:
    """Whether this process has been started to do a part of the work of another."""
    return _is_helper


def own_share() -> int:
    """How many processors are left for this process."""
    return max(1, processors() // _sharers)
