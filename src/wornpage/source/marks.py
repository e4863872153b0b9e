"""The words inside a mark: verb, expression, labels, form."""

from __future__ import annotations

import re

from wornpage.source.shield import Piece
from wornpage.tree.brackets import split_form
from wornpage.tree.nodes import PointerMark, ValueMark
from wornpage.tree.problem import Problem

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
    mark = ValueMark(piece.span, expression, form)
    if not expression:
        return mark, Problem(piece.span, "this value mark has no expression.", "Write `{= name}`.")
    return mark, None


def pointer_mark(piece: Piece, raw: str) -> tuple[PointerMark, Problem | None]:
    """The pointer that `raw` writes; a problem when its labels or form make no sense."""
    body, _, form = raw[len("{see") : -1].strip().partition(" as ")
    labels = tuple(label.strip().removeprefix("#") for label in body.split(","))
    mark = PointerMark(piece.span, labels, form.strip())
    if not all(_LABEL.match(label) for label in labels):
        return mark, Problem(piece.span, "this pointer needs a label.", "Write `{see label}`.")
    if form and form.strip() not in POINTER_FORMS:
        hint = f"Forms: {', '.join(POINTER_FORMS)}."
        return mark, Problem(piece.span, f"a pointer has no form {form.strip()!r}.", hint)
    return mark, None
