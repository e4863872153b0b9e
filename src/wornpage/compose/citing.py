"""Citations of pages: which works, in which order, and what stands for each in the text and in the list."""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from msgspec import Struct, convert, to_builtins
from msgspec.structs import replace

from wornpage.compose.answering import Draft
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.sources.entries import Entry, Library, read_library
from wornpage.sources.runs import TERM, Run, Runs
from wornpage.store.blocks import BlockCache
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.span import Span
from wornpage.tree.walk import rewrite, walk, words_of

if TYPE_CHECKING:
    from wornpage.sources.style import Style

T = TypeVar("T", bound=tuple[n.Node, ...])

_read = BlockCache("sources")
_rendered = BlockCache("citations")
_SHAPE = "2"
"""Changes with what is kept of rendered citations, or with how they are rendered."""


class Found(Struct, frozen=True):
    """What one page cites, and what is wrong with that."""

    page: Page
    marks: tuple[n.CiteMark, ...]
    lists: tuple[n.ReferenceList, ...]
    library: Library
    problems: tuple[Problem, ...]


def find_citations(page: Page, settings: Settings, head: tuple[n.Node, ...], blocks: n.Blocks) -> Found:
    """All citations of a page, and the entries that its bibliographies have."""
    marks = tuple(node for node in walk((*head, *blocks)) if isinstance(node, n.CiteMark))
    lists = tuple(node for node in walk(blocks) if isinstance(node, n.ReferenceList))
    problems: list[Problem] = []
    first: dict[Scope, Span] = {}
    for one in lists:
        earlier = first.setdefault(_scope(one.span), one.span)
        if earlier != one.span:
            what = f"the references stand already in line {earlier.line}."
            problems.append(Problem(one.span, what, "A page, and each file in it, lists its references once."))
    if not marks and not lists:
        return Found(page, marks, lists, Library(), tuple(problems))
    names = settings.page.bibliography
    places = [(name, settings.place("bibliography", number)) for number, name in enumerate(names)]
    library = read_library(places, page.path.parent, _read)
    problems += library.problems
    problems += (problem for mark in marks for problem in _unknown(mark, library, bool(names)))
    return Found(page, marks, lists, library, tuple(problems))


def _unknown(mark: n.CiteMark, library: Library, has_names: bool) -> Iterator[Problem]:
    """A problem for each work that no bibliography has."""
    for item in mark.items:
        if item.key in library.entries:
            continue
        if has_names:
            hint = near_miss(item.key, library.entries) or _by_words(item.key, library.entries.values())
            yield Problem(mark.span, f"no entry has the key {item.key!r}.", hint)
        else:
            hint = "Name a file with entries: `bibliography: references.bib` in the front matter."
            yield Problem(mark.span, f"{item.key!r} is cited, and the page names no bibliography.", hint)


PlainRuns = list[tuple[str, list[str], str]]
"""Runs as JSON can hold them: text, looks, address."""


class Rendered(Struct):
    """What the style makes of all citations of a work."""

    cites: list[PlainRuns] = []
    """One a mark."""
    within: list[PlainRuns] = []
    """The same in the sentences of an author's notes, where a style makes notes of citations; otherwise empty."""
    authors: list[PlainRuns] = []
    """The authors alone, one a mark."""
    references: list[tuple[str, PlainRuns, PlainRuns]] = []
    """Key, label and words of each entry of the list, in its order."""
    note: bool = False
    """Whether citations stand in notes."""


