"""What is likely to become of the steps below the one a walk has come to, and which of them need not wait for it."""

from __future__ import annotations

import time

from msgspec import Struct

from wornpage.plan.deciding import Decider, Fresh, LeftOut, Question
from wornpage.plan.guessing import Guess, guess, page_of
from wornpage.plan.languages import spoken
from wornpage.plan.progress import Progress
from wornpage.plan.state import State
from wornpage.session.languages import known
from wornpage.store.trace import Last, Trace

REACH = 200
"""How many steps are looked over at most: beyond, finding out what holds there would cost more than it saves."""


class Likely(Struct):
    """A step that has its turn later."""

    question: Question
    guess: Guess | None = None
    """What it will do; None for one that need not run."""
    trace: Trace | None = None
    """What it will go by; None where it must run first."""
    waits_for: frozenset[int] = frozenset()
    """Steps that must have come to their end before it begins."""
    last: Last | None = None
    """Its last run, where that was of this code."""

    def expect(self, state: State, index: int) -> None:
        """Move on over it."""
        if self.trace is not None:
            state.apply(self.trace, index)
        elif self.last is not None:
            state.expect(self.question.chunk.label, self.last, index)
        elif self.guess is not None:
            chunk = self.question.chunk
            state.expect_names(chunk.label, self.guess.changes, spoken(chunk), index)

    @property
    def may_go_ahead(self) -> bool:
        """Whether it must run, and nothing that it does can be seen by others."""
        chunk, options = self.question.chunk, self.question.options
        language = known(chunk.language)
        is_quiet = self.guess is not None and not self.guess.acts and not self.guess.is_alone
        is_plain = not chunk.binds and not options.uses and options.rerun != "always" and options.keep != "no"
        if not is_quiet or not is_plain or language.name != language.home:
            return False
        # Sessions that are forked end before they do what others see; of others, the last run of this code must tell.
        is_known = self.last is not None and not self.last.read("program")
        return language.beforehand == "fork" or (language.beforehand == "spare" and is_known)

    @property
    def language(self) -> str:
        """In whose sessions it runs."""
        return spoken(self.question.chunk)


class Foresight:
    """Goes over the steps once, each as those above it are likely to leave things."""

    def __init__(self, progress: Progress, decider: Decider) -> None:
        self._progress, self._decider = progress, decider
        chunks = [step.chunk for step in progress.steps if step.chunk is not None]
        self._page = page_of(chunk.code for chunk in chunks if spoken(chunk) == "python")
        self.steps: dict[int, Likely] = {}
        """By index, those that have been looked at."""
        self._state: State | None = None
        self._next = 0
        self._writers: dict[str, int] = {}
        """By name: the last step that must run and may write it."""
        self._file_writers: dict[str | None, int] = {}
        """By path, or None where it may be any."""
        self._wall: frozenset[int] = frozenset()
        """Steps that change what all below them find."""
        self._is_over = False

    def begin(self, index: int, question: Question) -> None:
        """The walk has come to a step that must run."""
        if index >= self._next:
            self._state = self._progress.before[index].copy()
            self._next = index + 1
            self._note(index, question)

    def ends_above(self, index: int) -> bool:
        """Whether it does not see a step, since it could not see past an insert above it."""
        return self._is_over and index >= self._next

    def reach(self, until: int, moment: float) -> None:
        """Look at the steps before one, until a moment of `time.monotonic` has come."""
        steps = self._progress.steps
        while self._next < min(until, len(steps)) and not self._is_over and time.monotonic() < moment:
            index, self._next = self._next, self._next + 1
            step = steps[index]
            if step.insert is not None:  # nobody knows yet what it stands for
                self._is_over = True
            elif step.chunk is not None and self._state is not None:
                question = self._decider.question(step.chunk, self._state)
                self._look(index, question)
                self._decider.pass_over(step.chunk)

    def _look(self, index: int, question: Question) -> None:
        assert self._state is not None
        match self._decider.decide(question):
            case Fresh(trace=trace):
                self.steps[index] = Likely(question, trace=trace)
                self._state.apply(trace, index)
                self._wall |= {index} if trace.effects else frozenset()
            case LeftOut():
                pass
            case _:
                self._note(index, question)

    def _note(self, index: int, question: Question) -> None:
        """A step must run."""
        assert self._state is not None
        last = self._decider.reasons.last.get(question.chunk.label)
        last = last if last is not None and last.key == question.key else None
        guessed = guess(question.chunk, last, self._page)
        likely = self.steps[index] = Likely(question, guessed, None, self._before(guessed), last)
        likely.expect(self._state, index)
        self._writers |= dict.fromkeys(guessed.changes, index)
        written = guessed.files_written
        self._file_writers |= dict.fromkeys([None] if written is None else written, index)
        self._wall |= {index} if guessed.sets else frozenset()

    def _before(self, guessed: Guess) -> frozenset[int]:
        """The steps that must have come to their end before one with this guess begins."""
        names = {self._writers[name] for name in guessed.reads & self._writers.keys()}
        read = guessed.files_read
        files = {at for path, at in self._file_writers.items() if path is None or read is None or path in read}
        return frozenset(names | files) | self._wall
