"""The drafts of all pages of a volume: those that are as they were are had from the store, the others are run side by side."""

from __future__ import annotations

import datetime
import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from wornpage.compose import read_head
from wornpage.compose.answering import Draft, answer
from wornpage.compose.chapters import Chapter
from wornpage.compose.language import language_of
from wornpage.plan import manifest
from wornpage.plan.record import Record
from wornpage.press import examine
from wornpage.press.crew import Trade, Watching, press_side_by_side
from wornpage.settings import Settings, settle
from wornpage.settings.volume import FOR_PAGES
from wornpage.source import read_page
from wornpage.store.addresses import digest
from wornpage.store.blocks import BlockCache, keep_in
from wornpage.store.place import make_store, store_of
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError
from wornpage.tree.span import Span
from wornpage.volume.keeping import Drafted, bare, kept
from wornpage.volume.reading import Entry, Volume, blank_page
from wornpage.volume.work import TRADE, BoundPage, DraftReport, draft_here, draft_page, standing

_checked_before = BlockCache("settings")


Afar = Callable[[Trade[BoundPage, DraftReport], Sequence[BoundPage]], Iterable[DraftReport]]


class Told(Struct, frozen=True):
    """What became of one page."""

    entry: Entry
    report: DraftReport


def asked_for(volume: Volume, entry: Entry, today: datetime.date, afresh: bool = False) -> BoundPage:
    """A page, as whoever drafts it is asked."""
    return BoundPage(
        str(entry.path.resolve()),
        entry.name,
        str(volume.file),
        digest(str(volume.file), str(entry.path), entry.edition),
        str(today),
        digest(_level(volume), entry.name),  # messages name it as seen from here
        entry.edition,
        entry.given,
        afresh,
    )


def beyond(volume: Volume) -> set[Path]:
    """Files outside the volume's folder that its pages hang on, as far as they have been run; pages among them."""
    found: set[Path] = set()
    for entry in volume.entries:
        asked = asked_for(volume, entry, datetime.date.today())
        found |= {entry.path.resolve(), *map(Path, manifest.files_read(entry.path, asked.remembered))}
    return {path for path in found if not path.is_relative_to(volume.folder.resolve())}


def _level(volume: Volume) -> str:
    """What the volume sets for its pages."""
    values = {name: volume.checked.values.get(name) for name in (*FOR_PAGES, "given")}
    return digest(repr({name: value for name, value in values.items() if value is not None}))


def draft_all(
    volume: Volume,
    entries: Sequence[Entry],
    today: datetime.date,
    afresh: bool,
    jobs: int,
    watching: Watching,
    elsewhere: Afar | None = None,
) -> Iterator[Told]:
    """What became of each page, as they come in; `jobs` processes draft side by side, or whoever is `elsewhere`."""
    tasks = {one.key: (entry, one) for entry in entries for one in [asked_for(volume, entry, today, afresh)]}
    make_store(store_of(volume.file))
    missing: list[BoundPage] = []
    for entry, asked in tasks.values():
        report = standing(asked)
        if report is None:
            missing.append(asked)
        else:
            yield Told(entry, report)
    if missing and elsewhere is not None:
        for report in elsewhere(TRADE, missing):
            yield Told(tasks[report.key][0], report)
        return
    if min(len(missing), jobs) > 1:
        for report in press_side_by_side(TRADE, missing, jobs, watching):
            yield Told(tasks[report.key][0], report)
        return
    for asked in missing:
        name = TRADE.name(asked)
        watching(0, name, "")
        yield Told(tasks[asked.key][0], draft_page(asked, None, partial(watching, 0, name)))


def drafts_of(volume: Volume, told: dict[str, DraftReport], today: datetime.date) -> list[tuple[Entry, Drafted, bool]]:
    """The draft of each page, and whether it is its own: one that came to nothing has a notice in its place.

    Where what was kept is gone, the page is drafted again, and `told` says so then.
    """
    made = []
    for entry in volume.entries:
        asked = asked_for(volume, entry, today)
        report = told.get(asked.key)
        keep_in(store_of(entry.path))
        known = report.known if report is not None else _last(entry, asked)
        drafted = kept(asked.key, known) if known else None
        if drafted is None and report is not None and not report.failed:
            told[asked.key], drafted = draft_here(asked)
        is_own = drafted is not None
        drafted = drafted or Drafted(_stub(volume, entry))
        made.append((entry, replace(drafted, draft=replace(drafted.draft, chapter=entry.chapter)), is_own))
    return made


def _last(entry: Entry, asked: BoundPage) -> str:
    """The draft of a page that nobody asked for this time, as it was last."""
    last = manifest.last(entry.path, asked.remembered)
    return last.headline.get("draft", "") if last is not None else ""


def _stub(volume: Volume, entry: Entry) -> Draft:
    """What stands in the place of a page that could not be run: its title, and a notice."""
    span = Span(entry.name, 1)
    language = language_of(volume_settings(volume).page.language)
    title = entry.path.stem
    try:
        page = read_page(entry.path, entry.name)
        settings, _, _ = examine(page, given=entry.given, volume=volume.file)
        title = settings.page.title if settings.page.title and "{" not in settings.page.title else title
    except PageError:
        page = blank_page(entry.path, entry.name)
        settings = bare(volume_settings(volume).page, volume.checked)
    said = n.Paragraph(span, (n.Text(span, language.volume["missing"]),))
    words = (n.Container(span, "caution", n.NO_ATTRIBUTES, (said,)),)
    head = n.TitleBlock((n.Text(span, title),))
    light = replace(page, blocks=(), chunks=())
    return Draft(light, settings, language, head, words, (), ())


def volume_settings(volume: Volume) -> Settings:
    """What is set for the whole, as if it were a page."""
    found, _ = settle(blank_page(volume.file, volume.name), _checked_before, None, volume.file)
    own = volume.settings
    common = {name: getattr(own, name) for name in ("authors", "date", "keywords") if getattr(own, name)}
    page = replace(found.page, title=own.title or own.name or volume.folder.name, subtitle=own.subtitle, abstract=own.abstract, **common)  # fmt: skip
    return replace(found, page=page, front=volume.checked)


def front_page(volume: Volume, key: str, today: datetime.date) -> Draft:
    """The page that says what the whole is."""
    settings = volume_settings(volume)
    name = os.path.relpath(volume.file) if volume.file.is_relative_to(Path.cwd()) else volume.name
    page = blank_page(volume.file, name, volume.text)
    draft = answer(page, settings, read_head(page, settings), Record({}, {}, ()), today)
    return replace(draft, chapter=Chapter(key, -1))
