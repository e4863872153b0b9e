"""Ending a pressing from another thread, when what it does is no longer wanted."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock, Timer
from typing import Protocol

from wornpage.tree.nodes import Chunk

_PATIENCE = 2.0
"""Seconds an interrupted chunk has before its session is ended."""


class Stopped(Exception):
    """The pressing was ended; what had run by then is kept."""


class Running(Protocol):
    """A session, wherever it is, as far as it can be ended."""

    def interrupt(self) -> None: ...

    def kill(self) -> None: ...


class Stopper:
    """Handed to a pressing, and kept by whoever may want to end it."""

    def __init__(self) -> None:
        self.stopped = False
        self._is_interrupted = False
        """Whether the chunk that was running was not let come to its end."""
        self._session: Running | None = None
        self._lock = Lock()
        self.running: Chunk | None = None
        """The chunk that is running now."""

    def stop(self, at_once: bool) -> None:
        """End the pressing before its next chunk; `at_once` interrupts the one that is running."""
        with self._lock:
            self.stopped = True
            if at_once and self._session is not None:
                self._is_interrupted = True
                self._session.interrupt()
                timer = Timer(_PATIENCE, self._kill, (self._session,))
                timer.daemon = True
                timer.start()

    def _kill(self, session: Running) -> None:
        with self._lock:
            if self._session is session:
                session.kill()

    @contextmanager
    def at(self, chunk: Chunk, session: Running) -> Iterator[None]:
        """While a chunk runs. Raises `Stopped`."""
        self.begin(chunk, session)
        try:
            yield
        finally:
            self.end()

    def begin(self, chunk: Chunk, session: Running) -> None:
        """A chunk begins to run. Raises `Stopped`."""
        with self._lock:
            if self.stopped:
                raise Stopped
            self._session, self.running = session, chunk

    def end(self) -> None:
        """It has come to its end. Raises `Stopped` if it was interrupted; what ended by itself still counts."""
        with self._lock:
            self._session = self.running = None
            if self._is_interrupted:
                raise Stopped

    def check(self) -> None:
        """Raises `Stopped` if nothing more is wanted."""
        if self.stopped:
            raise Stopped
