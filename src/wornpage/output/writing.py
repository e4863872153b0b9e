"""A composed page as files of one kind: what stands between it and an output, for whoever writes."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from wornpage.output.kind import Job, Written
from wornpage.output.outputs import output_of
from wornpage.tree import nodes as n
from wornpage.tree.hosts import HOSTS
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span
from wornpage.tree.walk import walk


class Fit(Struct, frozen=True):
    """A page that an output can show all of."""

    page: n.Composed
    problems: tuple[Problem, ...] = ()
    """What is to be said of figures that could not be drawn."""
    read: tuple[Path, ...] = ()
    """What drew them."""


def fit_for(kind: str, page: n.Composed) -> Fit:
    """The page with a picture of each figure that its library did not draw and the output cannot show as it lives.

    Whoever asks a writer for less than whole files (the body of a page, the slides of a talk) asks this first.
    """
    _check_host(kind, page)
    output = output_of(kind)
    lives = bool(getattr(output, "figures_live", False))
    alone = lives and not getattr(output, "stills_too", False)
    if not any(_lacks(picture, alone) for picture in _pictures(page)):
        return Fit(page)
    from wornpage.output.stills import Stills

    stills = Stills(lambda picture: _lacks(picture, alone), needed=not lives)
    return Fit(stills.drawn(page), tuple(stills.problems), tuple(stills.looked_for))


def _check_host(kind: str, page: n.Composed) -> None:
    """Raise `PageError` for an output that would have nothing of a page's prose."""
    if page.host and kind not in HOSTS[page.host][1]:
        _, outputs = HOSTS[page.host]
        name = page.blocks[0].span.file if page.blocks else page.plain_title
        what = (
            f"a page that is written in `{page.host[1:]}` cannot be had as {kind!r}, which knows nothing of its prose."
        )
        raise PageError([Problem(Span(name, 1), what, f"Press it to {' or '.join(outputs)}.")])


def write_as(kind: str, page: n.Composed, job: Job) -> Written:
    """The files of an output; what is wrong with them is told in `Written.problems`. Raises `PageError` where there can be none."""
    fit = fit_for(kind, page)
    controls, others = job.controls, []
    if controls is not None:
        others = [fit_for(kind, state.page) for state in controls.states]
        states = (replace(state, page=one.page) for state, one in zip(controls.states, others, strict=True))
        job = replace(job, controls=replace(controls, states=tuple(states)))
    made = output_of(kind).write(fit.page, job)
    problems = dict.fromkeys(problem for one in (fit, *others) for problem in one.problems)
    read = (path for one in (fit, *others) for path in one.read)
    return replace(made, problems=(*problems, *made.problems), read=tuple(dict.fromkeys((*made.read, *read))))


def _pictures(page: n.Composed) -> Iterable[n.Picture]:
    return (picture for node in walk(page.blocks) if isinstance(node, n.Figure) for picture in node.pictures)


def _lacks(picture: n.Picture, alone: bool) -> bool:
    """Whether a picture is to be drawn; `alone` means that figures which live need none."""
    return bool(picture.undrawn) and not picture.data and not (alone and picture.live is not None)
