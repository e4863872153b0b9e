"""The near end of a session that is a process of its own: start it, ask it, gather what it shows, end it.

The session leads a process group of its own, so that Ctrl-C reaches this process alone, which then decides;
and so that its children end with it.
"""

from __future__ import annotations

import os
import selectors
import signal
import subprocess
import tempfile
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Protocol, Self

from msgspec import Struct
from msgspec.structs import replace

from wornpage.session import results
from wornpage.session.faults import crash_failure, interrupt_failure, timeout_failure
from wornpage.session.messages import Message
from wornpage.session.reading import Stream, Written
from wornpage.session.tasks import NOTHING_AT_END, AtEnd, ChunkTask, Interrupted, Position, Ran, SessionOver
from wornpage.session.told import Found

_READ = 1 << 20
PATIENCE = 5.0
"""Seconds an interrupted chunk has to end before its session is ended."""
NOWHERE = Position()
"""Where no name stands for anything."""
ENDING = 10.0
"""Seconds that what is left for the end of a session may take."""
_WRITING_PATIENCE = 300.0
"""Seconds that large values may take to reach the disk after all chunks have run."""


class Ends(Struct, frozen=True):
    """What a far end is given: numbers of open files."""

    ask: int
    tell: int
    fault: int
    """Where last words may be left."""
    out: int
    err: int
    channel: int = -1
    """Over which it is handed the ends of one that is forked from it; -1 for none."""

    @property
    def numbers(self) -> list[int]:
        """All of them."""
        return [self.ask, self.tell, self.fault, self.out, self.err, self.channel]


class Running(Protocol):
    """A process, whoever started it."""

    pid: int

    def poll(self) -> int | None: ...

    def wait(self, timeout: float | None = None) -> int: ...


class Inbox(Protocol):
    """Puts messages together from bytes that arrive in pieces."""

    def feed(self, data: bytes) -> list[tuple[Message, list[bytes]]]: ...


