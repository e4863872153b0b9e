"""Compose pages: each is answered, then they are cited, numbered and pointed as one work. One page is the common case."""

from __future__ import annotations

import datetime
import re
from collections import ChainMap
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Protocol, TypeVar

from msgspec.structs import replace

from wornpage.compose.answering import Draft, answer
from wornpage.compose.chapters import Chapter
from wornpage.compose.citing import Citing, Notes, set_close
from wornpage.compose.head import Head
from wornpage.compose.indexing import Indexing
from wornpage.compose.numbering import Numbered, Target, number
from wornpage.compose.pointers import Called, find_label, in_doubt, point
from wornpage.plan.record import Record
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity, near_miss
from wornpage.tree.span import Span
from wornpage.tree.walk import children, respan, rewrite, without_links, words_of

T = TypeVar("T", bound=tuple[n.Node, ...])


def compose(
    page: Page, settings: Settings, head: Head, record: Record, today: datetime.date, abroad: Abroad | None = None
) -> tuple[n.Composed, list[Problem]]:
    """The page with all its answers in place, and everything found wrong on the way; `abroad` knows places of other pages by their labels."""
    return Work([answer(page, settings, head, record, today)], abroad=abroad).composed(0)


class Abroad(Protocol):
    """What places of other pages are called, where a page of a volume stands by itself."""

    @property
    def files(self) -> tuple[str, ...]:
        """What it went by, as paths the system knows."""

    @property
    def is_told(self) -> bool:
        """Whether it is to be said where one of them is pointed at."""

    def get(self, label: str) -> Called | None:
        """What a place is called; None for none."""


def compose_pages(
    drafts: Sequence[Draft], cites_apart: bool = False, list_all: bool = False
) -> list[tuple[n.Composed, list[Problem]]]:
    """Pages that follow each other in one work, all of them composed; as `Work`."""
    work = Work(drafts, cites_apart, list_all)
    return [work.composed(at) for at in range(len(work.drafts))]


class Work:
    """Pages that follow each other in one work: one order of citations and of numbers, pointers from each to all.

    What is found wrong stands with the page it was found in. `cites_apart`: each page cites for itself, and lists what it cites;
    `list_all`: the last page lists what all of them cite nevertheless. Each page is composed when it is asked for.
    """

    def __init__(
        self,
        drafts: Sequence[Draft],
        cites_apart: bool = False,
        list_all: bool = False,
        abroad: Abroad | None = None,
    ) -> None:
        self.abroad = abroad
        if cites_apart:
            self.citings = [Citing([draft]) for draft in drafts]
            own = [citing.prepared()[0] for citing in self.citings]
            if list_all:
                self.citings[-1], own[-1] = Citing(drafts), drafts[-1]
        else:
            citing = Citing(drafts)
            own = citing.prepared()
            self.citings = [citing] * len(own)
        self.drafts = own
        self.numbered = number(own)
        self.elsewhere = _elsewhere(own, self.numbered)
        self.indexing = Indexing(own, self.numbered)

    def _pointing(self, at: int) -> _Pointing:
        numbered = self.numbered[at]
        return _Pointing(
            self.drafts[at], numbered, ChainMap(numbered.targets, self.elsewhere), self.citings[at], self.indexing, self.abroad
        )  # fmt: skip

    def composed(self, at: int) -> tuple[n.Composed, list[Problem]]:
        """A page with everything in place, and what is wrong with it."""
        return self._pointing(at).composed()

    def title(self, at: int) -> n.Inlines:
        """The title of a page, which others name."""
        return self._pointing(at).settled(self.drafts[at].head.title)

    def entries(self, at: int, kind: str) -> tuple[n.ContentsEntry, ...]:
        """The figures or tables of a page, as lists of them have them."""
        return self._pointing(at).entries(kind)

    def files(self, at: int) -> list[str]:
        """The files that a page went by, as paths the system knows."""
        draft = self.drafts[at]
        return sorted({*draft.files, *self.citings[at].files_of(draft.key)})

    def called(self) -> dict[str, Called]:
        """What the place of each label is called, for pages that stand by themselves."""
        found = {}
        for label, target in self.elsewhere.items():
            words = words_of(target.words)
            if not target.rivals and (words or target.number):
                found[label] = Called(getattr(self.drafts[0].language, target.kind, ("",))[0], target.number, words)
        return found

    def facts(self, at: int, mentions: Iterable[str]) -> list[object]:
        """All that a page hangs on beside its draft: its numbers, what it points to elsewhere (`mentions` are the labels), its citations."""
        draft, own = self.drafts[at], self.numbered[at].targets
        told: list[object] = [repr(draft.chapter), [[label, target.number] for label, target in own.items()]]
        further = [label for label in mentions if label not in own]
        told += [[label, _fact(self.elsewhere[label])] for label in further if label in self.elsewhere]
        told += (
            [repr(self.abroad.get(label)) for label in further if label not in self.elsewhere] if self.abroad else []
        )
        lists = any(isinstance(block, n.IndexList) for block in draft.blocks)
        return [*told, self.citings[at].facts(draft.key), self.indexing.facts() if lists else ""]


