"""What is known of where things come from: steps, what flows between them, and the sources at the end."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from wornpage.tree.span import Span


class Source(Struct, frozen=True, order=True):
    """Something outside of the page that a step read."""

    kind: str
    """`file`, `package`, `given`, `seed`, `environment`, `database`, `module`, `program`, `clock` or `network`."""
    name: str
    value: str
    """What it was: a file's hash, a version, a given value, a number to begin with."""


class Named(Struct, frozen=True):
    """What code names of a frame or a mapping, as far as that is certain."""

    columns: tuple[str, ...] = ()
    rows: tuple[str, ...] = ()
    """What picks rows, as written."""


class Flow(Struct, frozen=True):
    """A name that a step read, and who had written it."""

    name: str
    writer: str
    """The step's key; empty where none of the page did."""
    named: Named = Named()


class Step(Struct, frozen=True):
    """A chunk or a value mark as it stands now."""

    key: str
    """What it goes by here."""
    kind: str
    """`chunk` or `mark`."""
    label: str
    """Of a chunk; empty for a mark."""
    span: Span
    language: str
    code: str
    """A mark's expression."""
    first_line: int
    """Of the code, in its file."""
    sources: tuple[Source, ...]
    flows: tuple[Flow, ...]
    wrote: tuple[str, ...] = ()
    """Files."""
    binds: tuple[str, ...] = ()
    """Names."""
    at: float = 0.0
    """When a chunk last ran, in seconds since the epoch; 0 where that is not known."""
    seconds: float = 0.0
    type: str = ""
    """Of a mark's value, which follows."""
    value: object = None


class Lineage(Struct, frozen=True):
    """All steps of a page, in page order."""

    steps: dict[str, Step]

    def above(self, key: str) -> Iterator[Step]:
        """A step and all that it comes from, each once, nearest first."""
        waiting, seen = [key], set[str]()
        while waiting:
            one = waiting.pop(0)
            if one in seen or one not in self.steps:
                continue
            seen.add(one)
            yield self.steps[one]
            waiting += writers_of(self.steps[one])

    def below(self, starts: set[str]) -> Iterator[Step]:
        """Steps and all that comes from them, in page order; `starts` are keys."""
        reached = set(starts)
        for key, step in self.steps.items():
            if key in reached or reached.intersection(writers_of(step)):
                reached.add(key)
                yield step

    def columns_of(self, writer: str, name: str, within: set[str]) -> Named:
        """What the steps `within` name of what one of them wrote under a name."""
        found = [
            flow.named
            for key in within
            for flow in self.steps[key].flows
            if flow.name == name and writer in {flow.writer, key}
        ]
        columns = dict.fromkeys(column for one in found for column in one.columns)
        return Named(tuple(columns), tuple(dict.fromkeys(row for one in found for row in one.rows)))


def writers_of(step: Step) -> list[str]:
    """The keys of the steps that a step hangs on, each once."""
    return list(dict.fromkeys(flow.writer for flow in step.flows if flow.writer and flow.writer != step.key))