class PipedSession:
    """What sessions of their own process have in common; each says how it is started and asked."""

    leaving = 0.25
    """Seconds that one may take to leave by itself."""

    def __init__(self, start: Callable[[Ends], Running], inbox: Inbox) -> None:
        self._fault = tempfile.TemporaryFile()  # noqa: SIM115 - it lives as long as the session
        ask_read, ask_write = os.pipe()
        tell_read, tell_write = os.pipe()
        out_read, out_write = os.pipe()
        err_read, err_write = os.pipe()
        try:
            self._process = start(Ends(ask_read, tell_write, self._fault.fileno(), out_write, err_write))
        except BaseException:
            self._fault.close()
            for handle in (ask_write, tell_read, out_read, err_read):
                os.close(handle)
            raise
        finally:
            for handle in (ask_read, tell_write, out_write, err_write):
                os.close(handle)
        self._ask = ask_write
        self._closed = False
        self._streams = {out_read: Stream(self.sentinel), err_read: Stream(self.sentinel)}
        self._out, self._err = self._streams.values()
        self._tell = tell_read
        self._inbox = inbox
        self.on_tally: Callable[[str, int, int], None] | None = None
        """Told how far a chunk has come: a name, how many are done, of how many (0 where that is unknown)."""
        self._writing = False
        """Whether large values are still on their way to the disk."""
        self.left = False
        """Whether code of the page has left something for the end of the session."""
        self._waiting: list[tuple[Message, list[bytes]]] = []
        self._selector = selectors.DefaultSelector()
        for handle in (tell_read, out_read, err_read):
            _widen(handle)
            os.set_blocking(handle, False)
            self._selector.register(handle, selectors.EVENT_READ)
        self._end = _watch_end(self._process.pid)
        if self._end >= 0:
            self._selector.register(self._end, selectors.EVENT_READ)

    @property
    def sentinel(self) -> bytes:
        """What the far end writes between stretches of output. Known before it is started."""
        raise NotImplementedError

    # --- what each language says --------------------------------------------------------------

    def _ask_to_run(self, task: ChunkTask, at: Position) -> None:
        """Send what makes the far end run a chunk. Raises `SessionOver`."""
        raise NotImplementedError

    def _found(self, message: Message) -> Found:
        """What a chunk read, wrote and left behind, as the far end has told."""
        raise NotImplementedError

    def _failure(self, message: Message) -> results.Failure | None:
        """How a chunk failed, as the far end told it; None where it did not."""
        return results.failure_from(message["error"]) if message["error"] else None

    def _text(self, text: str) -> str:
        """What was printed, without what differs from run to run."""
        return text

    def _shown_from(self, item: Message, blobs: list[bytes]) -> results.Shown:
        """What is shown, as the far end told it."""
        return results.shown_from(item, blobs)

    def _heard(self, message: Message, blobs: list[bytes], shown: list[tuple[int, results.Shown]]) -> None:
        """Something else was told while a chunk runs."""

    # --- what can be asked --------------------------------------------------------------------

    def run(self, task: ChunkTask, at: Position = NOWHERE) -> Ran:
        """Run one chunk to its end, at its place among the names and surroundings of the page.

        Raises `Interrupted` when the user broke off. A chunk that kills its session gives a result with a
        failure of kind `crash`; everything asked afterwards raises `SessionOver`.
        """
        begun = time.monotonic()
        shown: list[tuple[int, results.Shown]] = []
        deadline = begun + task.timeout if task.timeout else None
        try:
            self._ask_to_run(task, at)
            message = self._until_done(shown, deadline)
        except TimeoutError:
            lines = self._interrupt()
            failure = timeout_failure(task.label, task.timeout or 0, lines)
            return Ran(self._broken(shown, failure, begun))
        except SessionOver:
            failure = crash_failure(task.label, self._last_words(), self._process.wait())
            return Ran(self._broken(shown, failure, begun))
        except KeyboardInterrupt:
            lines = self._interrupt()
            self.close()
            raise Interrupted(interrupt_failure(task.label, lines)) from None
        failure_or_none = self._failure(message)
        self._await_sentinels(message["after"])
        self._writing, self.left = message["writing"], message["left"]
        ordered = interleave(self._out.take(), self._err.take(), shown, self._text)
        result = results.ChunkResult(ordered, failure_or_none, message["seconds"])
        return Ran(result, self._found(message), message["needs"], message["leaves"])

    def interrupt(self) -> None:
        """Interrupt the chunk that is running, as Ctrl-C would; from another thread."""
        with suppress(ProcessLookupError, PermissionError):
            os.kill(self._process.pid, signal.SIGINT)

    def kill(self) -> None:
        """End the process at once; from another thread."""
        with suppress(ProcessLookupError, PermissionError):
            os.killpg(self._process.pid, signal.SIGKILL)

    def end(self, at: Position) -> AtEnd:
        """Do what is left for the end, and end. What takes too long, or is broken off, is told as trouble."""
        deadline = time.monotonic() + ENDING
        ended, trouble = NOTHING_AT_END, ""
        try:
            ended = self._ended(at, deadline)
        except TimeoutError:
            trouble = f"it took longer than {ENDING:.0f} s, and was broken off"
        except KeyboardInterrupt:
            trouble = "it was broken off"
        except SessionOver:
            trouble = "the session ended before all was done"
        self._close(0.0 if trouble or ended.needs else max(deadline - time.monotonic(), self.leaving))
        return replace(ended, troubles=(*ended.troubles, trouble)) if trouble else ended

    def _ended(self, at: Position, deadline: float) -> AtEnd:
        """Have the far end do what is left for its end. Raises `TimeoutError`, `SessionOver`."""
        raise NotImplementedError

    def close(self) -> None:
        """End the session and all its children; may be called twice."""
        self._close(self.leaving)

    def _close(self, patience: float) -> None:
        """The same, where the far end may take so many seconds to leave."""
        if self._closed:
            return
        self._closed = True
        ask, self._ask = self._ask, -1
        with suppress(OSError):
            os.close(ask)
        if self._process.poll() is None:
            with suppress(subprocess.TimeoutExpired, KeyboardInterrupt):
                self._process.wait(_WRITING_PATIENCE if self._writing else patience)
        with suppress(ProcessLookupError, PermissionError):
            os.killpg(self._process.pid, signal.SIGKILL)
        self._process.wait()
        for handle in (self._tell, *self._streams, self._end):
            self._forget(handle)
        self._selector.close()
        self._fault.close()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *reason: object) -> None:
        self.close()

    # --- talking ------------------------------------------------------------------------------

    def _send_bytes(self, message: bytes) -> None:
        data = memoryview(message)
        try:
            while data:
                data = data[os.write(self._ask, data) :]
        except OSError:
            raise SessionOver from None

    def _receive(self, events: set[str], timeout: float | None) -> tuple[Message, list[bytes]]:
        deadline = time.monotonic() + timeout if timeout else None
        while True:
            while not self._waiting:
                self._pump(deadline)
            message, blobs = self._waiting.pop(0)
            if message["event"] in events:
                return message, blobs

    def _until_done(self, shown: list[tuple[int, results.Shown]], deadline: float | None) -> Message:
        while True:
            while not self._waiting:
                self._pump(deadline)
            message, blobs = self._waiting.pop(0)
            if message["event"] == "done":
                return message
            if message["event"] == "tally" and self.on_tally is not None:
                self.on_tally(message["name"], message["done"], message["total"])
            elif message["event"] == "shown":
                shown.append((message["after"], self._shown_from(message["item"], blobs)))
            else:
                self._heard(message, blobs, shown)

    def _pump(self, deadline: float | None) -> None:
        """Read whatever has arrived, waiting for it if need be. Raises `TimeoutError`, `SessionOver`."""
        wait = None if deadline is None else deadline - time.monotonic()
        if wait is not None and wait <= 0:
            raise TimeoutError
        ready = [key.fd for key, _ in self._selector.select(wait)]
        if ready == [self._end]:  # nothing is left to be read, and nobody to write; children may hold its pipes
            raise SessionOver
        for handle in ready:
            if handle == self._end:
                continue
            try:
                data = os.read(handle, _READ)
            except BlockingIOError:
                continue
            if not data:
                self._forget(handle)
                if handle == self._tell:
                    raise SessionOver
            elif handle == self._tell:
                self._waiting += self._inbox.feed(data)
            else:
                self._streams[handle].feed(data)

    def _forget(self, handle: int) -> None:
        """Close one of our ends, once: its number may soon be somebody else's."""
        try:
            self._selector.unregister(handle)
        except (KeyError, ValueError):
            return
        os.close(handle)

    def _await_sentinels(self, number: int) -> None:
        """Read until both streams have come to sentinel `number`; a chunk that closed them is not waited for."""
        deadline = time.monotonic() + PATIENCE
        with suppress(TimeoutError, SessionOver):
            while min(self._out.count, self._err.count) < number:
                self._pump(deadline)

    # --- when things go wrong -----------------------------------------------------------------

    def _interrupt(self) -> results.Failure | None:
        """Ask the chunk to stop as Ctrl-C would; returns where it stood if it said so, else None."""
        self.interrupt()
        try:
            message = self._until_done([], time.monotonic() + PATIENCE)
        except (TimeoutError, SessionOver, KeyboardInterrupt):
            return None
        return self._failure(message)

    def _broken(
        self, shown: list[tuple[int, results.Shown]], failure: results.Failure, begun: float
    ) -> results.ChunkResult:
        deadline = time.monotonic() + 0.2
        with suppress(TimeoutError, SessionOver):
            while self._selector.get_map():
                self._pump(deadline)
        ordered = interleave(self._out.take_rest(), self._err.take_rest(), shown, self._text)
        self.close()
        return results.ChunkResult(ordered, failure, time.monotonic() - begun)

    def _last_words(self) -> str:
        self._fault.seek(0)
        return self._fault.read(20_000).decode("utf-8", "replace")


