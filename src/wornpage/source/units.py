"""The running text of a page letter by letter, each with the place where it is written: what edits are merged into.

A unit is what becomes one paragraph: a paragraph, a heading, an item's first lines, a cell, a caption, a note. Writing all of
its letters again from where they stand gives the same bytes.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Iterator

from markdown_it.token import Token as MdToken
from msgspec import Struct, field
from msgspec.structs import replace

from wornpage.source.grammar import grammar
from wornpage.source.header import is_chunk
from wornpage.source.heads import HeadText, head_texts
from wornpage.source.places import Lie, Places, first_cell, lie_of
from wornpage.source.placing import AT, END
from wornpage.source.shield import Shielded, shield
from wornpage.source.text import front_matter_of, line_starts

_TASK = re.compile(r"\[([ xX])\][ \t]+")
OBJECT = "\ufffc"
"""Stands for what is no letter and shows none: a note's call, a picture, a formula."""


class Style(Struct, frozen=True):
    """How a stretch of letters is set off, and how that is written."""

    look: str
    """`em`, `strong`, `strike`, `code`, or `link:` and the address."""
    open: str
    close: str


class Atom(Struct, frozen=True, gc=False):
    """A letter, or something that is whole or nothing: a mark, a formula, the call of a note, an image, a tag."""

    text: str
    """Empty for what only the pressed page knows the words of, and for what shows nothing."""
    start: int
    end: int
    styles: tuple[int, ...] = ()
    """Those around it, outermost first, by their numbers in the unit."""
    key: str = ""
    """Of an object: its place, as `line_column`."""
    raw: str = ""
    """Of an object: as written."""


class Unit(Struct):
    """A paragraph's worth of running text."""

    kind: str
    """`p`, `h`, `li`, `item`, `quote`, `cell`, `caption`, `note`, `term`, `meaning`, `title` or `abstract`."""
    key: str
    """Where its running text begins, as `line_column`."""
    start: int
    end: int
    """Of its running text."""
    first: int
    last: int
    """Of its whole lines, without the last line end."""
    atoms: tuple[Atom, ...]
    styles: dict[int, Style] = field(default_factory=dict)
    level: int = 0
    """Of a heading; of an item, how deep its list lies."""
    ordered: bool = False
    table: int = -1
    """The line of the table that a cell stands in."""
    row: int = -1
    column: int = -1
    label: str = ""
    """Of a note."""

    def looks(self, atom: Atom) -> frozenset[str]:
        """How an atom is set off."""
        return frozenset(self.styles[one].look for one in atom.styles)


class Source(Struct, frozen=True):
    """A page's text in units."""

    text: str
    units: tuple[Unit, ...]
    others: tuple[tuple[str, int, int], ...]
    """What is no running text: `chunk`, `listing`, `formula`, with its range."""
    starts: tuple[int, ...]
    """The offset of each line."""
    tops: tuple[tuple[int, int], ...] = ()
    """The ranges of the blocks of the page's own level, in order."""

    def line_of(self, offset: int) -> tuple[int, int]:
        """Line and column, from 1."""
        line = bisect_right(self.starts, offset)
        return line, offset - self.starts[line - 1] + 1


def units_of(text: str) -> Source:
    """The units of a page."""
    _, body, _ = front_matter_of(text, "")
    shielded = shield(body, "")
    return _Reader(text, shielded).read()


