"""The near end of a Python session."""

from __future__ import annotations

import datetime
import os
import select
import socket
import subprocess
import time
from collections.abc import Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Protocol

import msgspec
from msgspec.structs import replace

from wornpage.session import results
from wornpage.session.bounds import bound
from wornpage.session.environment import session_environment
from wornpage.session.faults import session_fault
from wornpage.session.messages import Inbox, Message, pack
from wornpage.session.piped import NOWHERE, PATIENCE, Ends, PipedSession, Running
from wornpage.session.python.environments import current
from wornpage.session.tasks import (
    Answered,
    Answers,
    AtEnd,
    CannotFork,
    ChunkTask,
    Environment,
    Handed,
    MarkTask,
    Position,
    SessionOver,
)
from wornpage.session.told import Found
from wornpage.store.blobs import Blobs
from wornpage.store.hashes import PLAIN

_START = (
    "from wornpage.session.python.apart import stand_apart; stand_apart();"
    "from wornpage.session.python.driver import main; import sys; main(sys.argv[1:])"
)


_AWAY = """
import sys
from importlib.abc import MetaPathFinder
from importlib.machinery import PathFinder
class _Ours(MetaPathFinder):
    def find_spec(self, name, path=None, target=None):
        return PathFinder.find_spec(name, [{place!r}]) if name == "wornpage" else None
sys.path[:] = [one for one in sys.path if one]
sys.meta_path.insert(0, _Ours())
"""
"""Before that in an environment where Worn Page need not be: it alone is found where it lies, and nothing beside it."""
_PLACE = str(Path(__file__).parent.parent.parent)


class Mother(Protocol):
    """What sessions can be born of."""

    @property
    def sentinel(self) -> bytes: ...

    def born(self, ends: Ends, given: Message, *, ahead: bool = False) -> Forked:
        """A new one, which goes on with `ends`, to run chunks `ahead` of their turn. Raises `CannotFork`."""


