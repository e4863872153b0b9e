"""Pages pressed side by side, in processes of their own, which may die without a page being lost; editions of one, or pages of a volume."""

from __future__ import annotations

import queue
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from typing import Generic, TypeVar

import msgspec

from wornpage.press.wire import unwired, wired
from wornpage.press.worker import STOP, Line

Task = TypeVar("Task", bound=msgspec.Struct)
Report = TypeVar("Report", bound=msgspec.Struct)

_PAGES_EACH = 250
"""After so many a process makes room for a new one: what libraries gather over time is let go of."""
ATTEMPTS = 2
"""How often a page may end the process that presses it."""
_PATIENCE = 10.0
"""Seconds a process has to end by itself."""


Watching = Callable[[int, str, str], None]
"""Told, from one thread, that the process at a place, from 0, is at a chunk of a page; or has begun with it."""


class WorkerDied(Exception):
    """The process ended in the midst of a page; the text says how."""


class Trade(msgspec.Struct, Generic[Task, Report]):
    """What is pressed side by side, and how it is asked for and told."""

    module: str
    """What a process runs (`press.worker.run`)."""
    home: str
    """The module that has `Job`, `Task` and `trade_of`, for those who are told of it from afar."""
    job: msgspec.Struct
    """What all tasks have in common: each process is told it once."""
    report: type[Report]
    name: Callable[[Task], str]
    """What a task goes by while it is pressed."""
    died: Callable[[Task, str], Report]
    """The report of a task that has ended each process, with words for how often and how."""


class Worker(Generic[Task, Report]):
    """The near end of one process."""

    def __init__(self, trade: Trade[Task, Report], beside: int) -> None:
        """`beside` is how many do the same on this machine at the same time, this one among them."""
        self._trade = trade
        self._process = subprocess.Popen(
            [sys.executable, "-P", "-m", trade.module, str(beside)],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        self._pressed = 0
        self._send(trade.job)

    @property
    def is_old(self) -> bool:
        """Whether it has pressed enough."""
        return self._pressed >= _PAGES_EACH

    def _send(self, what: msgspec.Struct) -> None:
        assert self._process.stdin is not None
        with suppress(OSError):  # reading will tell that it has ended
            self._process.stdin.write(wired(what) + b"\n")
            self._process.stdin.flush()

    def press(self, task: Task) -> Iterator[str | Report]:
        """The chunks it is at, then its report. Raises `WorkerDied`."""
        assert self._process.stdout is not None
        self._send(task)
        while text := self._process.stdout.readline():
            line = unwired(text, Line)
            if line.report is not None:
                self._pressed += 1
                yield msgspec.convert(line.report, self._trade.report)
                return
            yield line.at
        raise WorkerDied(_end_of(self._process.wait()))

    def interrupt(self) -> None:
        """What it presses is no longer wanted; its report tells what has come of it. From any thread."""
        assert self._process.stdin is not None
        with suppress(OSError, ValueError):  # it has ended
            self._process.stdin.write(STOP + b"\n")
            self._process.stdin.flush()

    def kill(self) -> None:
        """End it this moment; whoever waits for its report hears of it. From any thread."""
        self._process.kill()

    def close(self) -> None:
        """Let it end, now that nothing more is asked."""
        with suppress(OSError):
            self._process.stdin.close()  # type: ignore[union-attr]
        with suppress(subprocess.TimeoutExpired):
            self._process.wait(_PATIENCE)
        self.stop()

    def stop(self) -> None:
        """End it, whatever it is at."""
        self._process.terminate()
        with suppress(subprocess.TimeoutExpired):
            self._process.wait(_PATIENCE)
        self._process.kill()
        self._process.wait()
        for pipe in (self._process.stdin, self._process.stdout):
            with suppress(OSError):
                pipe.close()  # type: ignore[union-attr]


def _end_of(status: int) -> str:
    if status == -9:
        return "it was killed, perhaps since the memory did not suffice"
    return f"signal {-status} ended it" if status < 0 else f"it left with exit status {status}"


def died_again(end: str) -> str:
    """What is said of a page that ended each process that pressed it."""
    return f"died {ATTEMPTS} times: {end}."


def press_side_by_side(
    trade: Trade[Task, Report], tasks: Sequence[Task], jobs: int, watching: Watching
) -> Iterator[Report]:
    """The reports on `tasks` as they come in; pressed in up to `jobs` processes."""
    crew = _Crew(trade, iter(tasks), max(1, min(jobs, len(tasks))))
    broken_off = True
    try:
        for _ in tasks:
            while isinstance(said := crew.said.get(), tuple):
                watching(*said)
            if isinstance(said, Exception):
                raise said
            yield said
        broken_off = False
    finally:
        crew.end(broken_off)


class _Crew(Generic[Task, Report]):
    """A thread for each process; what they say comes in one queue."""

    def __init__(self, trade: Trade[Task, Report], tasks: Iterator[Task], count: int) -> None:
        self.said: queue.Queue[tuple[int, str, str] | Report | Exception] = queue.Queue()
        self._trade, self._tasks, self._count = trade, tasks, count
        self._lock = threading.Lock()
        self._over = False
        self._workers: dict[int, Worker[Task, Report]] = {}
        self._threads = [threading.Thread(target=self._work, args=(place,), daemon=True) for place in range(count)]
        for thread in self._threads:
            thread.start()

    def _next(self) -> Task | None:
        with self._lock:
            return None if self._over else next(self._tasks, None)

    def _work(self, place: int) -> None:
        try:
            while (task := self._next()) is not None:
                report = self._press(place, task)
                if report is not None:
                    self.said.put(report)
            if (worker := self._workers.pop(place, None)) is not None:
                worker.close()
        except Exception as bug:  # not to wait for ever for a thread that is gone
            self.said.put(bug)

    def _press(self, place: int, task: Task) -> Report | None:
        """Press one page, in another process if the first dies; None if all is over."""
        end, name = "", self._trade.name(task)
        for _ in range(ATTEMPTS):
            self.said.put((place, name, ""))
            try:
                for said in self._worker(place).press(task):
                    if not isinstance(said, str):
                        return said
                    self.said.put((place, name, said))
            except WorkerDied as died:
                end = str(died)
                if (worker := self._workers.pop(place, None)) is not None:
                    worker.stop()
            if self._over:
                return None
        return self._trade.died(task, died_again(end))

    def _worker(self, place: int) -> Worker[Task, Report]:
        worker = self._workers.get(place)
        if worker is not None and worker.is_old:
            worker.close()
            worker = None
        if worker is None:
            worker = self._workers[place] = Worker(self._trade, self._count)
        return worker

    def end(self, broken_off: bool) -> None:
        """Wait until all processes have ended; they are told to leave at once if the work is broken off."""
        if broken_off:
            with self._lock:
                self._over = True
            for worker in list(self._workers.values()):
                worker.stop()
        for thread in self._threads:
            thread.join()
