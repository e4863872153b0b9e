"""Which chunks are fresh or stale, and why, found without running or unpickling anything."""

from __future__ import annotations

from collections import Counter
from typing import Any

from msgspec import Struct

from wornpage.plan.codes import code_key, compares_identity, layout
from wornpage.plan.conditions import ConditionFault, holds
from wornpage.plan.graph import Graph, graph_of
from wornpage.plan.growing import Growing
from wornpage.plan.reasons import Reasons, own_name
from wornpage.plan.seeding import seed_of
from wornpage.plan.state import Entry, State
from wornpage.plan.traces import result_of
from wornpage.settings import Settings
from wornpage.source import Page, all_chunks
from wornpage.store.blobs import Blobs
from wornpage.store.files import content
from wornpage.store.place import store_of
from wornpage.store.traces import Traces
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
    folder = store_of(page.path)
    traces = Traces(folder / "traces" if folder.is_dir() else None)
    reasons = Reasons(folder / "last", own_name(page, edition))
    growing = Growing(page, settings)
    layouts = {chunk.label: layout(chunk.code) for chunk in growing.chunks}
    identity = any(compares_identity(chunk.code) for chunk in all_chunks(page))
    blobs = Blobs(str(folder / "blobs") if folder.is_dir() else None)
    state = State(page.path.parent.resolve(), settings.given, settings.page.threads, layouts, identity)
    codes = Counter[str]()
    found: list[ChunkStatus] = []
    went_by: dict[str, dict[str, Any]] = {}
    for index, step in enumerate(growing.steps):  # which become more on the way
        chunk = step.chunk
        if chunk is None:
            continue
        options = settings.of(chunk).options
        seed = seed_of(chunk, options.seed, settings.page.seed, codes[chunk.code])
        codes[chunk.code] += 1
        if options.when and not _wanted(options.when, state.given):
            found.append(
                ChunkStatus(chunk.label, chunk.span.line, True, f"left out: `when` is not true: {options.when}", None)
            )
            continue
        key = code_key(chunk, (options.width, options.height, options.dpi), settings.page.threads)
        trace = None if options.rerun == "always" else traces.find(key, lambda item, seed=seed: state.now(item, seed))  # type: ignore[misc]
        tampered = [path for path, held in trace["written"] if content(state.full(path)) != held] if trace else []
        if trace is not None and not tampered:
            found.append(
                ChunkStatus(chunk.label, chunk.span.line, True, "nothing it reads has changed", trace["seconds"])
            )
            state.apply(trace, index)
            went_by[chunk.label] = trace
            result = result_of(trace, chunk, blobs) if step.insert else None
            if result is not None and growing.grow(index, result):
                state.layouts |= {chunk.label: layout(chunk.code) for chunk in growing.chunks}
            continue
        why = _why(chunk, key, state, seed, reasons, tampered, options.rerun == "always")
        found.append(ChunkStatus(chunk.label, chunk.span.line, False, why, reasons.seconds(chunk.label)))
        _expect(chunk, state, reasons, index)
        if chunk.label in reasons.last:
            went_by[chunk.label] = reasons.last[chunk.label]
    return Status(tuple(found), graph_of(tuple(growing.chunks), went_by))


def _wanted(condition: str, given: dict[str, Any]) -> bool:
    try:
        return holds(condition, given)
    except ConditionFault:
        return True


def _why(chunk: Chunk, key: str, state: State, seed: int, reasons: Reasons, tampered: list[str], always: bool) -> str:
    if always:
        return "it is set to run always"
    if tampered:
        return f"{tampered[0]}, which it writes, changed or is gone"
    return reasons.why(chunk, key, state, seed, afresh=False)


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