class _Reader:
    """Walks the tokens once."""

    folds = False
    """Whether letters that stand side by side may be written in several lines."""

    def __init__(self, text: str, shielded: Shielded) -> None:
        self.text, self.shielded = text, shielded
        self.lines = shielded.text.split("\n")
        self.places = Places(shielded, "")
        self.starts = line_starts(text)
        self.units: list[Unit] = []
        self.others: list[tuple[str, int, int]] = []
        self.label = ""

    def read(self) -> Source:
        """All of them."""
        tokens = grammar().parse(self.shielded.text, {})
        self.blocks(tokens, "p", 0)
        self.units.sort(key=lambda unit: (unit.start, unit.end))
        tops = sorted(self.tops(tokens))
        self.units = [
            *(unit for head in head_texts(self.text) for unit in _HeadReader(self.text, head).units_of_it()),
            *self.units,
        ]
        return Source(self.text, tuple(self.units), tuple(self.others), tuple(self.starts), tuple(tops))

    def tops(self, tokens: list[MdToken]) -> Iterator[tuple[int, int]]:
        """The ranges of the blocks of the page's own level; a note is one, with all that it holds."""
        for group in _groups(tokens):
            if group[0].type == "footnote_block_open":
                for note in _groups(group[1:-1]):
                    held = [self.range_of(one) for one in note if one.map and one.type.endswith("_open")]
                    if held:
                        yield min(start for start, _ in held), max(end for _, end in held)
            elif group[0].map:
                yield self.range_of(group[0])

    # --- places -------------------------------------------------------------------------------

    def offset(self, lie: Lie, at: int) -> int:
        """Where in the page a letter of a block's text stands."""
        line, column = lie.place(at)
        return self.starts[min(line, len(self.starts) - 1)] + self.places.as_written(line, column)

    def key_of(self, offset: int) -> str:
        """A place as `line_column`, from 1."""
        line = bisect_right(self.starts, offset)
        return f"{line}_{offset - self.starts[line - 1] + 1}"

    def range_of(self, token: MdToken) -> tuple[int, int]:
        """The whole lines of a block, without the last line end."""
        first, last = token.map or (0, 0)
        start = self.starts[min(first, len(self.starts) - 1)]
        end = self.starts[last] - 1 if last < len(self.starts) else len(self.text)
        while end > start and self.text[end - 1] in "\n ":
            end -= 1
        return start, end

    # --- blocks -------------------------------------------------------------------------------

    def blocks(self, tokens: list[MdToken], kind: str, depth: int, ordered: bool = False) -> None:
        """Units of some blocks; plain paragraphs among them are of `kind`."""
        for group in _groups(tokens):
            head, inner = group[0], group[1:-1]
            match head.type:
                case "heading_open":
                    self.unit(group, "h", int(head.tag[1]))
                case "paragraph_open":
                    if not self.is_formula(group):
                        self.unit(group, kind, depth, ordered)
                    kind = "item" if kind == "li" else kind
                case "caption_open":
                    if head.meta["word"] == "Caption":
                        self.unit(group, "caption")
                case "bullet_list_open" | "ordered_list_open":
                    for item in _groups(inner):
                        self.blocks(item[1:-1], "li", depth + 1, head.type == "ordered_list_open")
                case "blockquote_open":
                    self.blocks(inner, "quote", depth)
                case "dl_open":
                    for part in _groups(inner):
                        if part[0].type == "dt_open":
                            self.unit(part, "term")
                        else:
                            self.blocks(part[1:-1], "meaning", depth)
                case "table_open":
                    self.table(group)
                case "container_box_open":
                    self.blocks(inner, kind, depth)
                case "footnote_block_open":
                    self.notes(inner)
                case "fence" | "code_block":
                    info = self.shielded.restore(head.info).strip()
                    self.others.append(("chunk" if is_chunk(info) else "listing", *self.range_of(head)))
                case _:
                    pass

    def is_formula(self, group: list[MdToken]) -> bool:
        """Whether a paragraph is a formula alone."""
        pieces = [one for one in group[1].children or [] if not (one.type == "text" and not one.content)]
        if len(pieces) != 1 or pieces[0].type != "piece":
            return False
        if self.shielded.pieces[pieces[0].meta["index"]].kind != "display":
            return False
        self.others.append(("formula", *self.range_of(group[0])))
        return True

    def notes(self, tokens: list[MdToken]) -> None:
        for note in _groups(tokens):
            self.label = str(note[0].meta.get("label", ""))
            inner = [token for token in note[1:-1] if token.type != "footnote_anchor"]
            if inner and inner[0].map is not None:
                self.blocks(inner, "note", 0)
            self.label = ""

    def table(self, group: list[MdToken]) -> None:
        line = (group[0].map or [0])[0]
        rows = [one for part in _groups(group[1:-1]) for one in _groups(part[1:-1]) if one[0].type == "tr_open"]
        for row, tokens in enumerate(rows):
            after = -1
            for column, cell in enumerate(_groups(tokens[1:-1])):
                inline = cell[1]
                if after < 0:
                    after = first_cell(self.lines[(inline.map or [line])[0]])
                lie = lie_of(inline.content, self.lines, (inline.map or [line])[0], after) if inline.content else None
                if lie is None:
                    continue
                unit = self.running(inline, lie, "cell")
                unit.table, unit.row, unit.column = line, row, column
                unit.first, unit.last = self.range_of(group[0])
                self.units.append(unit)
                after = lie.place(len(inline.content))[1]

    def unit(self, group: list[MdToken], kind: str, level: int = 0, ordered: bool = False) -> None:
        inline = next((token for token in group if token.type == "inline"), None)
        lie = lie_of(inline.content, self.lines, inline.map[0]) if inline is not None and inline.map else None
        if inline is None or lie is None:
            return
        unit = self.running(inline, lie, kind)
        unit.level, unit.ordered, unit.label = level, ordered, self.label
        unit.first, unit.last = self.range_of(group[0])
        if kind == "h":
            self.without_attributes(unit)
        if kind == "li":
            self.without_task(unit)
        if unit.atoms:
            self.units.append(unit)

    def without_attributes(self, unit: Unit) -> None:
        """The list of attributes behind a heading is none of its words."""
        atoms = list(unit.atoms)
        if atoms and atoms[-1].raw.startswith("{") and atoms[-1].text == "" and not atoms[-1].key:
            atoms.pop()
        while atoms and atoms[-1].text.isspace():
            atoms.pop()
        if len(atoms) < len(unit.atoms):
            unit.atoms = tuple(atoms)
            unit.end = self.end_of(unit) if atoms else unit.start

    def without_task(self, unit: Unit) -> None:
        """The box of a task is none of its words."""
        said = "".join(atom.text for atom in unit.atoms[:5])
        found = _TASK.match(said)
        if found:
            unit.atoms = unit.atoms[found.end() :]
            first = unit.atoms[0] if unit.atoms else None
            opened = sum(len(unit.styles[one].open) for one in first.styles) if first is not None else 0
            unit.start = first.start - opened if first is not None else unit.end
            unit.key = self.key_of(unit.start)

    def end_of(self, unit: Unit) -> int:
        """Where the running text ends, what closes its last styles included."""
        last = unit.atoms[-1]
        return last.end + sum(len(unit.styles[one].close) for one in last.styles)

    # --- running text -------------------------------------------------------------------------

    def running(self, inline: MdToken, lie: Lie, kind: str) -> Unit:
        """The letters of one block."""
        return _Running(self, inline, lie).unit(kind)


