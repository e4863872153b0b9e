"""Reading a document: its paragraphs with all their letters, as they are with the changes of some authors, or of all."""

from __future__ import annotations

import re
from collections.abc import Callable
from copy import deepcopy

from lxml import etree

from wornpage.collate.letters import FORMULA, NOTE, PICTURE, By, Comment, Document, Letter, Paragraph
from wornpage.collate.parts import Element, Parts, R, W
from wornpage.collate.styled import Styles

M = "{http://schemas.openxmlformats.org/officeDocument/2006/math}"
_OFF = {"0", "false", "off", "none"}
_OURS = re.compile(r"_?wp_([bm])(\d+_\d+)(?:_Copy_\d+)?")
_LABEL = re.compile(r"(?:ref|num)_")
LABEL = "label"
"""The key of letters that say which figure or table it is."""
_ADDED, _GONE = {"ins", "moveTo"}, {"del", "moveFrom"}
_LAYOUTS = {"box", "caution box", "columns"}
_CODES = {"code text", "source text", "html code"}

Want = Callable[[str], bool]


def read(parts: Parts, want: Want = lambda author: True) -> Document:
    """The document with the tracked changes of the authors that are wanted; those of others are as if they were not."""
    return _Reader(parts, want).document()


class _Reader:
    """Goes through body and notes once."""

    def __init__(self, parts: Parts, want: Want) -> None:
        self.parts, self.want = parts, want
        self.styles = Styles(parts)
        self.links = parts.links(parts.main)
        self.paragraphs: list[Paragraph] = []
        self.pending: Paragraph | None = None
        """One whose end is taken away: it goes on in the next."""
        self.handed: tuple[str, int, bool] | None = None
        """How one looked that is taken away as a whole, just before the next."""
        self.open: list[tuple[str, str, str]] = []
        """Our bookmarks that are open: id, kind, key."""
        self.ends: set[str] = set()
        self.commented: list[str] = []
        self.fields: list[str] = []
        self.tables = 0
        self.cut: By | None = None
        """Who has taken away what stood just before the next letter."""
        self.authors: set[str] = set()
        self.has_marks = False

    def document(self) -> Document:
        """All of it."""
        root = self.parts.root(self.parts.main)
        assert root is not None
        self.body(root.find(f"{W}body"))
        body, self.paragraphs = self.paragraphs, []
        for kind in ("footnotes", "endnotes"):
            name = self.parts.kind(kind)
            notes = self.parts.root(name) if name else None
            if notes is not None:
                self.links = self.parts.links(name)
                self.notes(notes, kind[:-1])
        called = {letter.what for paragraph in body for letter in paragraph.letters if letter.text == NOTE}
        kept = [paragraph for paragraph in self.paragraphs if paragraph.note in called]
        comments = comments_of(self.parts)
        authors = tuple(sorted({*self.authors, *(comment.author for comment in comments.values())}))
        return Document([*body, *kept], comments, self.has_marks, authors)

    def body(self, element: Element) -> None:
        self.ends = {str(one.get(f"{W}id")) for one in element.iter(f"{W}bookmarkEnd")}
        self.open = []
        self.blocks(element)
        if self.pending is not None:
            self.paragraphs.append(self.pending)
            self.pending = None

    def notes(self, root: Element, kind: str) -> None:
        for note in root:
            if note.get(f"{W}type") not in {None, "normal"}:
                continue
            before = len(self.paragraphs)
            self.body(note)
            for paragraph in self.paragraphs[before:]:
                paragraph.kind, paragraph.note = "note", f"{kind} {note.get(f'{W}id')}"
                while paragraph.letters and not paragraph.letters[0].text.strip():
                    paragraph.letters.pop(0)

    # --- blocks -------------------------------------------------------------------------------

    def blocks(self, element: Element, cell: tuple[int, int, int] | None = None, by: By | None = None) -> None:
        """Paragraphs and tables, in the order in which they are read."""
        for one in element:
            match _name(one):
                case "p":
                    self.paragraph(one, cell, by)
                case "tbl":
                    self.table(one)
                case "sdt":
                    inner = one.find(f"{W}sdtContent")
                    self.blocks(inner if inner is not None else (), cell, by)
                case "ins" | "moveTo" | "customXml" | "smartTag":
                    self.blocks(one, cell, by)
                case "bookmarkStart" | "bookmarkEnd" | "commentRangeStart" | "commentRangeEnd":
                    self.mark(one, None)

    def table(self, element: Element) -> None:
        """Its cells row by row; rows that a wanted author has taken away are not there. One that only sets things side by side,
        or off from the rest, is none."""
        if self.is_layout(element):
            for cell in (one for row in _rows(element) for one in row if _name(one) == "tc"):
                self.blocks(cell)
            return
        self.tables += 1
        number, row = self.tables, 0
        for line in _rows(element):
            added, gone = self.change(line.find(f"{W}trPr"))
            if (added is not None and not self.want(added.author)) or (gone is not None and self.want(gone.author)):
                continue
            cells = [
                one if one.tag == f"{W}tc" else one.find(f".//{W}tc") for one in line if _name(one) in {"tc", "sdt"}
            ]
            for column, cell in enumerate(one for one in cells if one is not None):
                self.blocks(cell, (number, row, column), added)
            row += 1

    def is_layout(self, table: Element) -> bool:
        """Whether a table is a box, or columns: by its style, or where that is lost, by the paragraphs in it."""
        style = table.find(f"{W}tblPr/{W}tblStyle")
        if style is not None and self.styles.names.get(str(style.get(f"{W}val"))) in _LAYOUTS:
            return True
        styles = {self.styles.kind(one.find(f"{W}pPr"))[3] for one in table.iter(f"{W}p")}
        ours = any(str(one.get(f"{W}name", "")).startswith("_wp_b") for one in table.iter(f"{W}bookmarkStart"))
        return ours and not any(name.startswith("table ") for name in styles)

    def change(self, about: Element | None) -> tuple[By | None, By | None]:
        """Who has added something, and who has taken it away, as its properties tell."""
        found: dict[bool, By] = {}
        for one in about if about is not None else ():
            name = _name(one)
            if name in _ADDED | _GONE:
                found[name in _ADDED] = self.by(one)
        return found.get(True), found.get(False)

    def by(self, element: Element) -> By:
        made = By(str(element.get(f"{W}author", "")), str(element.get(f"{W}date", "")))
        self.authors.add(made.author)
        return made

    def paragraph(self, element: Element, cell: tuple[int, int, int] | None, by: By | None) -> None:
        """One paragraph; one whose end is gone goes on in the next."""
        about = self.properties(element.find(f"{W}pPr"))
        added, gone = self.change(about.find(f"{W}rPr") if about is not None else None)
        joins = (gone is not None and self.want(gone.author)) or (added is not None and not self.want(added.author))
        kind, level, ordered, style = self.styles.kind(about)
        made = Paragraph(
            "cell" if cell and kind in {"p", "li", "cell"} else kind, [], level=level, ordered=ordered, style=style
        )
        made.keys = [key for _, what, key in self.open if what == "b"]
        made.by = by or (added if added is not None and self.want(added.author) else None)
        if cell:
            made.table, made.row, made.column = cell
            if style.startswith("table "):
                made.kind = "cell"
        self.inline(element, made, None, "")
        if self.pending is not None:
            made = _joined(self.pending, made)
            self.pending = None
        look = (kind, level, ordered)
        made.is_handed_down = look == self.handed and (about is None or about.find(f"{W}pPrChange") is None)
        self.handed = look if joins and not made.letters else None
        if joins:
            self.pending = made if made.letters else None
        else:
            self.paragraphs.append(made)

    def properties(self, about: Element | None) -> Element | None:
        """The properties of a paragraph, without the changes of authors that are not wanted."""
        changed = about.find(f"{W}pPrChange") if about is not None else None
        if about is None or changed is None or self.want(self.by(changed).author):
            return about
        before = deepcopy(changed.find(f"{W}pPr"))
        letters = about.find(f"{W}rPr")
        if before is not None and letters is not None:
            before.append(deepcopy(letters))
        return before

    # --- running text -------------------------------------------------------------------------

    def mark(self, element: Element, paragraph: Paragraph | None) -> None:
        """A bookmark or the end of what is commented on."""
        number = str(element.get(f"{W}id"))
        match _name(element):
            case "bookmarkStart":
                name = str(element.get(f"{W}name", ""))
                ours = _OURS.fullmatch(name)
                if number not in self.ends:
                    return
                if ours:
                    self.has_marks = True
                    self.open.append((number, ours[1], ours[2]))
                    if paragraph is not None and ours[1] == "b" and ours[2] not in paragraph.keys:
                        paragraph.keys.append(ours[2])
                elif _LABEL.match(name):
                    self.open.append((number, "m", LABEL))
            case "bookmarkEnd":
                self.open = [one for one in self.open if one[0] != number]
            case "commentRangeStart":
                self.commented.append(number)
            case "commentRangeEnd":
                self.commented = [one for one in self.commented if one != number]

    def inline(self, element: Element, into: Paragraph, by: By | None, link: str) -> None:
        """What stands in a paragraph, or in something within it."""
        for one in element:
            name = _name(one)
            if name == "r":
                self.run(one, into, by, link)
            elif name in _ADDED | _GONE:
                change = self.by(one)
                if self.want(change.author) == (name in _ADDED):
                    self.inline(one, into, change if name in _ADDED else by, link)
                else:
                    self.cut = change if name in _GONE else self.cut
                    for mark in one.iter(
                        f"{W}bookmarkStart", f"{W}bookmarkEnd", f"{W}commentRangeStart", f"{W}commentRangeEnd"
                    ):
                        self.mark(mark, into)
            elif name == "hyperlink":
                address = self.links.get(str(one.get(f"{R}id")), "")
                self.inline(one, into, by, _address(address))
            elif name == "sdt":
                inner = one.find(f"{W}sdtContent")
                self.inline(inner if inner is not None else (), into, by, link)
            elif name in {"smartTag", "fldSimple", "customXml"}:
                self.inline(one, into, by, link)
            elif name in {"bookmarkStart", "bookmarkEnd", "commentRangeStart", "commentRangeEnd"}:
                self.mark(one, into)
            elif name in {"oMath", "oMathPara"}:
                self.formula(one, into, by)

    def formula(self, element: Element, into: Paragraph, by: By | None) -> None:
        """A formula is one thing; one whose letters are all taken away is not there."""
        runs = list(element.iter(f"{M}r"))
        gone = [one for one in runs if _name(one.getparent()) == "del" and self.want(self.by(one.getparent()).author)]
        if runs and len(gone) == len(runs):
            return
        said = "".join(one.text or "" for one in element.iter(f"{M}t"))
        into.letters.append(self.letter(FORMULA, frozenset(), by, said))

    def letter(self, text: str, looks: frozenset[str], by: By | None, what: str = "") -> Letter:
        key = next((key for _, kind, key in reversed(self.open) if kind == "m"), "")
        cut, self.cut = self.cut, None
        return Letter(text, looks, key, what, by, tuple(self.commented), cut)

    def run(self, element: Element, into: Paragraph, by: By | None, link: str) -> None:
        """Letters in one look."""
        looks = self.looks(element, link)
        if "hidden" in looks:
            return
        changed = element.find(f"{W}rPr/{W}rPrChange")
        if by is None and changed is not None and self.want(self.by(changed).author):
            by = self.by(changed)
        for one in element:
            name = _name(one)
            if name == "fldChar":
                self.field(str(one.get(f"{W}fldCharType")))
            elif "code" in self.fields:
                continue
            elif name in {"t", "delText"}:
                text = (one.text or "").replace("\u200d", "") if into.kind == "cell" else (one.text or "")
                if text:
                    like = self.letter(text[0], looks, by)
                    into.letters.append(like)
                    into.letters += [Letter(letter, looks, like.key, "", by, like.comments) for letter in text[1:]]
            elif name in {"footnoteReference", "endnoteReference"}:
                number = f"{name.removesuffix('Reference')} {one.get(f'{W}id')}"
                into.letters.append(self.letter(NOTE, frozenset(), by, number))
            elif name in {"drawing", "pict", "object", "AlternateContent"}:
                into.letters.append(self.letter(PICTURE, frozenset(), by))
            elif name == "commentReference":
                continue
            elif sign := _sign(one, name):
                into.letters.append(self.letter(sign, looks, by))

    def field(self, kind: str) -> None:
        """Of a field only what it shows is read."""
        if kind == "begin":
            self.fields.append("code")
        elif kind == "separate" and self.fields:
            self.fields[-1] = "result"
        elif kind == "end" and self.fields:
            self.fields.pop()

    def looks(self, run: Element, link: str) -> frozenset[str]:
        """How the letters of a run look, without the changes of authors that are not wanted."""
        about = run.find(f"{W}rPr")
        changed = about.find(f"{W}rPrChange") if about is not None else None
        if changed is not None and not self.want(self.by(changed).author):
            about = changed.find(f"{W}rPr")
        found = {link} if link else set()
        for one in about if about is not None else ():
            found |= self.look(one)
        return frozenset(found)

    def look(self, one: Element) -> set[str]:
        """What one property of letters says."""
        name, value = _name(one), str(one.get(f"{W}val", ""))
        if value in _OFF:
            return set()
        match name:
            case "b":
                return {"strong"}
            case "i":
                return {"em"}
            case "strike" | "dstrike":
                return {"strike"}
            case "vanish":
                return {"hidden"}
            case "rStyle":
                style = self.styles.names.get(value, value.lower())
                return (
                    {"code"}
                    if style in _CODES
                    else {"em"}
                    if style == "emphasis"
                    else {"strong"}
                    if style == "strong"
                    else set()
                )
            case "u":
                return {"underlined"}
            case "highlight":
                return {"highlighted"}
            case "vertAlign":
                return {value} if value in {"superscript", "subscript"} else set()
        return set()


