"""One thread in which code is read, since whole libraries take seconds: what is asked now comes first, and what nobody waits for any more is left."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future
from typing import TypeVar

T = TypeVar("T")


class Reader:
    """The thread; it ends with the program, whatever it is at."""

    def __init__(self) -> None:
        self._bell = threading.Condition()
        self._now: tuple[Future[object], Callable[[], object]] | None = None
        self._later: deque[Callable[[], object]] = deque(maxlen=50)
        self._thread: threading.Thread | None = None

    def ask(self, act: Callable[[], T]) -> Future[T]:
        """Do this next; what was asked before and has not begun is left."""
        future: Future[T] = Future()
        with self._bell:
            if self._now is not None:
                self._now[0].cancel()
            self._now = (future, act)  # type: ignore[assignment]
            self._begin()
        return future

    def later(self, act: Callable[[], object]) -> None:
        """Do this when nothing is asked."""
        with self._bell:
            self._later.append(act)
            self._begin()

    def _begin(self) -> None:
        if self._thread is None:
            self._thread = threading.Thread(target=self._work, name="reading code", daemon=True)
            self._thread.start()
        self._bell.notify()

    def _work(self) -> None:
        while True:
            with self._bell:
                self._bell.wait_for(lambda: self._now is not None or self._later)
                asked, self._now = self._now, None
                act = asked[1] if asked is not None else self._later.popleft()
            if asked is None:
                act()
            elif asked[0].set_running_or_notify_cancel():
                asked[0].set_result(act())
