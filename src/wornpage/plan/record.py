"""What a walk over a page came to."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Protocol

from wornpage.plan.graph import NO_GRAPH, Graph
from wornpage.session.results import Answer, ChunkResult
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.store.libraries import name_of, version_in
from wornpage.store.packages import version_of
from wornpage.store.trace import Read, Trace
from wornpage.tree.nodes import Chunk, ValueMark
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span


class Outcome(StrEnum):
    """What became of a chunk."""

    RAN = "ran"
    REUSED = "reused"
    FAILED = "failed"
    LEFT_OUT = "left out"


@dataclass(frozen=True, slots=True)
class ChunkOutcome:
    """What became of one chunk."""

    label: str
    outcome: Outcome
    seconds: float
    """What its run took, now or when it last ran."""
    why: str
    """Why it ran or did not, in words."""
    result: ChunkResult | None
    """None if it did not come to that."""
    whose: str = ""
    """Who of the team ran it, where it has been had from them."""


@dataclass(frozen=True, slots=True)
class MarkOutcome:
    """What one value mark read."""

    mark: ValueMark
    language: str
    reads: tuple[Read, ...]


@dataclass(frozen=True, slots=True)
class Record:
    """The answers to a page's questions."""

    chunks: dict[str, ChunkOutcome]
    """By label, in page order."""
    answers: dict[Span, Answer]
    """What each value mark found, by its place."""
    problems: tuple[Problem, ...]
    """Failures that stop the pressing."""
    traces: dict[str, Trace] = field(default_factory=dict)
    """The trace that each chunk went by, by label."""
    graph: Graph = NO_GRAPH
    page: Page | None = None
    """The page with all it inserts in place."""
    marks: list[MarkOutcome] = field(default_factory=list)
    """What became of value marks, in page order."""
    warnings: tuple[Problem, ...] = ()
    """Found in files that became known on the way."""
    settings: Settings | None = None
    """The page's, with those of all it inserts; None where there was nothing to ask."""


def reads_of(record: Record) -> list[Read]:
    """Everything that chunks and value marks went by."""
    reads = [read for trace in record.traces.values() for read in trace.reads]
    return reads + [read for outcome in record.marks for read in outcome.reads]


def packages_in(reads: Iterable[Read]) -> dict[str, str]:
    """Versions of what was loaded, by name: of Python's libraries, and of packages that lie in folders of their own."""
    reads = list(reads)
    found = {read.name.partition("@")[0]: version_of(read.name) for read in reads if read.kind == "package"}
    for read in reads:
        if read.kind == "library":
            found[name_of(read.name)] = version_in(read.name).partition(" ")[0]
    return dict(sorted(found.items()))


class Reporter(Protocol):
    """Whoever wants to know how a walk gets on."""

    def started(self, chunk: Chunk, number: int, total: int) -> None:
        """`chunk` begins to run; it is the `number`th of `total`, from 1."""

    def tallied(self, chunk: Chunk, name: str, done: int, total: int) -> None:
        """The chunk that runs has come to `done` of `total` (0 where that is unknown) of what it calls `name`."""

    def finished(self, outcome: ChunkOutcome, number: int, total: int) -> None:
        """A chunk has come to its end."""


class SilentReporter:
    """Tells nobody."""

    def tallied(self, chunk: Chunk, name: str, done: int, total: int) -> None:
        """Nothing to do."""

    def started(self, chunk: Chunk, number: int, total: int) -> None:
        """Nothing to do."""

    def finished(self, outcome: ChunkOutcome, number: int, total: int) -> None:
        """Nothing to do."""


class ChunkReporter(SilentReporter):
    """Tells somebody which chunk is running."""

    def __init__(self, told: Callable[[str], None] | None) -> None:
        self._told = told

    def started(self, chunk: Chunk, number: int, total: int) -> None:
        """Pass its label on."""
        if self._told is not None:
            self._told(chunk.label)
