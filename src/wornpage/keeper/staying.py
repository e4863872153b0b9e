"""How long a helper stays that nobody needs."""

from __future__ import annotations

import time
from pathlib import Path

IDLE = 600.0
"""Seconds without work after which it ends."""
LOOK = 20.0
"""Seconds between two looks at the machine."""
_SCARCE = 0.08
"""The share of memory that must be free."""


def is_wanted_still(used: float) -> bool:
    """Whether one stays that was last of use at that time of `time.monotonic`."""
    return time.monotonic() - used < IDLE and not is_scarce()


def is_scarce() -> bool:
    """Whether the machine is short of memory."""
    try:
        with Path("/proc/meminfo").open(encoding="ascii") as file:
            told = {line.partition(":")[0]: int(line.split()[1]) for line in file}
        return told["MemAvailable"] < _SCARCE * told["MemTotal"]
    except (OSError, ValueError, KeyError, IndexError):
        return False
