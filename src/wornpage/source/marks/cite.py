"""Citations: `{cite key p. 4; "see also" other}`."""

from __future__ import annotations

import re

from wornpage.source.pieces import Piece
from wornpage.tree.brackets import split_form
from wornpage.tree.nodes import CiteItem, CiteMark
from wornpage.tree.problem import Problem, near_miss

_LOCATORS = {
    "p": "page", "pp": "page", "page": "page", "pages": "page", "s": "page", "ch": "chapter", "chap": "chapter",
    "chaps": "chapter", "chapter": "chapter", "chapters": "chapter", "fig": "figure", "figs": "figure", "figure": "figure",
    "figures": "figure", "sec": "section", "secs": "section", "section": "section", "sections": "section", "§": "section",
    "vol": "volume", "vols": "volume", "volume": "volume", "volumes": "volume", "no": "issue", "nos": "issue",
    "number": "issue", "issue": "issue", "eq": "equation", "equation": "equation", "equations": "equation", "n": "note",
    "note": "note", "notes": "note", "l": "line", "ll": "line", "line": "line", "lines": "line", "col": "column",
    "column": "column", "columns": "column", "pt": "part", "part": "part", "parts": "part", "para": "paragraph",
    "paragraph": "paragraph", "paragraphs": "paragraph", "book": "book", "fol": "folio", "folio": "folio", "verse": "verse",
    "verses": "verse", "table": "table", "tables": "table", "tab": "table",
}  # fmt: skip
"""Words before a locator, and what they count by CSL's names."""
CITE_FORMS = ("sentence", "author", "year")
_CITED = re.compile(r"""^(?:(["'])(?P<prefix>.*?)\1\s+)?[@#]?(?P<key>[^\s,;"'{}]+),?(?:\s+(?P<rest>.*))?$""", re.DOTALL)
_KEY = re.compile(r"[@#]?[^\W\d][\w:./+-]*", re.DOTALL)
"""A key that cannot be taken for a number of pages."""
_LOCATED = re.compile(r"""^(?:(?P<word>[^\W\d]+|§+)\.?\s*)?(?P<place>[\dIVXLCMivxlcm][\w.:–—-]*(?:\s*[,&–-]\s*\d[\w–-]*)*)(?P<after>.*)$""", re.DOTALL)  # fmt: skip


def cite_mark(piece: Piece, raw: str) -> tuple[CiteMark, Problem | None]:
    """The citation that `raw` writes; a problem when a part of it makes no sense."""
    body, form = split_form(" ".join(raw[len("{cite") : -1].split()))
    items: list[CiteItem] = []
    problem: Problem | None = None
    for part in (key for cited in _parts(body) for key in _keys(cited)):
        match = _CITED.match(part)
        if match is None:
            hint = 'Write `{cite key}`, `{cite key p. 4; "see also" key2}`.'
            problem = Problem(piece.span, "this citation needs the key of an entry.", hint)
            continue
        locator, label, suffix = _located(match["rest"] or "")
        items.append(CiteItem(match["key"], match["prefix"] or "", locator, label, suffix))
    if form and form not in CITE_FORMS:
        hint = near_miss(form, CITE_FORMS) or f"Forms: {', '.join(CITE_FORMS)}."
        problem = Problem(piece.span, f"a citation has no form {form!r}.", hint)
    return CiteMark(piece.span, tuple(items), form if form in CITE_FORMS else "", raw=raw), problem


def _parts(body: str) -> list[str]:
    """A citation cut at semicolons outside quotes."""
    parts, quote = [""], ""
    for letter in body:
        if letter in "\"'" and (not quote or letter == quote):
            quote = "" if quote else letter if parts[-1].strip() == "" or letter == '"' else quote
        if letter == ";" and not quote:
            parts.append("")
        else:
            parts[-1] += letter
    return [part.strip() for part in parts if part.strip()] or [""]


def _keys(part: str) -> list[str]:
    """Keys alone, between commas, are works of their own; after the first one words or a place may follow."""
    keys = part.split(",")
    if len(keys) > 1 and all(_KEY.fullmatch(key.strip()) for key in keys):
        return [key.strip() for key in keys]
    return [part]


def _located(rest: str) -> tuple[str, str, str]:
    """Locator, what it counts, and words after it."""
    rest = rest.strip()
    match = _LOCATED.match(rest)
    word = "§" if match and (match["word"] or "").startswith("§") else (match["word"] or "").lower() if match else ""
    if match and (not word or word in _LOCATORS):
        label = _LOCATORS[word] if word else "page"
        return match["place"].strip(), label, (match["after"] or "").strip().strip("\"'")
    return "", "page", rest.strip("\"'")
