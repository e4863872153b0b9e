"""Which chunks are fresh or stale, and why, found without running or unpickling anything."""

from __future__ import annotations

from msgspec import Struct

from wornpage.plan.codes import layout
from wornpage.plan.deciding import Decider, Fresh, LeftOut, Stale
from wornpage.plan.graph import Graph, graph_of
from wornpage.plan.growing import Growing
from wornpage.plan.languages import check_languages
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.store.place import store_of
from wornpage.store.trace import Last, Trace
from wornpage.tree.problem import stop_on_errors


class ChunkStatus(Struct, frozen=True):
    """The state of one chunk."""

    label: str
    line: int
    fresh: bool
    why: str
    seconds: float | None
    """What it took when it last ran; None if it never did."""


class Status(Struct, frozen=True):
    """The state of a page."""

    chunks: tuple[ChunkStatus, ...]
    graph: Graph
    runs: tuple[Trace, ...] = ()
    """Those that still hold."""

    @property
    def seconds(self) -> float:
        """What bringing the page up to date will take at most, as far as is known."""
        return sum(chunk.seconds or 0 for chunk in self.chunks if not chunk.fresh)


def status_of(page: Page, settings: Settings, edition: str = "", is_as_pressed: bool = False) -> Status:
    """What a pressing of `page`, or of one of its editions, would run. Raises `PageError` for languages that there are not.

    A stale chunk may turn out to make the same values: then fewer run. Where the page `is_as_pressed` there is nothing to do
    for a pressing, not even for a chunk that has changed itself what it finds.
    """
    stop_on_errors(check_languages(page, settings))
    growing = Growing(page, settings)
    decider = Decider(growing, store_of(page.path), edition)
    reasons, state = decider.reasons, decider.first
    found: list[ChunkStatus] = []
    went_by: dict[str, Trace | Last] = {}
    for index, step in enumerate(growing.steps):  # which become more on the way
        chunk = step.chunk
        if chunk is None:
            continue
        decision = decider.decide(decider.question(chunk, state))
        decider.pass_over(chunk)
        seconds = reasons.seconds(chunk.label)
        match decision:
            case LeftOut(why=why):
                found.append(ChunkStatus(chunk.label, chunk.span.line, True, f"left out: {why}", None))
            case Fresh(trace=trace, result=result, why=why):
                found.append(ChunkStatus(chunk.label, chunk.span.line, True, why, trace.seconds))
                state.apply(trace, index)
                went_by[chunk.label] = trace
                if step.insert is not None and growing.grow(index, result):
                    state.layouts |= {chunk.label: layout(chunk.code) for chunk in growing.chunks}
            case Stale(why=why):
                found.append(ChunkStatus(chunk.label, chunk.span.line, is_as_pressed, why, seconds))
                last = reasons.last.get(chunk.label)
                if last is not None:
                    state.expect(chunk.label, last, index)
                    went_by[chunk.label] = last
    runs = tuple(run for run in went_by.values() if isinstance(run, Trace))
    return Status(tuple(found), graph_of(tuple(growing.chunks), went_by), runs)