def _watch_end(pid: int) -> int:
    """A file that can be read once a process has ended; -1 where the system has none."""
    try:
        return os.pidfd_open(pid)
    except (OSError, AttributeError):
        return -1


def _widen(handle: int) -> None:
    """Make a pipe hold more, where the system lets us: fewer switches for a chunk that prints much."""
    with suppress(ImportError, OSError, AttributeError):
        import fcntl

        fcntl.fcntl(handle, fcntl.F_SETPIPE_SZ, _READ)


def interleave(
    out: list[Written],
    err: list[Written],
    shown: list[tuple[int, results.Shown]],
    clean: Callable[[str], str] = str,
) -> tuple[results.Shown, ...]:
    """Printed text and shown things in order: before each shown thing what was printed until then.

    Between two shown things standard output comes first, then standard error: two pipes keep no common order.
    """
    before = {number - 1: thing for number, thing in enumerate((t for _, t in shown), 1)}
    ordered: list[results.Shown] = []
    for index in range(max(len(out), len(err))):
        for stretches, role in ((out, "output"), (err, "notice")):
            if index < len(stretches) and stretches[index].text:
                written = stretches[index]
                ordered.append(results.Printed(clean(written.text), role, written.lines_cut, written.bytes_cut))
        if index in before:
            ordered.append(before[index])
    return _joined(ordered)


def _joined(items: list[results.Shown]) -> tuple[results.Shown, ...]:
    """Neighbouring texts of one role become one."""
    joined: list[results.Shown] = []
    for item in items:
        if isinstance(item, results.Printed) and not item.text:
            continue
        last = joined[-1] if joined else None
        if isinstance(item, results.Printed) and isinstance(last, results.Printed) and last.role == item.role:
            text = last.text + ("" if last.text.endswith("\n") else "\n") + item.text
            joined[-1] = results.Printed(
                text, item.role, last.lines_cut + item.lines_cut, last.bytes_cut + item.bytes_cut
            )
        else:
            joined.append(item)
    return tuple(joined)
