"""Presses a page again and again, in a thread of its own, and tells what comes of it.

A save while chunks run ends what is no longer wanted: at once if the running chunk, or one above it, was changed; after
the running chunk otherwise, since what it makes is still right.
"""

from __future__ import annotations

import datetime
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from threading import Condition, Lock, Thread, Timer
from typing import Any

from wornpage.output.kind import Job
from wornpage.output.writing import write_as
from wornpage.plan.nursery import Nursery
from wornpage.plan.record import ChunkOutcome, Outcome, SilentReporter
from wornpage.plan.status import status_of
from wornpage.plan.stopping import Stopped, Stopper
from wornpage.press import Order, PressingFailed, Proof, examine, proof_of
from wornpage.proof.meanwhile import meanwhile
from wornpage.proof.parts import Parts, parts_of
from wornpage.proof.rewording import Shown, reworded
from wornpage.source import Page, Sections, parse_page, read_page
from wornpage.source.comments import comment_problems
from wornpage.source.text import read_text
from wornpage.store.blocks import save_all
from wornpage.tree.bugs import said_of
from wornpage.tree.hosts import HOSTS
from wornpage.tree.nodes import Chunk
from wornpage.tree.problem import PageError, Problem, Severity, UsageError
from wornpage.tree.span import Span

_SOON = 0.15
"""Seconds that chunks may run before the page shows what was written beside them."""
Tell = Callable[[str, dict[str, object]], None]
"""Hears the name of an event and its data, from the presser's thread."""


