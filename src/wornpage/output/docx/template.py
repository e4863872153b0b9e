"""A document's dress from a template: its styles, cover, heads and feet, sheets; what it lacks is added to it."""

from __future__ import annotations

import posixpath
from collections.abc import Iterable, Iterator
from pathlib import Path

from lxml import etree

from wornpage.output.docx import parts as p
from wornpage.output.docx.dress import Dress
from wornpage.output.docx.filling import fill, place_of_body
from wornpage.output.docx.looks import Looks
from wornpage.output.docx.options import DocxPress
from wornpage.output.docx.sheet import Sheet
from wornpage.output.docx.styles import DEEPEST, our_styles
from wornpage.output.docx.templatesheet import sheet_in
from wornpage.output.docx.xml import NAMESPACES, W
from wornpage.output.kind import Job
from wornpage.output.ooxml import properties
from wornpage.output.ooxml.package import EXTENSIONS, Relations, office, relations_of, relations_part
from wornpage.output.ooxml.reading import (
    RELATIONSHIP,
    TYPES,
    Element,
    leads_in,
    parsed,
    serialized,
    template_fault,
    template_parts,
)
from wornpage.output.ooxml.xml import HEAD, R
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError, near_miss

_NO_RELATIONS = relations_part("").encode()
_CHANGES = ("ins", "del", "moveFrom", "moveTo")
_AFTER_NOTES = {"endnotePr", "compat", "docVars", "rsids", "mathPr", "attachedSchema", "themeFontLang", "clrSchemeMapping",
                "doNotIncludeSubdocsInStats", "shapeDefaults", "decimalSymbol", "listSeparator"}  # fmt: skip
"""Settings that the schema wants behind those of notes."""


def w(name: str) -> str:
    """A name of the main namespace, as lxml has it."""
    return f"{{{W}}}{name}"


