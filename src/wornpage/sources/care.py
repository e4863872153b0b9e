"""Looking through a bibliography: by words, and for what is wrong with it."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Sequence
from html import unescape

from wornpage.sources.entries import Entry, Library
from wornpage.tree.problem import Problem, Severity, near_miss
from wornpage.tree.span import Span

_WANTED = {
    "article-journal": ("author", "title", "container-title", "issued", "volume", "page"),
    "book": ("author|editor", "title", "publisher", "issued"),
    "chapter": ("author", "title", "container-title", "publisher", "issued", "page"),
    "paper-conference": ("author", "title", "container-title", "issued"),
    "thesis": ("author", "title", "publisher", "issued"),
    "report": ("author|publisher", "title", "issued"),
    "webpage": ("title", "URL", "accessed"),
    "dataset": ("author", "title", "issued", "publisher|DOI|URL"),
    "manuscript": ("author", "title"),
}
"""Fields without which an entry of a type looks broken in print; `|` for one of several."""
_NAMES = {
    "container-title": "journal or book title", "issued": "year", "page": "pages", "URL": "url", "accessed": "urldate",
    "publisher": "publisher, school or institution",
}  # fmt: skip


def plain(text: str) -> str:
    """Text as it is compared: without looks, capitals and accents."""
    folded = unicodedata.normalize("NFKD", unescape(re.sub(r"<[^>]+>", "", text))).casefold()
    return "".join(letter for letter in folded if not unicodedata.combining(letter))


def names_of(entry: Entry, most: int = 3) -> str:
    """Family names of an entry's authors or editors."""
    people = entry.data.get("author") or entry.data.get("editor") or []
    known = [str(name.get("family") or name.get("literal") or "") for name in people if not name.get("others")]
    return ", ".join(known[:most]) + (" …" if len(known) > most or len(known) < len(people) else "")


def year_of(entry: Entry) -> str:
    """The year of an entry; empty where it has none."""
    issued = entry.data.get("issued") or {}
    parts = (issued.get("date-parts") or [[]])[0]
    return str(parts[0]) if parts else str(issued.get("literal", ""))


def told(entry: Entry) -> str:
    """An entry in one line."""
    title = re.sub(r"<[^>]+>", "", str(entry.data.get("title", "")))
    return " ".join(filter(None, (names_of(entry), f"({year_of(entry)})" if year_of(entry) else "", title)))


def found(library: Library, words: Sequence[str]) -> list[Entry]:
    """Entries that hold all words in key, names, title, container or year; those with them in key and names first."""
    wanted = [part for word in words for part in plain(word).split()]
    ranked = []
    for entry in library.entries.values():
        people = [*(entry.data.get("author") or ()), *(entry.data.get("editor") or ())]
        names = " ".join(str(part) for person in people for part in person.values())
        front = plain(f"{entry.key} {names} {year_of(entry)}")
        container = str(entry.data.get("container-title", ""))
        whole = f"{front} {plain(str(entry.data.get('title', '')))} {plain(container)}"
        if wanted and all(word in whole for word in wanted):
            ranked.append((-sum(word in front for word in wanted), entry.key, entry))
    return [entry for _, _, entry in sorted(ranked, key=lambda item: item[:2])]


def faults(library: Library, cited: Iterable[tuple[str, Span]]) -> list[Problem]:
    """What is wrong with a bibliography and the citations of its entries, in order of place."""
    cited = list(cited)
    used = {key for key, _ in cited}
    problems = [Problem(p.span, p.what, p.hint, Severity.ERROR) for p in library.problems]
    for key, span in cited:
        if key not in library.entries:
            problems.append(Problem(span, f"no entry has the key {key!r}.", near_miss(key, library.entries)))
    for entry in library.entries.values():
        missing = [name for name in _WANTED.get(str(entry.data.get("type")), ()) if not _has(entry, name)]
        if missing:
            what = f"{entry.key!r} ({_kind(entry)}) lacks {', '.join(_said(name) for name in missing)}."
            problems.append(Problem(entry.span, what, "", Severity.WARNING))
        if entry.key not in used:
            problems.append(Problem(entry.span, f"{entry.key!r} is never cited.", "", Severity.WARNING))
    return sorted(problems, key=lambda problem: problem.span)


def _has(entry: Entry, name: str) -> bool:
    return any(entry.data.get(each) for each in name.split("|"))


def _said(name: str) -> str:
    return " or ".join(_NAMES.get(each, each) for each in name.split("|"))


def _kind(entry: Entry) -> str:
    kinds = {"article-journal": "article", "paper-conference": "conference paper"}
    return kinds.get(str(entry.data.get("type")), str(entry.data.get("type")))
