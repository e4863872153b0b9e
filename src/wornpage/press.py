"""The story of a pressing: read, settle, run, compose, write."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from wornpage.compose import Head, compose, read_head
from wornpage.output import WRITERS, Written
from wornpage.output.atomic import write_file
from wornpage.output.stationery import names
from wornpage.plan import ChunkOutcome, Record, Reporter, SilentReporter, run_page
from wornpage.plan.walk import check_languages
from wornpage.settings import Settings, settle
from wornpage.source import Page, read_page
from wornpage.tree.problem import PageError, Problem, UsageError, near_miss, stop_on_errors
from wornpage.tree.span import Span


@dataclass(frozen=True, slots=True)
class Output:
    """One file that was asked for."""

    kind: str
    path: Path
    written: bool
    """False if the file held the very same bytes already."""


@dataclass(frozen=True, slots=True)
class Pressing:
    """What a pressing came to."""

    outputs: tuple[Output, ...]
    chunks: tuple[ChunkOutcome, ...]
    warnings: tuple[Problem, ...]


class PressingFailed(PageError):
    """A page at fault, with what became of its chunks until then."""

    def __init__(self, problems: Sequence[Problem], chunks: Sequence[ChunkOutcome] = ()) -> None:
        super().__init__(problems)
        self.chunks = tuple(chunks)


def press(
    page: str | Path,
    outputs: Sequence[str] = ("html",),
    folder: Path | None = None,
    reporter: Reporter | None = None,
    today: datetime.date | None = None,
    afresh: bool = False,
    store: Path | None = None,
) -> Pressing:
    """Run what must run in `page` and write its outputs beside it, or into `folder`.

    `afresh` reuses nothing of earlier pressings; `store` is the folder of the store, if it is not the usual one.
    Raises `PageError` if the page is at fault (nothing has been written then), `UsageError` for an unknown output.
    """
    _check_outputs(outputs)
    source = read_page(Path(page), str(page))
    settings, head, warnings = _settle(source)
    record = run_page(source, settings, head.nodes(), reporter or SilentReporter(), afresh, store)
    chunks = tuple(record.chunks.values())
    _stop(record.problems, warnings, chunks)
    composed, problems = compose(source, settings, head, record, today or datetime.date.today())
    _stop(problems, warnings, chunks)
    warnings += [problem for problem in problems if problem not in warnings]
    made = {kind: WRITERS[kind]()(composed, settings.page, source.path.parent, source.name) for kind in outputs}
    for one in made.values():
        _stop(one.problems, warnings, chunks)
        warnings += one.problems
    written = tuple(_write(kind, source, folder, one) for kind, one in made.items())
    return Pressing(written, chunks, tuple(sorted(warnings, key=lambda problem: problem.span)))


def _check_outputs(outputs: Sequence[str]) -> None:
    for kind in outputs:
        if kind not in WRITERS:
            hint = near_miss(kind, WRITERS) or f"There are: {', '.join(WRITERS)}."
            raise UsageError(f"there is no output {kind!r}. {hint}")


def _settle(source: Page) -> tuple[Settings, Head, list[Problem]]:
    """Settings and head of a page, with the warnings so far. Raises `PageError` with every fault at once."""
    settings, faults = settle(source)
    head = read_head(source, settings)
    problems = [*source.problems, *faults, *head.problems, *check_languages(source), *_check_stationery(settings)]
    stop_on_errors(problems)
    return settings, head, problems


def _check_stationery(settings: Settings) -> list[Problem]:
    name = settings.page.stationery
    if name in names():
        return []
    hint = near_miss(name, names()) or f"There are: {', '.join(names())}."
    return [Problem(settings.place("stationery"), f"there is no stationery {name!r}.", hint)]


def _stop(problems: Sequence[Problem], warnings: Sequence[Problem], chunks: Sequence[ChunkOutcome]) -> None:
    try:
        stop_on_errors(problems)
    except PageError as error:
        raise PressingFailed([*warnings, *error.problems], chunks) from None


def _write(kind: str, source: Page, folder: Path | None, made: Written) -> Output:
    target = (folder or source.path.parent) / f"{source.path.stem}.{kind}"
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        return Output(kind, target, write_file(target, made.data))
    except OSError as error:
        what = f"{target} cannot be written: {error.strerror}."
        raise PageError([Problem(Span(source.name, 1), what)]) from None


__all__ = ["Output", "Pressing", "PressingFailed", "Record", "press"]
