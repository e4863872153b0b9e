"""The pages of a volume composed as one work: chapters and what they hold numbered, pointers across pages, references where they are wanted."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from functools import cached_property

from msgspec import Struct, json
from msgspec.structs import replace

from wornpage.check.text import Labels
from wornpage.compose.answering import Draft
from wornpage.compose.chapters import Chapter
from wornpage.compose.page import Work
from wornpage.compose.pointers import Called
from wornpage.plan import manifest
from wornpage.press.abroad import BOUND
from wornpage.source import Page, read_page
from wornpage.store.addresses import digest
from wornpage.tree import nodes as n
from wornpage.tree.counting import roman
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span
from wornpage.tree.walk import rewrite
from wornpage.volume.drafting import front_page
from wornpage.volume.keeping import Drafted
from wornpage.volume.reading import Entry, Volume

FRONT, REFERENCES, INDEX = "(front)", "(references)", "(index)"
"""Keys of pages that nobody has written."""


class Leaf(Struct, frozen=True, dict=True):
    """A page of the volume; composed when that is asked for."""

    key: str
    address: str
    """Where it is in the site, without ending."""
    work: Work
    at: int
    """Its place in the work."""
    part: int = -1
    entry: Entry | None = None
    """None for pages that nobody has written."""
    drafted: Drafted | None = None
    is_own: bool = True
    """False for a notice in the place of a page that came to nothing."""
    leads_back: bool = True
    """Whether its references lead back to where they are cited."""

    @property
    def draft(self) -> Draft:
        """What it is composed of."""
        return self.work.drafts[self.at]

    @cached_property
    def _made(self) -> tuple[n.Composed, list[Problem]]:
        page, problems = self.work.composed(self.at)
        return (page if self.leads_back else _without_ways_back(page)), problems

    @property
    def page(self) -> n.Composed:
        """The page, composed."""
        return self._made[0]

    @property
    def problems(self) -> list[Problem]:
        """What is wrong with it."""
        return self._made[1]

    @property
    def number(self) -> str:
        """That of the chapter."""
        return self.draft.chapter.number if self.draft.chapter is not None else ""

    @cached_property
    def title(self) -> n.Inlines:
        """What others call it."""
        found = self.work.title(self.at)
        return found or (n.Text(Span(self.draft.page.name, 1), self.draft.page.path.stem),)

    @cached_property
    def state(self) -> str:
        """By what it says: two that have the same state say the same; empty where that is not known."""
        if self.drafted is None or not self.drafted.known or not self.is_own:
            return ""
        return digest(self.drafted.known, repr(self.work.facts(self.at, self.drafted.mentions)))


_UNKNOWN = Called("", "?", "")


class Failed:
    """The places of pages that came to nothing: what points there is not at fault."""

    files: tuple[str, ...] = ()
    is_told = False

    def __init__(self, volume: Volume, pages: Sequence[Entry]) -> None:
        self._labels = [Labels(page) for entry in pages if (page := _read(entry)) is not None]
        last = manifest.last(volume.file, BOUND) if pages else None
        known = last.headline.get("called", "{}") if last is not None else "{}"
        self._called = json.decode(known, type=dict[str, Called])

    def get(self, label: str) -> Called | None:
        """What the place was called last, or a question mark."""
        own = label.rpartition("/")[2]
        return self._called.get(label, _UNKNOWN) if any(labels.has(own, "") for labels in self._labels) else None


def _read(entry: Entry) -> Page | None:
    try:
        return read_page(entry.path, entry.name)
    except PageError:
        return None


class Composition(Struct, frozen=True):
    """The whole."""

    front: Leaf
    leaves: tuple[Leaf, ...]
    parts: tuple[tuple[str, str], ...]
    """Number and title of each part."""


def compose_volume(volume: Volume, drafts: Sequence[tuple[Entry, Drafted, bool]], today: datetime.date) -> Composition:
    """All pages in their order, the front page before them, the references of the whole behind."""
    wanted = volume.settings.references
    pages = [front_page(volume, FRONT, today), *(drafted.draft for _, drafted, _ in drafts)]
    lists = wanted != "each" and any(draft.settings.page.bibliography for draft in pages)
    if lists:
        pages.append(
            _extra(
                pages[0],
                len(pages),
                REFERENCES,
                pages[0].language.references,
                n.ReferenceList(Span(pages[0].page.name, 1)),
            )
        )
    has_index = any(drafted.is_indexed for _, drafted, _ in drafts) and not any(
        isinstance(block, n.IndexList) for draft in pages for block in draft.blocks
    )
    if has_index:  # before the references of the whole, which are found at the end
        words = pages[0].language.volume["index"]
        pages.insert(
            len(pages) - lists, _extra(pages[0], len(pages), INDEX, words, n.IndexList(Span(pages[0].page.name, 1)))
        )
    failed = Failed(volume, [entry for entry, _, is_own in drafts if not is_own])
    work = Work(pages, abroad=failed, cites_apart=wanted != "whole", list_all=lists and wanted == "both")
    leaves = [
        Leaf(entry.chapter.key, entry.address, work, at, entry.part, entry, drafted, is_own)
        for at, (entry, drafted, is_own) in enumerate(drafts, 1)
    ]
    if has_index:
        leaves.append(Leaf(INDEX, "index-of-terms", work, len(drafts) + 1))
    if lists and work.citings[-1].result.references:
        # which place of a page cites a work is told there, if each lists its own
        leaves.append(Leaf(REFERENCES, "references", work, len(pages) - 1, leads_back=wanted == "whole"))
    parts = tuple((roman(at), part.title) for at, part in enumerate(volume.settings.parts, 1))
    return Composition(Leaf(FRONT, "index", work, 0), tuple(leaves), parts)


def _without_ways_back(page: n.Composed) -> n.Composed:
    """A list of references without ways back."""

    def change(node: n.Node) -> n.Node | None:
        if not isinstance(node, n.ReferenceList):
            return None
        return replace(node, entries=tuple(replace(one, backs=()) for one in node.entries))

    return replace(page, blocks=rewrite(page.blocks, change))


def _extra(front: Draft, order: int, key: str, title: str, block: n.Block) -> Draft:
    """A page that nobody has written, with one thing on it."""
    head = n.TitleBlock((n.Text(block.span, title),))
    return replace(front, head=head, blocks=(block,), problems=(), chapter=Chapter(key, order))