def comments_of(parts: Parts) -> dict[str, Comment]:
    """The comments of a document, by their numbers."""
    root = parts.root(parts.kind("comments"))
    if root is None:
        return {}
    state = _states(parts)
    made: dict[str, Comment] = {}
    numbers: dict[str, str] = {}
    for one in root.iter(f"{W}comment"):
        paragraphs = list(one.iter(f"{W}p"))
        text = "\n".join("".join(letters.text or "" for letters in each.iter(f"{W}t")) for each in paragraphs)
        key = next(
            (str(value) for each in paragraphs[-1:] for name, value in each.attrib.items() if name.endswith("}paraId")),
            "",
        )
        number = str(one.get(f"{W}id"))
        parent, done = state.get(key, ("", False)) if key else ("", False)
        if key:
            numbers[key] = number
        made[number] = Comment(
            number, str(one.get(f"{W}author", "")), str(one.get(f"{W}date", "")), text, numbers.get(parent, ""), done
        )
    return made


def _states(parts: Parts) -> dict[str, tuple[str, bool]]:
    """By the key of a comment: the key of the one it answers, and whether it is done."""
    name = next((name for name in parts.names() if name.endswith("commentsExtended.xml")), "")
    root = parts.root(name) if name else None
    found: dict[str, tuple[str, bool]] = {}
    for one in root if root is not None else ():
        told = {etree.QName(key).localname: str(value) for key, value in one.attrib.items()}
        found[told.get("paraId", "")] = (told.get("paraIdParent", ""), told.get("done", "0") in {"1", "true"})
    return found


