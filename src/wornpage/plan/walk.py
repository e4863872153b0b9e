"""Walk over a page: reuse what is provably still right, run what must run, keep what came of it.

Steps go from the top down. A chunk is fresh if one of its traces has every read equal now (`deciding`); the state then moves
on as that trace tells, and no session is needed. What must run, runs in a session that stands at its place (`standing`);
so are value marks asked (`asking`).
"""

from __future__ import annotations

import secrets
from functools import partial
from pathlib import Path

from msgspec.structs import replace

from wornpage.plan.ahead import Ahead, Made, is_for_cluster
from wornpage.plan.asking import Asking
from wornpage.plan.codes import Definitions, layout
from wornpage.plan.deciding import Decider, Fresh, LeftOut, Question, Stale
from wornpage.plan.graph import graph_of
from wornpage.plan.growing import Growing
from wornpage.plan.handing import missing, sources_of
from wornpage.plan.languages import spoken
from wornpage.plan.looking import may_have_seen, may_look_at
from wornpage.plan.nursery import Nursery
from wornpage.plan.progress import Progress
from wornpage.plan.record import ChunkOutcome, Outcome, Record, Reporter
from wornpage.plan.standing import Sessions, Unrepeatable
from wornpage.plan.stopping import Stopper
from wornpage.plan.together import changed_by_itself
from wornpage.plan.traces import make_trace
from wornpage.session.afar.cluster import Cluster, NotThere
from wornpage.session.early import Early
from wornpage.session.failures import Places, chunk_problem
from wornpage.session.faults import interrupt_failure
from wornpage.session.language import Session
from wornpage.session.tasks import AtEnd, ChunkTask, Environment, Interrupted, Position, Ran, SessionOver
from wornpage.settings import Settings
from wornpage.source import Page, all_chunks
from wornpage.store.alone import alone
from wornpage.store.blobs import Blobs
from wornpage.store.place import make_store, store_of
from wornpage.store.trace import Trace, page_of
from wornpage.tree import nodes as n
from wornpage.tree.machine import is_helper, own_share
from wornpage.tree.problem import PageError, Problem, Severity


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
    together: str = "",
    is_at_work: bool = False,
) -> Record:
    """Bring every chunk and mark of `page` up to date, or those down to the chunk `until`; `afresh` reuses nothing.

    `is_at_work` says that somebody works on this page, and will soon want the same again.
    Code at fault is told in `Record.problems`. Raises `PageError` when the user breaks off.
    """
    growing = Growing(page, settings, front_marks)
    if not growing.steps:
        return Record({}, {}, (), page=page)
    folder = store or store_of(page.path)
    stopper = stopper or Stopper()
    writable = make_store(folder)
    try:
        decider = Decider(growing, folder, edition, afresh, together, asks_team=writable)
        at_once = settings.page.chunks_at_once or own_share()
        return _Walk(growing, reporter, folder if writable else None, decider, until, stopper, at_once).run(
            early, nursery, is_at_work
        )
    except Unrepeatable:
        # A chunk that had to run again made something else this time: only a run from the top keeps all in step.
        growing = Growing(page, settings, front_marks)
        decider = Decider(growing, folder, edition, afresh=True)
        return _Walk(growing, reporter, folder if writable else None, decider, until, stopper).run(None, None)


