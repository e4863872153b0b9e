"""Whether a chunk is fresh: the one place where it is decided, for pressing, running, proofs and telling the status alike."""

from __future__ import annotations

from collections import Counter
from copy import copy
from functools import cached_property
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from wornpage.plan.codes import code_key, layout, sight_of
from wornpage.plan.conditions import ConditionFault, holds
from wornpage.plan.growing import Growing
from wornpage.plan.handing import sources_of
from wornpage.plan.languages import asked_in, spoken
from wornpage.plan.marks import MarkStore
from wornpage.plan.querying import query_of
from wornpage.plan.reads import kind_of
from wornpage.plan.reasons import Reasons
from wornpage.plan.seeding import seed_of, seed_of_mark
from wornpage.plan.state import State, View
from wornpage.plan.together import Together
from wornpage.plan.traces import laid_out, result_of
from wornpage.session.results import ChunkResult
from wornpage.settings.levels import Settings
from wornpage.settings.models import ChunkOptions
from wornpage.source import all_chunks
from wornpage.store.blobs import Blobs
from wornpage.store.files import content
from wornpage.store.packages import look_again
from wornpage.store.place import is_there, own_name
from wornpage.store.trace import Item, Last, Trace
from wornpage.store.traces import Traces
from wornpage.team.runs import Team
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.project import project_of


class Question(Struct, frozen=True):
    """A chunk at its place in the page."""

    chunk: n.Chunk
    options: ChunkOptions
    key: str
    """Where its traces lie."""
    here: View
    """What holds there, as its code sees it."""

    @property
    def seed(self) -> int:
        """What its random numbers begin with."""
        return self.here.seed


class Fresh(Struct, frozen=True):
    """An earlier run still holds."""

    trace: Trace
    result: ChunkResult
    why: str = "nothing it reads has changed"
    whose: str = ""
    """Who of the team ran it, where it has just been had from them."""


class Stale(Struct, frozen=True):
    """It must run."""

    why: str


class LeftOut(Struct, frozen=True):
    """It is not wanted."""

    why: str
    problem: Problem | None = None
    """What is wrong with the condition that says so."""


Decision = Fresh | Stale | LeftOut


def _surrounded(settings: Settings) -> tuple[str, ...]:
    """What code finds about it that no read of it tells: how much memory it may take, and how figures begin."""
    memory, look = settings.page.limits.memory, settings.page.figures.look
    bounds = () if memory is None else (f"memory {memory}",)
    return bounds if look == "library" else (*bounds, f"figures look like the {look}")


