"""Compose pages: each is answered, then they are cited, numbered and pointed as one work. One page is the common case."""

from __future__ import annotations

import datetime
import re
from collections import ChainMap
from collections.abc import Mapping, Sequence
from typing import TypeVar

from msgspec.structs import replace

from wornpage.compose.answering import Draft, answer
from wornpage.compose.citing import Citing, Notes, set_close
from wornpage.compose.head import Head
from wornpage.compose.numbering import Numbered, Target, number
from wornpage.compose.pointers import find_label, point
from wornpage.plan.record import Record
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.walk import children, rewrite, without_links, words_of

T = TypeVar("T", bound=tuple[n.Node, ...])


def compose(
    page: Page, settings: Settings, head: Head, record: Record, today: datetime.date
) -> tuple[n.Composed, list[Problem]]:
    """The page with all its answers in place, and everything found wrong on the way."""
    return compose_pages([answer(page, settings, head, record, today)])[0]


def compose_pages(drafts: Sequence[Draft]) -> list[tuple[n.Composed, list[Problem]]]:
    """Pages that follow each other in one work: one order of citations and of numbers, pointers from each to all.

    What is found wrong stands with the page it was found in.
    """
    citing = Citing(drafts)
    drafts = citing.prepared()
    numbered = number(drafts)
    elsewhere: dict[str, Target] = {}
    for one in numbered:
        for label, target in one.targets.items():
            elsewhere.setdefault(label, target)
    return [
        _Pointing(draft, one, ChainMap(one.targets, elsewhere), citing).composed()
        for draft, one in zip(drafts, numbered, strict=True)
    ]


class _Pointing:
    """The last pass over a page: its citations, its pointers, and the lists of what it holds."""

    def __init__(self, draft: Draft, numbered: Numbered, targets: Mapping[str, Target], citing: Citing) -> None:
        self.draft, self.numbered, self.targets, self.citing = draft, numbered, targets, citing
        self.problems = [*draft.problems, *citing.problems_of(draft.page.name), *numbered.problems]
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
        words = draft.language.count(_word_count(body))
        page = n.Composed(
            head=title,
            blocks=body,
            contents=contents,
            plain_title=words_of(title.title) or _title_otherwise(contents, draft.page),
            terms=draft.language,
            language=draft.settings.page.language,
            word_count=draft.language.word_count.format(count=words),
            files=tuple(sorted({*draft.files, *self.citing.files_of(draft.page.name)})),
        )
        return page, self.problems

    def settled(self, tree: T) -> T:
        result: T = rewrite(tree, self.change)
        return result

    def change(self, node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        match node:
            case n.PointerMark():
                words, problems = point(node, self.targets, self.draft.page, self.draft.language)
                self.problems.extend(p for p in problems if p not in self.problems)
                return n.Answered(node.span, words, node.raw)
            case n.CiteMark():
                return self.citing.citation(node, self.draft.page.name, self.in_note, node is self.note_begins)
            case n.Footnote() if not self.in_note:
                self.in_note, self.note_begins = True, _first_of(node)
                made = replace(node, blocks=self.settled(node.blocks))
                self.in_note = False
                return made
            case n.ReferenceList():
                return self.citing.list_of(node, self.draft.page.name)
            case n.ContentsList():
                return replace(node, entries=self.entries(node.kind))
            case n.Link(to=to) if to:
                return self.link(node)
        return None

    def link(self, link: n.Link) -> n.Link | None:
        """A link to a label must lead somewhere."""
        known = find_label(link.to, link.apart, self.targets)
        if not known:
            what = f"nothing in this page is labelled {link.to!r}."
            self.problems.append(Problem(link.span, what, near_miss(link.to, self.targets)))
            return None
        page = self.targets[known].page
        page = "" if page == self.draft.page.name else page
        if known == link.to and not page:
            return None
        return n.Link(link.span, "", link.title, self.settled(link.children), known, page)

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
            if target.kind == wanted and len(target.place) == 1
        )


def _first_of(note: n.Footnote) -> n.Inline | None:
    """What the words of a note begin with."""
    first = note.blocks[0] if note.blocks else None
    return first.children[0] if isinstance(first, n.Paragraph) and first.children else None


_LETTER = re.compile(r"[^\W_]")
"""A letter or a digit: what has none is no word."""


def _word_count(blocks: n.Blocks) -> int:
    """Words of running text: without code, cells of tables and references."""
    counted = 0
    todo: list[n.Node] = list(blocks)
    while todo:
        node = todo.pop()
        if isinstance(node, n.Text):
            counted += sum(map(bool, map(_LETTER.search, node.text.split())))
        elif isinstance(node, n.TableBlock):
            todo += node.caption
        elif not isinstance(node, n.CodeBlock | n.OutputText | n.ReferenceList):
            todo += children(node)
    return counted


def _title_otherwise(contents: tuple[n.ContentsEntry, ...], page: Page) -> str:
    """What an untitled page is called: its first heading, or its file."""
    return words_of(contents[0].children) if contents else page.path.stem