class Citing:
    """The citations of all pages of a work, rendered once all of them are known; the first page says in which style."""

    def __init__(self, drafts: Sequence[Draft]) -> None:
        self.drafts = drafts
        self.found = [find_citations(one.page, one.settings, _head(one.head), one.blocks) for one in drafts]
        self.marks = [mark for found in self.found for mark in found.marks]
        self.homes = [draft.key for draft, found in zip(drafts, self.found, strict=True) for _ in found.marks]
        self.places: dict[int, int] = {}
        for place, mark in enumerate(self.marks):
            self.places.setdefault(id(mark), place)
        self.lists: list[Scope] = list(dict.fromkeys(_scope(one.span) for found in self.found for one in found.lists))
        """Where references are listed: for the work, and for files that list their own."""
        self.whole = {(draft.page.name, "") for draft in drafts}
        self.style_files: list[str] = []
        self.style_problems: list[Problem] = []
        self.result = self._rendered() if self.marks or self.lists else Rendered()

    def prepared(self) -> list[Draft]:
        """The pages; the last has a list of references at its end if the author has placed none."""
        if self.lists or not self.result.references:
            return list(self.drafts)
        *others, last = self.drafts
        return [*others, replace(last, blocks=_with_list(last))]

    def problems_of(self, page: str) -> list[Problem]:
        """What is wrong with the citations of a page."""
        first = self.drafts[0].key if self.drafts else ""
        own = [problem for found in self._of(page) for problem in found.problems]
        return own + (self.style_problems if page == first else [])

    def files_of(self, page: str) -> list[str]:
        """The bibliographies and the style that a page went by, as paths the system knows."""
        own = [str(path.resolve()) for found in self._of(page) for path in found.library.files]
        return own + self.style_files

    def facts(self, page: str) -> list[object]:
        """What stands for the citations of a page, and in its list, as plain data."""
        result = self.result
        places = [place for place, home in enumerate(self.homes) if home == page]
        parts = (result.cites, result.within, result.authors)
        told: list[object] = [[place, *(part[place : place + 1] for part in parts)] for place in places]
        told += [result.note, self._listing(), list(self.lists)] if places else []
        if any(found.lists for found in self._of(page)) or (self.drafts and self.drafts[-1].key == page):
            told += [result.references, self.homes, [[i.key for i in mark.items] for mark in self.marks]]
        return told

    def _listing(self) -> str:
        """The page that lists what is cited."""
        listed = [draft.key for draft, found in zip(self.drafts, self.found, strict=True) if found.lists]
        return listed[0] if listed else self.drafts[-1].key

    def _of(self, page: str) -> list[Found]:
        return [found for draft, found in zip(self.drafts, self.found, strict=True) if draft.key == page]

    # --- rendering ----------------------------------------------------------------------------

    def _rendered(self) -> Rendered:
        from wornpage.sources.style import StyleFault, read_style, style_bytes

        first = self.drafts[0]
        name, folder, tag = first.settings.page.citation_style, first.page.path.parent, first.settings.page.language
        entries: dict[str, Entry] = {}
        for found in self.found:
            for key, entry in found.library.entries.items():
                entries.setdefault(key, entry)
        try:
            data, path = style_bytes(name, folder)
            if path is not None:
                self.style_files.append(str(path.resolve()))
            known = (_SHAPE, hashlib.blake2b(data).hexdigest(), tag, _as_asked(self.marks, entries))
            kept = _rendered.get(*known)
            if kept is not None:
                return convert(kept, Rendered)
            made = _by_engine(read_style(name, folder, tag), entries, self.marks)
        except StyleFault as fault:
            self.style_problems.append(Problem(first.settings.place("citation-style"), fault.what, fault.hint))
            return Rendered()
        _rendered.put(to_builtins(made), *known)
        return made

    # --- nodes --------------------------------------------------------------------------------

    def citation(self, mark: n.CiteMark, page: str, in_note: bool = False, begins: bool = False) -> n.Inlines:
        """What stands for a mark on `page`; in a note style a note, unless it stands in one already, which it may begin."""
        place = self.places.get(id(mark), -1)
        if not 0 <= place < len(self.result.cites):
            return ()
        is_within = in_note and self.result.note
        runs = _runs((self.result.within if is_within else self.result.cites)[place])
        runs = _in_mid_sentence(runs) if is_within and not begins else runs
        words = _nodes(runs, mark.span, self._list_for(mark.span, page))
        made = n.Citation(mark.span, f"cite-{place + 1}", words, mark.raw)
        if not self.result.note or mark.form in {"author", "year"}:
            return (made,)
        lead = _nodes(_runs(self.result.authors[place]), mark.span) if mark.form == "sentence" else ()
        if in_note:
            return (*lead, *((n.Text(mark.span, ", "),) if lead else ()), made)
        note = n.Footnote(mark.span, f"cite {place}", (n.Paragraph(mark.span, (made,)),), is_citation=True)
        return (*lead, note)

    def _own(self, span: Span) -> str:
        """What tells the entries apart of the file at `span`, if it lists its own; empty for those of the work."""
        scope = _scope(span)
        return f".{self.lists.index(scope)}" if scope in self.lists and scope not in self.whole else ""

    def _list_for(self, span: Span, page: str) -> n.Spot:
        """What the entries' labels end with in the list that a citation leads to, and the page of that list."""
        own = self._own(span)
        listing = self._listing()
        return n.Spot(own, "" if own or listing == page else listing)

    def list_of(self, node: n.ReferenceList, page: str) -> n.ReferenceList:
        """The list of references on `page`: all of them, or in an inserted file its own."""
        backs: dict[str, list[n.Spot]] = {}
        own = self._own(node.span)
        for place, (mark, home) in enumerate(zip(self.marks, self.homes, strict=True)):
            if own and _scope(mark.span) != _scope(node.span):
                continue
            for key in dict.fromkeys(item.key for item in mark.items):
                backs.setdefault(key, []).append(n.Spot(f"cite-{place + 1}", "" if home == page else home))
        entries = tuple(
            n.Reference(anchor_of(key) + own, _nodes(_runs(label), node.span), _nodes(_runs(words), node.span), tuple(backs.get(key, ())))
            for key, label, words in self.result.references
            if not own or key in backs
        )  # fmt: skip
        return n.ReferenceList(node.span, entries)


