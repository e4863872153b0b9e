"""Numbers that the standard library gives out one after the other, and that show in names: `Thread-1`, `Process-2`.

One line a counter: where it is. It is carried like any other surroundings, but only code that draws from it reads it.
"""

from __future__ import annotations

import itertools
import sys
from typing import NamedTuple


class Counter(NamedTuple):
    """One of them."""

    library: str
    owner: str
    """The class within the module that has it; empty for the module itself."""
    name: str
    is_method: bool
    """Whether it is kept as the method that gives the next one."""


COUNTERS = {
    "numbers of threads": Counter("threading", "", "_counter", True),
    "numbers of pools": Counter("concurrent.futures.thread", "ThreadPoolExecutor", "_counter", True),
    "numbers of processes": Counter("multiprocessing.process", "", "_process_counter", False),
}


def read(counter: Counter) -> str | None:
    """The number that comes next, as text; None where it cannot be told."""
    held: object = getattr(_owner(counter), counter.name, None)
    text = repr(held.__self__ if counter.is_method and hasattr(held, "__self__") else held)
    return text[6:-1] if text.startswith("count(") else None


def write(counter: Counter, number: str) -> None:
    """Have that number come next."""
    count = itertools.count(int(number))
    setattr(_owner(counter), counter.name, count.__next__ if counter.is_method else count)


def _owner(counter: Counter) -> object:
    module: object = sys.modules.get(counter.library)
    return getattr(module, counter.owner, None) if counter.owner else module
