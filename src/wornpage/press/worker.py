"""The far end of pressing side by side: a process that is told a job, then tasks, each a line of JSON; it says a line for each report."""

from __future__ import annotations

import os
import queue
import signal
import sys
import threading
from collections.abc import Callable
from types import FrameType
from typing import IO, Any, TypeVar

import msgspec

from wornpage.plan.nursery import Nursery
from wornpage.plan.stopping import Stopper
from wornpage.press.wire import unwired, wired
from wornpage.tree.machine import share_with

Job = TypeVar("Job", bound=msgspec.Struct)
Task = TypeVar("Task", bound=msgspec.Struct)
Told = Callable[[str], None]
_PATIENCE = 900
"""Seconds without anything to do."""
STOP = b"stop"
"""The line that says that what is being pressed is no longer wanted."""


class Line(msgspec.Struct, omit_defaults=True):
    """What a worker says: which chunk it is at, or what came of a task."""

    at: str = ""
    report: Any = None


class Hands(msgspec.Struct, frozen=True):
    """What a process presses a task with."""

    nursery: Nursery
    """Sessions that know what all tasks share."""
    stopper: Stopper
    """Whether it is still wanted."""
    told: Told
    """Hears what it is at."""


Press = Callable[[Job, Task, Hands], msgspec.Struct]


def run(job: type[Job], task: type[Task], press: Press[Job, Task]) -> None:
    """Be such a process; what libraries print goes nowhere. All tasks share what is imported, and a nursery."""
    share_with(int(sys.argv[1]) if sys.argv[1:] else 1)
    signal.signal(signal.SIGTERM, _leave)
    if hasattr(signal, "SIGALRM"):
        signal.signal(signal.SIGALRM, _leave)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    told = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    asked = os.fdopen(os.dup(0), "rb", buffering=0)  # no lock that a thread could hold when all ends
    _serve(asked, told, job, task, press)


def _serve(asked: IO[bytes], told: IO[bytes], job: type[Job], task: type[Task], press: Press[Job, Task]) -> None:
    """Press what is asked for until there is no more."""

    def say(line: Line) -> None:
        told.write(wired(line) + b"\n")
        told.flush()

    known = unwired(asked.readline(), job)
    nursery, inbox = Nursery(), _Inbox(asked)
    try:
        while text := inbox.next():
            hands = Hands(nursery, inbox.stopper, lambda label: say(Line(at=label)))
            say(Line(report=press(known, unwired(text, task), hands)))
    finally:
        nursery.close()


class _Inbox:
    """What is asked for, read in a thread of its own, so that it is heard at once when something is no longer wanted."""

    def __init__(self, asked: IO[bytes]) -> None:
        self.stopper = Stopper()
        """That of the task which was had last."""
        self._asked = asked
        self._lines: queue.Queue[tuple[bytes, Stopper]] = queue.Queue()
        threading.Thread(target=self._read, daemon=True).start()

    def _read(self) -> None:
        latest = Stopper()
        while line := self._asked.readline():
            if line.strip() == STOP:
                latest.stop(at_once=True)
            else:
                latest = Stopper()
                self._lines.put((line, latest))
        self._lines.put((b"", latest))

    def next(self) -> bytes:
        """The next task, empty if there is no more; a process that nobody remembers leaves."""
        if hasattr(signal, "alarm"):
            signal.alarm(_PATIENCE)
        try:
            line, self.stopper = self._lines.get()
        finally:
            if hasattr(signal, "alarm"):
                signal.alarm(0)
        return line


def _leave(number: int, frame: FrameType | None) -> object:
    raise SystemExit(1)
