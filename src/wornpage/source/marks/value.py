"""Value marks: `{= expression as form}`, or `{python= expression as form}` where a page has several languages."""

from __future__ import annotations

import re

from wornpage.source.marks.verbs import value_parts
from wornpage.source.pieces import Piece
from wornpage.tree.brackets import split_form
from wornpage.tree.nodes import ValueMark
from wornpage.tree.problem import Problem, near_miss

VALUE_FORMS = ("percent", "thousands", "words", "p-value")

_DECIMALS = re.compile(r"\d{1,2} decimals?$")
_QUOTED = re.compile(r"(\"[^\"]*\"|'[^']*')$")


def is_value_form(form: str) -> bool:
    """Whether a value mark may end in `as` and this."""
    return form in VALUE_FORMS or bool(_DECIMALS.match(form)) or bool(_QUOTED.match(form))


def value_mark(piece: Piece, raw: str) -> tuple[ValueMark, Problem | None]:
    """The value mark that `raw` writes; a problem when its expression is empty or its form unknown."""
    language, body = value_parts(raw)
    expression, form = split_form(" ".join(body.split("\n")).strip())
    mark = ValueMark(piece.span, expression, form, raw, language)
    if not expression:
        return mark, Problem(piece.span, "this value mark has no expression.", "Write `{= name}`.")
    return mark, _unknown_form(mark) if form and not is_value_form(form) else None


def _unknown_form(mark: ValueMark) -> Problem:
    hint = near_miss(mark.form, VALUE_FORMS)
    hint = hint or f'Forms: {", ".join(VALUE_FORMS)}, `2 decimals`, or a quoted format such as ".2f".'
    return Problem(mark.span, f"a value has no form {mark.form!r}.", hint)
