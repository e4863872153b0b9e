"""The pages of a volume composed as one work: chapters and what they hold numbered, pointers across pages, references where they are wanted."""

from __future__ import annotations

import datetime
from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from wornpage.compose import compose_pages
from wornpage.compose.answering import Draft
from wornpage.compose.chapters import Chapter
from wornpage.tree import nodes as n
from wornpage.tree.counting import roman
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span
from wornpage.tree.walk import rewrite, walk
from wornpage.volume.drafting import front_page
from wornpage.volume.keeping import Drafted
from wornpage.volume.reading import Entry, Volume

FRONT, REFERENCES = "(front)", "(references)"
"""Keys of pages that nobody has written."""


class Leaf(Struct, frozen=True):
    """A page of the volume, composed."""

    key: str
    address: str
    """Where it is in the site, without ending."""
    page: n.Composed
    draft: Draft
    problems: tuple[Problem, ...]
    part: int = -1
    entry: Entry | None = None
    """None for pages that nobody has written."""
    drafted: Drafted | None = None
    is_own: bool = True
    """False for a notice in the place of a page that came to nothing."""


class Composition(Struct, frozen=True):
    """The whole."""

    front: Leaf
    leaves: tuple[Leaf, ...]
    parts: tuple[tuple[str, str], ...]
    """Number and title of each part."""

    @property
    def problems(self) -> list[Problem]:
        """Everything that was found wrong while composing."""
        return [problem for leaf in (self.front, *self.leaves) for problem in leaf.problems]


def compose_volume(volume: Volume, drafts: Sequence[tuple[Entry, Drafted, bool]], today: datetime.date) -> Composition:
    """All pages in their order, the front page before them, the references of the whole behind."""
    wanted = volume.settings.references
    pages = [front_page(volume, FRONT, today), *(drafted.draft for _, drafted, _ in drafts)]
    lists = wanted != "each" and any(draft.settings.page.bibliography for draft in pages)
    if lists:
        pages.append(_references(pages[0], len(pages)))
    made = compose_pages(pages, cites_apart=wanted != "whole", list_all=lists and wanted == "both")
    leaves = [
        Leaf(entry.chapter.key, entry.address, page, drafted.draft, tuple(problems), entry.part, entry, drafted, is_own)
        for (entry, drafted, is_own), (page, problems) in zip(drafts, made[1:], strict=False)
    ]
    if lists and any(isinstance(node, n.ReferenceList) and node.entries for node in walk(made[-1][0].blocks)):
        if wanted == "both":  # which place of a page cites a work is told there
            made[-1] = (_without_ways_back(made[-1][0]), made[-1][1])
        leaves.append(Leaf(REFERENCES, "references", made[-1][0], pages[-1], tuple(made[-1][1])))
    front = Leaf(FRONT, "index", made[0][0], pages[0], tuple(made[0][1]))
    parts = tuple((roman(at), part.title) for at, part in enumerate(volume.settings.parts, 1))
    return Composition(front, tuple(leaves), parts)


def _without_ways_back(page: n.Composed) -> n.Composed:
    """A list of references without ways back."""

    def change(node: n.Node) -> n.Node | None:
        if not isinstance(node, n.ReferenceList):
            return None
        return replace(node, entries=tuple(replace(one, backs=()) for one in node.entries))

    return replace(page, blocks=rewrite(page.blocks, change))


def _references(front: Draft, order: int) -> Draft:
    """A page with the references of the whole."""
    span = Span(front.page.name, 1)
    head = n.TitleBlock((n.Text(span, front.language.references),))
    return replace(front, head=head, blocks=(n.ReferenceList(span),), problems=(), chapter=Chapter(REFERENCES, order))
