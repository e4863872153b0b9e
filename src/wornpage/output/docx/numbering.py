"""Lists and numbered headings: what counts by itself when somebody adds an item or a section."""

from __future__ import annotations

from msgspec import Struct

from wornpage.output.docx.xml import NAMESPACES
from wornpage.output.ooxml.xml import HEAD
from wornpage.tree.counting import letters

_HEADINGS, _APPENDIX, _BULLETS, _NUMBERS, _OPEN, _DONE = range(1, 7)
LEVELS = 9
_STEP = 360
"""Twips by which each level of a list stands further in."""
_SIGNS = "•–▪"


class Place(Struct, frozen=True):
    """Where a paragraph stands in a list."""

    list: int
    level: int
    """From 0."""

    def xml(self) -> str:
        """What stands in `w:numPr`."""
        return f'<w:ilvl w:val="{self.level}"/><w:numId w:val="{self.list}"/>'


NOWHERE = Place(0, 0)
"""In no list, whatever its style says."""


def indent(level: int) -> int:
    """Twips from the edge to the words of an item."""
    return _STEP * (level + 1)


class Numbering:
    """The lists of one document, by numbers above `offset`, which leaves those of a template alone."""

    def __init__(self, offset: int, appendix_word: str, heading_ids: tuple[str, ...]) -> None:
        self._offset, self._appendix_word, self._heading_ids = offset, appendix_word, heading_ids
        self._made: list[str] = []
        self._counts: dict[int, list[int]] = {}

    @property
    def headings(self) -> int:
        """The list of numbered headings."""
        return self._offset + _HEADINGS

    # --- headings -----------------------------------------------------------------------------

    def heading(self, level: int, number: str, in_appendix: bool) -> Place:
        """Where a heading of `level`, from 1, must stand to have its number.

        Where counting on would give it another one, a list of its own begins there.
        """
        kind = _APPENDIX if in_appendix else _HEADINGS
        counts = self._counts.setdefault(kind, [self._offset + kind])
        wanted = _counts_of(number)
        told = (counts[1 : level + 1] + [0] * level)[:level]
        told[-1] += 1
        if told != wanted and len(wanted) == level:
            counts[0] = self._start(kind, dict(enumerate(wanted)))
        self._counts[kind] = [counts[0], *wanted]
        return Place(counts[0], level - 1)

    # --- lists --------------------------------------------------------------------------------

    def bullets(self, level: int) -> Place:
        """An item with a sign before it."""
        return Place(self._offset + _BULLETS, min(level, LEVELS - 1))

    def task(self, level: int, done: bool) -> Place:
        """An item with a box before it."""
        return Place(self._offset + (_DONE if done else _OPEN), min(level, LEVELS - 1))

    def numbers(self, level: int, start: int) -> Place:
        """The items of a new list that begins with `start`."""
        level = min(level, LEVELS - 1)
        return Place(self._start(_NUMBERS, {level: start}), level)

    def _start(self, kind: int, starts: dict[int, int]) -> int:
        number = self._offset + _DONE + 1 + len(self._made)
        overrides = "".join(
            f'<w:lvlOverride w:ilvl="{level}"><w:startOverride w:val="{start}"/></w:lvlOverride>'
            for level, start in starts.items()
        )
        self._made.append(_num(number, self._offset + kind, overrides))
        return number

    # --- the part -----------------------------------------------------------------------------

    def kinds(self) -> str:
        """The kinds of lists (`w:abstractNum`)."""
        levels = range(LEVELS)
        word = f"{self._appendix_word} " if self._appendix_word else ""
        heads = [_heading_level(at, "decimal", "", self._heading_ids) for at in levels]
        appendix = [_heading_level(at, "decimal" if at else "upperLetter", word, ()) for at in levels]
        bullets = [_level(at, "bullet", _SIGNS[at % len(_SIGNS)], indent(at)) for at in levels]
        numbers = [_level(at, _COUNTING[at % len(_COUNTING)], f"%{at + 1}.", indent(at)) for at in levels]
        boxes = [[_level(at, "bullet", sign, indent(at)) for at in levels] for sign in "☐☑"]
        kinds = (heads, appendix, bullets, numbers, *boxes)
        return "".join(
            f'<w:abstractNum w:abstractNumId="{self._offset + kind}"><w:multiLevelType w:val="multilevel"/>{"".join(made)}</w:abstractNum>'
            for kind, made in enumerate(kinds, _HEADINGS)
        )

    def lists(self) -> str:
        """The lists (`w:num`)."""
        usual = (_num(self._offset + kind, self._offset + kind) for kind in range(_HEADINGS, _DONE + 1))
        return "".join(usual) + "".join(self._made)

    def part(self) -> str:
        """The whole part, where there is no template."""
        return f"{HEAD}<w:numbering {NAMESPACES}>{self.kinds()}{self.lists()}</w:numbering>"


_COUNTING = ("decimal", "lowerLetter", "lowerRoman")


def _num(number: int, kind: int, overrides: str = "") -> str:
    return f'<w:num w:numId="{number}"><w:abstractNumId w:val="{kind}"/>{overrides}</w:num>'


def _level(at: int, counting: str, text: str, left: int) -> str:
    return (
        f'<w:lvl w:ilvl="{at}"><w:start w:val="1"/><w:numFmt w:val="{counting}"/><w:lvlText w:val="{text}"/><w:lvlJc w:val="left"/>'
        f'<w:pPr><w:ind w:left="{left}" w:hanging="{_STEP}"/></w:pPr></w:lvl>'
    )


def _heading_level(at: int, counting: str, word: str, ids: tuple[str, ...]) -> str:
    """A level of headings: `2.1`; the first of an appendix has its word before it."""
    text = ".".join(f"%{above}" for above in range(1, at + 2))
    style = f'<w:pStyle w:val="{ids[at]}"/>' if at < len(ids) else ""
    left = 0 if word and not at else 432 + 144 * at
    after = '<w:suff w:val="space"/>' if word and not at else ""
    return (
        f'<w:lvl w:ilvl="{at}"><w:start w:val="1"/><w:numFmt w:val="{counting}"/>{style}{after}'
        f'<w:lvlText w:val="{word if not at else ""}{text}"/><w:lvlJc w:val="left"/>'
        f'<w:pPr><w:ind w:left="{left}" w:hanging="{left}"/></w:pPr></w:lvl>'
    )


def _counts_of(number: str) -> list[int]:
    """`2.1` and `B.1` as numbers."""
    known = {letters(count).upper(): count for count in range(1, 60)}
    return [int(part) if part.isdigit() else known.get(part, 0) for part in number.split(".")]
