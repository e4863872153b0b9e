"""Whether a chunk is fresh: the one place where it is decided, for pressing, running and telling the status alike."""

from __future__ import annotations

from collections import Counter
from pathlib import Path
from typing import Any

from wornpage.plan.codes import code_key, layout, sight_of
from wornpage.plan.growing import Growing
from wornpage.plan.reasons import Reasons
from wornpage.plan.seeding import seed_of, seed_of_mark
from wornpage.plan.state import State
from wornpage.plan.traces import laid_out, result_of
from wornpage.session.results import ChunkResult
from wornpage.source import all_chunks
from wornpage.store.blobs import Blobs
from wornpage.store.files import content
from wornpage.store.packages import look_again
from wornpage.store.place import is_there, own_name
from wornpage.store.traces import Traces
from wornpage.tree import nodes as n


class Decider:
    """Knows the store and the page, and counts the chunks it is asked about, in page order."""

    def __init__(self, growing: Growing, folder: Path, edition: str) -> None:
        look_again()
        self.growing, self.settings = growing, growing.settings
        page = growing.page
        self.traces = Traces(folder / "traces" if is_there(folder) else None)
        self.blobs = Blobs(str(folder / "blobs") if is_there(folder) else None)
        self.reasons = Reasons(folder / "last", own_name(page.path, edition))
        marks = [node for step in growing.steps for node in step.marks]
        self.sight = sight_of(
            [*(chunk.code for chunk in all_chunks(page)), *(mark.expression for mark in marks)], page.path.parent
        )
        layouts = {chunk.label: layout(chunk.code) for chunk in growing.chunks}
        threads = self.settings.page.threads
        self.first = State(page.path.parent.resolve(), self.settings.given, threads, layouts, self.sight)
        self._seen = Counter[str]()
        self._done: set[str] = set()

    def seed(self, chunk: n.Chunk) -> int:
        """The seed of the next chunk. To be asked once for each, in page order."""
        options = self.settings.of(chunk).options
        occurrence = self._seen[chunk.code]
        self._seen[chunk.code] += 1
        return seed_of(chunk, options.seed, self.settings.page.seed, occurrence)

    def mark_seed(self, mark: n.ValueMark) -> int:
        """The seed of the next value mark. To be asked once for each, in page order."""
        occurrence = self._seen[f"mark\0{mark.expression}"]
        self._seen[f"mark\0{mark.expression}"] += 1
        return seed_of_mark(mark, self.settings.page.seed, occurrence)

    def key(self, chunk: n.Chunk) -> str:
        """Where a chunk's traces lie. The globs of `reads` count: what they say is to be watched from now on."""
        options = self.settings.of(chunk).options
        parts = (options.width, options.height, options.dpi, *options.reads)
        return code_key(chunk, parts, self.settings.page.threads)

    def runs_always(self, chunk: n.Chunk) -> bool:
        """Whether a chunk is set to run each time."""
        return self.settings.of(chunk).options.rerun == "always"

    def fitting(self, chunk: n.Chunk, key: str, seed: int, state: State) -> tuple[dict[str, Any], ChunkResult] | None:
        """The trace of an earlier run that still holds where `state` does, and what it showed; None if the chunk must run."""
        trace = self.traces.find(key, lambda item: state.now(item, seed))
        if trace is None or not self._files_stand(trace, chunk, state):
            return None
        result = result_of(trace, chunk, self.blobs)
        return None if result is None else (laid_out(trace, chunk), result)

    def pass_over(self, chunk: n.Chunk) -> None:
        """A chunk is done with, however it went."""
        self._done.add(chunk.label)

    def _files_stand(self, trace: dict[str, Any], chunk: n.Chunk, state: State) -> bool:
        """Whether every file the chunk wrote is still there, or has been written over by a chunk further down."""
        return all(
            content(state.full(path)) == held or self._written_later(path, chunk, state)
            for path, held in trace["written"]
        )

    def _written_later(self, path: str, chunk: n.Chunk, state: State) -> bool:
        """Whether a chunk further down wrote the same file when the page last ran, and it is as that left it."""
        below = [other.label for other in self.growing.chunks if other.label not in self._done and other is not chunk]
        last = self.reasons.last
        later = any(name == path for label in below if label in last for name, _ in last[label]["written"])
        return later and content(state.full(path)) == self.reasons.final(path)
