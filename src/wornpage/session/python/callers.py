"""Who calls, where that is Python at all: libraries call from threads of their own, in which nothing lies above."""

from __future__ import annotations

import sys
from types import FrameType
from typing import Any


def above(steps: int = 1) -> FrameType | None:
    """The frame so many steps above the function that asks: its caller is one above. None if there are not as many."""
    try:
        return sys._getframe(steps + 1)
    except ValueError:
        return None


def globals_above(steps: int = 1) -> Any:
    """The global names of that frame; none where there is no frame."""
    frame = above(steps + 1)
    return {} if frame is None else frame.f_globals
