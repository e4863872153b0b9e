"""One page of a volume run in whatever process, up to its draft: what is asked and what came of it, both as plain data."""

from __future__ import annotations

import datetime
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from msgspec import Struct

from wornpage.colophon import colophon_of
from wornpage.compose.answering import answer
from wornpage.compose.indexing import is_indexed
from wornpage.plan.nursery import Nursery
from wornpage.plan.record import ChunkReporter, Outcome
from wornpage.press import Order, Pressing, PressingFailed, as_chosen
from wornpage.press.crew import Trade
from wornpage.press.orders import Proof, Ran
from wornpage.press.remembering import remember
from wornpage.press.story import made_containers, run_of, stop_with
from wornpage.settings import Settings
from wornpage.store.blocks import keep_in, save_all
from wornpage.store.place import store_of
from wornpage.tree import nodes as n
from wornpage.tree.bugs import said_of
from wornpage.tree.problem import PageError, Problem, Severity, UsageError
from wornpage.tree.span import Span
from wornpage.tree.version import VERSION
from wornpage.volume.keeping import Drafted, keep, lifted, mentions_of
from wornpage.volume.standing import still_drafted


class BoundPage(Struct, frozen=True):
    """A page to be drafted."""

    page: str
    """Its whole path."""
    name: str
    """What messages call it."""
    volume: str
    """The whole path of its `volume.yaml`."""
    key: str
    """Under what it is kept among the pages of all volumes."""
    today: str
    level: str
    """What the volume sets for its pages, as a hash."""
    edition: str = ""
    given: dict[str, object] = {}
    afresh: bool = False
    version: str = VERSION

    @property
    def remembered(self) -> str:
        """The name that its state is kept by, beside those of editions."""
        return f"bound/{self.key}"


class DraftReport(Struct, frozen=True):
    """What came of it."""

    key: str
    known: str = ""
    """By which the kept draft is known; empty where there is none."""
    ran: int = 0
    reused: int = 0
    seconds: float = 0.0
    problems: tuple[Problem, ...] = ()
    """Errors of a page that failed, else warnings."""
    failed: bool = False
    is_unchanged: bool = False
    wrote: tuple[str, ...] = ()
    """Files that its chunks have written, if any has run: other pages may read them."""


class Nothing(Struct, frozen=True):
    """What all pages of a volume have in common."""


TRADE: Trade[BoundPage, DraftReport] = Trade(
    "wornpage.volume.worker",
    __name__,
    Nothing(),
    DraftReport,
    lambda asked: asked.name if not asked.edition else f"{asked.name} ({asked.edition})",
    lambda asked, end: failure(asked, f"the process that ran this page {end}"),
)
"""Drafting them side by side."""
Job, Task = Nothing, BoundPage


def trade_of(job: Nothing) -> Trade[BoundPage, DraftReport]:
    """The same, for whoever knows the job alone."""
    return TRADE


def order_of(asked: BoundPage, nursery: Nursery | None = None) -> Order:
    """The page's pressing."""
    return Order(
        Path(asked.page), asked.name, (), None, asked.afresh, None, None, asked.given, asked.edition, nursery,
        volume=Path(asked.volume),
    )  # fmt: skip


def standing(asked: BoundPage) -> DraftReport | None:
    """The report on a page whose draft is as it should be; None if it must be drafted anew."""
    if asked.afresh:
        return None
    found = still_drafted(asked.page, asked.remembered, remembered_as(asked), asked.today)
    known = found.headline.get("draft", "") if found is not None else ""
    if found is None or not known:
        return None
    return DraftReport(asked.key, known, reused=len(found.chunks), is_unchanged=True)


def remembered_as(asked: BoundPage) -> list[str]:
    """What a page was given, as its state is remembered."""
    return as_chosen(_remembered(asked, order_of(asked)).given)


def draft_page(
    asked: BoundPage, nursery: Nursery | None = None, told: Callable[[str], None] | None = None
) -> DraftReport:
    """Run what must run of a page, and keep its draft. Whatever goes wrong is in the report."""
    return draft_here(asked, nursery, told)[0]


