"""All editions of a page pressed: those that are still right are left alone, the others go to whoever presses them."""

from __future__ import annotations

import datetime
import secrets
from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path

from msgspec import Struct

from wornpage.choices.sets import Edition, chosen, editions_of
from wornpage.editions.work import Job, Made, Report, Task, order_of, trade_of
from wornpage.plan import manifest, together
from wornpage.press import as_chosen, prepare
from wornpage.press.crew import Trade, Watching, press_side_by_side
from wornpage.settings import Settings
from wornpage.showing.keeping import Kept
from wornpage.source import Page, read_page
from wornpage.store.files import content
from wornpage.store.place import store_of
from wornpage.tree.machine import processors
from wornpage.tree.version import VERSION


class Choice(Struct, frozen=True):
    """Which editions, of what, and to what."""

    page: Path
    outputs: tuple[str, ...] = ("html",)
    folder: Path | None = None
    """Where they go; a folder of the page's name in `pressed` beside it otherwise."""
    patterns: tuple[str, ...] = ()
    """Their names fit one of these; all if there are none."""
    where: tuple[str, ...] = ()
    """Conditions that all are true for them."""
    given: dict[str, object] = {}
    afresh: bool = False
    stationery: str | None = None


class Standing(Struct, frozen=True):
    """How an edition stands."""

    edition: Edition
    state: str
    """`fresh`, `stale` or `not pressed yet`."""
    outputs: tuple[tuple[str, str], ...] = ()
    """Kind and path of what there is of it."""
    headline: dict[str, str] = {}


class Edited(Struct, frozen=True):
    """A page whose editions are known."""

    page: Page
    settings: Settings
    editions: list[Edition]
    """All of them."""
    chosen: list[Edition]
    folder: Path


def counted(choice: Choice) -> Edited:
    """The editions of a page, and those that are chosen. Raises `PageError`, `UsageError`."""
    page = read_page(choice.page, str(choice.page))
    settings, _, _ = prepare(page, choice.stationery, choice.given)
    editions = editions_of(page, settings)
    wanted = chosen(editions, choice.patterns, choice.where)
    return Edited(page, settings, editions, wanted, (choice.folder or folder_of(choice.page)).resolve())


def folder_of(page: Path) -> Path:
    """Where the editions of a page go if nobody says otherwise: pages beside each other have folders of their own."""
    return page.parent / "pressed" / page.stem


def standings(edited: Edited, given: dict[str, object]) -> Iterator[Standing]:
    """How each edition stands, by what it was last pressed to."""
    today = str(datetime.date.today())
    for edition in edited.editions:
        last = manifest.last(edited.page.path, edition.name)
        if last is None:
            yield Standing(edition, "not pressed yet")
            continue
        kinds = [kind for kind, _ in last.outputs]
        chosen = as_chosen({**given, **edition.given})
        held = manifest.still_right(edited.page.path, kinds, edited.folder, today, VERSION, edition.name, chosen)
        there = tuple(pair for pair in last.outputs if Path(pair[1]).parent == edited.folder and Path(pair[1]).exists())
        yield Standing(edition, "fresh" if held else "stale", there, last.headline)


def press_editions(
    choice: Choice,
    edited: Edited,
    watching: Watching,
    jobs: int | None = None,
    elsewhere: Callable[[Trade[Task, Report], Sequence[Task]], Iterable[Report]] | None = None,
) -> Iterator[Report]:
    """A report on each edition, as they come in; `jobs` processes press side by side, or whoever is `elsewhere`."""
    job = _job(choice, edited)
    tasks = [Task(edition.name, edition.given) for edition in edited.chosen]
    missing: list[Task] = []
    for task in tasks:
        found = None if choice.afresh or choice.stationery else _standing(job, task)
        if found is None:
            missing.append(task)
        else:
            yield found
    try:
        if missing and elsewhere is not None:
            yield from elsewhere(trade_of(job), missing)
        elif missing:
            yield from press_side_by_side(trade_of(job), missing, jobs or processors(), watching)
    finally:
        together.forget(store_of(edited.page.path), job.pressing)


def take_away(edited: Edited) -> list[str]:
    """Take away what was pressed of editions that are no longer declared; the names of these.

    A file that somebody has changed since stays, and so does what lies elsewhere.
    """
    gone = [
        name for name in manifest.known_editions(edited.page.path) if name not in {one.name for one in edited.editions}
    ]
    taken = []
    for name in gone:
        files = [(Path(path), held) for path, held in manifest.outputs_of(edited.page.path, name)]
        own = [path for path, held in files if path.parent == edited.folder and content(str(path)) == held]
        for path in own:
            path.unlink(missing_ok=True)
        if own:
            taken.append(name)
        manifest.forget(edited.page.path, name)
        Kept(edited.page.path, name).forget()
    return taken


def _job(choice: Choice, edited: Edited) -> Job:
    path = str(edited.page.path.resolve())
    return Job(
        path,
        edited.page.name,
        content(path),
        choice.outputs,
        str(edited.folder),
        str(datetime.date.today()),
        choice.afresh,
        choice.stationery,
        choice.given,
        secrets.token_hex(8),
    )


def _standing(job: Job, task: Task) -> Report | None:
    """The report on an edition that is as it should be; None if it must be pressed."""
    order = order_of(job, task)
    found = manifest.still_right(
        order.page, list(job.outputs), order.folder, job.today, VERSION, task.edition, as_chosen(order.given)
    )
    if found is None:
        return None
    outputs = tuple(Made(kind, path, False) for kind, path in found.outputs)
    return Report(task.edition, outputs, reused=len(found.chunks), headline=found.headline, is_unchanged=True)
