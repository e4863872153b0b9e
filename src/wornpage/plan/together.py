"""Chunks that all editions of one pressing share, and that change a file which they read themselves.

A chunk that appends a line to a file finds another file each time it runs, so an earlier run never holds again. For the
editions of one pressing it is to run once all the same: what it read counts for them as it was then.
"""

from __future__ import annotations

import shutil
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from wornpage.plan.reads import kind_of
from wornpage.plan.state import View
from wornpage.store.trace import Item, Trace
from wornpage.store.traces import Traces

_FOLDER = "together"
_OLD = 2 * 24 * 3600.0
"""Seconds after which what a pressing has left here is of one that was killed."""


class Together:
    """Runs of one pressing of several editions, by the name of that pressing; an empty name has none."""

    def __init__(self, store: Path | None, pressing: str) -> None:
        self._traces = Traces(store / _FOLDER / pressing if store is not None and pressing else None)

    def find(self, code: str, now: Callable[[Item], str]) -> Trace | None:
        """A run whose other reads are equal now."""
        return self._traces.find(code, now)

    def note(self, trace: Trace, changed: frozenset[Item]) -> None:
        """Keep a run that has itself `changed` some of what it read."""
        self._traces.put(trace.key, trace, changed)


def changed_by_itself(trace: Trace, after: View) -> frozenset[Item]:
    """What of the files that a run read is another now, when it has just ended."""
    if not trace.written:
        return frozenset()
    looks = (read for read in trace.reads if (kind := kind_of(read.kind)) is not None and kind.outside)
    return frozenset(read.item for read in looks if after.now(read.item) != read.value)


def forget(store: Path, pressing: str) -> None:
    """Take away what a pressing that is over has kept, and what killed ones have left."""
    folder = store / _FOLDER
    shutil.rmtree(folder / pressing, ignore_errors=True)
    with suppress(OSError):
        for left in folder.iterdir():
            if left.stat().st_mtime < time.time() - _OLD:
                shutil.rmtree(left, ignore_errors=True)
        folder.rmdir()