class _HeadReader(_Reader):
    """The letters of a text in the front matter: read as it is when the page is, told where it is written."""

    def __init__(self, text: str, head: HeadText) -> None:
        body = "\n" * head.line + " " * head.column + head.text
        super().__init__(text, shield(body, ""))
        self.head, self.folds = head, True
        self.own_starts = line_starts(body)
        self.begins = len(body) - len(head.text)
        self.index_at = {place: at for at, place in enumerate(head.offsets)}

    def units_of_it(self) -> list[Unit]:
        """One of a title; those of the paragraphs of an abstract."""
        if self.head.name == "abstract":
            self.blocks(grammar().parse(self.shielded.text, {}), "abstract", 0)
            return self.units
        inline = grammar().parseInline(self.shielded.text.strip())[0]
        lie = lie_of(inline.content, self.lines, self.head.line)
        if lie is None:
            return []
        unit = self.running(inline, lie, "title")
        return [unit] if unit.atoms else []

    def offset(self, lie: Lie, at: int) -> int:
        """Where in the page a letter is written."""
        line, column = lie.place(at)
        index = self.own_starts[line] + self.places.as_written(line, column) - self.begins
        offsets = self.head.offsets
        if not offsets:
            return 0
        return offsets[index] if 0 <= index < len(offsets) else offsets[-1] + 1

    def key_of(self, offset: int) -> str:
        """A place as it counts when the page is read."""
        index = self.index_at.get(offset, len(self.head.offsets))
        place = self.begins + index
        line = bisect_right(self.own_starts, place)
        return f"{line}_{place - self.own_starts[line - 1] + 1}"

    def range_of(self, token: MdToken) -> tuple[int, int]:
        """The lines of the whole text: nothing of it is taken out by lines."""
        offsets = self.head.offsets
        return (offsets[0], offsets[-1] + 1) if offsets else (0, 0)