def draft_here(
    asked: BoundPage, nursery: Nursery | None = None, told: Callable[[str], None] | None = None
) -> tuple[DraftReport, Drafted | None]:
    """The same, with the draft itself: where nothing can be kept, that is all there is."""
    begun = time.perf_counter()
    try:
        ran, drafted, pressing = _drafted(asked, nursery, told)
    except PageError as error:
        chunks = error.chunks if isinstance(error, PressingFailed) else ()
        counts = [chunk.outcome for chunk in chunks]
        took = time.perf_counter() - begun
        ran_again, reused = counts.count(Outcome.RAN), counts.count(Outcome.REUSED)
        return DraftReport(asked.key, "", ran_again, reused, took, error.problems, failed=True), None
    except UsageError as error:
        return failure(asked, str(error)), None
    except Exception as bug:
        return failure(asked, *said_of(bug)), None
    known = _remember(asked, ran, drafted, pressing)
    outcomes = [chunk.outcome for chunk in pressing.chunks]
    took = time.perf_counter() - begun
    counted = outcomes.count(Outcome.RAN), outcomes.count(Outcome.REUSED)
    folder = Path(asked.page).parent
    wrote = {str(folder / name) for trace in ran.record.traces.values() for name in trace.files if counted[0]}
    return DraftReport(asked.key, known, *counted, took, drafted.warnings, wrote=tuple(sorted(wrote))), drafted


def failure(asked: BoundPage, what: str, hint: str = "") -> DraftReport:
    """The report of a page that came to nothing."""
    return DraftReport(asked.key, problems=(Problem(Span(asked.name, 1), what, hint),), failed=True)


def _drafted(
    asked: BoundPage, nursery: Nursery | None, told: Callable[[str], None] | None
) -> tuple[Ran, Drafted, Pressing]:
    today = datetime.date.fromisoformat(asked.today)
    ran = run_of(order_of(asked, nursery), ChunkReporter(told))
    ran.warnings.extend(_of_pages_alone(ran.settings))
    chunks = tuple(ran.record.chunks.values())
    draft = lifted(answer(ran.source, ran.settings, ran.head, ran.record, today))
    stop_with(made_containers(draft.blocks, ran.warnings), ran.warnings, chunks)
    colophon = colophon_of(ran.source, ran.settings, ran.record)
    code = tuple((chunk.language, chunk.code) for chunk in ran.source.chunks)
    drafted = Drafted(
        draft, tuple(ran.warnings), tuple(colophon.data), code, mentions_of(draft), is_indexed(draft.blocks)
    )
    return ran, drafted, Pressing((), chunks, tuple(ran.warnings), colophon)


_ALONE = ("controls", "origins")
"""Settings of HTML that a page has by itself, and no chapter."""


def _of_pages_alone(settings: Settings) -> list[Problem]:
    """That what a chapter sets for itself has no effect here."""
    set_here = [name for name in _ALONE if ("press", "html", name) in settings.front.places]
    return [
        Problem(
            settings.place("press", "html", name),
            f"`{name}` has no effect in a volume.",
            "It holds for the page pressed by itself.",
            Severity.WARNING,
        )
        for name in set_here
        if getattr(settings.page.press.html, name)
    ]


def _remember(asked: BoundPage, ran: Ran, drafted: Drafted, pressing: Pressing) -> str:
    """Keep the draft, and what it went by; by what it is known."""
    keep_in(store_of(ran.source.path))
    known = keep(asked.key, drafted)
    order = order_of(asked)
    composed = n.Composed(n.TitleBlock(), (), (), "", drafted.draft.language, files=drafted.draft.files)
    proof = Proof(ran.source, ran.settings, ran.head, ran.record, composed, ran.warnings, {}, ran.begun)
    said = Pressing((), pressing.chunks, pressing.warnings, pressing.colophon, headline={"draft": known})
    remember(proof, said, datetime.date.fromisoformat(asked.today), _remembered(asked, order))
    save_all()
    return known


def _remembered(asked: BoundPage, order: Order) -> Order:
    """The order as it is remembered: under the page's key, with what the volume sets as if it were given."""
    given = {**order.given, "volume": asked.level}
    return replace(order, edition=asked.remembered, given=given)
