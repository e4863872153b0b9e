"""The far end of pressing side by side: a process that is told a job, then tasks, each a line of JSON; it says a line for each report."""

from __future__ import annotations

import os
import signal
import sys
from collections.abc import Callable
from types import FrameType
from typing import IO, Any, TypeVar

import msgspec

from wornpage.plan.nursery import Nursery
from wornpage.press.wire import unwired, wired

Job = TypeVar("Job", bound=msgspec.Struct)
Task = TypeVar("Task", bound=msgspec.Struct)
Told = Callable[[str], None]
_PATIENCE = 900
"""Seconds without anything to do."""


class Line(msgspec.Struct, omit_defaults=True):
    """What a worker says: which chunk it is at, or what came of a task."""

    at: str = ""
    report: Any = None


def run(job: type[Job], task: type[Task], press: Callable[[Job, Task, Nursery, Told], msgspec.Struct]) -> None:
    """Be such a process; what libraries print goes nowhere. All tasks share what is imported, and a nursery."""
    signal.signal(signal.SIGTERM, _leave)
    if hasattr(signal, "SIGALRM"):
        signal.signal(signal.SIGALRM, _leave)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    told = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    _serve(sys.stdin.buffer, told, job, task, press)


def _serve(
    asked: IO[bytes],
    told: IO[bytes],
    job: type[Job],
    task: type[Task],
    press: Callable[[Job, Task, Nursery, Told], msgspec.Struct],
) -> None:
    """Press what is asked for until there is no more."""

    def say(line: Line) -> None:
        told.write(wired(line) + b"\n")
        told.flush()

    known = unwired(asked.readline(), job)
    nursery = Nursery()
    try:
        while text := _next(asked):
            say(Line(report=press(known, unwired(text, task), nursery, lambda label: say(Line(at=label)))))
    finally:
        nursery.close()


def _next(asked: IO[bytes]) -> bytes:
    """The next line; a process that nobody remembers leaves."""
    if not hasattr(signal, "alarm"):
        return asked.readline()
    signal.alarm(_PATIENCE)
    try:
        return asked.readline()
    finally:
        signal.alarm(0)


def _leave(number: int, frame: FrameType | None) -> object:
    raise SystemExit(1)
