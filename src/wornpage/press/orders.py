"""What is ordered, and what came of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from wornpage.colophon import Colophon
from wornpage.compose import Head
from wornpage.output.outputs import USUAL
from wornpage.plan.nursery import Nursery
from wornpage.plan.record import ChunkOutcome, Record
from wornpage.plan.stopping import Stopper
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.tree.nodes import Composed
from wornpage.tree.problem import PageError, Problem


@dataclass(frozen=True, slots=True)
class Order:
    """What is to be pressed, and how."""

    page: Path
    name: str
    """What the page is called in messages."""
    outputs: Sequence[str] = (USUAL,)
    folder: Path | None = None
    """Where the outputs go; beside the page otherwise."""
    afresh: bool = False
    """Reuse nothing of earlier pressings."""
    store: Path | None = None
    """The folder of the store, if it is not the usual one."""
    stationery: str | None = None
    """Other looks than the page names."""
    given: Mapping[str, object] = field(default_factory=dict)
    """Values for the page's givens, as texts or lists of texts."""
    edition: str = ""
    """The edition's name, which its outputs have; empty for the page itself."""
    nursery: Nursery | None = None
    """Where sessions are had that know already what all editions share."""
    stopper: Stopper | None = None
    """Whoever may want to end it."""
    together: str = ""
    """A name for the pressing of several editions that this one is of."""
    volume: Path | None = None
    """The `volume.yaml` of the work that the page is bound in; None for a page by itself."""
    with_controls: bool = True
    """Whether a page may hold what comes of other values of its controls; where readers pick elsewhere it need not."""
    python: str = ""
    """The program that sessions of Python run in, whatever the page's settings say."""
    workers_at: str = ""
    """The address of a cluster for single chunks, whatever the page's settings say."""
    kept_as: str = ""
    """Under what name it is remembered, where that is another than the edition's."""

    @property
    def memory(self) -> str:
        """What the next pressing of the same looks for; empty for the page itself."""
        return self.kept_as or self.edition

    @property
    def is_remembered(self) -> bool:
        """Whether the next pressing may see at once that there is nothing to do."""
        return self.store is None and self.stationery is None and not self.python

    @property
    def is_at_work(self) -> bool:
        """Whether somebody works on this very page, and will soon want the same again: it is none of many."""
        is_one_of_many = self.volume is not None or self.together or self.kept_as
        return self.is_remembered and self.nursery is None and not is_one_of_many


@dataclass(frozen=True, slots=True)
class Ran:
    """A page with all its chunks and marks run, before it is composed."""

    source: Page
    settings: Settings
    head: Head
    record: Record
    warnings: list[Problem]
    headline: dict[str, str]
    begun: int
    """When the page was begun to be read, in nanoseconds since the epoch."""


@dataclass(frozen=True, slots=True)
class Proof:
    """A page with all its answers in place, before it is written."""

    source: Page
    settings: Settings
    head: Head
    record: Record
    composed: Composed
    warnings: list[Problem]
    headline: dict[str, str]
    begun: int
    """When the page was begun to be read, in nanoseconds since the epoch."""
    shown_as: str = ""
    """The output whose defaults for chunks it is composed by; empty for those of the page."""


@dataclass(frozen=True, slots=True)
class Output:
    """One file that was asked for."""

    kind: str
    path: Path
    written: bool
    """False if the file held the very same bytes already."""
    beside: tuple[Path, ...] = ()
    """Further files that belong to it."""
    read: tuple[Path, ...] = ()
    """What it was made from beside the page and what its settings name (`output.kind.Written`)."""


@dataclass(frozen=True, slots=True)
class Pressing:
    """What a pressing came to."""

    outputs: tuple[Output, ...]
    chunks: tuple[ChunkOutcome, ...]
    warnings: tuple[Problem, ...]
    colophon: Colophon
    title: str = ""
    headline: dict[str, str] = field(default_factory=dict)
    """What an index shows of it, by the words for it."""


class PressingFailed(PageError):
    """A page at fault, with what became of its chunks until then, and the outputs that could be written all the same."""

    def __init__(
        self, problems: Sequence[Problem], chunks: Sequence[ChunkOutcome] = (), outputs: Sequence[Output] = ()
    ) -> None:
        super().__init__(problems)
        self.chunks, self.outputs = tuple(chunks), tuple(outputs)
