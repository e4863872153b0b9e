"""Citations of a page: which works, in which order, and what stands for each in the text and in the list."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable
from pathlib import Path
from typing import Any, TypeVar

from msgspec.structs import replace

from wornpage.compose.language import Language
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.sources.entries import Entry, Library, read_library
from wornpage.sources.runs import Run, Runs
from wornpage.store.blocks import BlockCache
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.span import Span
from wornpage.tree.walk import rewrite, walk

T = TypeVar("T", bound=tuple[n.Node, ...])

_read = BlockCache("sources")
_rendered = BlockCache("citations")


class Citing:
    """The citations of one page, rendered once all of them are known."""

    def __init__(self, page: Page, settings: Settings, language: Language) -> None:
        self.page, self.settings, self.language = page, settings, language
        self.problems: list[Problem] = []
        self.files: list[Path] = []
        self.library: Library | None = None
        self.marks: list[n.CiteMark] = []
        self.anchors: dict[int, str] = {}
        self.result: dict[str, Any] = {"cites": [], "authors": [], "references": [], "note": False}
        self.lists: dict[tuple[str, str], Span] = {}
        """Where references are listed: for the page, and for files that list their own."""

    def prepare(self, head: tuple[n.Node, ...], blocks: n.Blocks) -> n.Blocks:
        """Render the citations of the tree; the list of references is added where the author has not placed it."""
        lists = self.read(head, blocks)
        if self.library is None:
            return blocks
        self._render(self.library)
        return blocks if lists or not self.result["references"] else self._with_list(blocks)

    def read(self, head: tuple[n.Node, ...], blocks: n.Blocks) -> bool:
        """Find all citations and what is wrong with them; whether the author has placed the list of references."""
        self.marks = [node for node in walk((*head, *blocks)) if isinstance(node, n.CiteMark)]
        lists = [node for node in walk(blocks) if isinstance(node, n.ReferenceList)]
        for one in lists:
            first = self.lists.setdefault(_scope(one.span), one.span)
            if first != one.span:
                what = f"the references stand already in line {first.line}."
                self.problems.append(Problem(one.span, what, "A page, and each file in it, lists its references once."))
        if self.marks or lists:
            self.library = self._library()
            for mark in self.marks:
                self._check(mark, self.library)
        return bool(lists)

    # --- reading ------------------------------------------------------------------------------

    def _library(self) -> Library:
        names = self.settings.page.bibliography
        places = [(name, self.settings.place("bibliography", number)) for number, name in enumerate(names)]
        library = read_library(places, self.page.path.parent, _read)
        self.problems += library.problems
        self.files += library.files
        return library

    def _check(self, mark: n.CiteMark, library: Library) -> None:
        for item in mark.items:
            if item.key in library.entries:
                continue
            if not self.settings.page.bibliography:
                hint = "Name a file with entries: `bibliography: references.bib` in the front matter."
                problem = Problem(mark.span, f"{item.key!r} is cited, and the page names no bibliography.", hint)
            else:
                hint = near_miss(item.key, library.entries) or _by_words(item.key, library.entries.values())
                problem = Problem(mark.span, f"no entry has the key {item.key!r}.", hint)
            self.problems.append(problem)

    # --- rendering ----------------------------------------------------------------------------

    def _render(self, library: Library) -> None:
        from wornpage.sources.style import StyleFault, read_style, style_bytes

        name, folder, tag = self.settings.page.citation_style, self.page.path.parent, self.settings.page.language
        try:
            data, path = style_bytes(name, folder)
            if path is not None:
                self.files.append(path)
            cited = {item.key: library.entries[item.key].data for mark in self.marks for item in mark.items
                     if item.key in library.entries}  # fmt: skip
            wanted = [
                [mark.form, [[i.key, i.prefix, i.locator, i.label, i.suffix] for i in mark.items]]
                for mark in self.marks
            ]
            key = (
                hashlib.blake2b(data).hexdigest(),
                tag,
                json.dumps([cited, wanted], ensure_ascii=False, sort_keys=True),
            )
            kept = _rendered.get(*key)
            if kept is None:
                kept = _by_engine(read_style(name, folder, tag), library, self.marks)
                _rendered.put(kept, *key)
            self.result = kept
        except StyleFault as fault:
            self.problems.append(Problem(self.settings.place("citation-style"), fault.what, fault.hint))

    def _with_list(self, blocks: n.Blocks) -> n.Blocks:
        """The list with a heading of its own: at the end, or before the appendix."""
        span = Span(self.page.name, self.page.text.count("\n") + 1)
        unnumbered = n.Attributes(pairs=(("number", "no"),))
        words = (n.Text(span, self.language.references),)
        heading = n.Heading(span, 1, words, unnumbered, label="references")
        end = next((place for place, block in enumerate(blocks) if isinstance(block, n.AppendixBreak)), len(blocks))
        return (*blocks[:end], heading, n.ReferenceList(span), *blocks[end:])

    # --- nodes --------------------------------------------------------------------------------

    def citation(self, mark: n.CiteMark, in_note: bool = False) -> n.Inlines:
        """What stands for a mark; in a note style a note, unless it stands in one already."""
        place = next((place for place, other in enumerate(self.marks) if other is mark), -1)
        if place < 0 or place >= len(self.result["cites"]):
            return ()
        words = _nodes(_runs(self.result["cites"][place]), mark.span, self._own(mark.span))
        made = n.Citation(mark.span, f"cite-{place + 1}", words, mark.raw)
        if not self.result["note"] or mark.form in {"author", "year"}:
            return (made,)
        lead = _nodes(_runs(self.result["authors"][place]), mark.span) if mark.form == "sentence" else ()
        if in_note:
            made = replace(made, children=_without_stop(words))
            return (*lead, *((n.Text(mark.span, ", "),) if lead else ()), made)
        note = n.Footnote(mark.span, f"cite {place}", (n.Paragraph(mark.span, (made,)),), is_citation=True)
        return (*lead, note)

    def _own(self, span: Span) -> str:
        """What tells the entries apart of the file at `span`, if it lists its own; empty for those of the page."""
        scope = _scope(span)
        return f".{list(self.lists).index(scope)}" if scope in self.lists and scope != (self.page.name, "") else ""

    @property
    def in_notes(self) -> bool:
        """Whether citations stand in notes."""
        return bool(self.result["note"])

    def list_of(self, node: n.ReferenceList) -> n.ReferenceList:
        """The list of references: all of them, or in an inserted file its own."""
        backs: dict[str, list[str]] = {}
        own = self._own(node.span)
        for place, mark in enumerate(self.marks):
            if own and _scope(mark.span) != _scope(node.span):
                continue
            for key in dict.fromkeys(item.key for item in mark.items):
                backs.setdefault(key, []).append(f"cite-{place + 1}")
        entries = tuple(
            n.Reference(anchor_of(key) + own, _nodes(_runs(label), node.span), _nodes(_runs(words), node.span), tuple(backs.get(key, ())))
            for key, label, words in self.result["references"]
            if not own or key in backs
        )  # fmt: skip
        return n.ReferenceList(node.span, entries)


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


def _by_engine(style_and_path: tuple[Any, Any], library: Library, marks: list[n.CiteMark]) -> dict[str, Any]:
    """All citations and the list, as plain data."""
    from wornpage.sources.engine import Cluster, Engine

    style, _ = style_and_path
    keys = [item.key for mark in marks for item in mark.items]
    engine = Engine(style, library.entries, keys)
    seen: set[str] = set()
    before: n.CiteItem | None = None
    cites, authors = [], []
    for number, mark in enumerate(marks, 1):
        positions = []
        for item in mark.items:
            if before is not None and before.key == item.key and len(mark.items) == 1:
                positions.append("ibid" if before.locator == item.locator else "ibid-with-locator")
            else:
                positions.append("subsequent" if item.key in seen else "first")
            if item.key not in seen and item.key in engine.works:
                engine.works[item.key].first_note = number
            seen.add(item.key)
        before = mark.items[0] if len(mark.items) == 1 else None
        cites.append(_plain(engine.cite(Cluster(mark.items, mark.form), positions, number).runs))
        known = [item.key for item in mark.items if item.key in engine.works]
        authors.append(_plain(tuple(run for key in known[:1] for run in engine.author(key))))
    references = [[key, _plain(label), _plain(words)] for key, label, words in engine.references()]
    return {"cites": cites, "authors": authors, "references": references, "note": style.is_note}


def _plain(runs: Runs) -> list[Any]:
    return [[run.text, sorted(run.looks), run.href] for run in runs]


def _runs(data: Iterable[Any]) -> Runs:
    return tuple(Run(text, frozenset(looks), href) for text, looks, href in data)


def _scope(span: Span) -> tuple[str, str]:
    """The file, and the repetition of it, that something stands in."""
    return span.file, span.within


def _nodes(runs: Runs, span: Span, own: str = "") -> n.Inlines:
    """Runs as running text; neighbours with one target are one link. `own` tells apart the entries that are meant."""
    made: list[n.Inline] = []
    for run in runs:
        node = _looked(run, span)
        label = anchor_of(run.href.removeprefix("#ref-")) + own if run.href.startswith("#ref-") else ""
        address = "" if label else run.href
        last = made[-1] if made else None
        if isinstance(last, n.Link) and (last.address, last.to) == (address, label):
            made[-1] = replace(last, children=(*last.children, node))
        else:
            made.append(n.Link(span, address, "", (node,), label) if run.href else node)
    return tuple(made)


def _without_stop(words: n.Inlines) -> n.Inlines:
    """A citation in the middle of a note ends no sentence."""
    last = words[-1] if words else None
    if isinstance(last, n.Text) and last.text.endswith("."):
        return (*words[:-1], replace(last, text=last.text[:-1]))
    return words


def _looked(run: Run, span: Span) -> n.Inline:
    node: n.Inline = n.Text(span, run.text)
    if "italic" in run.looks:
        node = n.Emphasis(span, (node,))
    if "bold" in run.looks:
        node = n.Strong(span, (node,))
    if "sup" in run.looks or "sub" in run.looks:
        node = n.Raised(span, (node,), "sub" in run.looks)
    return node


class Notes:
    """Notes numbered anew in the order in which they are called, and set close to what they belong to."""

    def __init__(self) -> None:
        self.numbers: dict[str, int] = {}

    def numbered(self, tree: T) -> T:
        """`tree` with its notes in order; call it with the parts of a page from the top."""
        made: T = rewrite(tree, self._change)
        return made

    def _change(self, node: n.Node) -> n.Node | None:
        if not isinstance(node, n.Footnote):
            return None
        first = node.key not in self.numbers
        number = self.numbers.setdefault(node.key, len(self.numbers) + 1)
        return replace(node, number=number, first=first, blocks=self.numbered(node.blocks))


def set_close(value: Any) -> Any:
    """`value` without the spaces before citations that are set high and before notes that citations have made."""
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
        before = items[place - 1]
        if not _is_high(items[place]):
            continue
        if isinstance(before, n.SoftBreak):
            items[place - 1] = n.Text(before.span, "")
        elif isinstance(before, n.Text) and before.text.endswith(" "):
            items[place - 1] = replace(before, text=before.text.rstrip(" "))
    same = all(new is old for new, old in zip(items, value, strict=True))
    return value if same else tuple(items)


def _is_high(node: Any) -> bool:
    if isinstance(node, n.Footnote):
        return node.is_citation
    if isinstance(node, n.Citation) and node.children:
        first = node.children[0]
        first = first.children[0] if isinstance(first, n.Link) and first.children else first
        return isinstance(first, n.Raised)
    return False
