"""Walk over a page: reuse what is provably still right, run what must run, keep what came of it.

Steps go from the top down. A chunk is fresh if one of its traces has every read equal now; the state then moves on as that
trace tells, and no session is needed. The first chunk that must run starts a session, which is given what it needs of
the steps above: values from the store, definitions run again, and, where nothing else will do, whole
chunks replayed in page order with their output dropped.
"""

from __future__ import annotations

import secrets
from collections.abc import Callable
from functools import partial
from pathlib import Path
from threading import Thread
from typing import Any, TypeVar

from wornpage.plan.codes import definitions_in, layout, reachable
from wornpage.plan.conditions import ConditionFault, holds
from wornpage.plan.deciding import Decider
from wornpage.plan.graph import graph_of
from wornpage.plan.growing import Growing
from wornpage.plan.marks import MarkStore
from wornpage.plan.nursery import Common, Nursery
from wornpage.plan.record import ChunkOutcome, MarkOutcome, Outcome, Record, Reporter
from wornpage.plan.state import State
from wornpage.plan.stopping import Stopper
from wornpage.plan.traces import make_trace
from wornpage.session.early import Early
from wornpage.session.failures import Places, chunk_problem, mark_problem
from wornpage.session.process import ChunkTask, Interrupted, MarkTask, Position, Ran, Session, SessionOver
from wornpage.session.results import Answer, answer_from
from wornpage.settings import Settings
from wornpage.source import Page, all_chunks
from wornpage.store.alone import alone
from wornpage.store.blobs import Blobs
from wornpage.store.files import content
from wornpage.store.place import make_store, own_name, store_of
from wornpage.store.traces import Item
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError, Problem, Severity
from wornpage.tree.span import Span

T = TypeVar("T")


def run_page(
    page: Page,
    settings: Settings,
    front_marks: tuple[n.Node, ...],
    reporter: Reporter,
    afresh: bool = False,
    store: Path | None = None,
    early: Early | None = None,
    until: str = "",
    edition: str = "",
    nursery: Nursery | None = None,
    stopper: Stopper | None = None,
) -> Record:
    """Bring every chunk and mark of `page` up to date, or those down to the chunk `until`; `afresh` reuses nothing.

    Code at fault is told in `Record.problems`. Raises `PageError` when the user breaks off.
    """
    growing = Growing(page, settings, front_marks)
    if not growing.steps:
        return Record({}, {}, (), page=page)
    folder = store or store_of(page.path)
    try:
        return _Walk(growing, reporter, folder, afresh, early, until, edition, nursery, stopper).run()
    except _Unrepeatable:
        # A chunk that had to run again made something else this time: only a run from the top keeps all in step.
        return _Walk(
            Growing(page, settings, front_marks),
            reporter,
            folder,
            afresh=True,
            until=until,
            edition=edition,
            stopper=stopper,
        ).run()


class _Unrepeatable(Exception):
    """A replayed chunk did not do what its trace tells."""


