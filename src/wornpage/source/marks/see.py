"""Pointers: `{see label, label as form}`."""

from __future__ import annotations

import re

from wornpage.source.pieces import Piece
from wornpage.tree.nodes import PointerMark
from wornpage.tree.problem import Problem

POINTER_FORMS = ("number", "title")

_LABEL = re.compile(r"(?:[\w.-]+/)*[\w.:-]+$")
"""A label; before it may stand the page of a volume that has it: `measuring/folding-tester`."""


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
