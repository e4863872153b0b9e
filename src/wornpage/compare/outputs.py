"""Whether the outputs of a page say what the page says: every heading, value, caption, number and cell."""

from __future__ import annotations

import datetime
import re
import unicodedata
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from wornpage.colophon import colophon_of
from wornpage.compare.reading import read_file
from wornpage.output.audience import for_output
from wornpage.output.outputs import output_of
from wornpage.plan import manifest
from wornpage.plan.record import Reporter
from wornpage.press import Order, composed_for, proof_of
from wornpage.showing.parts import OVER, Figure, Showing, Table, Words
from wornpage.showing.taking import showing_of
from wornpage.tree import nodes as n
from wornpage.tree.walk import rewrite

FORMULA = "\u2063"
"""Stands for a formula within words, which each output writes in its own way."""
_OF_DECKS = {"slides", "pptx", "slides-pdf"}
"""Outputs that leave summaries to readers of the whole."""
_NUMBER = re.compile(r"^(?:[A-Z]|\d+)(?:\.\d+)*\s+")
"""That of a heading, which some programs count by themselves."""
_HARD = re.compile(
    r"[\u0590-\u08ff\u0900-\u0eff\u1100-\u11ff\u2600-\u27bf\u2e80-\ud7ff\uf900-\ufaff\ufb1d-\ufeff\U0001f000-\U0003ffff]"
)
"""Letters that stand in another order in a PDF, or under other numbers."""
_AROUND = 12
"""Letters on one side of a value by which it is found again."""
_NOT_COMPARED = {"xlsx", "tex", "rst", "tex-pdf"}
"""Outputs that have less than the page, or words between commands."""


class Missing(Struct, frozen=True):
    """Something that an output does not say."""

    output: str
    kind: str
    """`heading`, `value`, `caption`, `cell` or `text`."""
    said: str
    place: str
    around: str = ""


class Checked(Struct, frozen=True):
    """One output."""

    output: str
    path: Path
    count: int
    """How many sayings were looked for."""
    missing: tuple[Missing, ...]
    unread: int = 0
    """How many more stand in scripts that cannot be read back from its files."""


def made_of(page: Path) -> list[tuple[str, Path]]:
    """The outputs of the last pressing that are there and can be held against the page: their kinds and files."""
    last = manifest.last(page)
    made = [(kind, Path(path)) for kind, path in last.outputs] if last is not None else []
    return [(kind, path) for kind, path in made if kind not in _NOT_COMPARED and path.exists()]


def checked_outputs(
    page: Path, made: Sequence[tuple[str, Path]], given: Mapping[str, object], reporter: Reporter | None
) -> list[Checked]:
    """Whether each output says what the page shows; what is stale of the page is run. Raises `PageError`, `UsageError`."""
    proof = proof_of(Order(page, str(page), given=given), reporter)
    colophon = colophon_of(proof.source, proof.settings, proof.record)
    found = []
    for kind, path in made:
        composed, _ = composed_for(kind, proof, datetime.date.today())
        shown = for_output(composed, kind, getattr(output_of(kind), "shown_as", ""))
        head = replace(shown.head, abstract=rewrite(shown.head.abstract, _without_formulas))
        own = replace(shown, blocks=rewrite(shown.blocks, _without_formulas), head=head)
        showing, _ = showing_of(proof.source, own, proof.record, colophon)
        found.append(checked(kind, path, showing))
    return found


