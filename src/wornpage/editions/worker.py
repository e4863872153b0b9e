"""A process that presses editions, one after the other: a job, then tasks, each a line of JSON; a line for each report.

Editions share what is imported, and the session that holds what they have in common.
"""

from __future__ import annotations

import os
import signal
import sys
from types import FrameType
from typing import IO

import msgspec

from wornpage.editions.wire import unwired, wired
from wornpage.editions.work import Job, Report, Task, press_edition
from wornpage.plan.nursery import Nursery

_PATIENCE = 900
"""Seconds without anything to do."""


class Line(msgspec.Struct, omit_defaults=True):
    """What a worker says: which chunk it is at, or what came of an edition."""

    at: str = ""
    report: Report | None = None


def serve(asked: IO[bytes], told: IO[bytes]) -> None:
    """Press what is asked for until there is no more."""

    def say(line: Line) -> None:
        told.write(wired(line) + b"\n")
        told.flush()

    job = unwired(asked.readline(), Job)
    nursery = Nursery()
    try:
        while text := _next(asked):
            task = unwired(text, Task)
            say(Line(report=press_edition(job, task, nursery, lambda label: say(Line(at=label)))))
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


def main() -> None:
    """Run as a process of its own; what libraries print goes nowhere."""
    signal.signal(signal.SIGTERM, _leave)
    if hasattr(signal, "SIGALRM"):
        signal.signal(signal.SIGALRM, _leave)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    told = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    serve(sys.stdin.buffer, told)


if __name__ == "__main__":
    main()