def _head(head: n.TitleBlock) -> tuple[n.Node, ...]:
    """What may cite in the head of a page."""
    return (*head.title, *head.subtitle, *head.abstract)


def _with_list(draft: Draft) -> n.Blocks:
    """The blocks and the list with a heading of its own: at the end, or before the appendix."""
    blocks = draft.blocks
    span = Span(draft.page.name, draft.page.text.count("\n") + 1)
    unnumbered = n.Attributes(pairs=(("number", "no"),))
    words = (n.Text(span, draft.language.references),)
    heading = n.Heading(span, 1, words, unnumbered, label="references")
    end = next((place for place, block in enumerate(blocks) if isinstance(block, n.AppendixBreak)), len(blocks))
    return (*blocks[:end], heading, n.ReferenceList(span), *blocks[end:])


def _as_asked(marks: Sequence[n.CiteMark], entries: Mapping[str, Entry]) -> str:
    """All that the words of citations hang on but the style, as text."""
    cited = {item.key: entries[item.key].data for mark in marks for item in mark.items if item.key in entries}
    wanted = [[mark.form, [[i.key, i.prefix, i.locator, i.label, i.suffix] for i in mark.items]] for mark in marks]
    return json.dumps([cited, wanted], ensure_ascii=False, sort_keys=True)


def anchor_of(key: str) -> str:
    """The place of an entry in the list."""
    return "ref-" + "".join(letter if letter.isalnum() or letter in "-_.:" else "-" for letter in key)


def _by_words(words: str, entries: Iterable[Entry]) -> str:
    """Entries that a wrong key may have meant, by name and year in it."""
    parts = [part for part in "".join(c if c.isalnum() else " " for c in words.lower()).split() if len(part) > 2]
    found = [
        entry.key
        for entry in entries
        if parts and all(part in f"{entry.key} {json.dumps(entry.data, ensure_ascii=False)}".lower() for part in parts)
    ]
    return f"Did you mean {' or '.join(map(repr, found[:3]))}?" if found else ""


def _by_engine(
    style_and_path: tuple[Style, Path | None], entries: dict[str, Entry], marks: list[n.CiteMark]
) -> Rendered:
    """All citations and the list."""
    from wornpage.sources.engine import Cluster, Engine

    style, _ = style_and_path
    keys = [item.key for mark in marks for item in mark.items]
    engine = Engine(style, entries, keys)
    seen: set[str] = set()
    before: n.CiteItem | None = None
    cites, within, authors = [], [], []
    for number, mark in enumerate(marks, 1):
        positions = []
        for item in mark.items:
            if before is not None and before.key == item.key and len(mark.items) == 1:
                positions.append(_again(before.locator, item.locator))
            else:
                positions.append("subsequent" if item.key in seen else "first")
            if item.key not in seen and item.key in engine.works:
                engine.works[item.key].first_note = number
            seen.add(item.key)
        before = mark.items[0] if len(mark.items) == 1 else None
        cluster = Cluster(mark.items, mark.form)
        cites.append(_plain(engine.cite(cluster, positions, number).runs))
        if style.is_note:
            within.append(_plain(engine.cite(cluster, positions, number, is_whole_note=False).runs))
        known = [item.key for item in mark.items if item.key in engine.works]
        authors.append(_plain(tuple(run for key in known[:1] for run in engine.author(key))))
    references = [(key, _plain(label), _plain(words)) for key, label, words in engine.references()]
    return Rendered(cites, within, authors, references, style.is_note)


def _again(before: str, now: str) -> str:
    """The position of a work that was cited just before: one whose place was named then and is not now is meant as a whole again."""
    if before == now:
        return "ibid"
    return "ibid-with-locator" if now else "subsequent"


