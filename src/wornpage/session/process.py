"""The near end of a session: start the process, ask it, gather what it shows, end it.

The session leads a process group of its own, so that Ctrl-C reaches this process alone, which then decides;
and so that its children end with it.
"""

from __future__ import annotations

import datetime
import os
import select
import selectors
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress

import msgspec

from wornpage.session import results
from wornpage.session.environment import session_environment
from wornpage.session.faults import crash_failure, interrupt_failure, session_fault, timeout_failure
from wornpage.session.messages import Inbox, Message, pack
from wornpage.session.reading import Stream, Written
from wornpage.session.tasks import (
    Answered,
    Answers,
    CannotFork,
    ChunkTask,
    Environment,
    Interrupted,
    MarkTask,
    Position,
    Ran,
    SessionOver,
)
from wornpage.session.told import Found

_START = (
    "from wornpage.session.python.apart import stand_apart; stand_apart();"
    "from wornpage.session.python.driver import main; import sys; main(sys.argv[1:])"
)
_READ = 1 << 20
_PATIENCE = 5.0
"""Seconds an interrupted chunk has to end before its session is ended."""


NOWHERE = Position()
"""Where no name stands for anything."""
_WRITING_PATIENCE = 300.0
"""Seconds that large values may take to reach the disk after all chunks have run."""