class ProcessSession(PipedSession):
    """A Python session of its own process."""

    def __init__(
        self,
        threads: int | None = None,
        mother: Mother | None = None,
        given: Message | None = None,
        ahead: bool = False,
        store: str | None = None,
    ) -> None:
        """One that begins with nothing, or is born of a `mother`; `store` is the folder of blobs that it was opened with."""
        self._sentinel: bytes = mother.sentinel if mother else os.urandom(16)
        self._store = store
        self._channel: socket.socket | None = None
        """Over what a forked session is handed its ends; there once somebody may fork this one."""

        def start(ends: Ends) -> Running:
            return self._born(mother, ends, given or {}, ahead) if mother is not None else self._started(ends, threads)

        super().__init__(start, Inbox())

    @property
    def sentinel(self) -> bytes:
        return self._sentinel

    def _born(self, mother: Mother, ends: Ends, given: Message, ahead: bool) -> Running:
        ours, theirs = socket.socketpair()
        try:
            with theirs:
                born = mother.born(replace(ends, channel=theirs.fileno()), given, ahead=ahead)
        except BaseException:
            ours.close()
            raise
        self._channel = ours
        return born

    def _started(self, ends: Ends, threads: int | None) -> subprocess.Popen[bytes]:
        ours, theirs = socket.socketpair() if hasattr(socket, "send_fds") else (None, None)
        self._channel = ours
        handles = (ends.ask, ends.tell, ends.fault)
        passed = (*handles, theirs.fileno()) if theirs else handles
        last = str(theirs.fileno()) if theirs else ""
        python, environment = current(), session_environment(threads)
        start = ["-P", "-c", _START] if python.is_own else ["-c", _AWAY.format(place=_PLACE) + _START]
        if not python.has_hashes:
            environment[PLAIN] = "1"
        process = subprocess.Popen(
            [python.program, *start, *map(str, handles), self._sentinel.hex(), last],
            stdin=subprocess.DEVNULL,
            stdout=ends.out,
            stderr=ends.err,
            pass_fds=passed,
            start_new_session=True,
            env=environment,
        )
        if theirs:
            theirs.close()
        return process

    def close(self) -> None:
        """End the session and all its children; may be called twice."""
        super().close()
        if self._channel is not None:
            self._channel.close()

    # --- forking ------------------------------------------------------------------------------

    def hold(self, at: Position, names: Sequence[str] | None = None) -> None:
        """As `Session` has it."""
        self._send({"do": "hold", "names": None if names is None else list(names), **_told(at)})
        self._receive({"held"}, None)

    def tells_who(self) -> bool:
        """It has seen to that when it was forked."""
        return True

    def fork(self, given: Mapping[str, object], ahead: bool = False) -> ProcessSession:
        """As `Session` has it."""
        return ProcessSession(
            mother=self, given={name: sent(value) for name, value in given.items()}, ahead=ahead, store=self._store
        )

    def born(
        self, ends: Ends, given: Message, variables: Mapping[str, str | None] | None = None, *, ahead: bool = False
    ) -> Forked:
        """As `Mother` has it; `variables` of its environment that are others there, None for those that are not."""
        if self._channel is None:
            raise CannotFork
        try:
            self._send({"do": "fork", "given": given, "variables": dict(variables or {}), "ahead": ahead})
            socket.send_fds(self._channel, [b"ends"], ends.numbers)
            message, _ = self._receive({"forked"}, PATIENCE * 6)
        except (SessionOver, OSError, TimeoutError):
            raise CannotFork from None
        if not message["pid"]:
            raise CannotFork
        return Forked(message["pid"])

    def _heard(self, message: Message, blobs: list[bytes], shown: list[tuple[int, results.Shown]]) -> None:
        if message["event"] == "kept":
            with suppress(OSError):  # then it must be made again
                Blobs(self._store).put_as(message["address"], blobs[0])

    # --- what can be asked --------------------------------------------------------------------

    def open(self, environment: Environment) -> None:
        """Go to the page's folder and start with empty names. Call it once, first."""
        bound(self._process.pid, environment.memory)
        self._store = environment.store
        self._send(
            {
                "do": "open",
                "folder": str(environment.folder),
                "page": environment.page,
                "given": {name: sent(value) for name, value in environment.given.items()},
                "store": environment.store,
                "noted": list(environment.noted),
                "look": environment.look,
            }
        )
        try:
            self._receive({"ready"}, None)
        except SessionOver:
            raise session_fault(self._last_words()) from None

    def wait_for_turns(self) -> None:
        """From now on it ends where a chunk would do what others can see; what it keeps goes through this end."""
        self._send({"do": "seal"})
        self._receive({"sealed"}, None)

    def _ask_to_run(self, task: ChunkTask, at: Position) -> None:
        options = {"width": task.width, "height": task.height, "dpi": task.dpi}
        asked = {
            "label": task.label,
            "code": task.code,
            "seed": task.seed,
            "options": options,
            "keep": task.keep,
            "binds": task.binds,
        }
        asked["handed"] = list(task.handed)
        asked["query"] = msgspec.to_builtins(task.query)
        self._send({"do": "run", **asked, "version": task.version, **_told(at)}, list(task.handed.values()))

    def _found(self, message: Message) -> Found:
        return _found(message["found"])

    def answer(self, marks: Sequence[MarkTask], at: Position = NOWHERE) -> Answers:
        """What each mark finds now, and what it read."""
        asked = [{"place": m.place, "expression": m.expression, "format": m.format, "seed": m.seed} for m in marks]
        self._send({"do": "marks", "marks": asked, **_told(at)})
        message, _ = self._receive({"answers"}, None)
        self._await_sentinels(message["after"])
        self._out.take(), self._err.take()
        answered = (Answered(results.answer_from(one["answer"]), _found(one["found"])) for one in message["answers"])
        return Answers(tuple(answered), message["needs"])

    def give(self, name: str, at: Position = NOWHERE) -> Handed:
        """What a name stands for, as it goes to another language."""
        self._send({"do": "give", "name": name, **_told(at)})
        message, blobs = self._receive({"given"}, None)
        return Handed(blobs[0] if blobs else b"", message["needs"], message["trouble"])

    def _ended(self, at: Position, deadline: float) -> AtEnd:
        self._send({"do": "end", **_told(at)})
        message, _ = self._receive({"ended"}, max(deadline - time.monotonic(), 0.01))
        self._await_sentinels(message["after"])
        printed = "".join(one.text for stream in (self._out, self._err) for one in stream.take())
        return msgspec.convert({**message["found"], "printed": printed}, AtEnd)

    def _send(self, message: Message, blobs: Sequence[bytes] = ()) -> None:
        self._send_bytes(pack(message, blobs))


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
        return 1 if self._has_ended(0) else None

    def wait(self, timeout: float | None = None) -> int:
        """Wait for its end. Raises `subprocess.TimeoutExpired`."""
        if self._handle >= 0:
            if not self._has_ended(timeout):
                raise subprocess.TimeoutExpired("session", timeout or 0)
            os.close(self._handle)
            self._handle = -1
        return 1

    def _has_ended(self, timeout: float | None) -> bool:
        waiting = select.poll()
        waiting.register(self._handle, select.POLLIN)
        return bool(waiting.poll(None if timeout is None else timeout * 1000))


def _told(at: Position) -> Message:
    """A position as it is sent."""
    table = {name: msgspec.to_builtins(standing) for name, standing in at.table.items()}
    order = None if at.order is None else list(at.order)
    return {"table": table, "gone": list(at.gone), "ambient": at.ambient, "order": order}


def _found(told: Message) -> Found:
    return msgspec.convert(told, Found)


def sent(value: object) -> object:
    """A given value as JSON can carry it."""
    return {"date": value.isoformat()} if isinstance(value, datetime.date) else value