def _plain(runs: Runs) -> PlainRuns:
    return [(run.text, sorted(run.looks), run.href) for run in runs]


def _runs(data: PlainRuns) -> Runs:
    return tuple(Run(text, frozenset(looks), href) for text, looks, href in data)


Scope = tuple[str, str]
"""The file, and the repetition of it, that something stands in."""


def _scope(span: Span) -> Scope:
    return span.file, span.within


def _nodes(runs: Runs, span: Span, listed: n.Spot = n.Spot("")) -> n.Inlines:  # noqa: B008
    """Runs as running text; neighbours with one target are one link. `listed` tells in which list the entries stand."""
    made: list[n.Inline] = []
    for run in runs:
        node = _looked(run, span)
        label = anchor_of(run.href.removeprefix("#ref-")) + listed.label if run.href.startswith("#ref-") else ""
        address = "" if label else run.href
        last = made[-1] if made else None
        if isinstance(last, n.Link) and (last.address, last.to) == (address, label):
            made[-1] = replace(last, children=(*last.children, node))
        else:
            made.append(n.Link(span, address, "", (node,), label, listed.page if label else "") if run.href else node)
    return tuple(made)


def _in_mid_sentence(runs: Runs) -> Runs:
    """A note's words within a sentence of the author's: the style's own word that began it is no beginning now."""
    place = next((place for place, run in enumerate(runs) if run.text.strip()), None)
    if place is None or TERM not in runs[place].looks:
        return runs
    text = runs[place].text
    lower = replace(runs[place], text=text[:1].lower() + text[1:])
    return (*runs[:place], lower, *runs[place + 1 :])


def _looked(run: Run, span: Span) -> n.Inline:
    node: n.Inline = n.Text(span, run.text)
    if "italic" in run.looks:
        node = n.Emphasis(span, (node,))
    if "bold" in run.looks:
        node = n.Strong(span, (node,))
    if "smallcaps" in run.looks:
        node = n.SmallCaps(span, (node,))
    if "sup" in run.looks or "sub" in run.looks:
        node = n.Raised(span, (node,), "sub" in run.looks)
    return node


class Notes:
    """Notes numbered anew in the order in which they are called, and set close to what they belong to."""

    def __init__(self) -> None:
        self.numbers: dict[str, int] = {}

    def numbered(self, tree: T) -> T:
        """`tree` with its notes in order; call it with the parts of a page from the top."""
        made: T = rewrite(tree, self._change, into_words=False)
        return made

    def _change(self, node: n.Node) -> n.Node | None:
        if not isinstance(node, n.Footnote):
            return None
        first = node.key not in self.numbers
        number = self.numbers.setdefault(node.key, len(self.numbers) + 1)
        return replace(node, number=number, first=first, blocks=self.numbered(node.blocks))


def set_close(value: object) -> Any:
    """`value` with citations settled among their neighbours.

    No space stands before one that is set high or before a note that it has made, and no second stop after one that
    ends in a stop (`et al.`).
    """
    if isinstance(value, n.Node | n.Part):
        new = {}
        for name in value.__struct_fields__:
            inner = getattr(value, name)
            if isinstance(inner, tuple | n.Node | n.Part):
                made = set_close(inner)
                if made is not inner:
                    new[name] = made
        return replace(value, **new) if new else value
    if not isinstance(value, tuple):
        return value
    items = [set_close(item) for item in value]
    for place in range(1, len(items)):
        before, item = items[place - 1], items[place]
        if _is_high(item):
            items[place - 1] = _without_space(before)
        elif isinstance(item, n.Text) and _STOP.match(item.text) and _ends_in_stop(before):
            items[place] = replace(item, text=item.text[1:])
    same = all(new is old for new, old in zip(items, value, strict=True))
    return value if same else tuple(items)


_STOP = re.compile(r"\.(?![.\w])")


def _ends_in_stop(node: object) -> bool:
    return isinstance(node, n.Citation) and words_of(node.children).endswith(".")


def _without_space(before: object) -> object:
    if isinstance(before, n.SoftBreak):
        return n.Text(before.span, "")
    if isinstance(before, n.Text) and before.text.endswith(" "):
        return replace(before, text=before.text.rstrip(" "))
    return before


def _is_high(node: object) -> bool:
    if isinstance(node, n.Footnote):
        return node.is_citation
    if isinstance(node, n.Citation) and node.children:
        first = node.children[0]
        first = first.children[0] if isinstance(first, n.Link) and first.children else first
        return isinstance(first, n.Raised)
    return False
