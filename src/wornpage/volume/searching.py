"""The index that a site is searched by: a script that is loaded when somebody searches, since a page on disk can load nothing else.

Each section is one thing to be found. Its words are without accents and in small letters; of scripts that part no words, each
two letters that follow each other are one (`output/html/volume.js` reads what is written here, and cuts what is sought alike).
"""

from __future__ import annotations

import json
import re
import unicodedata
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from msgspec import Struct

from wornpage.store.blocks import FileCache
from wornpage.tree import nodes as n
from wornpage.tree.walk import children, walk, words_of

_EASTERN = "\u1100-\u11ff\u2e80-\u2fdf\u3005\u3007\u3041-\u309f\u30a0-\u30ff\u3131-\u318f\u31f0-\u31ff\u3400-\u4dbf\u4e00-\u9fff\ua960-\ua97f\uac00-\ud7ff\uf900-\ufaff\U00020000-\U000323af"
_PART = re.compile(rf"([{_EASTERN}]+)|[^\W{_EASTERN}]+")
_TITLE, _HEADING, _CAPTION = 12, 6, 3
"""How much more words there count than in running text."""


class Found(Struct):
    """One thing to be found."""

    anchor: str
    heading: str
    said: list[str]
    weights: dict[str, int]
    page: int = -1


_kept = FileCache("searching")


class Searched(Struct, frozen=True):
    """A page that can be found."""

    address: str
    called: str
    page: Callable[[], n.Composed]
    key: str
    """By what it says: two that have the same key say the same; empty where that is not known."""


def index_of(pages: Iterable[Searched]) -> bytes:
    """The script."""
    listed: list[list[str]] = []
    found: list[Found] = []
    for place, one in enumerate(pages):
        listed.append([one.address, one.called])
        known = _sections_of(one)
        found += [Found(anchor, heading, said, weights, place) for anchor, heading, said, weights in known]
    lists: dict[str, list[tuple[int, int]]] = {}
    for number, thing in enumerate(found):
        for term, weight in thing.weights.items():
            lists.setdefault(term, []).append((number, weight))
    terms = sorted(lists, key=lambda term: term.encode("utf-16-be", "surrogatepass"))
    held = {
        "pages": listed,
        "docs": [[one.page, one.anchor, one.heading, " ".join(" ".join(one.said).split())] for one in found],
        "terms": " ".join(terms),
        "lists": [_listed(lists[term]) for term in terms],
    }
    text = json.dumps(held, ensure_ascii=False, separators=(",", ":"))
    safe = text.replace("\u2028", "\\u2028").replace("\u2029", "\\u2029")
    return f"wornIndex({safe});\n".encode("utf-8", "replace")


def _sections_of(one: Searched) -> list[Any]:
    """The sections of a page as plain data; kept, by the page, as long as it says the same."""
    place, about = one.address.encode("utf-8", "surrogatepass"), "sections"
    said = f"{one.key} {one.called}"
    held = _kept.get(place, about) if one.key else None
    known: list[Any] = json.loads(held) if held is not None else [""]
    if known[0] != said:
        made = [[each.anchor, each.heading, each.said, each.weights] for each in _sections(one.called, one.page())]
        if one.key:
            _kept.put(json.dumps([said, made]).encode(), place, about)
        return made
    found: list[Any] = known[1]
    return found


def terms_of(text: str) -> Iterator[str]:
    """What a text is found by."""
    bare = (
        "".join(letter for letter in unicodedata.normalize("NFKD", text) if not unicodedata.combining(letter))
        .lower()
        .replace("ß", "ss")
    )
    for part in _PART.finditer(bare):
        if part[1] and len(part[0]) > 1:
            yield from (part[0][at : at + 2] for at in range(len(part[0]) - 1))
        else:
            yield part[0]


def _listed(pairs: list[tuple[int, int]]) -> str:
    """Numbers as steps from one to the next, each with its weight where that is not one."""
    out, last = [], 0
    for number, weight in pairs:
        out.append(_short(number - last) + (f".{_short(weight)}" if weight > 1 else ""))
        last = number
    return " ".join(out)


_SIGNS = "0123456789abcdefghijklmnopqrstuvwxyz"


def _short(number: int) -> str:
    made = ""
    while True:
        number, rest = divmod(number, 36)
        made = _SIGNS[rest] + made
        if not number:
            return made


def _sections(title: str, page: n.Composed) -> Iterator[Found]:
    """The page before its first heading, then each section."""
    now = Found("", "", [], {})
    _count(now, title, _TITLE)
    for block in page.head.abstract:
        _take(now, block)
    for block in page.blocks:
        if isinstance(block, n.Heading):
            yield now
            words = words_of(block.children)
            now = Found(block.label, f"{block.number} {words}".strip(), [], {})
            _count(now, words, _HEADING)
        else:
            _take(now, block)
    yield now


def _count(found: Found, text: str, weight: int) -> None:
    for term in terms_of(text):
        found.weights[term] = found.weights.get(term, 0) + weight


def _take(found: Found, block: n.Node) -> None:
    """What a block says: prose, captions, code and the cells of tables."""
    match block:
        case n.Paragraph(children=inlines) | n.Heading(children=inlines):
            _running(found, inlines, 1)
        case n.CodeBlock(lines=lines, caption=caption):
            _running(found, caption, _CAPTION)
            _say(found, "\n".join("".join(token.text for token in line.tokens) for line in lines), 1)
        case n.Figure(caption=caption):
            _running(found, caption, _CAPTION)
        case n.TableBlock(caption=caption, table=table):
            _running(found, caption, _CAPTION)
            for cells in (*((cell.text for cell in row) for row in table.heads), *table.rows):
                for cell in cells:
                    _running(found, cell, 1)
        case n.OutputText(text=text):
            _say(found, text[:2000], 1)
        case n.Container() as box if not box.is_for("html") or box.kind == "speaker":
            return
        case _:
            if isinstance(block, n.Container):
                _running(found, block.title, 1)
            for below in children(block):
                if isinstance(below, n.Block):
                    _take(found, below)
                elif isinstance(below, n.Inline):
                    _running(found, (below,), 1)


def _running(found: Found, inlines: n.Inlines, weight: int) -> None:
    """Running text, and the notes that it calls."""
    _say(found, words_of(inlines), weight)
    for node in walk(inlines):
        if isinstance(node, n.Footnote):
            for inner in node.blocks:
                _take(found, inner)


def _say(found: Found, text: str, weight: int) -> None:
    if text.strip():
        found.said.append(text)
        _count(found, text, weight)