class Presser:
    """What presses one page while it is written."""

    def __init__(self, page: Path, given: dict[str, object], mark: str, with_pdf: bool, tell: Tell) -> None:
        self.page, self.mark, self.with_pdf, self.tell = page, mark, with_pdf, tell
        self.given = given
        self.instead: str | None = None
        """A text that is shown in place of what is saved."""
        self.shown: Shown | None = None
        """The page as it was last told: whole, or with words that were changed since."""
        self._is_ahead = False
        """Whether words are shown that the present pressing does not know."""
        self.proof: Proof | None = None
        self.pdf = b""
        self._sheets_are_old = False
        """Whether more was shown since the sheets were made."""
        self._printed = ""
        """The source that they were made of."""
        self.version = 0
        self.chunks: dict[str, dict[str, Any]] = {}
        self.problems: list[dict[str, Any]] = []
        self.busy = ""
        self._nursery = Nursery(whatever_is_given=True)
        self._stopper = Stopper()
        self._ended: Stopper | None = None
        """That of the pressing whose end is told already."""
        self._source: Page | None = None
        self._sections = Sections()
        self._before: list[tuple[str, ...]] = []
        self._is_sorted = False
        """Whether it is known which chunks the present pressing will run."""
        self._wanted, self._over = True, False
        self._bell, self._showing = Condition(), Lock()
        self._thread = Thread(target=self._work, name="pressing", daemon=True)
        self._thread.start()

    @property
    def parts(self) -> Parts | None:
        """The page as it was last told."""
        return self.shown.parts if self.shown is not None else None

    # --- from outside -------------------------------------------------------------------------

    def press(self) -> None:
        """Something was saved; what was only shown goes."""
        self.instead = None
        self._show_words()
        with self._bell:
            self._wanted = True
            stopper = self._stopper  # that of the pressing which does not know of it; the next one reads the page anew
            self._bell.notify()
        running = stopper.running
        is_right = running is None or self._is_still_right(running)
        stopper.stop(at_once=not is_right)
        if running is not None and is_right:
            self._show_meanwhile(stopper)

    def show_text(self, text: str | None) -> None:
        """Show the page as it would be with another text, which is written nowhere; None for what is saved."""
        self.instead = text
        self._again()

    def show_with(self, given: dict[str, object]) -> None:
        """Show the page with other values; what runs for those of before is no longer wanted."""
        self.given = given
        self._again()

    def _again(self) -> None:
        """Press again at once; what runs is no longer wanted."""
        with self._bell:
            self._wanted = True
            stopper = self._stopper
            self._bell.notify()
        stopper.stop(at_once=True)

    def _show_words(self) -> None:
        """Show words that were changed in one block at once; the whole page comes after."""
        with self._showing, suppress(Exception):  # whatever it is, the whole page comes and tells it
            now = reworded(self.shown, read_text(self.page, self.page.name), self.page.name) if self.shown else None
            if now is not None:
                self._is_ahead = True
                self._show(now)

    def _show_meanwhile(self, stopper: Stopper) -> None:
        """Show what was written while a chunk runs on; what comes of the pressings counts more."""
        proof = meanwhile(self.page, self.given, self.proof) if self.instead is None else None
        if proof is None:
            return
        shown = self._shown(proof)
        with self._showing:
            if self._stopper is stopper and self._ended is not stopper:
                self._show(shown)

    def close(self) -> None:
        """End everything."""
        with self._bell:
            self._over = True
            self._bell.notify()
        self._stopper.stop(at_once=True)
        self._thread.join(10)

    def _is_still_right(self, running: Chunk) -> bool:
        """Whether the chunk that runs, and all above it, stand in the page as they did."""
        try:
            now = [_what(chunk) for chunk in read_page(self.page, self.page.name).chunks]
        except PageError:
            return True
        mine = next((place for place, told in enumerate(self._before) if told[0] == running.label), None)
        return mine is not None and now[: mine + 1] == self._before[: mine + 1]

    # --- the work -----------------------------------------------------------------------------

    def _work(self) -> None:
        while True:
            with self._bell:
                self._bell.wait_for(lambda: self._wanted or self._over)
                if self._over:
                    break
                self._wanted = False
                self._stopper = Stopper()
            try:
                self._once(self._stopper)
                self._nursery.make_ready()
            except Exception as bug:  # whatever it is, the next save is heard
                with suppress(Exception):
                    self._failed([Problem(Span(self.page.name, 1), *said_of(bug))], ())
        self._nursery.close()

    def _read(self) -> Page:
        if self.instead is not None:
            return parse_page(self.instead, self.page, self.page.name, self._sections)
        return read_page(self.page, self.page.name, self._sections)

    def _once(self, stopper: Stopper) -> None:
        order = Order(self.page, self.page.name, given=self.given, nursery=self._nursery, stopper=stopper)
        try:
            self._is_ahead = False
            self._source = self._read()
            self._before = [_what(chunk) for chunk in self._source.chunks]
            self._is_sorted = False
            proof = proof_of(order, _Telling(self), datetime.date.today(), source=self._source)
            shown = self._shown(proof)
        except Stopped:
            return
        except PageError as error:
            if not stopper.stopped:
                self._failed(list(error.problems), error.chunks if isinstance(error, PressingFailed) else ())
            return
        except UsageError as error:
            self._failed([Problem(Span(self.page.name, 1), str(error))], ())
            return
        except Exception:
            if not stopper.stopped:
                raise
            return
        self._whole(proof, shown)

    def _shown(self, proof: Proof) -> Shown:
        return Shown(proof.source.text, parts_of(proof, self.mark), proof.composed.terms)

    def _whole(self, proof: Proof, shown: Shown) -> None:
        self.proof = proof
        self.chunks = {one.label: _told(one, _line(proof, one.label)) for one in proof.record.chunks.values()}
        told = [*proof.warnings, *self._comments(proof)]
        self.problems, self.busy = [problem.to_data() for problem in told], ""
        with self._showing:
            self._ended = self._stopper
            now = self._with_words(shown)
            if now is not None:
                self._show(now)
        self._state()
        save_all()
        has_new_prose = proof.composed.host and proof.source.text != self._printed
        if self.with_pdf and (self._sheets_are_old or not self.pdf or has_new_prose):
            self._make_pdf(proof)

    def _comments(self, proof: Proof) -> list[Problem]:
        """What reviewers remarked and nobody has closed, or what is wrong with the file that holds it."""
        try:
            return list(comment_problems(self.page, self.page.name, proof.source.text))
        except UsageError as error:
            return [Problem(Span(self.page.name, 1), str(error), severity=Severity.WARNING)]

    def _with_words(self, whole: Shown) -> Shown | None:
        """A page that is whole, with the words that were shown since it was read; None if it must wait for the next."""
        if not self._is_ahead or self.shown is None or self.shown.text == whole.text:
            return whole
        return reworded(whole, self.shown.text, self.page.name)

    def _show(self, shown: Shown) -> None:
        """Tell what is new in the page."""
        before, parts, self.shown = self.parts, shown.parts, shown
        changed = before is None or before != parts
        self.version += changed
        known = self.version - changed if parts.parts or not changed else -1  # else browsers take the whole page anew
        self.tell("page", {"version": self.version, "before": known, **parts.difference(before)})
        self._sheets_are_old |= changed

    def _make_pdf(self, proof: Proof) -> None:
        job = Job(proof.settings.page, self.page.parent, proof.source.name, source=proof.source.text)
        self._sheets_are_old, self._printed = False, proof.source.text
        kind = next(
            (one for one in ("pdf", "tex-pdf") if not proof.composed.host or one in HOSTS[proof.composed.host][1]), ""
        )
        if not kind:
            return
        try:
            written = write_as(kind, proof.composed, job)
        except PageError as error:
            self._sheets_are_old = True
            self._failed(list(error.problems), ())
            return
        if written.data and written.data != self.pdf:
            self.pdf = written.data
            self.tell("pdf", {"version": self.version})

    def _failed(self, problems: list[Problem], chunks: tuple[ChunkOutcome, ...]) -> None:
        self.problems, self.busy, self._ended = [problem.to_data() for problem in problems], "", self._stopper
        for one in chunks:
            self.chunks[one.label] = _told(one, self.chunks.get(one.label, {}).get("line", 0))
        self._state()

    def _state(self) -> None:
        self.tell("state", self.state())

    def state(self) -> dict[str, object]:
        """How things stand, as plain data."""
        return {"busy": self.busy, "chunks": list(self.chunks.values()), "problems": self.problems}

    # --- while it runs ------------------------------------------------------------------------

    def started(self, chunk: Chunk, number: int, total: int) -> None:
        """A chunk begins to run."""
        self.busy = chunk.label
        self._sort()
        self.chunks[chunk.label] = {
            "label": chunk.label,
            "line": chunk.span.line,
            "state": "running",
            "seconds": None,
            "why": "",
        }
        self._state()

    def _sort(self) -> None:
        """Find out which chunks are queued, once, when the first begins to run."""
        if self._is_sorted or self._source is None:
            return
        self._is_sorted = True
        timer = Timer(_SOON, self._show_meanwhile, (self._stopper,))
        timer.daemon = True
        timer.start()
        settings, _, _ = examine(self._source, None, self.given)
        self.chunks = {
            one.label: {
                "label": one.label,
                "line": one.line,
                "state": "fresh" if one.fresh else "stale",
                "seconds": one.seconds,
                "why": one.why,
            }
            for one in status_of(self._source, settings).chunks
        }

    def finished(self, outcome: ChunkOutcome) -> None:
        """A chunk has come to its end."""
        self.busy = ""
        self.chunks[outcome.label] = _told(outcome, self.chunks.get(outcome.label, {}).get("line", 0))


class _Telling(SilentReporter):
    def __init__(self, presser: Presser) -> None:
        self._presser = presser

    def started(self, chunk: Chunk, number: int, total: int) -> None:
        """Tell it."""
        self._presser.started(chunk, number, total)

    def finished(self, outcome: ChunkOutcome, number: int, total: int) -> None:
        """Tell it."""
        self._presser.finished(outcome)


def _what(chunk: Chunk) -> tuple[str, ...]:
    """What makes a chunk the one it is."""
    return (chunk.label, chunk.code, *(f"{option.key}={option.value}" for option in chunk.options))


def _line(proof: Proof, label: str) -> int:
    page = proof.record.page or proof.source
    return next((chunk.span.line for chunk in page.chunks if chunk.label == label), 0)


def _told(one: ChunkOutcome, line: int) -> dict[str, object]:
    states = {Outcome.RAN: "fresh", Outcome.REUSED: "fresh", Outcome.FAILED: "failed", Outcome.LEFT_OUT: "stale"}
    return {"label": one.label, "line": line, "state": states[one.outcome], "seconds": one.seconds, "why": one.why}