def _name(element: Element) -> str:
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def _rows(table: Element) -> list[Element]:
    """The rows of a table, and not those of tables within it."""
    found = []
    for one in table:
        if _name(one) == "tr":
            found.append(one)
        elif _name(one) in {"sdt", "ins", "customXml"}:
            found += list(one.iter(f"{W}tr"))
    return found


def _address(address: str) -> str:
    return f"link:{address}" if address else ""


def _sign(element: Element, name: str) -> str:
    """Letters that have elements of their own."""
    match name:
        case "tab":
            return "\t"
        case "br" | "cr":
            return "\n" if element.get(f"{W}type") in {None, "textWrapping"} else ""
        case "noBreakHyphen":
            return "\u2011"
        case "softHyphen":
            return "\u00ad"
        case "sym":
            code = str(element.get(f"{W}char", ""))
            return chr(int(code, 16)) if re.fullmatch("[0-9A-Fa-f]{1,5}", code) else ""
    return ""


def _joined(first: Paragraph, second: Paragraph) -> Paragraph:
    """Two paragraphs as one; what was empty takes the kind of the other."""
    if not first.text.strip():
        first.kind, first.level, first.ordered, first.style = second.kind, second.level, second.ordered, second.style
    first.letters += second.letters
    first.keys += [key for key in second.keys if key not in first.keys]
    return first
