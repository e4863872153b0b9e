"""Run a page: its chunks in order, and between them the values its sentences ask for."""

from __future__ import annotations

from collections import Counter
from typing import Any

from wornpage.plan.record import ChunkOutcome, Outcome, Record, Reporter
from wornpage.plan.seeding import seed_of
from wornpage.plan.steps import Step, steps_of
from wornpage.session.failures import Places, chunk_problem, mark_problem
from wornpage.session.process import ChunkTask, Interrupted, MarkTask, Session, SessionOver
from wornpage.session.results import Answer
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError, Problem, near_miss
from wornpage.tree.span import Span

DRIVERS = ("python",)
"""Languages that chunks can be written in."""


def check_languages(page: Page) -> list[Problem]:
    """Chunks in a language that no session speaks."""
    return [
        Problem(
            chunk.span,
            f"no session runs {chunk.language!r}.",
            near_miss(chunk.language, DRIVERS) or f"There are: {', '.join(DRIVERS)}.",
        )
        for chunk in page.chunks
        if chunk.language not in DRIVERS
    ]


def run_page(page: Page, settings: Settings, front_marks: tuple[n.Node, ...], reporter: Reporter) -> Record:
    """Run all chunks and marks of `page` in one new session.

    Code at fault is told in `Record.problems`. Raises `PageError` when the user breaks off.
    """
    steps = steps_of(page.blocks, front_marks)
    if not steps:
        return Record({}, {}, ())
    walk = _Walk(page, settings, reporter)
    with Session(settings.page.threads) as session:
        session.open(page.path.parent.resolve(), page.path.name, dict(settings.page.given))
        for step in steps:
            if not walk.step(step, session):
                break
    return walk.record()


class _Walk:
    def __init__(self, page: Page, settings: Settings, reporter: Reporter) -> None:
        self.page, self.settings, self.reporter = page, settings, reporter
        self.places = Places(page.name, {chunk.label: chunk for chunk in page.chunks})
        self.outcomes: dict[str, ChunkOutcome] = {}
        self.answers: dict[Span, Answer] = {}
        self.problems: list[Problem] = []
        self.codes = Counter[str]()

    def record(self) -> Record:
        """What has been found so far; chunks that were not reached are left out."""
        for chunk in self.page.chunks:
            if chunk.label not in self.outcomes:
                outcome = ChunkOutcome(chunk.label, Outcome.LEFT_OUT, 0, "a chunk above it failed", None)
                self.outcomes[chunk.label] = outcome
        return Record(self.outcomes, self.answers, tuple(self.problems))

    def step(self, step: Step, session: Session) -> bool:
        """One chunk and the marks after it; False if nothing more can be run."""
        if step.chunk is not None and not self.run(step.chunk, session):
            return False
        return self.ask(step.marks, session) if step.marks else True

    def run(self, chunk: n.Chunk, session: Session) -> bool:
        """One chunk; False if the walk ends here."""
        number, total = len(self.outcomes) + 1, len(self.page.chunks)
        options = self.settings.chunks[chunk.label].options
        self.reporter.started(chunk, number, total)
        try:
            result = session.run(self.task(chunk))
        except Interrupted as broken:
            raise PageError([chunk_problem(broken.failure, chunk, self.places)]) from None
        failed = result.failure is not None and (options.on_error == "stop" or result.failure.kind in _ENDS)
        kind = Outcome.FAILED if failed else Outcome.RAN
        outcome = ChunkOutcome(chunk.label, kind, result.seconds, "nothing is kept yet", result)
        self.outcomes[chunk.label] = outcome
        self.reporter.finished(outcome, number, total)
        if failed and result.failure is not None:
            self.problems.append(chunk_problem(result.failure, chunk, self.places))
        return not failed

    def task(self, chunk: n.Chunk) -> ChunkTask:
        """`chunk` as the session needs to know it."""
        options = self.settings.chunks[chunk.label].options
        occurrence = self.codes[chunk.code]
        self.codes[chunk.code] += 1
        seed = seed_of(chunk, options.seed, self.settings.page.seed, occurrence)
        sizes: dict[str, Any] = {"width": options.width or 0, "height": options.height or 0, "dpi": options.dpi}
        return ChunkTask(chunk.label, chunk.code, seed, options.timeout, **sizes)

    def ask(self, marks: tuple[n.ValueMark, ...], session: Session) -> bool:
        """The marks of one step; False if one of them ended the session."""
        tasks = [MarkTask(str(mark.span), mark.expression, _format(mark.form)) for mark in marks]
        try:
            answers = session.answer(tasks)
        except SessionOver:
            what = "the session ended while a value mark after this place was read."
            self.problems.append(Problem(marks[0].span, what))
            return False
        for mark, answer in zip(marks, answers, strict=True):
            self.answers[mark.span] = answer
            if answer.failure is not None:
                self.problems.append(mark_problem(answer.failure, mark.expression, mark.span, self.places))
        return True


_ENDS = frozenset({"crash", "timeout", "SystemExit", "interrupt"})
"""Failures after which there is no session, or none worth going on with, whatever `on-error` says."""


def _format(form: str) -> str:
    """The format specification in a quoted form; empty for any other form."""
    return form[1:-1] if form[:1] in {'"', "'"} else ""
