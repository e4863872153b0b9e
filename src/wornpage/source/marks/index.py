"""Words for the index: `{index term}`, `{index term: narrower}`, `{index term see other}`, `{index term see also other}`."""

from __future__ import annotations

import re

from wornpage.source.pieces import Piece
from wornpage.tree.nodes import IndexMark
from wornpage.tree.problem import Problem

_SEE = re.compile(r"^(?P<term>.*?)\s+see\s+(?P<also>also\s+)?(?P<other>\S.*)$", re.DOTALL)


def index_mark(piece: Piece, raw: str) -> tuple[IndexMark, Problem | None]:
    """The entry that `raw` writes; a problem when it names no term."""
    body = " ".join(raw[len("{index") : -1].split())
    led = _SEE.match(body)
    term, _, narrower = (led["term"] if led else body).partition(": ")
    mark = IndexMark(
        piece.span, term.strip(), narrower.strip(), led["other"].strip() if led else "", bool(led and led["also"]), raw
    )
    if not mark.term:
        return mark, Problem(piece.span, "this mark names no term for the index.", "Write `{index folding endurance}`.")
    return mark, None
