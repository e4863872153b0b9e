"""The words inside a mark: verb, expression, labels, form."""

from __future__ import annotations

import re

from wornpage.source.shield import Piece
from wornpage.tree.brackets import split_form
from wornpage.tree.nodes import CiteItem, CiteMark, PointerMark, ValueMark
from wornpage.tree.problem import Problem, near_miss

VALUE_FORMS = ("percent", "thousands", "words", "p-value")
POINTER_FORMS = ("number", "title")

_DECIMALS = re.compile(r"\d{1,2} decimals?$")
_QUOTED = re.compile(r"(\"[^\"]*\"|'[^']*')$")
_LABEL = re.compile(r"[\w.:-]+$")


def is_value_form(form: str) -> bool:
    """Whether a value mark may end in `as` and this."""
    return form in VALUE_FORMS or bool(_DECIMALS.match(form)) or bool(_QUOTED.match(form))


def value_mark(piece: Piece, raw: str) -> tuple[ValueMark, Problem | None]:
    """The value mark that `raw` writes; a problem when its expression is empty or its form unknown."""
    body = " ".join(raw[2:-1].split("\n")).strip()
    expression, form = split_form(body)
    mark = ValueMark(piece.span, expression, form, raw)
    if not expression:
        return mark, Problem(piece.span, "this value mark has no expression.", "Write `{= name}`.")
    return mark, None


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
_LOCATED = re.compile(r"""^(?:(?P<word>[^\W\d]+|§+)\.?\s*)?(?P<place>[\dIVXLCMivxlcm][\w.:–—-]*(?:\s*[,&–-]\s*\d[\w–-]*)*)(?P<after>.*)$""", re.DOTALL)  # fmt: skip


def cite_mark(piece: Piece, raw: str) -> tuple[CiteMark, Problem | None]:
    """The citation that `raw` writes; a problem when a part of it makes no sense."""
    body, form = split_form(" ".join(raw[len("{cite") : -1].split()))
    items: list[CiteItem] = []
    problem: Problem | None = None
    for part in _parts(body):
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


def _located(rest: str) -> tuple[str, str, str]:
    """Locator, what it counts, and words after it."""
    rest = rest.strip()
    match = _LOCATED.match(rest)
    word = "§" if match and (match["word"] or "").startswith("§") else (match["word"] or "").lower() if match else ""
    if match and (not word or word in _LOCATORS):
        label = _LOCATORS[word] if word else "page"
        return match["place"].strip(), label, (match["after"] or "").strip().strip("\"'")
    return "", "page", rest.strip("\"'")


def pointer_mark(piece: Piece, raw: str) -> tuple[PointerMark, Problem | None]:
    """The pointer that `raw` writes; a problem when its labels or form make no sense."""
    body, _, form = raw[len("{see") : -1].strip().partition(" as ")
    labels = tuple(label.strip().removeprefix("#") for label in body.split(","))
    mark = PointerMark(piece.span, labels, form.strip(), raw=raw)
    if not all(_LABEL.match(label) for label in labels):
        return mark, Problem(piece.span, "this pointer needs a label.", "Write `{see label}`.")
    if form and form.strip() not in POINTER_FORMS:
        hint = f"Forms: {', '.join(POINTER_FORMS)}."
        return mark, Problem(piece.span, f"a pointer has no form {form.strip()!r}.", hint)
    return mark, None
