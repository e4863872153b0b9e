"""One process that runs one piece of code to its end, in a group of its own; what it writes is kept within bounds."""

from __future__ import annotations

import os
import selectors
import signal
import subprocess
import tempfile
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path

from msgspec import Struct

from wornpage.session.reading import Stream, Written

_READ = 1 << 16
_PATIENCE = 5.0
"""Seconds an interrupted program has to end before it is ended."""
_LINGERING = 0.1
"""Seconds for which children that outlive the program may still write."""
NOTHING = Written("", 0, 0)


class Order(Struct, frozen=True):
    """How a chunk is to be run."""

    command: Sequence[str]
    given_in: bytes = b""
    """What the program reads from its standard input."""
    variables: Mapping[str, str] = {}
    """Of the environment, beside what every session has."""


class Ended(Struct, frozen=True):
    """What came of a process."""

    status: int
    out: Written
    err: Written


class Process:
    """One process, which leads a group of its own."""

    def __init__(self, order: Order, folder: Path, environment: Mapping[str, str]) -> None:
        with tempfile.TemporaryFile() as given:
            given.write(order.given_in)
            given.seek(0)
            self._process = subprocess.Popen(
                list(order.command), stdin=given, stdout=subprocess.PIPE, stderr=subprocess.PIPE, cwd=folder,
                env=dict(environment), start_new_session=True,
            )  # fmt: skip
        self.pid = self._process.pid
        self._streams = {pipe: Stream(os.urandom(16)) for pipe in (self._process.stdout, self._process.stderr)}

    def wait(self, deadline: float | None, meanwhile: Callable[[], None]) -> Ended:
        """Read what it writes until it ends; children that go on are ended with it. Raises `TimeoutError`."""
        with selectors.DefaultSelector() as selector:
            for pipe in self._streams:
                if pipe is not None:
                    os.set_blocking(pipe.fileno(), False)
                    selector.register(pipe, selectors.EVENT_READ)
            ended: float | None = None
            while selector.get_map() and (ended is None or time.monotonic() < ended + _LINGERING):
                if deadline is not None and time.monotonic() > deadline:
                    raise TimeoutError
                for key, _ in selector.select(0.02):
                    data = os.read(key.fd, _READ)
                    if data:
                        self._streams[key.fileobj].feed(data)  # type: ignore[index]
                    else:
                        selector.unregister(key.fileobj)
                meanwhile()
                if ended is None and self._process.poll() is not None:
                    ended = time.monotonic()
        status = self._process.wait()
        self.kill()
        return Ended(status, *self.rest())

    def rest(self) -> tuple[Written, Written]:
        """What has been written so far, to standard output and to standard error; nothing more is read."""
        for pipe in self._streams:
            if pipe is not None:
                pipe.close()
        out, err = (stream.take_rest() or [NOTHING] for stream in self._streams.values())
        return out[0], err[0]

    def interrupt(self) -> None:
        """As Ctrl-C would."""
        with suppress(ProcessLookupError, PermissionError):
            os.killpg(self.pid, signal.SIGINT)

    def kill(self) -> None:
        """End it and its children at once."""
        with suppress(ProcessLookupError, PermissionError):
            os.killpg(self.pid, signal.SIGKILL)

    def end(self) -> None:
        """Interrupt it, and kill it if that does not help."""
        self.interrupt()
        with suppress(subprocess.TimeoutExpired, KeyboardInterrupt):
            self._process.wait(_PATIENCE)
        self.kill()
        self._process.wait()