class _Walk:
    def __init__(
        self,
        growing: Growing,
        reporter: Reporter,
        folder: Path,
        afresh: bool,
        early: Early | None = None,
        until: str = "",
        edition: str = "",
        nursery: Nursery | None = None,
        stopper: Stopper | None = None,
    ) -> None:
        self.growing, self.steps = growing, growing.steps
        page, settings = growing.page, growing.settings
        self.page, self.settings, self.reporter, self.afresh = page, settings, reporter, afresh
        self.early, self.until = early, until
        self.nursery = nursery
        self.stopper = stopper or Stopper()
        self.edition = edition
        keeps = make_store(folder)
        self.decider = Decider(growing, folder, edition)
        self.traces, self.blobs, self.reasons = self.decider.traces, self.decider.blobs, self.decider.reasons
        self.writable = keeps
        self.locks = folder if keeps else None
        self.marks = MarkStore(folder / "marks", own_name(page.path, edition), use=not afresh)
        self.chunks = {chunk.label: chunk for chunk in growing.chunks}
        """All chunks known so far, by label."""
        self.places = Places(page.name, self.chunks)
        self.outcomes: dict[str, ChunkOutcome] = {}
        self.answers: dict[Span, Answer] = {}
        self.problems: list[Problem] = []
        self.state = self.decider.first
        self.before: list[State] = []
        """The state before each step, as far as the walk has come."""
        self.kept: dict[int, dict[str, Any]] = {}
        """The trace that each step went by."""
        self.definitions = definitions_in(chunk.code for chunk in all_chunks(page))
        self.session: Session | None = None
        self.executed: list[int] = []
        self.replayed: list[tuple[str, str, tuple[str, ...]]] = []
        """Old run, new run and names of each step that has been run again."""
        self.sent: dict[str, tuple[str, str]] = {}
        self.forced: set[int] = set()
        self.seeds: dict[int, int] = {}
        self.marked: dict[Span, MarkOutcome] = {}
        """What value marks read, by their place."""

    # --- the walk -----------------------------------------------------------------------------

    def run(self) -> Record:
        """All steps, or up to the first that fails."""
        try:
            for index, step in enumerate(self.steps):  # which become more on the way
                self.before.append(self.state.copy())
                if step.chunk is not None and not self.chunk(index, step.chunk):
                    break
                if step.chunk is not None and step.chunk.label == self.until:
                    break
                if step.insert is not None and not self.grow(index):
                    break
                if step.marks and not self.ask(index, step.marks):
                    break
        finally:
            self.let_go()
            self.marks.save(self.writable)
            self.reasons.save(self.writable)
        return self.record()

    def grow(self, index: int) -> bool:
        """Go on with what an insert turned out to stand for; False if that cannot be."""
        label = self.steps[index].chunk.label  # type: ignore[union-attr]
        result = self.outcomes[label].result
        known = len(self.steps)
        if result is None or not self.growing.grow(index, result):
            return False
        for step in self.steps[index + 1 : index + 1 + len(self.steps) - known]:
            if step.chunk is not None:
                self.chunks[step.chunk.label] = step.chunk
                self.state.layouts[step.chunk.label] = layout(step.chunk.code)
        return True

    def record(self) -> Record:
        """What has been found; chunks that were not reached are left out."""
        page = self.growing.whole()
        for chunk in page.chunks:
            if chunk.label not in self.outcomes:
                outcome = ChunkOutcome(chunk.label, Outcome.LEFT_OUT, 0, "a chunk above it failed", None)
                self.outcomes[chunk.label] = outcome
        ordered = {chunk.label: self.outcomes[chunk.label] for chunk in page.chunks}
        traces = {step.chunk.label: self.kept[i] for i, step in enumerate(self.steps) if step.chunk and i in self.kept}
        graph = graph_of(page.chunks, traces)
        found = [*self.problems, *self.growing.problems]
        errors = tuple(problem for problem in found if problem.severity is Severity.ERROR)
        warnings = tuple(problem for problem in found if problem.severity is not Severity.ERROR)
        return Record(ordered, self.answers, errors, traces, graph, page, self.marks_in_order(), warnings)

    def let_go(self) -> None:
        """End the session while the work goes on here: leaving takes Python a while."""
        if self.session is not None:
            Thread(target=self.session.close, name="closing a session").start()
            self.session = None

    def close(self) -> None:
        """End the session."""
        if self.session is not None:
            self.session.close()
        self.session, self.executed, self.sent = None, [], {}

    def chunk(self, index: int, chunk: n.Chunk) -> bool:
        """One chunk, reused or run; False if the walk ends here."""
        options = self.settings.of(chunk).options
        seed = self.seeds[index] = self.decider.seed(chunk)
        if options.when and not self.wanted(chunk, options.when):
            self.decider.pass_over(chunk)
            return True
        key = self.decider.key(chunk)
        if self.afresh or self.decider.runs_always(chunk):
            return self.run_chunk(index, chunk, key, seed)
        if self.reused(index, chunk, key, seed):
            return True
        while True:
            work = self.traces.work(key, lambda item: self.state.now(item, seed))
            with alone(self.locks, work):
                # Another process may have done it meanwhile, and so have told what the work hangs on.
                if self.reused(index, chunk, key, seed):
                    return True
                if work == self.traces.work(key, lambda item: self.state.now(item, seed)):
                    return self.run_chunk(index, chunk, key, seed)

    def reused(self, index: int, chunk: n.Chunk, key: str, seed: int) -> bool:
        """Go by an earlier run of a chunk if one still holds; False if it must run."""
        found = self.decider.fitting(chunk, key, seed, self.state)
        if found is None:
            return False
        trace, result = found
        why = "nothing it reads has changed"
        self.outcomes[chunk.label] = ChunkOutcome(chunk.label, Outcome.REUSED, trace["seconds"], why, result)
        self.take(index, chunk, trace)
        return True

    def wanted(self, chunk: n.Chunk, condition: str) -> bool:
        """Whether a chunk's `when` is true; a chunk that is not wanted is left out."""
        try:
            if holds(condition, self.state.given):
                return True
        except ConditionFault as fault:
            span = next((option.span for option in chunk.options if option.key == "when"), chunk.span)
            self.problems.append(Problem(span, f"`when` cannot be {condition!r}: {fault}."))
        why = f"`when` is not true: {condition}"
        self.outcomes[chunk.label] = ChunkOutcome(chunk.label, Outcome.LEFT_OUT, 0, why, None)
        return False

    def take(self, index: int, chunk: n.Chunk, trace: dict[str, Any]) -> None:
        """Move the state on over a step."""
        self.kept[index] = trace
        self.reasons.note(chunk.label, trace)
        self.decider.pass_over(chunk)
        self.state.apply(trace, index)

    # --- running ------------------------------------------------------------------------------

    def run_chunk(self, index: int, chunk: n.Chunk, key: str, seed: int) -> bool:
        """Run a chunk where it stands and keep its trace; False if the walk ends here."""
        number, total = len(self.outcomes) + 1, len(self.chunks)
        options = self.settings.of(chunk).options
        why = (
            "it is set to run always"
            if options.rerun == "always"
            else self.reasons.why(chunk, key, self.state, seed, self.afresh)
        )
        self.stopper.check()
        self.reporter.started(chunk, number, total)
        run = secrets.token_hex(8)
        globs = {pattern: self.state.now(("glob", pattern), seed) for pattern in options.reads}

        def act(session: Session) -> tuple[Ran, str]:
            session.on_tally = partial(self.reporter.tallied, chunk)
            self.stopper.begin(chunk, session)
            try:
                made = session.run(self.task(chunk, index, run), self.position(self.state))
            finally:
                self.stopper.end()
            return made, made.needs

        try:
            ran = self.in_session(index, self.state, reachable(chunk.code, self.definitions), act)
        except Interrupted as broken:
            raise PageError([chunk_problem(broken.failure, chunk, self.places)]) from None
        result = ran.result
        failed = result.failure is not None and (options.on_error == "stop" or result.failure.kind in _ENDS)
        outcome = ChunkOutcome(chunk.label, Outcome.FAILED if failed else Outcome.RAN, result.seconds, why, result)
        self.outcomes[chunk.label] = outcome
        self.reporter.finished(outcome, number, total)
        if failed and result.failure is not None:
            self.problems.append(chunk_problem(result.failure, chunk, self.places))
            return False
        self.executed.append(index)
        trace, reads = make_trace(
            ran, chunk, key, run, self.state, seed, self.blobs if self.writable else Blobs(None), globs
        )
        if self.writable and _may_keep(reads):
            self.traces.put(key, reads, trace)
        self.take(index, chunk, trace)
        self.note_sent(ran, run)
        return True

    def note_sent(self, ran: Ran, run: str) -> None:
        """What the session knows of names after it has run a chunk."""
        for name, told in ran.found.get("names", {}).items():
            self.sent[name] = (run, told["print"])
        for name in ran.found.get("deleted", ()):
            self.sent.pop(name, None)

    def task(self, chunk: n.Chunk, index: int, run: str) -> ChunkTask:
        """`chunk` as the session needs to know it."""
        options = self.settings.of(chunk).options
        return ChunkTask(
            chunk.label, chunk.code, self.seeds[index], options.timeout, options.width or 0, options.height or 0,
            options.dpi, run, options.keep != "no" and self.writable, chunk.binds,
        )  # fmt: skip

    def in_session(self, index: int, state: State, names: set[str], act: Callable[[Session], tuple[T, str]]) -> T:
        """Do something in a session where `state` holds, with all that steps before `index` left behind.

        `act` gives what came of it, and a name that must be made again first; it is then done again in a new session.
        """
        self.forced |= self.live_writers(state, names)
        for _ in range(len(self.steps) + 2):
            made, needs = act(self.prepared(index, state))
            if not needs:
                return made
            self.force(state, needs)
        raise _Unrepeatable

    def force(self, state: State, name: str) -> None:
        """Have the writers of `name` run again, in a new session. Raises `_Unrepeatable` if they already have."""
        writers = set(state.names[name].writers) if name in state.names else set()
        if not writers or writers <= set(self.executed):
            raise _Unrepeatable(name)
        self.forced |= writers
        self.close()

    def prepared(self, index: int, state: State) -> Session:
        """A session in which everything has been replayed that what comes before `index` left behind."""
        for _ in range(len(self.steps) + 2):
            needed = self.needed(index, state)
            missing = [step for step in needed if step not in self.executed]
            if self.session is not None and missing and self.executed and missing[0] < self.executed[-1]:
                self.close()
                missing = needed
            if self.session is None:
                self.begin_session(index)
                missing = [step for step in needed if step not in self.executed]
            if all(self.replay(step) for step in missing) and self.session is not None:
                return self.session
        raise _Unrepeatable

    def begin_session(self, index: int) -> None:
        """Start a session: one that knows what editions share, if it can be had; else an empty one."""
        if self.nursery is not None:
            kept = [self.kept.get(step) if self.steps[step].chunk else NOTHING_RUN for step in range(index)]
            born = self.nursery.child(kept, self.mother, self.state.given)
            if born is not None:
                self.session, common = born
                self.executed, self.sent = list(common.executed), dict(common.sent)
                for old, new, names in common.renamed:
                    self.rename_versions(old, new, names)
                return
        ready = self.early.take(self.settings.page.threads) if self.early else None
        self.session = ready or Session(self.settings.page.threads)
        self.open_session()

    def open_session(self) -> None:
        assert self.session is not None
        folder = self.page.path.parent.resolve()
        sight = self.decider.sight
        noted = [kind for kind in ("identity", "times", "rights") if getattr(sight, kind)]
        self.session.open(folder, self.page.path.name, self.state.given, self.blobs.folder, noted)

    def mother(self, shared: int) -> Common:
        """A session that stands after the first `shared` steps, with all their values loaded."""
        self.session, self.executed, self.sent = Session(self.settings.page.threads), [], {}
        common = Common(self.session)
        self.replayed = common.renamed
        self.open_session()
        state = self.before[shared] if shared < len(self.before) else self.state
        if not all(self.replay(step) for step in self.needed(shared, state)):
            raise _Unrepeatable
        self.session.hold(self.position(state))
        common.executed, common.sent = self.executed, self.sent
        self.session, self.executed, self.sent, self.replayed = None, [], {}, []
        return common

    def needed(self, index: int, state: State) -> list[int]:
        """Steps before `index` that every session must run again: effects, live values, files that are gone."""
        found = {step for step, trace in self.kept.items() if step < index and trace["effects"]}
        found |= {step for step in self.forced if step < index}
        for path, (held, step) in state.files.items():
            if step < index and content(self.state.full(path)) != held:
                found.add(step)
        todo = list(found)
        while todo:
            step = todo.pop()
            if step in self.kept:
                more = (self.before_it(step) | self.after_it(step, index)) - found
                found |= more
                todo += more
        return sorted(step for step in found if step in self.kept)

    def before_it(self, step: int) -> set[int]:
        """The steps that must run again before `step` can: those that made the live values and the files it reads."""
        reads = [(kind, what) for (kind, what), _ in self.kept[step]["reads"]]
        found = self.live_writers(self.before[step], {what for kind, what in reads if kind == "name"})
        files = self.before[step].files
        for kind, what in reads:
            if kind == "file" and what in files and content(self.state.full(what)) != files[what][0]:
                found.add(files[what][1])
        return found

    def after_it(self, step: int, index: int) -> set[int]:
        """The steps before `index` that must run again after `step`, because it writes over what they wrote."""
        paths = {path for path, _ in self.kept[step]["written"]}
        return {
            later
            for later, trace in self.kept.items()
            if step < later < index and any(path in paths for path, _ in trace["written"])
        }

    def live_writers(self, state: State, names: set[str]) -> set[int]:
        """The steps that made the live values among `names`."""
        return {
            step
            for name in names
            if name in state.names and state.names[name].is_live
            for step in state.names[name].writers
        }

    def replay(self, index: int) -> bool:
        """Run a step again for what it leaves behind; its output is dropped. False if others must be replayed first.

        Raises `_Unrepeatable` if it does not do what its trace tells.
        """
        chunk, trace = self.steps[index].chunk, self.kept[index]
        assert chunk is not None and self.session is not None
        run = secrets.token_hex(8)
        ran = self.session.run(self.task(chunk, index, run), self.position(self.before[index]))
        if ran.needs:
            self.force(self.before[index], ran.needs)
            return False
        self.executed.append(index)
        globs = {what: held for (kind, what), held in trace["reads"] if kind == "glob"}
        again, _ = make_trace(
            ran, chunk, trace["key"], run, self.before[index], self.seeds[index], Blobs(None), globs
        )  # fmt: skip
        if not _same_outcome(again, trace):
            raise _Unrepeatable(chunk.label)
        names = tuple(ran.found.get("names", {}))
        self.replayed.append((trace["run"], run, names))
        self.rename_versions(trace["run"], run, names)
        self.note_sent(ran, run)
        return True

    def rename_versions(self, old: str, new: str, written: tuple[str, ...]) -> None:
        """Names that the replayed chunk made are those of its trace: the session need not load them."""
        for state in (*self.before, self.state):
            for name in written:
                entry = state.names.get(name)
                if entry is not None and entry.version == old:
                    entry.version = new
        for trace in self.kept.values():
            if trace["run"] == old:
                trace["run"] = new

    def position(self, state: State) -> Position:
        """What the session must be told to stand where `state` holds."""
        table = {}
        for name, entry in state.names.items():
            if self.sent.get(name) != (entry.version, entry.print):
                table[name] = {
                    "version": entry.version, "print": entry.print, "provider": entry.provider, "over": entry.over,
                    "group": entry.group.split(" ")[1:], "ends": entry.ends,
                }  # fmt: skip
                self.sent[name] = (entry.version, entry.print)
        gone = tuple(name for name in self.sent if name not in state.names)
        for name in gone:
            del self.sent[name]
        return Position(table, gone, state.ambient, tuple(state.names))

    # --- marks --------------------------------------------------------------------------------

    def ask(self, index: int, marks: tuple[n.ValueMark, ...]) -> bool:
        """The marks of one step; those that read nothing new keep their answers. False if the session ended."""
        stale: list[tuple[n.ValueMark, int]] = []
        for mark in marks:
            seed = self.decider.mark_seed(mark)
            known = self.marks.find(mark, partial(self.now, seed=seed))
            if known is None:
                stale.append((mark, seed))
            else:
                self.answers[mark.span] = answer_from(known["answer"])
                self.note_reads(mark, known["reads"])
        return self.ask_session(index, stale) if stale else True

    def now(self, item: Item, seed: int) -> str:
        """What something that can be read is where the walk stands."""
        return self.state.now(item, seed)

    def ask_session(self, index: int, marks: list[tuple[n.ValueMark, int]]) -> bool:
        tasks = [MarkTask(str(mark.span), mark.expression, format_of(mark.form), seed) for mark, seed in marks]
        names = set().union(*(reachable(mark.expression, self.definitions) for mark, _ in marks))

        def act(session: Session) -> tuple[tuple[list[Answer], list[dict[str, Any]]], str]:
            answers, told, needs = session.answer(tasks, self.position(self.state))
            return (answers, told), needs

        try:
            answers, told = self.in_session(index + 1, self.state, names, act)
        except SessionOver:
            self.problems.append(
                Problem(marks[0][0].span, "the session ended while a value mark after this place was read.")
            )
            self.close()
            return False
        for (mark, seed), answer, found in zip(marks, answers, told, strict=True):
            self.note_answer(mark, seed, answer, found)
        return True

    def note_answer(self, mark: n.ValueMark, seed: int, answer: Answer, found: dict[str, Any]) -> None:
        self.answers[mark.span] = answer
        if answer.failure is not None:
            self.problems.append(mark_problem(answer.failure, mark.expression, mark.span, self.places))
        elif found["changed"]:
            what = f"the value mark `{mark.expression}` changes {found['changed']}; a mark only looks."
            self.problems.append(Problem(mark.span, what, "Do it in a chunk."))
        else:
            reads = self.marks.put(mark, found, self.state, seed)
            self.note_reads(mark, reads)

    def note_reads(self, mark: n.ValueMark, reads: list[list[str]]) -> None:
        """This is what a mark went by."""
        self.marked[mark.span] = MarkOutcome(mark, tuple((kind, name, value) for kind, name, value in reads))

    def marks_in_order(self) -> list[MarkOutcome]:
        """What became of the marks, in page order, whichever were asked first."""
        marks = [mark for step in self.steps for mark in step.marks]
        return [self.marked[mark.span] for mark in marks if mark.span in self.marked]


NOTHING_RUN: dict[str, Any] = {"reads": [], "run": "", "layout": ""}
"""Stands for the trace of a step without a chunk."""
_ENDS = frozenset({"crash", "timeout", "SystemExit", "interrupt"})
"""Failures after which there is no session, or none worth going on with, whatever `on-error` says."""


def _may_keep(reads: list[tuple[Item, str]]) -> bool:
    """Whether a trace may be kept: not if a file changed under the chunk's hands."""
    return not any(value == "changed while it was read" for _, value in reads)


def _same_outcome(again: dict[str, Any], trace: dict[str, Any]) -> bool:
    """Whether a replay did what the trace tells."""
    names, before = _prints(again), _prints(trace)
    return names == before and again["deleted"] == trace["deleted"] and again["written"] == trace["written"]


def _prints(trace: dict[str, Any]) -> dict[str, str]:
    """What a run wrote, by name; live values have nothing that could be compared."""
    return {name: told["print"].partition("live:")[0] for name, told in trace["names"].items()}


def format_of(form: str) -> str:
    """The format specification in a quoted form; empty for any other form."""
    return form[1:-1] if form[:1] in {'"', "'"} else ""
