"""Which paragraphs of a document that came back are which of the one that went out: by bookmarks, by text, by likeness."""

from __future__ import annotations

from collections import defaultdict
from difflib import SequenceMatcher

from msgspec import Struct, field

from wornpage.collate.letters import Document, Paragraph
from wornpage.collate.wording import likeness, rising, words

_IGNORED = {"contents", "gap", "rule"}
"""Kinds that say nothing of their own."""
_ALIKE, _SAME_PLACE = 0.6, 0.3
"""Likeness from which a paragraph is the same elsewhere, and between two that are known."""
_MOST = 250_000


class Piece(Struct):
    """A paragraph, or a whole table."""

    paragraphs: list[Paragraph]
    is_table: bool = False
    keys: set[str] = field(default_factory=set)

    @property
    def text(self) -> str:
        """What it says, cells parted by line ends."""
        return "\n".join(paragraph.text for paragraph in self.paragraphs)

    @property
    def kind(self) -> str:
        """That of a paragraph; `table`."""
        return "table" if self.is_table else self.paragraphs[0].kind


def pieces_of(document: Document, keeps_empty: bool) -> list[Piece]:
    """Paragraphs and tables in order; without those that say nothing, unless `keeps_empty`."""
    made: list[Piece] = []
    for paragraph in document.paragraphs:
        if paragraph.kind in _IGNORED:
            continue
        if paragraph.table >= 0 and paragraph.kind == "cell":
            if not (made and made[-1].is_table and made[-1].paragraphs[0].table == paragraph.table):
                made.append(Piece([], is_table=True))
            made[-1].paragraphs.append(paragraph)
            made[-1].keys.update(paragraph.keys)
        elif keeps_empty or paragraph.text.strip():
            made.append(Piece([paragraph], keys=set(paragraph.keys)))
    return made


class Ties(Struct):
    """What belongs together."""

    of_new: list[set[int]]
    """For each piece that came back, those that went out."""
    of_old: list[set[int]]

    def tie(self, old: int, new: int) -> None:
        """Note that two belong together."""
        self.of_new[new].add(old)
        self.of_old[old].add(new)

    def untie(self, old: int, new: int) -> None:
        """Note that they do not."""
        self.of_new[new].discard(old)
        self.of_old[old].discard(new)


def align(old: list[Piece], new: list[Piece]) -> Ties:
    """Tie what belongs together."""
    ties = Ties([set() for _ in new], [set() for _ in old])
    _by_keys(old, new, ties)
    _by_text(old, new, ties)
    _between(old, new, ties)
    _splits_and_joins(old, new, ties)
    _moves(old, new, ties)
    return ties


def _by_keys(old: list[Piece], new: list[Piece], ties: Ties) -> None:
    where = {key: at for at, piece in enumerate(old) for key in piece.keys}
    for at, piece in enumerate(new):
        for key in piece.keys:
            known = where.get(key)
            if known is not None and old[known].is_table == piece.is_table:
                ties.tie(known, at)
    # A bookmark may have stayed behind in a paragraph that has nothing of its text, while its text stands elsewhere.
    for at, piece in enumerate(old):
        for other in list(ties.of_old[at]):
            others = ties.of_new[other] - {at}
            if others and words(piece.text) and likeness(piece.text, new[other].text) < 0.15:
                ties.untie(at, other)


def _by_text(old: list[Piece], new: list[Piece], ties: Ties) -> None:
    """What says the same, and is said once in both."""
    here: dict[tuple[bool, str], list[int]] = defaultdict(list)
    there: dict[tuple[bool, str], list[int]] = defaultdict(list)
    for found, all_of_it, tied in ((here, old, ties.of_old), (there, new, ties.of_new)):
        for at, piece in enumerate(all_of_it):
            if not tied[at]:
                found[piece.is_table, piece.text.strip()].append(at)
    for (is_table, text), places in here.items():
        others = there.get((is_table, text), [])
        if text and len(places) == len(others) == 1:
            ties.tie(places[0], others[0])


def _between(old: list[Piece], new: list[Piece], ties: Ties) -> None:
    """What lies between two that are known, in order, by likeness."""
    known = rising([(at, min(ties.of_old[at])) for at in range(len(old)) if ties.of_old[at]])
    for (above, before), (below, after) in zip([(-1, -1), *known], [*known, (len(old), len(new))], strict=True):
        left = [at for at in range(above + 1, below) if not ties.of_old[at]]
        right = [at for at in range(before + 1, after) if not ties.of_new[at]]
        for at, other in _best(old, new, left, right):
            ties.tie(at, other)


