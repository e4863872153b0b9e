"""Value marks of a page: asked between two chunks as one batch, unless what they read is as it was."""

from __future__ import annotations

from wornpage.plan.codes import Definitions
from wornpage.plan.deciding import Decider
from wornpage.plan.looking import may_have_seen
from wornpage.plan.marks import MarkStore
from wornpage.plan.progress import Progress
from wornpage.plan.record import MarkOutcome
from wornpage.plan.standing import Sessions
from wornpage.session.failures import Places, mark_problem
from wornpage.session.language import Session
from wornpage.session.results import Answer
from wornpage.session.tasks import Answered, MarkTask, Position, SessionOver
from wornpage.store.trace import Read
from wornpage.tree.nodes import ValueMark
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span


class Asking:
    """What has become of a page's marks so far."""

    def __init__(
        self, store: MarkStore, decider: Decider, progress: Progress, sessions: Sessions, definitions: Definitions,
        places: Places,
    ) -> None:  # fmt: skip
        self.store, self.decider, self.progress = store, decider, progress
        self.sessions, self.definitions, self.places = sessions, definitions, places
        self.answers: dict[Span, Answer] = {}
        """By the place of a mark."""
        self.problems: list[Problem] = []
        self._outcomes: dict[Span, MarkOutcome] = {}

    def ask(self, index: int, marks: tuple[ValueMark, ...]) -> bool:
        """The marks behind step `index`; those that read nothing new keep their answers. False if the session ended."""
        stale: dict[str, list[tuple[ValueMark, int]]] = {}
        for mark in marks:
            seed, language = self.decider.mark_seed(mark), self.decider.asked_in(mark)
            known = self.store.find(mark, language, self.progress.state.seen(language, seed).now)
            if known is None:
                stale.setdefault(language, []).append((mark, seed))
            else:
                self._note(mark, language, known.answer.read(), known.reads)
        return all(self._ask_session(index, language, several) for language, several in stale.items())

    def outcomes(self) -> list[MarkOutcome]:
        """What became of the marks, in page order, whichever were asked first."""
        marks = [mark for step in self.progress.steps for mark in step.marks]
        return [self._outcomes[mark.span] for mark in marks if mark.span in self._outcomes]

    def _ask_session(self, index: int, language: str, marks: list[tuple[ValueMark, int]]) -> bool:
        try:
            answered = self._answers(index + 1, language, marks)
            if len(marks) > 1 and any(one.found.changed for one in answered):
                answered = self._one_by_one(index + 1, language, marks)
        except SessionOver:
            what = "the session ended while a value mark after this place was read."
            self.problems.append(Problem(marks[0][0].span, what))
            self.sessions.close(language)
            return False
        for (mark, seed), one in zip(marks, answered, strict=True):
            self._take(mark, language, seed, one)
        return True

    def _one_by_one(self, index: int, language: str, marks: list[tuple[ValueMark, int]]) -> tuple[Answered, ...]:
        """One of several has changed something: each alone, in a session that none before it has changed, to know which."""
        answered: list[Answered] = []
        self.sessions.close(language)
        for mark in marks:
            answered += self._answers(index, language, [mark])
            if answered[-1].found.changed:
                self.sessions.close(language)
        return tuple(answered)

    def _answers(self, index: int, language: str, marks: list[tuple[ValueMark, int]]) -> tuple[Answered, ...]:
        """What the session says. Files that steps below wrote over are made again only for marks that look at them."""
        tasks = [MarkTask(str(mark.span), mark.expression, format_of(mark.form), seed) for mark, seed in marks]
        names = set().union(*(self.definitions.reachable(mark.expression, language) for mark, _ in marks))

        def act(session: Session, at: Position) -> tuple[tuple[Answered, ...], str]:
            found = session.answer(tasks, at)
            return found.answered, found.needs

        moved = self.sessions.moved_files(index)
        answered = self.sessions.ask(index, language, names, act, with_files=False)
        if moved and any(may_have_seen(one.found, moved) for one in answered):
            return self.sessions.ask(index, language, names, act)
        return answered

    def _take(self, mark: ValueMark, language: str, seed: int, one: Answered) -> None:
        self.answers[mark.span] = one.answer
        if one.answer.failure is not None:
            self.problems.append(mark_problem(one.answer.failure, mark.expression, mark.span, self.places))
        elif one.found.changed:
            what = f"the value mark `{mark.expression}` changes {one.found.changed}; a mark only looks."
            self.problems.append(Problem(mark.span, what, "Do it in a chunk."))
        else:
            reads = self.store.put(mark, language, one, self.progress.state.seen(language, seed))
            self._note(mark, language, one.answer, reads)

    def _note(self, mark: ValueMark, language: str, answer: Answer, reads: tuple[Read, ...]) -> None:
        """This is what a mark went by."""
        self.answers[mark.span] = answer
        self._outcomes[mark.span] = MarkOutcome(mark, language, reads)


def format_of(form: str) -> str:
    """The format specification in a quoted form; empty for any other form."""
    return form[1:-1] if form[:1] in {'"', "'"} else ""
