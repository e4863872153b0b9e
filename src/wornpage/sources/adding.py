"""A work added by its DOI: asked for as CSL-JSON by content negotiation, written as BibTeX."""

from __future__ import annotations

import json
import re
import unicodedata
from html import unescape
from itertools import chain, count
from pathlib import Path
from typing import Any

from wornpage.sources.csl_json import normalised
from wornpage.sources.entries import Entry, Library
from wornpage.tree.counting import letters
from wornpage.tree.problem import UsageError

_TYPES = {
    "article-journal": "article", "journal-article": "article", "article": "article", "book": "book", "monograph": "book",
    "chapter": "incollection", "book-chapter": "incollection", "paper-conference": "inproceedings",
    "proceedings-article": "inproceedings", "thesis": "thesis", "dissertation": "thesis", "report": "report",
    "dataset": "dataset", "software": "software", "webpage": "online", "post-webpage": "online", "posted-content": "unpublished", "manuscript": "unpublished",
}  # fmt: skip
_PATIENCE = 20
"""Seconds."""
_DOI = re.compile(r"(10\.\d{4,9}/\S+)$")


def add_by_doi(doi: str, resolver: str, path: Path, library: Library) -> tuple[str, str]:
    """Ask `resolver` for a DOI and add the work to the file at `path`; its key and its entry. Raises `UsageError`."""
    match = _DOI.search(doi.strip())
    if match is None:
        raise UsageError(f"{doi!r} is no DOI. It begins with `10.`, as in 10.5555/jlm.2022.0003.")
    bare = match[1].rstrip(".,;")
    for entry in library.entries.values():
        if str(entry.data.get("DOI", "")).lower().endswith(bare.lower()):
            raise UsageError(f"the work is there already: {entry.key!r} at {entry.span.file}:{entry.span.line}.")
    data = _asked(resolver.rstrip("/") + "/" + bare, bare)
    data.setdefault("DOI", bare)
    key = key_for(data, library)
    text = as_bibtex(key, data)
    append(path, text)
    return key, text


def _asked(address: str, doi: str) -> dict[str, object]:
    from urllib.error import HTTPError, URLError
    from urllib.request import Request, urlopen

    if not address.startswith(("http://", "https://")):
        raise UsageError(f"{address!r} is no address of a resolver. It begins with https://.")
    request = Request(address, headers={"Accept": "application/vnd.citationstyles.csl+json", "User-Agent": "worn"})
    try:
        with urlopen(request, timeout=_PATIENCE) as answer:
            data = json.loads(answer.read().decode("utf-8"))
    except HTTPError as error:
        reason = "knows no such DOI" if error.code == 404 else f"answered {error.code} {error.reason}"
        raise UsageError(f"the resolver {reason}: {doi}.") from None
    except (URLError, OSError) as error:
        raise UsageError(f"the resolver cannot be reached: {getattr(error, 'reason', error)}.") from None
    except ValueError:
        raise UsageError(f"the resolver's answer for {doi} is no CSL-JSON.") from None
    if not isinstance(data, dict) or not data.get("title"):
        raise UsageError(f"the resolver's answer for {doi} holds no title.")
    return normalised(data)[0]


def key_for(data: dict[str, Any], library: Library) -> str:
    """A key of the first family name and the year, with a letter where there is one like it."""
    people = data.get("author") or data.get("editor") or [{}]
    family = str(people[0].get("family") or "").split()
    name = family[-1] if family else str(people[0].get("literal") or data.get("title", "work")).split()[0]
    folded = unicodedata.normalize("NFKD", name)
    base = re.sub(r"[^a-z0-9]", "", folded.encode("ascii", "ignore").decode().lower()) or "work"
    parts = ((data.get("issued") or {}).get("date-parts") or [[]])[0]
    base += str(parts[0]) if parts else ""
    taken = set(library.entries)
    told_apart = chain([base], (base + letters(number) for number in count(1)))
    return next(key for key in told_apart if key not in taken)


