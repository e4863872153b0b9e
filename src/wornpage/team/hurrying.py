"""Several things at once, and no longer than one wants to wait."""

from __future__ import annotations

import queue
import threading
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from typing import TypeVar

from wornpage.team.shelf import Away

T = TypeVar("T")
AT_ONCE = 8


def all_of(acts: Sequence[Callable[[], T]], until: float) -> list[T]:
    """What each of them gives, in their order. Raises `Away`: for the first that does, and when the clock passes `until`.

    Threads that still wait for an answer then are left alone: they end with the process.
    """
    left: queue.SimpleQueue[int] = queue.SimpleQueue()
    done: queue.SimpleQueue[tuple[int, T | Away]] = queue.SimpleQueue()
    for number in range(len(acts)):
        left.put(number)

    def work() -> None:
        while True:
            try:
                number = left.get_nowait()
            except queue.Empty:
                return
            try:
                done.put((number, acts[number]()))
            except Away as away:
                done.put((number, away))
            except BaseException as error:  # a thread must not end without a word
                done.put((number, Away(str(error) or type(error).__name__)))

    for _ in range(min(AT_ONCE, len(acts))):
        threading.Thread(target=work, daemon=True).start()
    found: dict[int, T] = {}
    try:
        while len(found) < len(acts):
            number, one = done.get(timeout=max(until - time.monotonic(), 0))
            if isinstance(one, Away):
                raise one
            found[number] = one
    except queue.Empty:
        raise Away("it does not answer in time") from None
    finally:
        with suppress(queue.Empty):  # what nobody has begun, nobody need begin
            while True:
                left.get_nowait()
    return [found[number] for number in range(len(acts))]
