"""Citations as LaTeX's packages make them, and the `.bib` file with the works that the page cites."""

from __future__ import annotations

import re

from wornpage.output.kind import Job
from wornpage.output.tex import letters
from wornpage.source import build_inlines
from wornpage.sources.adding import as_bibtex
from wornpage.sources.entries import read_library
from wornpage.tree import nodes as n
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

_CLASSIC = {"journaltitle": "journal", "location": "address", "institution": "school"}
_DATE = re.compile(r"^  date = \{(\d{4})[^}]*\},$", re.MULTILINE)
_FIELD = re.compile(r"^  (journaltitle|location|institution)(?= = )", re.MULTILINE)
_KIND = re.compile(r"^@(\w+)")
_CLASSIC_KINDS = {
    "thesis": "phdthesis",
    "online": "misc",
    "report": "techreport",
    "dataset": "misc",
    "software": "misc",
}


class Cites:
    """Citations of one page, by `biblatex` or `natbib`."""

    def __init__(self, package: str, job: Job) -> None:
        self.package, self._job = package, job
        self._cited: dict[str, None] = {}

    def command(self, citation: n.Citation) -> str:
        """A citation; empty where its mark is not known."""
        inlines, _ = build_inlines(citation.raw, citation.span) if citation.raw else ((), [])
        mark = next((node for node in walk(inlines) if isinstance(node, n.CiteMark)), None)
        if mark is None:
            return ""
        self._cited.update(dict.fromkeys(item.key for item in mark.items))
        alone = all(not (item.prefix or item.locator or item.suffix) for item in mark.items)
        name = self._name(mark.form)
        if alone or len(mark.items) == 1:
            return rf"\{name}{_around(mark.items[0])}{{{','.join(item.key for item in mark.items)}}}"
        if self.package == "biblatex":
            return rf"\{name}s" + "".join(f"{_around(item)}{{{item.key}}}" for item in mark.items)
        inner = "; ".join(rf"{_before(item)}\citealp{_behind(item)}{{{item.key}}}" for item in mark.items)
        return f"({inner})"

    def _name(self, form: str) -> str:
        if self.package == "natbib":
            return {"sentence": "citet", "author": "citeauthor", "year": "citeyearpar"}.get(form, "citep")
        return {"sentence": "textcite", "author": "citeauthor", "year": "citeyear"}.get(form, "parencite")

    def bibliography(self) -> str:
        """The entries that are cited."""
        names = [(name, Span(self._job.name, 1)) for name in self._job.settings.bibliography]
        library = read_library(names, self._job.folder)
        found = [library.entries[key] for key in self._cited if key in library.entries]
        made = [as_bibtex(entry.key, entry.data) for entry in found]
        return "\n\n".join(made if self.package == "biblatex" else map(_classic, made)) + "\n"


def _around(item: n.CiteItem) -> str:
    """What stands before and behind a work, as options."""
    if item.prefix:
        return f"[{letters.text(item.prefix)}]{_behind(item) or '[]'}"
    return _behind(item)


def _before(item: n.CiteItem) -> str:
    return f"{letters.text(item.prefix)} " if item.prefix else ""


def _behind(item: n.CiteItem) -> str:
    words = ""
    if item.locator:
        several = "-" in item.locator or "\u2013" in item.locator or "," in item.locator
        page = "pp.~" if several else "p.~"
        words = (page if item.label == "page" else f"{item.label}~") + letters.text(item.locator.replace("-", "\u2013"))
    words += (", " if words and item.suffix else "") + letters.text(item.suffix.lstrip(", "))
    return f"[{words}]" if words else ""


def _classic(entry: str) -> str:
    """An entry with the fields that BibTeX's own styles know."""
    if not re.search(r"^  (?:author|editor) = ", entry, re.MULTILINE):  # what it is called, and put in order by
        entry = re.sub(r"^  title = \{(.*)\},$", r"  title = {\1},\n  key = {\1},", entry, count=1, flags=re.MULTILINE)
    entry = _FIELD.sub(lambda found: f"  {_CLASSIC[found[1]]}", entry)
    entry = _DATE.sub(r"  year = {\1},", entry)
    return _KIND.sub(lambda found: f"@{_CLASSIC_KINDS.get(found[1], found[1])}", entry)