class TemplateDress(Dress):
    """The dress of a template."""

    def __init__(self, page: n.Composed, job: Job, options: DocxPress, looks: Looks, template: Path) -> None:
        self._name, self._page_name = template.name, job.name
        self._names: dict[str, str] = {}
        """The parts that we add to, by kind."""
        self._parts = template_parts(
            template, job.name, "Save it as a document (.docx) or a template (.dotx) without a password."
        )
        self._types = self._part("[Content_Types].xml")
        self._main = self._led_to("", "officeDocument") or "word/document.xml"
        self.main_part, self._folder = self._main, posixpath.dirname(self._main)
        self._document = self._part(self._main)
        self._check()
        self._leads = self._relations()
        taken = {str(one.get("Id", "")) for one in self._leads}
        while any(name.startswith(self.relations_from) for name in taken):
            self.relations_from += "W"
        self._styles = self._own("styles", f"<w:styles {NAMESPACES}/>")
        self._numbering = self._own("numbering", f"<w:numbering {NAMESPACES}/>")
        self._settings = self._own("settings", f"<w:settings {NAMESPACES}/>")
        self.offset = self._free_number()
        super().__init__(page, job, options, looks)
        self.read = (template,)
        self.filled = fill(self._document, page)
        self.has_comments = any(str(one.get("Type", "")).endswith("/comments") for one in self._leads)
        self.first_bookmark, self.first_drawing = self._free_ids()
        kind = "endnote" if options.notes == "end" else "footnote"
        self._notes = self._own(f"{kind}s", p.notes(kind, (), self.ids))
        self.notes_before = max((int(note.get(w("id"))) for note in self._notes), default=0)
        self.keeps_numbers = self.has_numbers and self._heading_style(1).find(f"{w('pPr')}/{w('numPr')}") is not None

    # --- reading ------------------------------------------------------------------------------

    def _fault(self, what: str, hint: str = "") -> PageError:
        return template_fault(self._name, self._page_name, what, hint)

    def _part(self, name: str) -> Element:
        try:
            return parsed(self._parts[name])
        except KeyError:
            raise self._fault(f"is no document of a word processor: it has no {name}.") from None
        except etree.XMLSyntaxError as error:
            raise self._fault(f"is damaged: {name}: {error}.") from None

    def _led_to(self, part: str, kind: str) -> str:
        """The part of a kind that a part leads to; nothing for none."""
        name = relations_of(part)
        found = leads_in(self._part(name), part) if name in self._parts else ()
        return next((target for own, target, _ in found if own.endswith(f"/{kind}")), "")

    def _check(self) -> None:
        """Raise `PageError` for what cannot be built upon."""
        main = next((one for one in self._types if one.get("PartName") == f"/{self._main}"), None)
        kind = str(main.get("ContentType", "")) if main is not None else ""
        if "macroEnabled" in kind:
            raise self._fault("holds macros.", "Save it as a document (.docx) or a template (.dotx) without them.")
        if self._document.tag != w("document") or self._document.find(w("body")) is None:
            raise self._fault(
                "is no document of a word processor, or of a kind that is not read.", "Save it as an ordinary .docx."
            )
        if any(next(self._document.iter(w(change)), None) is not None for change in _CHANGES):
            raise self._fault("holds tracked changes.", "Accept or reject them, and save it.")
        if main is not None:
            main.set("ContentType", office("document.main"))

    def _relations(self) -> Element:
        self._relations_name = relations_of(self._main)
        return parsed(self._parts.get(self._relations_name, _NO_RELATIONS))

    def _own(self, kind: str, otherwise: str) -> Element:
        """A part that the document leads to; made where there is none."""
        for own, name, _ in leads_in(self._leads, self._main):
            if own.endswith(f"/{kind}"):
                root = self._part(name)
                self._names[kind] = name
                return root
        name = posixpath.join(self._folder, f"{kind}.xml")
        etree.SubElement(
            self._leads, RELATIONSHIP, Id=f"{self.relations_from}{kind}", Type=f"{R}/{kind}", Target=f"{kind}.xml"
        )
        etree.SubElement(self._types, f"{TYPES}Override", PartName=f"/{name}", ContentType=office(kind))
        self._names[kind] = name
        return parsed(otherwise.removeprefix(HEAD).encode())

    def _free_number(self) -> int:
        """Beyond all lists of the template."""
        kinds = [int(one.get(w("abstractNumId"))) for one in self._numbering.iter(w("abstractNum"))]
        lists = [int(one.get(w("numId"))) for one in self._numbering.iter(w("num"))]
        return max([*kinds, *lists, 0]) // 100 * 100 + 100

    def _free_ids(self) -> tuple[int, int]:
        """Beyond all bookmarks and all drawings of the template."""
        marks = [int(one.get(w("id"), 0)) for one in self._document.iter(w("bookmarkStart"))]
        drawings = [0]
        for name, data in self._parts.items():
            if name.endswith(".xml") and b"docPr" in data:
                drawings += [int(one.get("id", 0)) for one in self._part(name).iter("{*}docPr")]
        return max([*marks, self.first_bookmark]) + 1, max([*drawings, self.first_drawing])

    # --- styles -------------------------------------------------------------------------------

    def _ids(self) -> dict[str, str]:
        """Ours by the names that word processors know in all languages, or as they are said to be called in the template."""
        theirs: dict[tuple[str, str], str] = {}
        for style in self._styles.iter(w("style")):
            name = style.find(w("name"))
            if name is not None:
                theirs.setdefault(
                    (style.get(w("type"), "paragraph"), name.get(w("val"), "").lower()), style.get(w("styleId"), "")
                )
        used = set(theirs.values())
        said = {key.lower(): value for key, value in self.looks.styles.items()}
        self._check_names(said, theirs)
        made: dict[str, str] = {}
        for style in our_styles(self.looks, 0):
            name = said.get(style.name.lower(), style.name).lower()
            free = style.key
            while free in used:
                free += "W"
            made[style.key] = theirs.get((style.kind, name), free)
        self._theirs = {made[key] for key in made} & set(theirs.values())
        made["Normal"] = next(
            (one.get(w("styleId")) for one in self._styles.iter(w("style")) if _is_default(one, "paragraph")), "Normal"
        )
        for key, kind in (("DefaultParagraphFont", "character"), ("TableNormal", "table")):
            made[key] = next(
                (one.get(w("styleId")) for one in self._styles.iter(w("style")) if _is_default(one, kind)), key
            )
        return made

    def _check_names(self, said: dict[str, str], theirs: dict[tuple[str, str], str]) -> None:
        """Raise `PageError` for names of styles that are not there, ours or theirs."""
        ours = {style.name.lower(): style.name for style in our_styles(self.looks, 0)}
        names = sorted({name for _, name in theirs})
        for name, value in said.items():
            if name not in ours:
                raise self._fault(
                    f"is to have a name for our style {name!r}, which there is not.", near_miss(name, ours)
                )
            if value.lower() not in names:
                raise self._fault(f"has no style {value!r}.", near_miss(value.lower(), names))

    def _heading_style(self, level: int) -> Element:
        wanted = self.ids[f"Heading{level}"]
        found = next((one for one in self._styles.iter(w("style")) if one.get(w("styleId")) == wanted), None)
        return found if found is not None else etree.Element(w("style"))

    def _dressed(self) -> Element:
        """The styles, with ours that it lacks, and numbers for its headings if the page has them and they have none."""
        numbers = self.numbering.headings if self.has_numbers else 0
        for style in our_styles(self.looks, numbers):
            if self.ids[style.key] not in self._theirs:
                self._styles.append(parsed(_wrapped(style.xml(self.ids, plain=True)))[0])
        if self.has_numbers and not self.keeps_numbers:
            for level in range(1, DEEPEST + 1):
                _number(self._heading_style(level), level, numbers)
        lang = self._styles.find(f"{w('docDefaults')}/{w('rPrDefault')}/{w('rPr')}/{w('lang')}")
        if lang is not None:
            lang.set(w("val"), self.language)
        return self._styles

    def _listed(self) -> Element:
        """The lists: kinds stand before lists."""
        first = next((one for one in self._numbering if one.tag == w("num")), None)
        for one in parsed(_wrapped(self.numbering.kinds())):
            if first is not None:
                first.addprevious(one)
            else:
                self._numbering.append(one)
        last = next((one for one in self._numbering if one.tag == w("numIdMacAtCleanup")), None)
        for one in parsed(_wrapped(self.numbering.lists())):
            if last is not None:
                last.addprevious(one)
            else:
                self._numbering.append(one)
        return self._numbering

    # --- sheets and parts ---------------------------------------------------------------------

    def _sheet(self) -> Sheet:
        body = self._document.find(w("body"))
        section = body.find(w("sectPr"))
        return sheet_in(
            section if section is not None else parsed(_wrapped("<w:sectPr/>"))[0], self.looks, self.options
        )

    def parts(
        self, body: str, notes: dict[int, str], pictures: dict[str, bytes], links: Relations, of_notes: Relations
    ) -> dict[str, bytes | str]:
        """All parts: those of the template as they are, but for those that ours go into."""
        kind = "endnote" if self.options.notes == "end" else "footnote"
        made: dict[str, bytes | str] = dict(self._parts)
        made[self._main] = serialized(self._filled_body(body))
        self._leads.extend(parsed(relations_part(links.xml()).encode()))
        made[self._relations_name] = serialized(self._leads)
        made[self._names["styles"]] = serialized(self._dressed())
        made[self._names["numbering"]] = serialized(self._listed())
        for number, text in enumerate(notes.values(), self.notes_before + 1):
            self._notes.append(parsed(_wrapped(f'<w:{kind} w:id="{number}">{text}</w:{kind}>'))[0])
        made[self._names[f"{kind}s"]] = serialized(self._notes)
        if of_notes:
            name = relations_of(self._names[f"{kind}s"])
            root = parsed(self._parts.get(name, _NO_RELATIONS))
            root.extend(parsed(relations_part(of_notes.xml()).encode()))
            made[name] = serialized(root)
        made[self._names["settings"]] = serialized(self._with_notes(kind))
        made |= {posixpath.join(self._folder, name): data for name, data in sorted(pictures.items())}
        made |= self._properties()
        self._tell_ends({name.rpartition(".")[2].lower() for name in pictures})
        made["[Content_Types].xml"] = serialized(self._types)
        return made

    def _filled_body(self, xml: str) -> Element:
        """The document with our blocks after what it has, or where it has a place for them."""
        spaces = {**dict(_spaces()), **self._document.nsmap}
        root = etree.Element(self._document.tag, attrib=dict(self._document.attrib), nsmap=spaces)
        root.extend(list(self._document))
        body = root.find(w("body"))
        ours = list(parsed(_wrapped(xml)))
        section = ours.pop()
        old = body.find(w("sectPr"))
        if old is not None:
            body.remove(old)
        _without_marks(body, {str(mark.get(w("name"))) for one in ours for mark in one.iter(w("bookmarkStart"))})
        place = place_of_body(body)
        for one in ours:
            place.addprevious(one) if place is not None else body.append(one)
        if place is not None:
            place.getparent().remove(place)
        body.append(section)
        return root

    def part_names(self) -> dict[str, str]:
        """The parts beside the main one, by what they are."""
        return self._names

    def _with_notes(self, kind: str) -> Element:
        """The settings, which name the lines that part notes from text."""
        if self._settings.find(w(f"{kind}Pr")) is None:
            marks = f'<w:{kind}Pr><w:{kind} w:id="-1"/><w:{kind} w:id="0"/></w:{kind}Pr>'
            one = parsed(_wrapped(marks))[0]
            behind = _AFTER_NOTES - {"endnotePr"} if kind == "endnote" else _AFTER_NOTES
            after = next((other for other in self._settings if etree.QName(other).localname in behind), None)
            if after is not None:
                after.addprevious(one)
            else:
                self._settings.append(one)
        return self._settings

    def _properties(self) -> dict[str, bytes | str]:
        """Title, authors, keywords and language."""
        told = properties.properties(self.page.plain_title, self.page.head, self.language)
        if name := self._led_to("", "core-properties"):
            return {name: told}
        root = self._part("_rels/.rels")
        etree.SubElement(root, RELATIONSHIP, Id="rIdWcore", Type=properties.LEAD, Target=properties.NAME)
        kind = properties.TYPE
        etree.SubElement(self._types, f"{TYPES}Override", PartName=f"/{properties.NAME}", ContentType=kind)
        return {"_rels/.rels": serialized(root), properties.NAME: told}

    def _tell_ends(self, ends: Iterable[str]) -> None:
        """What files with these ends are."""
        known = {str(one.get("Extension", "")).lower() for one in self._types if one.tag == f"{TYPES}Default"}
        for end in sorted({*ends, "xml", "rels"} - known):
            one = etree.Element(f"{TYPES}Default", Extension=end, ContentType=EXTENSIONS[end])
            self._types.insert(0, one)