def as_bibtex(key: str, data: dict[str, Any]) -> str:
    """An entry in BibLaTeX, clean and in the usual order."""
    kind = _TYPES.get(str(data.get("type")), "misc")
    container = {"article": "journaltitle", "incollection": "booktitle", "inproceedings": "booktitle"}.get(kind)
    parts = ((data.get("issued") or {}).get("date-parts") or [[]])[0]
    fields = [
        ("author", _names(data.get("author"))),
        ("editor", _names(data.get("editor"))),
        ("title", _title(str(data.get("title", "")))),
        (container or "howpublished", _latex(str(data.get("container-title", "")))),
        ("publisher" if kind != "thesis" else "institution", _latex(str(data.get("publisher", "")))),
        ("location", _latex(str(data.get("publisher-place", "")))),
        ("date", "-".join(f"{int(part):02d}" for part in parts if part)),
        ("volume", str(data.get("volume", ""))),
        ("number", str(data.get("issue") or data.get("number") or "")),
        ("pages", re.sub(r"\s*[-–]\s*", "--", str(data.get("page", "")))),
        ("edition", str(data.get("edition", ""))),
        ("series", _latex(str(data.get("collection-title", "")))),
        ("note", _latex(str(data.get("note", "")))),
        ("doi", str(data.get("DOI", ""))),
        ("isbn", str(data.get("ISBN", ""))),
        ("url", "" if data.get("DOI") else str(data.get("URL", ""))),
    ]
    lines = [f"  {name} = {{{value}}}," for name, value in fields if value]
    return "\n".join([f"@{kind}{{{key},", *lines, "}"])


def _names(people: Any) -> str:
    made = []
    for person in people or ():
        if person.get("others"):
            made.append("others")
            continue
        if person.get("literal") or not person.get("family"):
            made.append(
                "{" + _latex(str(person.get("literal") or person.get("name") or person.get("given") or "")) + "}"
            )
            continue
        family = " ".join(filter(None, (str(person.get("non-dropping-particle") or ""), str(person["family"]))))
        made.append(
            ", ".join(
                filter(None, (_latex(family), str(person.get("suffix") or ""), _latex(str(person.get("given") or ""))))
            )
        )
    return " and ".join(made)


def _title(text: str) -> str:
    """A title in which words with capitals inside keep them."""
    words = _latex(text).split()
    return " ".join("{" + one + "}" if one.isalnum() and any(map(str.isupper, one[1:])) else one for one in words)


_LOOKS = {
    "i": r"\textit{",
    "em": r"\textit{",
    "b": r"\textbf{",
    "strong": r"\textbf{",
    "sup": r"\textsuperscript{",
    "sub": r"\textsubscript{",
}
_TAG = re.compile(r"<(/?)(\w+)([^<>]*)>")


def _latex(text: str) -> str:
    """Text of an entry, in which tags say how letters look."""
    made, at, opened = "", 0, 0
    for found in _TAG.finditer(text):
        made += _escaped(text[at : found.start()])
        at = found.end()
        if found[1]:
            made += "}" if opened else ""
            opened = max(0, opened - 1)
        else:
            looks = r"\textsc{" if "small-caps" in found[3] else "{"
            made += _LOOKS.get(found[2].lower(), looks)
            opened += 1
    return made + _escaped(text[at:]) + "}" * opened


def _escaped(text: str) -> str:
    return re.sub(r"([&%#$_])", r"\\\1", unescape(text))


def append(path: Path, text: str) -> None:
    """Add an entry at the end of a file, whole or not at all."""
    try:
        before = path.read_text(encoding="utf-8") if path.exists() else ""
        part = path.with_name(f"{path.name}.part")
        part.write_text(before.rstrip("\n") + ("\n\n" if before.strip() else "") + text + "\n", encoding="utf-8")
        part.replace(path)
    except (OSError, UnicodeDecodeError) as error:
        raise UsageError(f"{path} cannot be written: {error}.") from None


__all__ = ["Entry", "add_by_doi", "as_bibtex"]
