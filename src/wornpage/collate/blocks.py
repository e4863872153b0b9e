"""Blocks of Markdown as text: what stands before their words, what parts them, where they are cut out; rows of tables."""

from __future__ import annotations

import re
from collections.abc import Sequence
from difflib import SequenceMatcher

from msgspec.structs import replace

from wornpage.collate.aligning import Piece
from wornpage.collate.letters import Letter, Paragraph
from wornpage.collate.mapping import own_letters
from wornpage.collate.report import Patch
from wornpage.source.units import Unit


def short(text: str, most: int = 80) -> str:
    """A text on one line, cut where it is long."""
    text = " ".join(text.split())
    return text if len(text) <= most else text[: most - 1] + "…"


def difference(before: str, after: str) -> tuple[str, str]:
    """The stretch in which two texts differ, in whole words."""
    old, new = before.split(), after.split()
    first = 0
    while first < min(len(old), len(new)) and old[first] == new[first]:
        first += 1
    last = 0
    while last < min(len(old), len(new)) - first and old[-1 - last] == new[-1 - last]:
        last += 1
    return " ".join(old[first : len(old) - last]), " ".join(new[first : len(new) - last])


def kind_in_words(kind: str, level: int) -> str:
    """A kind of paragraph in words."""
    names = {
        "p": "paragraph",
        "h": f"heading {level}",
        "li": "item",
        "quote": "quotation",
        "note": "note",
        "caption": "caption",
        "abstract": "paragraph of the abstract",
    }
    return names.get(kind, kind)


def new_kind(paragraph: Paragraph) -> str:
    """What a new paragraph is in the page."""
    return paragraph.kind if paragraph.kind in {"h", "li", "quote"} else "p"


def said_of(piece: Piece) -> str:
    """What a piece says."""
    return "\n".join("".join(letter.text for letter in paragraph.letters) for paragraph in piece.paragraphs)


def texts_of(paragraphs: Sequence[Paragraph]) -> list[str]:
    """What paragraphs say, without what says which figure they belong to."""
    return ["".join(letter.text for letter in own_letters(one)) for one in paragraphs]


def without_digits(text: str) -> str:
    """A label without its number, which may have been brought up to date."""
    return "".join(letter for letter in text if not letter.isdigit())


def is_same(old: Piece, new: Piece) -> bool:
    """Whether nothing at all has been done to a piece."""
    if len(old.paragraphs) != len(new.paragraphs):
        return False
    return all(is_untouched(one, other) for one, other in zip(old.paragraphs, new.paragraphs, strict=True))


def is_untouched(old: Paragraph, new: Paragraph) -> bool:
    """Whether a paragraph is letter by letter as it was, and nobody has remarked on it."""
    if (old.kind, old.level, old.ordered, len(old.letters)) != (new.kind, new.level, new.ordered, len(new.letters)):
        return False
    return all(
        one.text == other.text
        and one.looks == other.looks
        and one.what == other.what
        and not other.comments
        and other.by is None
        for one, other in zip(old.letters, new.letters, strict=True)
    )


def new_block(kind: str, paragraph: Paragraph, made: str) -> str:
    """A new block of a kind, of words that are written."""
    if kind == "h":
        return "#" * paragraph.level + " " + made
    if kind == "li":
        return new_sign(paragraph, 1) + made
    return "> " + made if kind == "quote" else made


def new_sign(paragraph: Paragraph, count: int) -> str:
    """What stands before the words of an item of a new list."""
    inside = "   " * (paragraph.level - 1)
    return inside + (f"{count}. " if paragraph.ordered else "- ")


_SIGN = re.compile(r"^(?P<lead>[\s>]*)(?P<sign>[-*+]|(?P<number>\d+)(?P<dot>[.)]))(?P<gap>\s+)(?P<task>\[[ xX]\]\s+)?$")


def next_sign(line: str, count: int) -> str:
    """What stands before an item that follows the one whose line begins so."""
    found = _SIGN.match(line)
    if found is None:
        return line if not line.strip() else "- "
    sign = f"{int(found['number']) + count}{found['dot']}" if found["number"] else found["sign"]
    return f"{found['lead']}{sign}{found['gap']}{'[ ] ' if found['task'] else ''}"


