"""A page with other values of its controls: run and composed once for each; what they share runs once."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import ExitStack, contextmanager
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

from msgspec.structs import replace as changed

from wornpage.choices.controls import choices_of
from wornpage.colophon import colophon_of
from wornpage.output.kind import Controls, State
from wornpage.plan.nursery import Nursery
from wornpage.plan.record import ChunkOutcome, Outcome, Reporter
from wornpage.press.orders import Order, PressingFailed, Proof
from wornpage.press.writing import with_colophon
from wornpage.settings import Settings
from wornpage.tree.nodes import Chunk, Composed
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span

OF = "html"
"""The output whose pages have controls."""
Prove = Callable[[Order], Proof]


def states_of(order: Order, proof: Proof, prove: Prove, reporter: Reporter) -> tuple[Controls | None, list[Proof]]:
    """What readers may pick in a page that is ordered, with what comes of it, and how each was come by; None for nothing.

    `reporter` hears of each as of a chunk. Raises `PageError`, which says with which values the page is at fault.
    """
    choices = choices_of(proof.source, proof.settings) if OF in order.outputs and order.with_controls else None
    if choices is None:
        return None, []
    sets, proofs = choices.sets[1:], []
    with ExitStack() as stack:
        common = _common(order, stack)
        for number, given in enumerate(sets, 1):
            own = replace(common, given={**order.given, **given}, kept_as=f"{order.memory}~{number}")
            with _told_with(given), _reported(given, number, len(sets), reporter):
                proofs.append(prove(own))
    states = tuple(State(given, _ended(made)) for given, made in zip(sets, proofs, strict=True))
    return Controls(choices.declared, choices.given, states), proofs


def _ended(made: Proof) -> Composed:
    """A state's page, with its own record at its end if the page is to have that."""
    colophon = colophon_of(made.source, made.settings, made.record)
    return with_colophon(OF, made.composed, colophon, made.settings.page, made.source)


def too_large(controls: Controls | None, data: bytes, settings: Settings) -> list[Problem]:
    """What is wrong with a page that has become larger than it may with all its states."""
    most = settings.page.press.html.most_size
    if controls is None or len(data) <= most:
        return []
    what = f"with all that these controls can show the page has {len(data) / 1e6:,.0f} MB, and no more than {most / 1e6:,.0f} MB may be."
    hint = "Name fewer controls, give them fewer values, or raise `most-size:`."
    return [Problem(settings.place("press", "html", "controls"), what, hint)]


def _common(order: Order, stack: ExitStack) -> Order:
    """What the orders of all states have in common: each is remembered by its number, so that there are never more than were made last.

    Of what was made before nothing counts for a page that is pressed afresh, but each for those that follow.
    """
    if order.nursery is None:
        nursery = Nursery()
        stack.callback(nursery.close)
        order = replace(order, nursery=nursery)
    if order.afresh:
        folder = stack.enter_context(TemporaryDirectory(prefix="worn-"))
        order = replace(order, afresh=False, store=Path(folder))
    return replace(order, outputs=(OF,))


@contextmanager
def _reported(given: Mapping[str, object], number: int, total: int, reporter: Reporter) -> Iterator[None]:
    label, begun = _in_words(given), time.monotonic()
    reporter.started(Chunk(Span("", 1), "", label, False, (), "", 1, ""), number, total)
    yield
    reporter.finished(ChunkOutcome(label, Outcome.RAN, time.monotonic() - begun, "", None), number, total)


def _in_words(given: Mapping[str, object]) -> str:
    return ", ".join(f"{name}={value}" for name, value in given.items())


@contextmanager
def _told_with(given: Mapping[str, object]) -> Iterator[None]:
    """Within it faults say with which values they came up."""
    try:
        yield
    except PageError as error:
        problems = [changed(problem, what=f"with {_in_words(given)}: {problem.what}") for problem in error.problems]
        raise PressingFailed(problems, error.chunks if isinstance(error, PressingFailed) else ()) from None
