"""Chunks run ahead of their turn, side by side, in sessions forked from the one that stands at the walk's place.

A run ahead is a run like any other: it has a trace, which says what was really read. When the chunk's turn comes, the run is
taken if all that holds there as it was; otherwise, and wherever anything about it is odd, the chunk runs again in its place. Such
sessions change nothing that others see (`session.python.turns`), so a run that is not taken leaves nothing behind.
"""

from __future__ import annotations

import secrets
import time
from collections import Counter
from contextvars import copy_context
from threading import Condition, Thread

from msgspec import Struct

from wornpage.keeper.staying import is_scarce
from wornpage.plan.deciding import Decider, Fresh, Question
from wornpage.plan.foresight import REACH, Foresight, Likely
from wornpage.plan.languages import spoken
from wornpage.plan.progress import Progress
from wornpage.plan.standing import Live, Sessions, Unrepeatable, note_sent, position, whole_position
from wornpage.plan.state import State
from wornpage.plan.stopping import Running, Stopper
from wornpage.plan.traces import make_trace
from wornpage.session.afar.cluster import AfarSession, Cluster, NotThere
from wornpage.session.faults import interrupt_failure
from wornpage.session.languages import known
from wornpage.session.tasks import CannotFork, ChunkTask, Interrupted, Ran
from wornpage.store.blobs import Blobs
from wornpage.store.trace import Trace

_WORTH = 0.5
"""Seconds that chunks must promise to take before a session is forked for them: what both then write is copied, page by page."""
_WORTH_ANEW = 2.0
"""The same where a session must be started, and packages attached in it."""
_UNKNOWN = 0.2
"""Seconds that a chunk promises which has never run."""
_BRIEFLY, _AT_LENGTH = 0.02, 2.0
"""Seconds for looking at what follows: while the walk waits for it, and beside it."""
_NO_END = frozenset({"crash", "timeout", "interrupt", "SystemExit"})
"""Failures that say nothing of how the chunk would do in its place."""


class Made(Struct, frozen=True):
    """What came of a chunk before its turn."""

    ran: Ran
    trace: Trace


class _Job:
    """One chunk that runs, or has run, ahead."""

    def __init__(self, question: Question, helper: _Helper) -> None:
        self.question, self.helper = question, helper
        self.is_over = False
        self.made: Made | None = None


class _Helper:
    """A session for such chunks."""

    def __init__(self, language: str, live: Live | None, afar: AfarSession | None = None) -> None:
        self.language, self.live, self.afar = language, live, afar
        """None as long as it is being started, or where it is one on the cluster, which stands anew for each chunk."""
        self.job: _Job | None = None
        self.is_old = False
        """Whether the walk has passed something since that it would have to be told by running it."""

    @property
    def running(self) -> Running | None:
        """What can be ended; None as long as nothing has been started."""
        return self.afar or (self.live.session if self.live is not None else None)