def _wrapped(xml: str) -> bytes:
    """Pieces under a root that knows all our namespaces."""
    return f"<x {NAMESPACES}>{xml}</x>".encode()


def _spaces() -> Iterator[tuple[str, str]]:
    yield from parsed(_wrapped("")).nsmap.items()


def _without_marks(body: Element, names: set[str]) -> None:
    """Take away bookmarks of a template that have the names of ours."""
    gone = {mark.get(w("id")) for mark in body.iter(w("bookmarkStart")) if mark.get(w("name")) in names}
    for mark in list(body.iter(w("bookmarkStart"), w("bookmarkEnd"))):
        if mark.get(w("id")) in gone:
            mark.getparent().remove(mark)


def _is_default(style: Element, kind: str) -> bool:
    return style.get(w("type")) == kind and style.get(w("default")) in {"1", "true", "on"}


_BEFORE_NUMBERS = {
    w(name) for name in ("pStyle", "keepNext", "keepLines", "pageBreakBefore", "framePr", "widowControl")
}


def _number(style: Element, level: int, numbers: int) -> None:
    """Give a heading style its numbers."""
    about = style.find(w("pPr"))
    if about is None:
        about = etree.Element(w("pPr"))
        letters = style.find(w("rPr"))
        letters.addprevious(about) if letters is not None else style.append(about)
    if about.find(w("numPr")) is not None:
        return
    made = parsed(_wrapped(f'<w:numPr><w:ilvl w:val="{level - 1}"/><w:numId w:val="{numbers}"/></w:numPr>'))[0]
    before = [one for one in about if one.tag in _BEFORE_NUMBERS]
    before[-1].addnext(made) if before else about.insert(0, made)
