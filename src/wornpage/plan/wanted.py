"""Where a session is wanted, and what one has that was made for it."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from msgspec import Struct

from wornpage.session.language import Session
from wornpage.session.tasks import Environment
from wornpage.store.trace import Trace


class Wanted(Struct, frozen=True):
    """A place on a page, as sessions of one language stand there."""

    language: str
    version: str
    """Of the language."""
    environment: Environment
    """What a session starts with."""
    kept: tuple[Trace | None, ...]
    """The traces of the steps before it; None for one that has none."""
    ambient: Mapping[str, str]
    """What holds there beside names."""

    def runs(self, steps: int | None = None) -> tuple[str, ...]:
        """Which runs made the first steps, by their traces, and how their code is laid out: errors in its functions name its lines."""
        return tuple(f"{trace.run} {trace.layout}" for trace in self.kept[:steps] if trace)

    def stands_like(self, other: Wanted) -> bool:
        """Whether a session for which nothing had to run could be either's."""
        mine, others = ((one.version, one.environment, one.ambient) for one in (self, other))
        return mine == others


class Common:
    """A session, the steps it stands after, and what it was told of names."""

    def __init__(
        self,
        session: Session,
        executed: list[int],
        sent: dict[str, tuple[str, str]],
        renamed: list[tuple[str, str, tuple[str, ...]]],
    ) -> None:
        self.session, self.executed, self.sent = session, executed, sent
        self.renamed = renamed
        """Old run, new run and names of each step that was replayed."""
        self.runs: tuple[str, ...] = ()
        """Which runs made the steps, by their traces."""


Make = Callable[[str, int], Common]
"""Makes a session of a language that stands after so many steps. Raises `Unrepeatable`."""