class ProcessSession:
    """A Python session of its own process."""

    def __init__(
        self, threads: int | None = None, mother: ProcessSession | None = None, given: Message | None = None
    ) -> None:
        self._sentinel: bytes = mother._sentinel if mother else os.urandom(16)
        self._fault = tempfile.TemporaryFile()  # noqa: SIM115 - it lives as long as the session
        self._channel: socket.socket | None = None
        """Over what a forked session is handed its ends; there once somebody may fork this one."""
        ask_read, ask_write = os.pipe()
        tell_read, tell_write = os.pipe()
        out_read, out_write = os.pipe()
        err_read, err_write = os.pipe()
        handles = (ask_read, tell_write, self._fault.fileno())
        try:
            if mother is not None:
                self._process: subprocess.Popen[bytes] | Forked = mother._born(
                    (*handles, out_write, err_write), given or {}
                )
            else:
                self._process = self._started(handles, out_write, err_write, threads)
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
        self._streams = {out_read: Stream(self._sentinel), err_read: Stream(self._sentinel)}
        self._out, self._err = self._streams.values()
        self._tell = tell_read
        self._inbox = Inbox()
        self.on_tally: Callable[[str, int, int], None] | None = None
        """Told how far a chunk has come: a name, how many are done, of how many (0 where that is unknown)."""
        self._writing = False
        """Whether large values are still on their way to the disk."""
        self._waiting: list[tuple[Message, list[bytes]]] = []
        self._selector = selectors.DefaultSelector()
        for handle in (tell_read, out_read, err_read):
            _widen(handle)
            os.set_blocking(handle, False)
            self._selector.register(handle, selectors.EVENT_READ)

    def _started(self, handles: tuple[int, ...], out: int, err: int, threads: int | None) -> subprocess.Popen[bytes]:
        ours, theirs = socket.socketpair() if hasattr(socket, "send_fds") else (None, None)
        self._channel = ours
        passed = (*handles, theirs.fileno()) if theirs else handles
        last = str(theirs.fileno()) if theirs else ""
        process = subprocess.Popen(
            [sys.executable, "-P", "-c", _START, *map(str, handles), self._sentinel.hex(), last],
            stdin=subprocess.DEVNULL,
            stdout=out,
            stderr=err,
            pass_fds=passed,
            start_new_session=True,
            env=session_environment(threads),
        )
        if theirs:
            theirs.close()
        return process

    # --- forking ------------------------------------------------------------------------------

    def hold(self, at: Position) -> None:
        """Load what the names of the page stand for at a place, so that forked sessions have it."""
        self._send({"do": "hold", **_told(at)})
        self._receive({"held"}, None)

    def fork(self, given: Mapping[str, object]) -> ProcessSession:
        """A session that is as this one is now, with other given values. Raises `CannotFork`."""
        return ProcessSession(mother=self, given={name: _sent(value) for name, value in given.items()})

    def _born(self, handles: tuple[int, ...], given: Message) -> Forked:
        if self._channel is None:
            raise CannotFork
        try:
            self._send({"do": "fork", "given": given})
            socket.send_fds(self._channel, [b"ends"], list(handles))
            message, _ = self._receive({"forked"}, _PATIENCE * 6)
        except (SessionOver, OSError, TimeoutError):
            raise CannotFork from None
        if not message["pid"]:
            raise CannotFork
        return Forked(message["pid"])

    # --- what can be asked --------------------------------------------------------------------

    def open(self, environment: Environment) -> None:
        """Go to the page's folder and start with empty names. Call it once, first."""
        self._send(
            {
                "do": "open",
                "folder": str(environment.folder),
                "page": environment.page,
                "given": {name: _sent(value) for name, value in environment.given.items()},
                "store": environment.store,
                "noted": list(environment.noted),
            }
        )
        try:
            self._receive({"ready"}, None)
        except SessionOver:
            raise session_fault(self._last_words()) from None

    def run(self, task: ChunkTask, at: Position = NOWHERE) -> Ran:
        """Run one chunk to its end, at its place among the names and surroundings of the page.

        Raises `Interrupted` when the user broke off. A chunk that kills its session gives a result with a
        failure of kind `crash`; everything asked afterwards raises `SessionOver`.
        """
        options = {"width": task.width, "height": task.height, "dpi": task.dpi}
        asked = {
            "label": task.label,
            "code": task.code,
            "seed": task.seed,
            "options": options,
            "keep": task.keep,
            "binds": task.binds,
        }
        begun = time.monotonic()
        shown: list[tuple[int, results.Shown]] = []
        deadline = begun + task.timeout if task.timeout else None
        try:
            self._send({"do": "run", **asked, "version": task.version, **_told(at)})
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
        failure_or_none = results.failure_from(message["error"]) if message["error"] else None
        self._await_sentinels(message["after"])
        self._writing = message["writing"]
        ordered = _interleave(self._out.take(), self._err.take(), shown)
        result = results.ChunkResult(ordered, failure_or_none, message["seconds"])
        return Ran(result, _found(message["found"]), message["needs"])

    def answer(self, marks: Sequence[MarkTask], at: Position = NOWHERE) -> Answers:
        """What each mark finds now, and what it read."""
        asked = [{"place": m.place, "expression": m.expression, "format": m.format, "seed": m.seed} for m in marks]
        self._send({"do": "marks", "marks": asked, **_told(at)})
        message, _ = self._receive({"answers"}, None)
        self._await_sentinels(message["after"])
        self._out.take(), self._err.take()
        answered = (Answered(results.answer_from(one["answer"]), _found(one["found"])) for one in message["answers"])
        return Answers(tuple(answered), message["needs"])

    def interrupt(self) -> None:
        """Interrupt the chunk that is running, as Ctrl-C would; from another thread."""
        with suppress(ProcessLookupError, PermissionError):
            os.kill(self._process.pid, signal.SIGINT)

    def kill(self) -> None:
        """End the process at once; from another thread."""
        with suppress(ProcessLookupError, PermissionError):
            os.killpg(self._process.pid, signal.SIGKILL)

    def close(self) -> None:
        """End the session and all its children; may be called twice."""
        if self._closed:
            return
        self._closed = True
        ask, self._ask = self._ask, -1
        with suppress(OSError):
            os.close(ask)
        if self._process.poll() is None:
            with suppress(subprocess.TimeoutExpired, KeyboardInterrupt):
                self._process.wait(_WRITING_PATIENCE if self._writing else 0.05)
        with suppress(ProcessLookupError, PermissionError):
            os.killpg(self._process.pid, signal.SIGKILL)
        self._process.wait()
        for handle in (self._tell, *self._streams):
            self._forget(handle)
        self._selector.close()
        self._fault.close()
        if self._channel is not None:
            self._channel.close()

    def __enter__(self) -> ProcessSession:
        return self

    def __exit__(self, *reason: object) -> None:
        self.close()

    # --- talking ------------------------------------------------------------------------------

    def _send(self, message: Message) -> None:
        data = memoryview(pack(message))
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
            if message["event"] == "shown":
                shown.append((message["after"], results.shown_from(message["item"], blobs)))

    def _pump(self, deadline: float | None) -> None:
        """Read whatever has arrived, waiting for it if need be. Raises `TimeoutError`, `SessionOver`."""
        wait = None if deadline is None else deadline - time.monotonic()
        if wait is not None and wait <= 0:
            raise TimeoutError
        for key, _ in self._selector.select(wait):
            handle = key.fd
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
        deadline = time.monotonic() + _PATIENCE
        with suppress(TimeoutError, SessionOver):
            while min(self._out.count, self._err.count) < number:
                self._pump(deadline)

    # --- when things go wrong -----------------------------------------------------------------

    def _interrupt(self) -> results.Failure | None:
        """Ask the chunk to stop as Ctrl-C would; returns where it stood if it said so, else None."""
        with suppress(ProcessLookupError, PermissionError):
            os.kill(self._process.pid, signal.SIGINT)
        try:
            message = self._until_done([], time.monotonic() + _PATIENCE)
        except (TimeoutError, SessionOver, KeyboardInterrupt):
            return None
        return results.failure_from(message["error"]) if message["error"] else None

    def _broken(
        self, shown: list[tuple[int, results.Shown]], failure: results.Failure, begun: float
    ) -> results.ChunkResult:
        deadline = time.monotonic() + 0.2
        with suppress(TimeoutError, SessionOver):
            while self._selector.get_map():
                self._pump(deadline)
        ordered = _interleave(self._out.take_rest(), self._err.take_rest(), shown)
        self.close()
        return results.ChunkResult(ordered, failure, time.monotonic() - begun)

    def _last_words(self) -> str:
        self._fault.seek(0)
        return self._fault.read(20_000).decode("utf-8", "replace")