def within(line: str) -> str:
    """What stands before further lines of what a line begins in: the signs of quotations, blanks for those of items."""
    return "".join(sign if sign in ">\t" else " " for sign in line)


def cut_out(text: str, start: int, end: int, way: int = 0) -> tuple[int, int]:
    """Blocks with the blank lines on one side of them, so that the wider gap stays: or those on the other (1), or none (2)."""
    before = start - len(text[:start].rstrip("\n"))
    behind = len(text[end:]) - len(text[end:].lstrip("\n"))
    is_last = end + behind == len(text)
    to_left = is_last or before < behind
    if way > 1 or not before + behind:
        return start, end
    return (start - before, end) if to_left == (way == 0) and before else (start, end + behind)


def one_gap_each(patches: list[Patch]) -> list[Patch]:
    """Of blocks that are put in at one place and begin with blank lines, only the last has one behind it."""
    last: dict[int, int] = {}
    for one in patches:
        if one.start == one.end:
            last[one.start] = max(one.order, last.get(one.start, 0))
    return [
        replace(one, text=one.text.rstrip("\n"))
        if one.text.startswith("\n") and one.order < last.get(one.start, 0)
        else one
        for one in patches
    ]


def cell_patch(text: str, unit: Unit, made: str) -> Patch:
    """A cell's new words, the bars left in line where there is room."""
    left, right = unit.start, unit.end
    while text[left - 1] == " ":
        left -= 1
    while text[right : right + 1] == " ":
        right += 1
    before, behind, room = unit.start - left, right - unit.end, right - left
    if len(made) + 2 > room:
        return Patch(left, right, f" {made} ")
    if before > behind:
        return Patch(left, right, " " * (room - len(made) - behind) + made + " " * behind)
    return Patch(left, right, " " * before + made + " " * (room - before - len(made)))


def rows_of(piece: Piece) -> list[list[Paragraph]]:
    """The cells of a table by rows; of a cell with several paragraphs the first, with the words of all."""
    rows: dict[int, dict[int, Paragraph]] = {}
    for paragraph in piece.paragraphs:
        row = rows.setdefault(paragraph.row, {})
        if paragraph.column in row:
            first = row[paragraph.column]
            first.letters = [*first.letters, Letter("\n"), *paragraph.letters]
        else:
            row[paragraph.column] = paragraph
    return [[row[column] for column in sorted(row)] for _, row in sorted(rows.items())]


def pairs_of_rows(before: list[list[Paragraph]], after: list[list[Paragraph]]) -> dict[int, int]:
    """Which rows are the same: by bookmarks, then by what they say, then by their place between those."""
    keys = [{key for cell in line for key in cell.keys} for line in before]
    pairs: dict[int, int] = {}
    for back, line in enumerate(after):
        own = {key for cell in line for key in cell.keys}
        known = next((at for at, one in enumerate(keys) if one & own and at not in pairs), None)
        if known is not None:
            pairs[known] = back
    old = ["|".join(cell.text.strip() for cell in line) for line in before]
    new = ["|".join(cell.text.strip() for cell in line) for line in after]
    if not pairs:
        for tag, a, b, c, d in SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
            if tag == "equal" or (tag == "replace" and b - a == d - c):
                pairs.update({a + at: c + at for at in range(b - a)})
    return dict(sorted(pairs.items()))


def bars(line: str) -> list[int]:
    """Where the bars of a row stand."""
    return [at for at, letter in enumerate(line) if letter == "|" and line[at - 1 : at] != "\\"]


def row_text(cells: list[str], bars: list[int], sides: list[bool]) -> str:
    """A row whose bars stand below those of another, where there is room."""
    made = "|"
    for at, cell in enumerate(cells):
        room = bars[at + 1] - bars[at] - 3 if at + 1 < len(bars) else 0
        is_right = at < len(sides) and sides[at]
        made += f" {cell.rjust(room) if is_right else cell.ljust(room)} |"
    return made