def _fact(target: Target) -> list[object]:
    """All that a pointer says of a place, as plain data; in which line it is written is none of it."""
    words = repr(respan(target.words, Span("", 0)))
    return [target.kind, target.number, words, target.anchor, target.page, target.place, target.rivals]


def _elsewhere(drafts: Sequence[Draft], numbered: Sequence[Numbered]) -> dict[str, Target]:
    """What labels lead to for a page that has none such itself; with the page's own name before them they are never in doubt."""
    found: dict[str, Target] = {}
    for draft, one in zip(drafts, numbered, strict=True):
        for label, target in one.targets.items():
            if draft.chapter is not None:
                found[f"{draft.chapter.key}/{label}"] = target
            earlier = found.setdefault(label, target)
            if earlier is not target:
                rivals = (*(earlier.rivals or (earlier.page,)), target.page)[:4]
                found[label] = replace(earlier, rivals=rivals)
    return found


class _Pointing:
    """The last pass over a page: its citations, its pointers, and the lists of what it holds."""

    def __init__(
        self,
        draft: Draft,
        numbered: Numbered,
        targets: Mapping[str, Target],
        citing: Citing,
        indexing: Indexing,
        abroad: Abroad | None = None,
    ) -> None:
        self.abroad = abroad
        self.went_by: tuple[str, ...] = ()
        """What told of places of other pages."""
        self.draft, self.numbered, self.targets, self.citing, self.indexing = draft, numbered, targets, citing, indexing
        self.problems = [*draft.problems, *citing.problems_of(draft.key), *numbered.problems]
        self.in_note = False
        self.note_begins: n.Inline | None = None
        """What a note begins with."""

    def composed(self) -> tuple[n.Composed, list[Problem]]:
        draft, notes = self.draft, Notes()
        head = draft.head
        body = self.settled(self.numbered.blocks)
        title = replace(
            head,
            title=self.settled(head.title),
            subtitle=self.settled(head.subtitle),
            abstract=notes.numbered(set_close(self.settled(head.abstract))),
            keywords=tuple(self.settled(keyword) for keyword in head.keywords),
        )
        body = notes.numbered(set_close(body) if self.citing.marks else body)
        contents = self.entries("contents")
        page = n.Composed(
            head=title,
            blocks=body,
            contents=contents,
            plain_title=words_of(title.title) or _title_otherwise(contents, draft.page),
            terms=draft.language,
            language=draft.settings.page.language,
            words=_word_count(body),
            files=tuple(sorted({*draft.files, *self.citing.files_of(draft.key), *self.went_by})),
            number=draft.chapter.number if draft.chapter is not None else "",
            word=self.word_for(draft.chapter) if draft.chapter is not None else "",
            host=draft.page.host,
        )
        return page, self.problems

    def word_for(self, chapter: Chapter) -> str:
        """What stands before the number of a chapter."""
        kind = self.draft.language.appendix if chapter.is_appendix else self.draft.language.chapter
        return kind[0] if chapter.number else ""

    def settled(self, tree: T) -> T:
        result: T = rewrite(tree, self.change, into_words=False)
        return result

    def change(self, node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        match node:
            case n.PointerMark():
                words, problems = point(node, self.targets, self.draft, self.abroad_from(node.span))
                self.problems.extend(p for p in problems if p not in self.problems)
                return n.Answered(node.span, words, node.raw)
            case n.CiteMark():
                return self.citing.citation(node, self.draft.key, self.in_note, node is self.note_begins)
            case n.Footnote() if not self.in_note:
                self.in_note, self.note_begins = True, _first_of(node)
                made = replace(node, blocks=self.settled(node.blocks))
                self.in_note = False
                return made
            case n.IndexMark():
                return self.indexing.place(node)
            case n.IndexList():
                return self.indexing.list_of(node, self.draft.key)
            case n.ReferenceList():
                return self.citing.list_of(node, self.draft.key)
            case n.ContentsList():
                return replace(node, entries=self.entries(node.kind))
            case n.Link(to=to) if to:
                return self.link(node)
        return None

    def abroad_from(self, span: Span) -> Callable[[str], Called | None]:
        """What a place of another page is called, for something at `span` that leads there; None for none."""

        def called(label: str) -> Called | None:
            found = self.abroad.get(label) if self.abroad is not None else None
            if self.abroad is None or found is None:
                return None
            self.went_by = self.abroad.files
            if self.abroad.is_told:
                what = f"this leads into the volume, to {found.said('')}; in a page by itself it is words alone."
                self.problems.append(Problem(span, what, severity=Severity.WARNING))
            return found

        return called

    def link(self, link: n.Link) -> n.Link | tuple[n.Node, ...] | None:
        """A link to a label must lead somewhere."""
        known = find_label(link.to, link.apart, self.targets)
        if not known and self.abroad_from(link.span)(link.to) is not None:
            words: tuple[n.Node, ...] = self.settled(link.children)
            return words
        if known and (doubt := in_doubt(known, self.targets[known], link.span, self.draft.key)):
            self.problems.append(doubt)
        if not known:
            what = f"nothing in this page is labelled {link.to!r}."
            self.problems.append(Problem(link.span, what, near_miss(link.to, self.targets)))
            return None
        page = self.targets[known].page
        page = "" if page == self.draft.key else page
        if known == link.to and not page:
            return None
        place = self.targets[known].anchor if page else known
        return n.Link(link.span, "", link.title, self.settled(link.children), place, page)

    def bare(self, words: n.Inlines) -> n.Inlines:
        """A heading's or caption's words for a list of links to them."""
        return without_links(self.settled(words))

    def entries(self, kind: str) -> tuple[n.ContentsEntry, ...]:
        if kind == "contents":
            return tuple(replace(entry, children=self.bare(entry.children)) for entry in self.numbered.contents)
        wanted = kind.removesuffix("s")
        return tuple(
            n.ContentsEntry(1, target.number, target.anchor, self.bare(target.words))
            for target in self.numbered.targets.values()
            if target.kind == wanted and target.place and not target.is_part
        )


def _first_of(note: n.Footnote) -> n.Inline | None:
    """What the words of a note begin with."""
    first = note.blocks[0] if note.blocks else None
    return first.children[0] if isinstance(first, n.Paragraph) and first.children else None


_LETTER = re.compile(r"[^\W_]")
"""A letter or a digit: what has none is no word."""


def _word_count(blocks: n.Blocks) -> int:
    """Words of running text: without code, cells of tables and references, and what only a speaker sees."""
    counted = 0
    todo: list[n.Node] = list(blocks)
    while todo:
        node = todo.pop()
        if isinstance(node, n.Text):
            counted += sum(map(bool, map(_LETTER.search, node.text.split())))
        elif isinstance(node, n.TableBlock):
            todo += node.caption
        elif isinstance(node, n.Container) and node.kind == "speaker":
            continue
        elif not isinstance(node, n.CodeBlock | n.OutputText | n.ReferenceList):
            todo += children(node)
    return counted


def _title_otherwise(contents: tuple[n.ContentsEntry, ...], page: Page) -> str:
    """What an untitled page is called: its first heading, or its file."""
    return words_of(contents[0].children) if contents else page.path.stem
