"""Pressing what somebody wished, in a process of its own: what is asked and what came of it, both as plain data."""

from __future__ import annotations

import datetime
import time
from pathlib import Path

from msgspec import Struct

from wornpage.plan import manifest
from wornpage.plan.nursery import Nursery
from wornpage.plan.record import Outcome, SilentReporter
from wornpage.plan.stopping import Stopped
from wornpage.press import Order, as_chosen, press_order
from wornpage.press.crew import Trade
from wornpage.press.worker import Hands, Told
from wornpage.tree.bugs import said_of
from wornpage.tree.nodes import Chunk
from wornpage.tree.problem import PageError, Problem, UsageError
from wornpage.tree.span import Span
from wornpage.tree.version import VERSION

_PAGES_AT_HAND = 2
"""Pages whose sessions a process keeps ready."""


class Nothing(Struct, frozen=True):
    """What all tasks have in common."""


class Task(Struct, frozen=True):
    """One wish, in full."""

    place: str
    """What tells what comes of it from all else."""
    page: str
    """The page's whole path."""
    name: str
    """What messages call it."""
    given: dict[str, object]
    kinds: tuple[str, ...]
    folder: str
    today: str


def remembered_as(place: str) -> str:
    """Under what a pressing is remembered beside its page: apart from editions, which others list and let go of."""
    return f"desk/{place}"


class Report(Struct, frozen=True):
    """What came of one."""

    files: dict[str, str] = {}
    """Paths by kind."""
    ran: int = 0
    seconds: float = 0.0
    problems: tuple[Problem, ...] = ()
    """Errors of one that failed, else warnings."""
    failed: bool = False
    stopped: bool = False
    """Whether it was no longer wanted."""
    is_too_long: bool = False
    """Whether it took longer than it may."""


def trade() -> Trade[Task, Report]:
    """Pressing them in processes."""
    return Trade(
        "wornpage.desk.worker", __name__, Nothing(), Report, lambda task: task.place,
        lambda task, end: failure(task, f"the process that pressed this {end}"),
    )  # fmt: skip


def failure(task: Task, what: str, hint: str = "") -> Report:
    """The report of one that came to nothing."""
    return Report(problems=(Problem(Span(task.name, 1), what, hint),), failed=True)


class Bench:
    """What a process has at hand: for each of the pages it was asked for last, sessions that know what all values share."""

    def __init__(self) -> None:
        self._nurseries: dict[str, Nursery] = {}

    def nursery(self, page: str) -> Nursery:
        """That of a page; whichever was not asked for longest is given up."""
        found = self._nurseries.pop(page, None) or Nursery()
        self._nurseries[page] = found
        while len(self._nurseries) > _PAGES_AT_HAND:
            self._nurseries.pop(next(iter(self._nurseries))).close()
        return found

    def press(self, job: Nothing, task: Task, hands: Hands) -> Report:
        """Press one. Whatever goes wrong is in the report."""
        begun = time.perf_counter()
        try:
            return _pressed(task, self.nursery(task.page), hands, begun)
        except Stopped:
            return Report(stopped=True)
        except PageError as error:
            if hands.stopper.stopped:
                return Report(stopped=True)
            return Report(problems=error.problems, seconds=time.perf_counter() - begun, failed=True)
        except UsageError as error:
            return failure(task, str(error))
        except Exception as bug:
            return Report(stopped=True) if hands.stopper.stopped else failure(task, *said_of(bug))


def _pressed(task: Task, nursery: Nursery, hands: Hands, begun: float) -> Report:
    page, folder = Path(task.page), Path(task.folder)
    memory = remembered_as(task.place)
    found = manifest.still_right(page, list(task.kinds), folder, task.today, VERSION, memory, as_chosen(task.given))
    if found is not None:
        return Report(dict(found.outputs))
    order = Order(
        page,
        task.name,
        task.kinds,
        folder,
        given=task.given,
        nursery=nursery,
        stopper=hands.stopper,
        kept_as=memory,
        with_controls=False,
    )
    pressing = press_order(order, _Telling(hands.told), datetime.date.fromisoformat(task.today))
    ran = sum(chunk.outcome is Outcome.RAN for chunk in pressing.chunks)
    files = {one.kind: str(one.path) for one in pressing.outputs}
    return Report(files, ran, time.perf_counter() - begun, pressing.warnings)


class _Telling(SilentReporter):
    """Says which part is at work, as numbers that no reader takes for code: `2 5`; then how much of it is done."""

    def __init__(self, told: Told) -> None:
        self._told = told
        self._at = (0, 0)

    def started(self, chunk: Chunk, number: int, total: int) -> None:
        """Tell it."""
        self._at = (number, total)
        self._told(f"{number} {total} 0 0")

    def tallied(self, chunk: Chunk, name: str, done: int, total: int) -> None:
        """Tell it."""
        self._told(f"{self._at[0]} {self._at[1]} {done} {total}")