class Ahead:
    """Begins chunks before their turn, and has what came of them when it comes."""

    def __init__(
        self, progress: Progress, sessions: Sessions, decider: Decider, blobs: Blobs,
        at_once: int, until: str, cluster: Cluster | None = None,
    ) -> None:  # fmt: skip
        """`at_once` chunks run at the same time at most, that of the walk among them; 1 for none but that.

        Those that are for the `cluster` do not count: they are as many as its workers have room for.
        """
        self._progress, self._sessions, self._decider = progress, sessions, decider
        self._blobs, self._at_once, self._until, self._cluster = blobs, at_once, until, cluster
        self._foresight: Foresight | None = None
        self._changed = Condition()
        """Held by whoever looks at what follows, or changes it."""
        self._helpers: list[_Helper] = []
        self._jobs: dict[int, _Job] = {}
        self._front = 0
        """The step that the walk has come to."""
        self._is_busy = False
        """Whether the walk itself runs a chunk."""
        self._is_quiet = False
        """Whether it must be the only one."""
        self._is_over = at_once < 2
        self.has_acted = False
        """Whether a chunk has changed files that others may have read meanwhile."""

    # --- from the walk ------------------------------------------------------------------------

    def begin(self, index: int, question: Question) -> None:
        """The walk has come to a step that must run."""
        if self._is_over:
            return
        with self._changed:
            if self._foresight is None or self._foresight.ends_above(index):
                decider = self._decider.foreseeing()
                self._foresight = Foresight(self._progress, decider)
            self._front = index
            self._foresight.begin(index, question)

    def beside(self, index: int) -> None:
        """The walk's session is about to run the step: have others begun beside it."""
        if self._is_over:
            return
        with self._changed:
            likely = self._foresight.steps.get(index) if self._foresight else None
            self._is_quiet = likely is not None and likely.guess is not None and likely.guess.is_alone
            while self._is_quiet and self._running:
                self._changed.wait()
            self._is_busy = True
        self._have_helpers()

    def ended(self) -> None:
        """The walk's chunk has come to its end."""
        with self._changed:
            self._is_busy = self._is_quiet = False

    def passed(self, index: int, trace: Trace) -> None:
        """The walk goes on behind a step. Raises `Unrepeatable` if nothing holds for certain any more."""
        if self.has_acted:
            raise Unrepeatable(trace.label)
        if self._is_over:
            return
        with self._changed:
            self._front = index + 1
            if trace.effects:
                for helper in self._helpers:
                    helper.is_old = True

    def take(self, index: int, question: Question, stopper: Stopper) -> Made | None:
        """What came of a step ahead of its turn, which has come now; None if it is to run in its place.

        Waits for it. Raises `Unrepeatable` if nothing holds for certain any more, `Interrupted`, and what `stopper` raises.
        """
        job = self._jobs.get(index)
        if job is None or job.question.key != question.key:
            return None
        if not job.is_over:
            if self._is_hopeless(index, job, question):
                if (running := job.helper.running) is not None:
                    running.kill()
                return None
            self._have_helpers()
            self._wait_for(job, stopper)
        if self.has_acted:
            raise Unrepeatable(question.chunk.label)
        made = job.made
        if made is None or not _holds(made.trace, question) or self._is_wanted_alive(index, made.trace):
            return None
        return made

    def _is_wanted_alive(self, index: int, trace: Trace) -> bool:
        """Whether chunks below read what a run has made and nobody can store: then it would have to run here all the same, in a new session."""
        alive = {name for name, bound in trace.names.items() if bound.is_live}
        for step in range(index + 1, len(self._progress.steps)) if alive else ():
            likely = self._foresight.steps.get(step) if self._foresight else None
            if likely is None or likely.guess is None:
                continue
            if alive & likely.guess.reads:
                return True
            alive -= likely.guess.changes
        return False

    def _is_hopeless(self, index: int, job: _Job, question: Question) -> bool:
        """Whether it is known already that a chunk has been given other values than it would have now."""
        guessed = self._foresight.steps[index].guess if self._foresight and index in self._foresight.steps else None
        had, has = job.question.here.names, question.here.names
        reads = guessed.reads if guessed is not None else ()
        return any((had[name].print if name in had else "") != has[name].print for name in reads if name in has)

    def _wait_for(self, job: _Job, stopper: Stopper) -> None:
        running = job.helper.running
        assert running is not None
        try:
            with stopper.at(job.question.chunk, running), self._changed:
                while not job.is_over:
                    self._changed.wait()
        except KeyboardInterrupt:
            raise Interrupted(interrupt_failure(job.question.chunk.label, None)) from None

    def close(self) -> list[Trace]:
        """Let go of all. Returns the runs that nobody has taken: they are as true as any."""
        with self._changed:
            self._is_over = True
            helpers = list(self._helpers)
            made = [job.made for index, job in self._jobs.items() if job.made is not None and index >= self._front]
            self._changed.notify_all()
        for helper in helpers:  # whose threads then close them
            if (running := helper.running) is not None:
                running.kill()
        return [one.trace for one in made if one.ran.result.failure is None]

    # --- who runs what ------------------------------------------------------------------------

    @property
    def _running(self) -> int:
        return sum(helper.job is not None and helper.afar is None for helper in self._helpers)

    def _room(self, afar: bool = False) -> int:
        """How many more chunks may be begun now, here or on the cluster."""
        if self._is_quiet or self._is_over:
            return 0
        if afar:
            there = sum(helper.job is not None and helper.afar is not None for helper in self._helpers)
            return self._cluster.room - there if self._cluster is not None else 0
        return self._at_once - self._is_busy - self._running

    def _have_helpers(self) -> None:
        """Fork sessions, from one that nobody uses at the moment, for chunks that could be begun at once."""
        with self._changed:
            ready = self._ready(_BRIEFLY)
            self._changed.notify_all()
        away = [(index, likely) for index, likely in ready if self._is_for_cluster(likely)]
        for one in self._sent(away):
            self._have_work(one)
        ready = [one for one in ready if one not in away]
        for language in dict.fromkeys(likely.language for _, likely in ready):
            own = [(index, likely) for index, likely in ready if likely.language == language]
            while self._is_wanted(language, own) and (helper := self._helper(language, own)) is not None:
                self._have_work(helper)

    def _have_work(self, helper: _Helper) -> None:
        with self._changed:
            self._helpers.append(helper)
        Thread(target=copy_context().run, args=(self._work, helper), name="ahead of its turn", daemon=True).start()

    def _is_for_cluster(self, likely: Likely) -> bool:
        return self._cluster is not None and is_for_cluster(likely.question)

    def _sent(self, ready: list[tuple[int, Likely]]) -> list[_Helper]:
        """Sessions on the cluster for chunks that could be begun there."""
        if self._cluster is None or not ready:
            return []
        room = self._cluster.room  # which may ask for it, for the first time
        with self._changed:
            there = sum(helper.afar is not None for helper in self._helpers)
        try:
            count = min(room - there, len(ready))
            return [_Helper("python", None, self._cluster.session(is_ahead=True)) for _ in range(count)]
        except NotThere:
            return []

    def _is_wanted(self, language: str, ready: list[tuple[int, Likely]]) -> bool:
        """Whether one more session of a language is worth what it costs."""
        worth = sum(_seconds(likely) for _, likely in ready)
        with self._changed:
            idle = [helper for helper in self._helpers if helper.job is None and not helper.is_old]
            of_it = sum(helper.language == language for helper in idle)
            room = min(self._room() - len(idle) + of_it, len(ready)) - of_it
        needed = _WORTH if known(language).beforehand == "fork" else _WORTH_ANEW
        return room > 0 and worth >= needed and not is_scarce()

    def _helper(self, language: str, ready: list[tuple[int, Likely]]) -> _Helper | None:
        """One more session, or one that is still to be started by its thread; None if there can be none."""
        if known(language).beforehand != "fork":
            return _Helper(language, None) if self._sessions.can_begin_anew(self._front, language) else None
        try:
            return _Helper(language, self._sessions.offshoot(self._front, language, self._shared(ready)))
        except (CannotFork, OSError):
            return None

    def _shared(self, ready: list[tuple[int, Likely]]) -> set[str]:
        """Names that several sessions would load, each for itself: what the walk's chunk reads, and more than one of the others."""
        assert self._foresight is not None
        own = self._foresight.steps.get(self._front)
        guesses = [one.guess for one in (own, *(likely for _, likely in ready)) if one is not None and one.guess]
        counts = Counter(name for guessed in guesses for name in guessed.reads)
        return {name for name, count in counts.items() if count > 1}

    def _ready(self, patience: float) -> list[tuple[int, Likely]]:
        """Steps that could be begun now: those first that take longest, as far as is known, and that have their turn last.

        The walk comes from above meanwhile, and is seldom to wait for what has just been begun. Looks at steps that nobody has looked at yet for so many seconds at most, where some are found.
        """
        if self._foresight is None:
            return []
        last = min(self._front + REACH, len(self._progress.steps))
        self._foresight.reach(last, time.monotonic() + patience)
        found = []
        for index in range(self._front + 1, last):
            likely = self._foresight.steps.get(index)
            if likely is None:
                continue
            if likely.may_go_ahead and index not in self._jobs and self._has_what_it_waits_for(likely):
                found.append((index, likely))
            if likely.question.chunk.label == self._until:
                break
        return sorted(found, key=lambda one: (-_seconds(one[1]), -one[0]))

    def _has_what_it_waits_for(self, likely: Likely) -> bool:
        return all(step < self._front or self._is_done(step) for step in likely.waits_for)

    def _is_done(self, step: int) -> bool:
        assert self._foresight is not None
        job, likely = self._jobs.get(step), self._foresight.steps.get(step)
        if likely is not None and likely.trace is not None:
            return not likely.trace.effects
        return job is not None and job.made is not None and job.made.ran.result.failure is None

    def _work(self, helper: _Helper) -> None:
        """What a session's thread does: one chunk after the other, as long as there are any."""
        may_go_on = True
        try:
            if helper.afar is None:
                helper.live = helper.live or self._sessions.newcomer(helper.language)
            while may_go_on and (found := self._next(helper)) is not None:
                job, task, state = found
                try:
                    made, may_go_on = self._done(job, task, state)
                except Exception:  # whatever it is will be told when the chunk runs in its place
                    made, may_go_on = None, False
                with self._changed:
                    job.made, job.is_over, helper.job = made, True, None
                    self._changed.notify_all()
        except Exception:
            return  # it could not be started: then there is none
        finally:
            with self._changed:
                self._helpers.remove(helper)
            if helper.live is not None:
                helper.live.session.close()

    def _next(self, helper: _Helper) -> tuple[_Job, ChunkTask, State] | None:
        """The next chunk for a session, with what holds before it; None if there is no use for the session any more."""
        with self._changed:
            while not helper.is_old and not self._is_over:
                is_afar = helper.afar is not None
                ready = self._ready(_AT_LENGTH) if self._room(is_afar) > 0 else []
                for index, likely in ready:
                    if likely.language != helper.language or self._is_for_cluster(likely) != is_afar:
                        continue
                    if is_afar and not self._sessions.can_begin_anew(index, helper.language):
                        continue
                    state = self._state_before(index)
                    question = self._asked_again(likely, state)
                    if question is None:
                        continue
                    task = self._sessions.task(index, question.chunk, secrets.token_hex(8), question.seed)
                    job = helper.job = self._jobs[index] = _Job(question, helper)
                    return job, task, state
                self._changed.wait()
        return None

    def _state_before(self, index: int) -> State:
        """What is likely to hold before a step, as far as it can be had: what only running would give is not there."""
        assert self._foresight is not None
        front = self._front
        state = (
            self._progress.before[front].copy() if front < len(self._progress.before) else self._progress.state.copy()
        )
        for step in range(front, index):
            job, likely = self._jobs.get(step), self._foresight.steps.get(step)
            if job is not None and job.made is not None:
                state.apply(job.made.trace, step)
            elif likely is not None:
                likely.expect(state, step)
        for world in state.worlds.values():
            for name in [name for name, entry in world.names.items() if entry.is_live]:
                del world.names[name]
        return state

    def _asked_again(self, likely: Likely, state: State) -> Question | None:
        """The question of a step as things are now; None if it need not run after all."""
        old = likely.question
        chunk = old.chunk
        question = Question(chunk, old.options, old.key, state.seen(spoken(chunk), old.seed))
        decision = self._decider.foreseeing().decide(question)
        if isinstance(decision, Fresh):
            likely.trace = decision.trace
            return None
        return question

    def _done(self, job: _Job, task: ChunkTask, state: State) -> tuple[Made | None, bool]:
        """Run a chunk. Returns what came of it, None for nothing that could be taken; and whether its session can go on."""
        chunk, live, afar = job.question.chunk, job.helper.live, job.helper.afar
        globs = {pattern: job.question.here.now(("glob", pattern)) for pattern in job.question.options.reads}
        if afar is not None:
            ran = afar.run(task, whole_position(state, spoken(chunk)))
        else:
            assert live is not None
            ran = live.session.run(task, position(live, state, spoken(chunk)))
        found, failure = ran.found, ran.result.failure
        self.has_acted = self.has_acted or bool(found.written)
        if ran.needs or found.written or found.effects or found.fleeting or found.network or found.spawned:
            return None, False
        if failure is not None and failure.kind in _NO_END:
            return None, False
        trace = make_trace(ran, chunk, job.question.key, task.version, state, task.seed, self._blobs, globs)
        if live is not None:
            note_sent(live, ran, task.version)
        return Made(ran, trace), failure is None


def is_for_cluster(question: Question) -> bool:
    """Whether a chunk is to run on a cluster, where there is one."""
    is_plain = not question.chunk.binds and not question.options.uses
    return question.options.where == "cluster" and spoken(question.chunk) == "python" and is_plain


def _seconds(likely: Likely) -> float:
    """What a step will take, as far as is known."""
    told = likely.guess.seconds if likely.guess is not None else 0.0
    return _UNKNOWN if told is None else told


def _holds(trace: Trace, question: Question) -> bool:
    """Whether a run is what the chunk would do in its place."""
    here = question.here
    if any(here.now(read.item) != read.value for read in trace.reads):
        return False
    read = trace.read("name")
    bound = (name for name in (*trace.names, *trace.deleted) if name not in read and name in here.names)
    return not any(here.names[name].bound.ends for name in bound)  # who binds such a name anew ends something
