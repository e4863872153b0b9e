"""Which chunks are fresh or stale, and why, found without running or unpickling anything."""

from __future__ import annotations

from typing import Any

from msgspec import Struct

from wornpage.plan.codes import layout
from wornpage.plan.conditions import ConditionFault, holds
from wornpage.plan.deciding import Decider
from wornpage.plan.graph import Graph, graph_of
from wornpage.plan.growing import Growing
from wornpage.plan.reasons import Reasons
from wornpage.plan.state import Entry, State
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.store.files import content
from wornpage.store.place import store_of
from wornpage.tree.nodes import Chunk


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

    @property
    def seconds(self) -> float:
        """What bringing the page up to date will take at most, as far as is known."""
        return sum(chunk.seconds or 0 for chunk in self.chunks if not chunk.fresh)


def status_of(page: Page, settings: Settings, edition: str = "") -> Status:
    """What a pressing of `page`, or of one of its editions, would run. A stale chunk may turn out to make the same values: then fewer run."""
    growing = Growing(page, settings)
    decider = Decider(growing, store_of(page.path), edition)
    reasons, state = decider.reasons, decider.first
    found: list[ChunkStatus] = []
    went_by: dict[str, dict[str, Any]] = {}
    for index, step in enumerate(growing.steps):  # which become more on the way
        chunk = step.chunk
        if chunk is None:
            continue
        when = settings.of(chunk).options.when
        seed = decider.seed(chunk)
        if when and not _wanted(when, state.given):
            decider.pass_over(chunk)
            found.append(ChunkStatus(chunk.label, chunk.span.line, True, f"left out: `when` is not true: {when}", None))
            continue
        key = decider.key(chunk)
        fitting = None if decider.runs_always(chunk) else decider.fitting(chunk, key, seed, state)
        if fitting is not None:
            trace, result = fitting
            found.append(
                ChunkStatus(chunk.label, chunk.span.line, True, "nothing it reads has changed", trace["seconds"])
            )
            decider.pass_over(chunk)
            state.apply(trace, index)
            went_by[chunk.label] = trace
            if step.insert is not None and growing.grow(index, result):
                state.layouts |= {chunk.label: layout(chunk.code) for chunk in growing.chunks}
            continue
        why = _why(chunk, key, state, seed, decider)
        found.append(ChunkStatus(chunk.label, chunk.span.line, False, why, reasons.seconds(chunk.label)))
        decider.pass_over(chunk)
        _expect(chunk, state, reasons, index)
        if chunk.label in reasons.last:
            went_by[chunk.label] = reasons.last[chunk.label]
    return Status(tuple(found), graph_of(tuple(growing.chunks), went_by))


def _wanted(condition: str, given: dict[str, Any]) -> bool:
    try:
        return holds(condition, given)
    except ConditionFault:
        return True


def _why(chunk: Chunk, key: str, state: State, seed: int, decider: Decider) -> str:
    if decider.runs_always(chunk):
        return "it is set to run always"
    for path, held in decider.reasons.last.get(chunk.label, {}).get("written", ()):
        if content(state.full(path)) != held:
            return f"{path}, which it writes, changed or is gone"
    return decider.reasons.why(chunk, key, state, seed, afresh=False)


def _expect(chunk: Chunk, state: State, reasons: Reasons, index: int) -> None:
    """What a stale chunk wrote when it last ran it will write anew: who reads that is stale too, as far as is known."""
    last = reasons.last.get(chunk.label)
    if last is None:
        return
    state.ambient |= {item: value for item, value in last["ambient"].items() if value}
    state.modules |= last["modules"]
    for name in last["names"]:
        state.names[name] = Entry("", f"pending:{chunk.label}", {"live": True}, (index,))
    for path, _ in last["written"]:
        state.files[path] = (f"pending:{chunk.label}", index)
