"""Values that a chunk takes over from other languages: which, from where, and how they come."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from wornpage.plan.languages import spoken
from wornpage.plan.state import State
from wornpage.tree.nodes import Chunk
from wornpage.tree.problem import PageError, Problem, near_miss


class Source(Struct, frozen=True):
    """Where a name comes from."""

    name: str
    language: str

    @property
    def read(self) -> str:
        """As traces have it."""
        return f"{self.language} {self.name}"


def sources_of(chunk: Chunk, uses: Iterable[str], state: State) -> tuple[Source, ...]:
    """Where each name comes from that a chunk takes over: of several languages that have it, the one that wrote it last.

    Names that nobody has written are left out; `missing` tells of them.
    """
    own = spoken(chunk)
    found = []
    for name in uses:
        writers = [
            (world.names[name].writers[-1], language)
            for language, world in state.worlds.items()
            if language != own and name in world.names
        ]
        if writers:
            found.append(Source(name, max(writers)[1]))
    return tuple(found)


def missing(chunk: Chunk, uses: Iterable[str], state: State) -> PageError | None:
    """What is wrong with the names that a chunk is to take over; None for nothing."""
    own = spoken(chunk)
    there = sorted({name for language, world in state.worlds.items() if language != own for name in world.names})
    problems = []
    for name in uses:
        if name in there:
            continue
        what = f"the chunk `{chunk.label}` takes over {name!r}, which no chunk of another language above has written."
        hint = near_miss(name, there) or (f"There are: {', '.join(there)}." if there else "")
        if name in state.world(own).names:
            hint = "A chunk of its own language has written it: it is there without being taken over."
        problems.append(Problem(chunk.span, what, hint))
    return PageError(problems) if problems else None


def refused(chunk: Chunk, source: Source, trouble: str) -> PageError:
    """A value that cannot go to another language."""
    what = f"{source.name!r} cannot go from {source.language} to the chunk `{chunk.label}`: {trouble}."
    return PageError([Problem(chunk.span, what, "Make something of it that both languages have.")])
