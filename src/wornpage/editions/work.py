"""Pressing one edition, in whatever process: what is asked and what came of it, both as plain data."""

from __future__ import annotations

import datetime
import time
from collections.abc import Callable
from pathlib import Path

from msgspec import Struct

from wornpage.plan.nursery import Nursery
from wornpage.plan.record import ChunkOutcome, ChunkReporter, Outcome
from wornpage.press import Order, PressingFailed, press_order
from wornpage.press.crew import Trade
from wornpage.store.files import content
from wornpage.tree.bugs import said_of
from wornpage.tree.problem import PageError, Problem, UsageError
from wornpage.tree.span import Span
from wornpage.tree.version import VERSION


class Job(Struct, frozen=True):
    """What all editions of a pressing have in common."""

    page: str
    """Its whole path, which every process sees."""
    name: str
    """What messages call it."""
    held: str
    """What the page held when the editions were counted, by `store.files.content`."""
    outputs: tuple[str, ...]
    folder: str
    today: str
    afresh: bool = False
    stationery: str | None = None
    given: dict[str, object] = {}
    """Values given to all of them."""
    pressing: str = ""
    """A name for this pressing."""
    version: str = VERSION


class Task(Struct, frozen=True):
    """One edition to press."""

    edition: str
    given: dict[str, object]


class Made(Struct, frozen=True):
    """A file of an edition."""

    kind: str
    path: str
    written: bool


class Report(Struct, frozen=True):
    """What came of one edition."""

    edition: str
    outputs: tuple[Made, ...] = ()
    ran: int = 0
    reused: int = 0
    seconds: float = 0.0
    problems: tuple[Problem, ...] = ()
    """Errors of an edition that failed, else warnings."""
    failed: bool = False
    headline: dict[str, str] = {}
    is_unchanged: bool = False
    """Whether it was right already, so that nothing was done."""


def order_of(job: Job, task: Task, nursery: Nursery | None = None) -> Order:
    """The edition's pressing."""
    given = {**job.given, **task.given}
    return Order(
        Path(job.page), job.name, job.outputs, Path(job.folder), job.afresh, None, job.stationery, given, task.edition, nursery,
        together=job.pressing, with_controls=False,
    )  # fmt: skip


def press_edition(
    job: Job, task: Task, nursery: Nursery | None = None, told: Callable[[str], None] | None = None
) -> Report:
    """Press one edition; `told` hears the label of each chunk that begins to run. Whatever goes wrong is in the report."""
    begun = time.perf_counter()
    if problem := _unlike(job):
        return failure(job, task, problem)
    try:
        pressing = press_order(
            order_of(job, task, nursery), ChunkReporter(told), datetime.date.fromisoformat(job.today)
        )
    except PageError as error:
        chunks = error.chunks if isinstance(error, PressingFailed) else ()
        ran, reused = _counted(chunks)
        took = time.perf_counter() - begun
        return Report(task.edition, (), ran, reused, took, error.problems, failed=True)
    except UsageError as error:
        return failure(job, task, str(error))
    except Exception as bug:
        return failure(job, task, *said_of(bug))
    outputs = tuple(Made(one.kind, str(one.path), one.written) for one in pressing.outputs)
    ran, reused = _counted(pressing.chunks)
    took = time.perf_counter() - begun
    return Report(task.edition, outputs, ran, reused, took, pressing.warnings, headline=pressing.headline)


def trade_of(job: Job) -> Trade[Task, Report]:
    """Pressing them side by side."""
    return Trade(
        "wornpage.editions.worker",
        __name__,
        job,
        Report,
        lambda task: task.edition,
        lambda task, end: failure(job, task, f"the process that pressed this edition {end}"),
    )


def failure(job: Job, task: Task, what: str, hint: str = "") -> Report:
    """The report of an edition that came to nothing."""
    return Report(task.edition, problems=(Problem(Span(job.name, 1), what, hint),), failed=True)


def _unlike(job: Job) -> str:
    """Why this process cannot press the page that was meant; empty if it can."""
    if job.version != VERSION:
        return f"this process has Worn Page {VERSION}, and not {job.version}."
    held = content(job.page)
    if held == "absent":
        return f"there is no {job.page} where this process runs: is its folder shared, under the same path?"
    return "the page was changed while its editions were being pressed; press again." if held != job.held else ""


def _counted(chunks: tuple[ChunkOutcome, ...]) -> tuple[int, int]:
    outcomes = [chunk.outcome for chunk in chunks]
    return outcomes.count(Outcome.RAN), outcomes.count(Outcome.REUSED)