class Decider:
    """Knows the store and the page, and counts the chunks it is asked about, in page order."""

    def __init__(
        self,
        growing: Growing,
        folder: Path,
        edition: str,
        afresh: bool = False,
        together: str = "",
        asks_team: bool = False,
    ) -> None:
        look_again()
        self.asks_team = asks_team and is_there(folder)
        """Whether what the team has run is taken; telling the status asks nobody."""
        self.growing, self.afresh = growing, afresh
        page = growing.page
        self.traces = Traces(folder / "traces" if is_there(folder) else None)
        self.together = Together(folder if is_there(folder) else None, together)
        self.blobs = Blobs(str(folder / "blobs") if is_there(folder) else None)
        self.reasons = Reasons(folder / "last", own_name(page.path, edition))
        self._folder, self._own = folder, own_name(page.path, edition)
        marks = [node for step in growing.steps for node in step.marks]
        codes = [(chunk.language, chunk.code) for chunk in all_chunks(page)]
        self.sight = sight_of([*codes, *((self.asked_in(mark), mark.expression) for mark in marks)], page.path.parent)
        layouts = {chunk.label: layout(chunk.code) for chunk in growing.chunks}
        settings = growing.settings
        self.team = Team(settings.page.store, project_of(page.path), folder, settings.place("store"), self._likely)
        self.first = State(page.path.parent.resolve(), settings.given, settings.page.threads, layouts, self.sight)
        self._seen = Counter[str]()
        self._done: set[str] = set()

    @cached_property
    def marks(self) -> MarkStore:
        """Answers of value marks."""
        return MarkStore(self._folder / "marks", self._own, use=not self.afresh)

    def foreseeing(self) -> Decider:
        """One that goes on from here by itself, to be asked what is likely below; it asks nobody else."""
        other = copy(self)
        other._seen, other._done, other.asks_team = self._seen.copy(), self._done.copy(), False
        return other

    def question(self, chunk: n.Chunk, state: State) -> Question:
        """Where `chunk` stands. To be asked once for each, in page order: seeds hang on that."""
        settings = self.growing.settings
        options = settings.of(chunk).options
        occurrence = self._seen[chunk.code]
        self._seen[chunk.code] += 1
        seed = seed_of(chunk, options.seed, settings.page.seed, occurrence)
        return Question(chunk, options, self._key(chunk, state), state.seen(spoken(chunk), seed))

    def _key(self, chunk: n.Chunk, state: State) -> str:
        """Where the traces of a chunk lie."""
        settings = self.growing.settings
        options = settings.of(chunk).options
        # The globs of `reads` count: what they say is to be watched from now on.
        handed = [source.read for source in sources_of(chunk, options.uses, state)]
        query = query_of(chunk, options, settings)
        asked = (query.database, query.address, query.into, query.probe) if query else ()
        parts = (options.width, options.height, options.dpi, *options.reads, *handed, *asked, *_surrounded(settings))
        return code_key(chunk, parts, settings.page.threads)

    def _likely(self) -> list[str]:
        """The keys of all chunks that are not handed anything."""
        settings = self.growing.settings
        return [self._key(chunk, self.first) for chunk in self.growing.chunks if not settings.of(chunk).options.uses]

    def asked_in(self, mark: n.ValueMark) -> str:
        """The language of a mark."""
        return asked_in(mark, self.growing.main)

    def mark_seed(self, mark: n.ValueMark) -> int:
        """The seed of the next value mark. To be asked once for each, in page order."""
        occurrence = self._seen[f"mark\0{mark.expression}"]
        self._seen[f"mark\0{mark.expression}"] += 1
        return seed_of_mark(mark, self.growing.settings.page.seed, occurrence)

    def decide(self, question: Question) -> Decision:
        """What is to become of a chunk."""
        chunk, options = question.chunk, question.options
        if options.when and (left_out := _left_out(chunk, options.when, question.here)):
            return left_out
        if options.rerun == "always":
            return Stale("it is set to run always")
        if self.afresh:
            return Stale("everything runs afresh")
        fresh = self._fresh(question)
        if fresh is None and self.asks_team and (whose := self.team.bring(question.key, question.here.now)):
            had = self._fresh(question)
            fresh = replace(had, why=f"{whose} ran it", whose=whose) if had is not None else None
        return fresh or Stale(self._why(question))

    def _fresh(self, question: Question) -> Fresh | None:
        """An earlier run that holds; None if there is none."""
        chunk = question.chunk
        trace = self.traces.find(question.key, question.here.now) or self.together.find(question.key, question.here.now)
        if trace is not None and not self._missing_file(trace, question):
            result = result_of(trace, chunk, self.blobs)
            if result is not None:
                return Fresh(laid_out(trace, chunk), result)
        return None

    def may_reuse(self, question: Question) -> bool:
        """Whether an earlier run, or one of another process, would do if it held."""
        return not self.afresh and question.options.rerun != "always"

    def work(self, question: Question) -> str:
        """An address for running a chunk as things are now: others that have it may do the same.

        What lies outside does not count: all who are at the page now find the same there, and a chunk that is running may
        just have changed it.
        """

        def within(item: Item) -> str:
            kind = kind_of(item[0])
            return "" if kind is not None and kind.outside else question.here.now(item)

        return self.traces.work(question.key, within)

    def pass_over(self, chunk: n.Chunk) -> None:
        """A chunk is done with, however it went."""
        self._done.add(chunk.label)

    def _why(self, question: Question) -> str:
        last = self.reasons.last.get(question.chunk.label)
        if last is not None and last.key == question.key and (gone := self._missing_file(last, question)):
            return f"{gone}, which it writes, changed or is gone"
        return self.reasons.why(question.chunk, question.key, question.here)

    def _missing_file(self, run: Trace | Last, question: Question) -> str:
        """The first file a chunk wrote that is not there any more, nor written over by a chunk further down; or nothing.

        One that was written over may have to be made again; so what it is made from must not be written over below, too.
        """
        for path, held in run.files.items():
            now = content(question.here.full(path))
            if now == held:
                continue
            below = self._written_below(question)
            # They have gone on with what the last run left: of another they may have left in it what that wrote.
            is_theirs = path in below and self.reasons.is_last(run.run) and now == self.reasons.final(path)
            if not is_theirs or not below.isdisjoint((*run.read("file"), *run.read("entry"))):
                return path
        return ""

    def _written_below(self, question: Question) -> set[str]:
        """Files that chunks further down wrote when the page last ran."""
        chunks, last = self.growing.chunks, self.reasons.last
        below = [one.label for one in chunks if one.label not in self._done and one is not question.chunk]
        return {name for label in below if label in last for name, _ in last[label].written}


def _left_out(chunk: n.Chunk, condition: str, here: View) -> LeftOut | None:
    """Why a chunk is left out, if its `when` is not true."""
    problem = None
    try:
        if holds(condition, here.given):
            return None
    except ConditionFault as fault:
        span = next((option.span for option in chunk.options if option.key == "when"), chunk.span)
        problem = Problem(span, f"`when` cannot be {condition!r}: {fault}.")
    return LeftOut(f"`when` is not true: {condition}", problem)