class _Running:
    """The letters of one block; `at` is how far the text has been gone through."""

    def __init__(self, reader: _Reader, inline: MdToken, lie: Lie) -> None:
        self.reader, self.inline, self.lie = reader, inline, lie
        self.content, self.at = inline.content, 0
        self.atoms: list[Atom] = []
        self.styles: dict[int, Style] = {}
        self.open: list[tuple[int, int]] = []
        """Styles that are open: their numbers, and where they began."""

    def unit(self, kind: str) -> Unit:
        for token in self.inline.children or []:
            self.token(token)
        start = self.place(0)
        unit = Unit(kind, self.reader.key_of(start), start, start, start, start, tuple(self.atoms), self.styles)
        unit.end = self.reader.end_of(unit) if self.atoms else start
        return unit

    def place(self, at: int) -> int:
        return self.reader.offset(self.lie, at)

    def add(self, text: str, at: int, end: int, raw: str = "", is_object: bool = False) -> None:
        """An atom of the letters from `at` to `end`."""
        start = self.place(at)
        stop = self.place(end - 1) + 1 if end > at else start
        if text == "|" and self.reader.text[start - 1 : start] == "\\" and self.content[at - 1 : at] != "\\":
            start -= 1  # in a table, where the parser has left it out
        key = self.reader.key_of(start) if is_object else ""
        self.atoms.append(Atom(text, start, stop, tuple(number for number, _ in self.open), key, raw))
        self.at = max(self.at, end)

    def letters(self, text: str, at: int) -> None:
        """Letters that stand side by side."""
        if "|" in text:  # in a table a sign before it may have been left out
            for place, letter in enumerate(text, at):
                self.add(letter, place, place + 1)
            return
        styles = tuple(number for number, _ in self.open)
        if self.reader.folds:  # a blank may be a line end and what the next line begins with
            places = [self.place(at + step) for step in range(len(text))]
            ends = [*places[1:], *(place + 1 for place in places[-1:])]
            self.atoms += [
                Atom(letter, begin, end, styles) for letter, begin, end in zip(text, places, ends, strict=True)
            ]
            self.at = max(self.at, at + len(text))
            return
        start = self.place(at)
        self.atoms += [Atom(letter, start + step, start + step + 1, styles) for step, letter in enumerate(text)]
        self.at = max(self.at, at + len(text))

    def piece(self, token: MdToken) -> None:
        """A mark, a formula, or a list of attributes, which is lifted out of the text that the parser sees."""
        piece = self.reader.shielded.pieces[token.meta["index"]]
        at, end = token.meta[AT], token.meta[END]
        start = self.place(at)
        key = "" if piece.kind == "attributes" else self.reader.key_of(start)
        styles = tuple(number for number, _ in self.open)
        self.atoms.append(Atom("", start, start + len(piece.raw), styles, key, piece.raw))
        self.at = end

    def token(self, token: MdToken) -> None:
        at = token.meta.get(AT, self.at)
        match token.type:
            case "text":
                at += bool(self.open) and self.styles[self.open[-1][0]].open == "<"
                self.letters(token.content, at)
            case "text_special":
                self.add(token.content, at, at + len(token.markup))
            case "softbreak" | "hardbreak":
                self.line_end(token, at)
            case "em_open" | "strong_open" | "s_open":
                look = {"em_open": "em", "strong_open": "strong", "s_open": "strike"}[token.type]
                begin = at - (token.type == "strong_open")
                self.begin(Style(look, token.markup, token.markup), begin, begin + len(token.markup))
            case "em_close" | "strong_close" | "s_close":
                self.open.pop()
                self.at = at + len(token.markup)
            case "link_open":
                sign = "<" if token.markup == "autolink" else "["
                self.begin(Style(f"link:{token.attrGet('href')}", sign, ""), at, at + 1)
            case "link_close":
                self.end_link(token)
            case "code_inline":
                self.code(token, at)
            case "piece":
                self.piece(token)
            case "html_inline" | "footnote_ref" | "image":
                end = token.meta.get(END, at + len(token.content))
                shows = token.type != "html_inline"
                self.add("", at, end, self.content[at:end], is_object=shows)
            case _:
                pass

    def begin(self, style: Style, at: int, end: int) -> None:
        number = len(self.styles) + 1
        self.styles[number] = style
        self.open.append((number, at))
        self.at = end

    def end_link(self, token: MdToken) -> None:
        """What closes a link is all that stands behind its words."""
        number, _ = self.open.pop()
        end = token.meta.get(END, self.at + 1)
        close = self.reader.text[self.place(self.at) : self.place(end - 1) + 1] if end > self.at else ""
        style = self.styles[number]
        self.styles[number] = Style(style.look, style.open, close)
        self.at = end

    def line_end(self, token: MdToken, at: int) -> None:
        """A line end, with the blanks, signs of quotations and indents around it."""
        line = self.content.index("\n", at) if "\n" in self.content[at:] else at
        begin = min(self.at, line)
        end = line + 1
        while end < len(self.content) and self.content[end] in " \t":
            end += 1
        start = self.place(begin)
        stop = self.place(end) if end < len(self.content) else self.place(line)
        styles = tuple(number for number, _ in self.open)
        self.atoms.append(Atom("\n" if token.type == "hardbreak" else " ", start, stop, styles))
        self.at = end

    def code(self, token: MdToken, at: int) -> None:
        """Code among words: its letters, in a style of its own; marks in it are no marks."""
        ticks, end = len(token.markup), token.meta[END]
        inner = self.content[at + ticks : end - ticks]
        shift = 1 if len(inner) > 2 and inner[0] == inner[-1] == " " and inner.strip() else 0
        first, last = at + ticks + shift, end - ticks - shift
        opening, closing = self.content[at:first], self.content[last:end]
        self.begin(Style("code", opening, closing), at, first)
        for place in range(first, last):
            letter = self.content[place]
            self.add(" " if letter == "\n" else letter, place, place + 1)
            if letter == "\n":
                self.atoms[-1] = replace(self.atoms[-1], end=self.place(place + 1))
        self.open.pop()
        self.at = end


def _groups(tokens: list[MdToken]) -> Iterator[list[MdToken]]:
    """Constructs: a lone token, or everything from an open to its close."""
    group: list[MdToken] = []
    depth = 0
    for token in tokens:
        group.append(token)
        depth += token.nesting
        if depth == 0:
            yield group
            group = []