class _Walk:
    def __init__(
        self,
        growing: Growing,
        reporter: Reporter,
        store: Path | None,
        decider: Decider,
        until: str,
        stopper: Stopper,
        at_once: int = 1,
    ) -> None:
        page = growing.page
        self.growing, self.reporter, self.until, self.stopper = growing, reporter, until, stopper
        self.at_once = at_once
        """How many chunks may run at the same time."""
        self.locks, self.writable = store, store is not None
        self.decider = decider
        self.reasons, self.blobs = self.decider.reasons, self.decider.blobs
        self.keeping = self.blobs if self.writable else Blobs(None)
        """Where what chunks show is put."""
        self.progress = Progress(growing.steps, self.decider.first)
        self.definitions = Definitions(all_chunks(page))
        self.chunks = {chunk.label: chunk for chunk in growing.chunks}
        """All chunks known so far, by label."""
        self.places = Places(page.name, self.chunks)
        self.outcomes: dict[str, ChunkOutcome] = {}
        self.problems: list[Problem] = []

    # --- the walk -----------------------------------------------------------------------------

    def run(self, early: Early | None, nursery: Nursery | None, is_at_work: bool = False) -> Record:
        """All steps, or up to the first that fails."""
        progress = self.progress
        self.sessions = Sessions(progress, self.growing, self._environment(), self.writable, early, nursery)
        self.asking = Asking(self.decider.marks, self.decider, progress, self.sessions, self.definitions, self.places)
        at_once = self.at_once if self.writable else 1  # what another session has made comes by the store
        self.cluster = self._cluster()
        self.ahead = Ahead(progress, self.sessions, self.decider, self.keeping, at_once, self.until, self.cluster)
        try:
            if self._go_through():
                self.sessions.wish()
                self._end(has_ended_well=True)
            else:
                self._end(has_ended_well=False)
        finally:
            if is_at_work:
                self.sessions.wish_warm()
            for trace in self.ahead.close():
                self._keep(trace)
            if self.cluster is not None:
                self.cluster.close()
            self.sessions.let_go()
            self.decider.marks.save(self.writable)
            self.reasons.save(self.writable)
            self.decider.team.close()
        return self._record()

    def _go_through(self) -> bool:
        """Take one step after the other; False if the last was not reached."""
        for index, step in enumerate(self.progress.steps):  # which become more on the way
            self.progress.begin()
            if step.chunk is not None and not self._chunk(index, step.chunk):
                return False
            if step.chunk is not None and step.chunk.label == self.until:
                return False
            if step.insert is not None and not self._grow(index):
                return False
            if step.marks and not self.asking.ask(index, step.marks):
                return False
        return True

    def _end(self, has_ended_well: bool) -> None:
        """Have done what chunks left for the end of their sessions, before what they made is looked at: files count as they are then."""
        kept, state = self.progress.kept, self.progress.state
        made, there = self.sessions.end(len(self.progress.before), has_ended_well)
        if not there:
            return
        last = max([index for index, trace in kept.items() if trace.leaves] or kept)
        ended: dict[int, dict[str, str]] = {}
        for path, held in made.files.items():
            left, index = state.files.get(path, ("absent", last))
            if held != left:
                ended.setdefault(index, {})[path] = held
        page = page_of(kept.values())
        for index, trace in list(kept.items()):
            before = {} if index in there else dict(trace.ended)
            files = tuple(sorted({**before, **ended.get(index, {})}.items()))
            now = replace(trace, ended=files, end_of=page if trace.leaves else "")
            if now != trace:
                self._keep_ended(index, now)
        self._tell_of_the_end(kept[last].label, made)

    def _keep_ended(self, index: int, trace: Trace) -> None:
        """Have a run with what the end of its session did, which is known at last."""
        self.progress.kept[index] = trace
        self.reasons.note(trace.label, trace)
        self._keep(trace)

    def _tell_of_the_end(self, label: str, made: AtEnd) -> None:
        """What went wrong then, and what was printed, which stands nowhere in the page."""
        span = self.chunks[label].span
        for trouble in made.troubles:
            what = f"what the chunk `{label}` left for the end of the session went wrong: {trouble}."
            self.problems.append(Problem(span, what, severity=Severity.WARNING))
        if printed := made.printed.strip():
            what = f"what the page printed at the end of its session is not shown: {printed.splitlines()[0][:80]!r}."
            self.problems.append(Problem(span, what, severity=Severity.WARNING))

    def _environment(self) -> Environment:
        """What sessions of this page start with."""
        page, sight, state = self.growing.page, self.decider.sight, self.progress.state
        noted = tuple(kind for kind in ("identity", "lines", "times", "rights", "listings") if getattr(sight, kind))
        folder, settings = page.path.parent.resolve(), self.growing.settings.page
        memory, look = settings.limits.memory, settings.figures.look
        return Environment(folder, page.path.name, state.given, self.blobs.folder, noted, state.threads, memory, look)

    def _cluster(self) -> Cluster | None:
        """The cluster that chunks of this page may run on; values go there and back by the store."""
        address = self.growing.settings.page.workers_at
        return Cluster(address, self._environment()) if address and self.writable and not is_helper() else None

    def _chunk(self, index: int, chunk: n.Chunk) -> bool:
        """One chunk, reused or run; False if the walk ends here."""
        question = self.decider.question(chunk, self.progress.state)
        self.progress.seeds[index] = question.seed
        decision = self.decider.decide(question)
        if isinstance(decision, Stale):
            self.ahead.begin(index, question)
        if isinstance(decision, Stale) and self.decider.may_reuse(question):
            return self._run_alone(index, question)
        return self._settle(index, question, decision)

    def _run_alone(self, index: int, question: Question) -> bool:
        """Run a chunk while no other process does the same; what another has done meanwhile is taken."""
        while True:
            work = self.decider.work(question)
            with alone(self.locks, work):
                decision = self.decider.decide(question)
                # Another may have told what the work hangs on: then it goes by another address.
                if isinstance(decision, Fresh) or work == self.decider.work(question):
                    return self._settle(index, question, decision)

    def _settle(self, index: int, question: Question, decision: Fresh | Stale | LeftOut) -> bool:
        """Do with a chunk what has been decided; False if the walk ends here."""
        chunk = question.chunk
        match decision:
            case Fresh(trace=trace, result=result, why=why, whose=whose):
                outcome = ChunkOutcome(chunk.label, Outcome.REUSED, trace.seconds, why, result, whose)
                self.outcomes[chunk.label] = outcome
                if whose:
                    self.reporter.finished(outcome, len(self.outcomes), len(self.chunks))
                self._take(index, chunk, trace)
            case LeftOut(why=why, problem=problem):
                self.problems += [problem] if problem else []
                self.outcomes[chunk.label] = ChunkOutcome(chunk.label, Outcome.LEFT_OUT, 0, why, None)
                self.decider.pass_over(chunk)
            case Stale(why=why):
                return self._run(index, question, why)
        return True

    def _take(self, index: int, chunk: n.Chunk, trace: Trace) -> None:
        """Move on over a step."""
        self.reasons.note(chunk.label, trace)
        self.decider.pass_over(chunk)
        self.progress.take(index, trace)
        self.ahead.passed(index, trace)

    def _grow(self, index: int) -> bool:
        """Go on with what an insert turned out to stand for; False if that cannot be."""
        steps = self.progress.steps
        label = steps[index].chunk.label  # type: ignore[union-attr]
        result = self.outcomes[label].result
        known = len(steps)
        if result is None or not self.growing.grow(index, result):
            return False
        for step in steps[index + 1 : index + 1 + len(steps) - known]:
            if step.chunk is not None:
                self.chunks[step.chunk.label] = step.chunk
                self.progress.state.layouts[step.chunk.label] = layout(step.chunk.code)
        return True

    # --- running ------------------------------------------------------------------------------

    def _run(self, index: int, question: Question, why: str) -> bool:
        """Run a chunk where it stands and keep its trace; False if the walk ends here."""
        chunk, options = question.chunk, question.options
        number, total = len(self.outcomes) + 1, len(self.chunks)
        self.stopper.check()
        self.reporter.started(chunk, number, total)
        run = secrets.token_hex(8)
        globs = {pattern: question.here.now(("glob", pattern)) for pattern in options.reads}
        if fault := missing(chunk, options.uses, self.progress.state):
            raise fault
        made = self._made_ahead(index, question)
        ran, was_here = (made.ran, False) if made is not None else self._ran(index, question, run)
        result = ran.result
        failed = result.failure is not None and (options.on_error == "stop" or result.failure.kind in _ENDS)
        outcome = ChunkOutcome(chunk.label, Outcome.FAILED if failed else Outcome.RAN, result.seconds, why, result)
        self.outcomes[chunk.label] = outcome
        self.reporter.finished(outcome, number, total)
        if failed and result.failure is not None:
            self.problems.append(chunk_problem(result.failure, chunk, self.places))
            return False
        if was_here:
            self.sessions.note(index, ran, run)
        if made is not None:
            trace = made.trace
        else:
            handed = tuple(source.read for source in sources_of(chunk, options.uses, self.progress.state))
            trace = make_trace(
                ran, chunk, question.key, run, self.progress.state, question.seed, self.keeping, globs, handed,
                self.decider.reasons.last.get(chunk.label),
            )  # fmt: skip
        self._keep(trace)
        self._tell_fleeting(chunk, options.rerun, ran.found.fleeting)
        self._take(index, chunk, trace)
        self._look_back(question, trace)
        return True

    def _keep(self, trace: Trace) -> None:
        """Have a run for the next time, here and for the team."""
        if self.writable and _may_keep(trace):
            self.decider.traces.put(trace.key, trace)
            self.decider.team.share(trace)

    def _made_ahead(self, index: int, question: Question) -> Made | None:
        """What came of a chunk that was begun before its turn; None if it is to run now."""
        try:
            return self.ahead.take(index, question, self.stopper)
        except Interrupted as broken:
            raise PageError([chunk_problem(broken.failure, question.chunk, self.places)]) from None

    def _tell_fleeting(self, chunk: n.Chunk, rerun: str, why: str) -> None:
        """Of a chunk of which nobody can know whether it would do the same again."""
        if why and rerun != "always":
            what = f"the chunk `{chunk.label}` runs each time: {why}."
            hint = "Say `rerun=always` where that is meant."
            self.problems.append(Problem(chunk.span, what, hint, Severity.WARNING))

    def _look_back(self, question: Question, trace: Trace) -> None:
        """A run that has changed what it read will never hold again; the editions pressed beside this one take it."""
        chunk = question.chunk
        changed = changed_by_itself(trace, self.progress.state.seen(spoken(chunk), question.seed))
        if changed and self.writable and _may_keep(trace):
            self.decider.together.note(trace, changed)
        for read in trace.reads:
            if read.item in changed and read.kind in {"file", "entry"} and read.value != "absent":
                what = (
                    f"the chunk `{chunk.label}` reads {read.name} and changes it, so that no run of it can be reused."
                )
                hint = "Let it write another file, or begin the file anew."
                self.problems.append(Problem(chunk.span, what, hint, Severity.WARNING))

    def _ran(self, index: int, question: Question, run: str) -> tuple[Ran, bool]:
        """What came of a chunk, and whether it ran in the session at hand. Raises `PageError` when the user breaks off."""
        chunk = question.chunk

        def act(session: Session, at: Position) -> tuple[tuple[Ran, bool], str]:
            session.on_tally = partial(self.reporter.tallied, chunk)
            self.ahead.beside(index)
            try:
                afar = self._ran_afar(index, question, task)
                if afar is not None:
                    try:
                        session.hold(at, ())  # it is told where it stands, though it has nothing to do there
                    except SessionOver:
                        self.sessions.close(spoken(chunk))
                    return (afar, False), ""
                with self.stopper.at(chunk, session):
                    made = session.run(task, at)
            finally:
                self.ahead.ended()
            return (made, True), made.needs

        task = self.sessions.task(index, chunk, run, self.progress.seeds[index])
        names = self.definitions.asked_for(chunk.code, chunk.language)
        language = spoken(chunk)
        settled = self.sessions.settled_files(index) if language == "python" else set()
        try:
            if settled and not may_look_at(chunk.code, self.reasons.last.get(chunk.label), settled):
                ran, was_here = self.sessions.ask(index, language, names, act, but=settled)
                if not may_have_seen(ran.found, settled):
                    return ran, was_here
                self.sessions.close(language)  # it has seen what comes after it
            return self.sessions.ask(index, language, names, act)
        except Interrupted as broken:
            raise PageError([chunk_problem(broken.failure, chunk, self.places)]) from None

    def _ran_afar(self, index: int, question: Question, task: ChunkTask) -> Ran | None:
        """What came of a chunk on the cluster; None where it is to run here. Raises `Interrupted`."""
        if self.cluster is None or not is_for_cluster(question):
            return None
        try:
            session = self.cluster.session(is_ahead=False)
            with self.stopper.at(question.chunk, session):
                ran = session.run(task, self.sessions.place(index, spoken(question.chunk)))
        except NotThere as why:
            self._tell_that_it_runs_here(question.chunk, str(why))
            return None
        except KeyboardInterrupt:
            raise Interrupted(interrupt_failure(question.chunk.label, None)) from None
        if ran.needs:
            self._tell_that_it_runs_here(question.chunk, f"what {ran.needs} stands for cannot be sent")
            return None
        return ran

    def _tell_that_it_runs_here(self, chunk: n.Chunk, why: str) -> None:
        what = f"the chunk `{chunk.label}` does not run on the cluster at {self.growing.settings.page.workers_at}, but here: {why}."
        self.problems.append(Problem(chunk.span, what, severity=Severity.WARNING))

    # --- what came of it ----------------------------------------------------------------------

    def _record(self) -> Record:
        """What has been found; chunks that were not reached are left out."""
        page = self.growing.whole()
        for chunk in page.chunks:
            if chunk.label not in self.outcomes:
                outcome = ChunkOutcome(chunk.label, Outcome.LEFT_OUT, 0, "a chunk above it failed", None)
                self.outcomes[chunk.label] = outcome
        ordered = {chunk.label: self.outcomes[chunk.label] for chunk in page.chunks}
        kept, steps = self.progress.kept, self.progress.steps
        traces = {step.chunk.label: kept[i] for i, step in enumerate(steps) if step.chunk and i in kept}
        found = [*self.problems, *self.decider.team.problems, *self.asking.problems, *self.growing.problems]
        errors = tuple(problem for problem in found if problem.severity is Severity.ERROR)
        warnings = tuple(problem for problem in found if problem.severity is not Severity.ERROR)
        graph = graph_of(page.chunks, traces)
        return Record(
            ordered,
            self.asking.answers,
            errors,
            traces,
            graph,
            page,
            self.asking.outcomes(),
            warnings,
            self.growing.settings,
        )


_ENDS = frozenset({"crash", "timeout", "SystemExit", "interrupt"})
"""Failures after which there is no session, or none worth going on with, whatever `on-error` says."""


def _may_keep(trace: Trace) -> bool:
    """Whether a trace may be kept: not if a file changed under the chunk's hands, nor if it would be another each time."""
    return not trace.fleeting and not any(read.value == "changed while it was read" for read in trace.reads)