def _without_formulas(node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
    """Formulas as the sign for one; and a sign where a note is called, whose number stands there."""
    if isinstance(node, n.Math):
        return n.Text(node.span, FORMULA)
    if isinstance(node, n.Footnote):
        return replace(node, blocks=rewrite(node.blocks, _without_formulas)), n.Text(node.span, FORMULA)
    return None


def checked(kind: str, path: Path, showing: Showing) -> Checked:
    """Whether the file of an output says what the page, as this output has it, shows. Raises `UsageError` for a file that cannot be read."""
    text = _Text(" ".join(part.text for part in read_file(path).parts if isinstance(part, Words)))
    count, unread, missing = 0, 0, []
    for part in showing.parts:
        if kind in _OF_DECKS and isinstance(part, Words) and part.kind == "summary":
            continue
        for what, said, before, behind in _sayings(part):
            if kind == "pdf" and _HARD.search(before[-_AROUND:] + said + behind[:_AROUND]):
                unread += 1
                continue
            count += 1
            if not text.says(said, before, behind) and not (what == "cell" and text.says(said, "", "")):
                around = f"{before[-_AROUND:]}{said}{behind[:_AROUND]}".strip()
                missing.append(Missing(kind, what, said, part.place, around if around != said else ""))
    return Checked(kind, path, count, tuple(missing), unread)


def _sayings(part: Words | Table | Figure) -> Iterator[tuple[str, str, str, str]]:
    """What a part says: its kind, itself, what stands before it and behind it."""
    match part:
        case Words(kind="code" | "output" | "formula"):
            return
        case Words(kind="heading" | "title", text=text):
            for piece in _NUMBER.sub("", text).split(FORMULA):
                yield "heading", piece, "", ""
        case Words(values=values, text=text) if not values:
            for piece in _pieces(text):
                yield "text", piece, "", ""
        case Words(values=values):
            between = part.between
            for place, value in enumerate(values):
                before, behind = between[place].split(FORMULA)[-1], between[place + 1].split(FORMULA)[0]
                if FORMULA not in value.said:
                    yield "value", value.said, before, behind
        case Table(caption=caption, name=name, rows=rows, heads=heads):
            yield from _caption(name, caption)
            for head in heads:
                yield from (("cell", piece, "", "") for word in head.split(OVER) for piece in word.split(FORMULA))
            for row in rows:
                yield from _cells(row)
        case Figure(caption=caption, name=name):
            yield from _caption(name, caption)


def _cells(row: tuple[str, ...]) -> Iterator[tuple[str, str, str, str]]:
    """The cells of a row, each beside its neighbours."""
    for at, cell in enumerate(row):
        before = row[at - 1].split(FORMULA)[-1] if at else ""
        behind = row[at + 1].split(FORMULA)[0] if at + 1 < len(row) else ""
        if FORMULA in cell:
            yield from (("cell", piece, "", "") for piece in cell.split(FORMULA))
        elif cell:
            yield "cell", cell, before, behind


def _caption(name: str, caption: str) -> Iterator[tuple[str, str, str, str]]:
    if name:
        yield "caption", name, "", ""
        for piece in caption.split(FORMULA):
            yield "caption", piece, "", ""


def _pieces(text: str) -> Iterator[str]:
    """A text in stretches of some words, between which a note may be called."""
    for part in text.split(FORMULA):
        words = part.split()
        for at in range(0, len(words), 4):
            yield " ".join(words[at : at + 4])


class _Text:
    """All that a file says, without what a layout does to it."""

    def __init__(self, text: str) -> None:
        self._text = _bare(text)

    def says(self, said: str, before: str, behind: str) -> bool:
        """Whether it says something between what stands around it, or at least beside one of both."""
        said, before, behind = _bare(said), _bare(before)[-_AROUND:], _bare(behind)[:_AROUND]
        if not said:
            return True
        if not before and not behind:
            return said in self._text or self._in_halves(said)
        return (bool(before) and before + said in self._text) or (bool(behind) and said + behind in self._text)

    def _in_halves(self, said: str) -> bool:
        """Whether something long stands there but for one place, where a note is called or a sheet ends."""
        return (
            len(said) > 2 * _AROUND and said[: len(said) // 3] in self._text and said[-len(said) // 3 :] in self._text
        )


_UNSEEN = re.compile(r"[\s\u00ad\u200b\u200c\u200d\u2060\ufeff\u200e\u200f\u2066-\u2069|-]|[\u2010-\u2013\u2212]")
_MINUS = re.compile(r"(?<![\w)\]])[-\u2212](?=[.,]?\d)")
"""The sign of a number, and no hyphen."""
_SIGN = "\ue000"


def _bare(text: str) -> str:
    """Letters alone: signs that look alike are one, spaces and what parts lines are none."""
    signed = _MINUS.sub(_SIGN, unicodedata.normalize("NFKC", text))
    return _UNSEEN.sub("", signed)
