"""The index of a work: its terms in order, each with the places that it is named at."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Sequence
from typing import Any

from wornpage.compose.answering import Draft
from wornpage.compose.numbering import Numbered
from wornpage.tree import nodes as n
from wornpage.tree.walk import walk


class Indexing:
    """All marks for the index in all pages of a work."""

    def __init__(self, drafts: Sequence[Draft], numbered: Sequence[Numbered]) -> None:
        self.labels: dict[int, str] = {}
        """By the identity of a mark: its place."""
        self.terms: dict[tuple[str, str], dict[str, Any]] = {}
        for draft, one in zip(drafts, numbered, strict=True):
            self._read(draft, one)

    def _read(self, draft: Draft, numbered: Numbered) -> None:
        said = draft.chapter.number if draft.chapter is not None else ""
        count = 0
        for node in walk(numbered.blocks):
            if isinstance(node, n.Heading):
                said = node.number or said
            if not isinstance(node, n.IndexMark):
                continue
            count += 1
            self.labels[id(node)] = f"index-{count}"
            found = self.terms.setdefault((node.term, node.narrower), {"places": [], "see": {}, "also": {}})
            if node.see:
                found["also" if node.also else "see"][node.see] = None
            else:
                found["places"].append(n.IndexPlace(f"index-{count}", draft.key, said))

    def place(self, mark: n.IndexMark) -> n.Inlines:
        """What stands in the text: a place to come to; nothing for a word that only leads to another."""
        return () if mark.see else (n.Anchor(mark.span, self.labels.get(id(mark), "")),)

    def list_of(self, node: n.IndexList, page: str) -> n.IndexList:
        """The index, as it stands on a page."""
        terms = sorted({term for term, _ in self.terms}, key=_order)
        return n.IndexList(node.span, tuple(self._entry(term, page) for term in terms))

    def _entry(self, term: str, page: str) -> n.IndexEntry:
        narrower = sorted((one for whole, one in self.terms if whole == term and one), key=_order)
        below = tuple(self._one(one, self.terms[term, one], page, ()) for one in narrower)
        return self._one(term, self.terms.get((term, ""), {"places": [], "see": {}, "also": {}}), page, below)

    def _one(self, words: str, found: dict[str, Any], page: str, below: tuple[n.IndexEntry, ...]) -> n.IndexEntry:
        places = tuple(
            n.IndexPlace(one.label, "" if one.page == page else one.page, one.said or str(at))
            for at, one in enumerate(found["places"], 1)
        )
        return n.IndexEntry(words, places, below, tuple(found["see"]), tuple(found["also"]))

    def facts(self) -> object:
        """All of it, as plain data."""
        return [[key, repr(found)] for key, found in sorted(self.terms.items())]


def _order(words: str) -> tuple[str, str]:
    """Without accents and in small letters; what is alike then goes by its letters."""
    bare = "".join(letter for letter in unicodedata.normalize("NFKD", words) if not unicodedata.combining(letter))
    return bare.casefold(), words


def letter_of(words: str) -> str:
    """What an entry stands under."""
    first = _order(words)[0][:1].upper()
    return first if first.isalpha() else "#"


def is_indexed(nodes: Iterable[n.Node]) -> bool:
    """Whether anything is marked for the index."""
    return any(isinstance(node, n.IndexMark) for node in walk(nodes))
