"""Those who press: a bounded number of processes, each with a thread that gives it the next wish of the line, and one that looks at the time."""

from __future__ import annotations

import datetime
import threading
import time
from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace

from wornpage.desk.line import Line, Ticket
from wornpage.desk.offers import Shelf
from wornpage.desk.results import Results
from wornpage.desk.work import Report, Task, failure, trade
from wornpage.press.crew import ATTEMPTS, Worker, WorkerDied, died_again
from wornpage.tree.bugs import said_of
from wornpage.tree.problem import PageError

_PATIENCE = 6.0
"""Seconds that what is no longer wanted has to end before its process is ended."""
_GLANCE = 0.25
"""Seconds from one look at the time to the next."""
LONGEST = 600.0
"""Seconds that a report may take where the page says nothing else."""
_NEVER = float("inf")
Heard = Callable[[Ticket, Report], None]
"""Hears what has come of each wish."""


class Hands:
    """All of them."""

    def __init__(self, line: Line, shelf: Shelf, results: Results, count: int, heard: Heard) -> None:
        self._hands = [_Hand(line, shelf, results, heard, count) for _ in range(count)]
        self._over = threading.Event()
        threading.Thread(target=self._look, name="the time", daemon=True).start()

    def _look(self) -> None:
        while not self._over.wait(_GLANCE):
            for hand in self._hands:
                hand.look(time.monotonic())

    def close(self) -> None:
        """Wait until all have ended; the line is closed already."""
        for hand in self._hands:
            hand.thread.join()
        self._over.set()


class _Hand:
    """One thread and its process."""

    def __init__(self, line: Line, shelf: Shelf, results: Results, heard: Heard, count: int) -> None:
        self._line, self._shelf, self._results, self._heard = line, shelf, results, heard
        self._worker: Worker[Task, Report] | None = None
        self._count = count
        self._late_at = self._ends_at = _NEVER
        """When what is pressed takes too long, and when its process is ended."""
        self._is_too_long = False
        self._ticket: Ticket | None = None
        self._lock = threading.Lock()
        self.thread = threading.Thread(target=self._work, name="pressing", daemon=True)
        self.thread.start()

    def _work(self) -> None:
        while (ticket := self._line.next(self._stop)) is not None:
            try:
                report = self._press(ticket)
            except Exception as bug:  # whatever it is, the next wish is served
                report = failure(self._task(ticket), *said_of(bug))
            self._line.ended(ticket, report)
            self._heard(ticket, report)
        if self._worker is not None:
            self._worker.close()

    def _task(self, ticket: Ticket) -> Task:
        wish, path = ticket.wish, self._shelf.path(ticket.wish.page)
        folder = self._results.folder(path, wish)
        today = datetime.date.today().isoformat()
        return Task(wish.place, str(path), path.name, wish.given, wish.kinds, str(folder), today)

    def _press(self, ticket: Ticket) -> Report:
        """Press one, in another process if the first dies of it."""
        task, end = self._task(ticket), ""
        self._is_too_long = False
        self._begin(ticket)
        try:
            for _ in range(ATTEMPTS):
                if ticket.is_over:  # which it was while this began
                    return Report(stopped=True)
                try:
                    return self._ended(task, self._pressed(ticket, task))
                except WorkerDied as died:
                    end = str(died)
                    self._give_up()
                if ticket.state == "stopped" or self._is_too_long:
                    return self._ended(task, Report(stopped=True))
            return failure(task, f"the process that pressed this {died_again(end)}")
        finally:
            self._end()

    def _ended(self, task: Task, report: Report) -> Report:
        if report.stopped and self._is_too_long:
            late = failure(
                task, "this took longer than reports may take here.", "Say how long with `limits: {time: 20 min}`."
            )
            return replace(late, is_too_long=True)
        if not report.stopped and not report.failed:
            self._results.keep(Path(task.page), task.place)
        return report

    def _pressed(self, ticket: Ticket, task: Task) -> Report:
        if self._worker is not None and self._worker.is_old:
            self._worker.close()
            self._worker = None
        if self._worker is None:
            self._worker = Worker(trade(), self._count)
        for said in self._worker.press(task):
            if not isinstance(said, str):
                return said
            part, parts, done, of = map(int, said.split())
            self._line.told(ticket, (part, parts, done, of))
        raise WorkerDied("it said nothing more")

    # --- ending it --------------------------------------------------------------------------------

    def _begin(self, ticket: Ticket) -> None:
        try:
            longest = self._shelf.offer(ticket.wish.page).seconds or LONGEST
        except (PageError, KeyError):
            longest = LONGEST
        with self._lock:
            self._ticket = ticket
            self._late_at = time.monotonic() + longest

    def _end(self) -> None:
        with self._lock:
            self._ticket = None
            self._late_at = self._ends_at = _NEVER

    def look(self, now: float) -> None:
        """End what takes too long, and what does not end by itself."""
        with self._lock:
            if now >= self._late_at:
                self._late_at = _NEVER
                self._is_too_long = True
                self._break_off()
            if now >= self._ends_at and self._worker is not None:
                self._ends_at = _NEVER
                self._worker.kill()

    def _stop(self) -> None:
        """What is pressed is no longer wanted."""
        with self._lock:
            self._break_off()

    def _break_off(self) -> None:
        if self._worker is not None:
            self._worker.interrupt()
        if self._ticket is not None:
            self._ends_at = min(self._ends_at, time.monotonic() + _PATIENCE)

    def _give_up(self) -> None:
        worker, self._worker = self._worker, None
        if worker is not None:
            worker.stop()
