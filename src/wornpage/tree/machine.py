"""What the machine offers."""

from __future__ import annotations

import os

_sharers = 1


def processors() -> int:
    """How many processors this process may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1


def share_with(sharers: int) -> None:
    """So many processes do the same work side by side, this one among them."""
    global _sharers
    _sharers = max(1, sharers)


def own_share() -> int:
    """How many processors are left for this process."""
    return max(1, processors() // _sharers)