def _best(old: list[Piece], new: list[Piece], left: list[int], right: list[int]) -> list[tuple[int, int]]:
    """The pairs, rising in both, that are most alike together."""
    if not left or not right or len(left) * len(right) > _MOST:
        return []
    alike = [[_likeness(old[at], new[other]) for other in right] for at in left]
    best = [[0.0] * (len(right) + 1) for _ in range(len(left) + 1)]
    for row in range(len(left) - 1, -1, -1):
        for column in range(len(right) - 1, -1, -1):
            taken = best[row + 1][column + 1] + alike[row][column] if alike[row][column] else 0.0
            best[row][column] = max(best[row + 1][column], best[row][column + 1], taken)
    found, row, column = [], 0, 0
    while row < len(left) and column < len(right):
        if alike[row][column] and best[row][column] == best[row + 1][column + 1] + alike[row][column]:
            found.append((left[row], right[column]))
            row, column = row + 1, column + 1
        elif best[row][column] == best[row + 1][column]:
            row += 1
        else:
            column += 1
    kinds = [_name(old[at]) for at in left]
    if not found and "" not in kinds and kinds == [_name(new[at]) for at in right]:
        return list(zip(left, right, strict=True))  # headings in the place of headings, and parts of the head so
    return found


def _name(piece: Piece) -> str:
    """What a piece is, where it is that by its place alone; nothing for others."""
    return piece.paragraphs[0].style or piece.kind if piece.kind in {"h", "title"} else ""


def _likeness(one: Piece, other: Piece) -> float:
    if one.is_table != other.is_table:
        return 0.0
    found = likeness(one.text, other.text)
    return found if found >= _SAME_PLACE else 0.0


def _splits_and_joins(old: list[Piece], new: list[Piece], ties: Ties) -> None:
    """Halves of paragraphs that were split, and paragraphs that went into others."""
    for at, piece in enumerate(new):
        if ties.of_new[at] or piece.is_table or len(words(piece.text)) < 3:
            continue
        for beside in (at - 1, at + 1):
            if not 0 <= beside < len(new) or new[beside].is_table:
                continue
            for known in list(ties.of_new[beside]):
                both = " ".join((new[beside].text, piece.text) if beside < at else (piece.text, new[beside].text))
                gains = likeness(old[known].text, both) > likeness(old[known].text, new[beside].text) + 0.05
                if gains and _is_in(piece.text, old[known].text):
                    ties.tie(known, at)
    for at, piece in enumerate(old):
        if ties.of_old[at] or piece.is_table or len(words(piece.text)) < 3:
            continue
        for beside in (at - 1, at + 1):
            if 0 <= beside < len(old) and not old[beside].is_table:
                for other in list(ties.of_old[beside]):
                    parts = (old[beside].text, piece.text) if beside < at else (piece.text, old[beside].text)
                    alone = likeness(old[beside].text, new[other].text)
                    if likeness(" ".join(parts), new[other].text) > alone + 0.05 and _is_in(
                        piece.text, new[other].text
                    ):
                        ties.tie(at, other)


def _is_in(part: str, whole: str) -> bool:
    """Whether most of a text stands in another, in pieces of two words and more."""
    here, there = words(part), words(whole)
    blocks = SequenceMatcher(None, here, there, autojunk=False).get_matching_blocks()
    return sum(block.size for block in blocks if block.size > 1) >= 0.6 * len(here)


def _moves(old: list[Piece], new: list[Piece], ties: Ties) -> None:
    """What is left, wherever it stands."""
    left = [at for at in range(len(old)) if not ties.of_old[at] and not old[at].is_table and old[at].text.strip()]
    right = [at for at in range(len(new)) if not ties.of_new[at] and not new[at].is_table]
    if len(left) * len(right) > _MOST:
        return
    found = [(likeness(old[at].text, new[other].text), at, other) for at in left for other in right]
    for alike, at, other in sorted(found, reverse=True):
        if alike >= _ALIKE and not ties.of_old[at] and not ties.of_new[other]:
            ties.tie(at, other)