class Forked:
    """A process that is no child of this one, with what `Popen` offers to end it."""

    def __init__(self, pid: int) -> None:
        self.pid = pid
        try:
            self._handle = os.pidfd_open(pid)
        except OSError:
            self._handle = -1

    def poll(self) -> int | None:
        """Its exit status as far as it is known: 1 once it has ended."""
        if self._handle < 0:
            return 1
        ended, _, _ = select.select([self._handle], [], [], 0)
        return 1 if ended else None

    def wait(self, timeout: float | None = None) -> int:
        """Wait for its end. Raises `subprocess.TimeoutExpired`."""
        if self._handle >= 0:
            ended, _, _ = select.select([self._handle], [], [], timeout)
            if not ended:
                raise subprocess.TimeoutExpired("session", timeout or 0)
            os.close(self._handle)
            self._handle = -1
        return 1


def _told(at: Position) -> Message:
    """A position as it is sent."""
    table = {name: msgspec.to_builtins(standing) for name, standing in at.table.items()}
    order = None if at.order is None else list(at.order)
    return {"table": table, "gone": list(at.gone), "ambient": at.ambient, "order": order}


def _found(told: Message) -> Found:
    return msgspec.convert(told, Found)


def _sent(value: object) -> object:
    """A given value as JSON can carry it."""
    return {"date": value.isoformat()} if isinstance(value, datetime.date) else value


def _widen(handle: int) -> None:
    """Make a pipe hold more, where the system lets us: fewer switches for a chunk that prints much."""
    with suppress(ImportError, OSError, AttributeError):
        import fcntl

        fcntl.fcntl(handle, fcntl.F_SETPIPE_SZ, _READ)


def _interleave(
    out: list[Written], err: list[Written], shown: list[tuple[int, results.Shown]]
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
                ordered.append(results.Printed(written.text, role, written.lines_cut, written.bytes_cut))
        if index in before:
            ordered.append(before[index])
    return _joined(ordered)


def _joined(items: list[results.Shown]) -> tuple[results.Shown, ...]:
    """Neighbouring texts of one role become one."""
    joined: list[results.Shown] = []
    for item in items:
        last = joined[-1] if joined else None
        if isinstance(item, results.Printed) and isinstance(last, results.Printed) and last.role == item.role:
            text = last.text + ("" if last.text.endswith("\n") else "\n") + item.text
            joined[-1] = results.Printed(
                text, item.role, last.lines_cut + item.lines_cut, last.bytes_cut + item.bytes_cut
            )
        else:
            joined.append(item)
    return tuple(joined)
