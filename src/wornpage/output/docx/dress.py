"""What a document is dressed in: styles, lists, sheets, heads and feet, all of our own, or those of a template."""

from __future__ import annotations

import posixpath
from pathlib import Path

from msgspec.structs import replace

from wornpage.output.docx import parts as p
from wornpage.output.docx.carrying import PROPERTIES, WENT_OUT, carried
from wornpage.output.docx.looks import Looks
from wornpage.output.docx.numbering import Numbering
from wornpage.output.docx.options import DocxPress
from wornpage.output.docx.remarks import TYPES, Remarks
from wornpage.output.docx.sheet import Sheet, sheet_of
from wornpage.output.docx.styles import DEEPEST, defaults, our_styles
from wornpage.output.docx.xml import NAMESPACES
from wornpage.output.kind import Job
from wornpage.output.ooxml import properties
from wornpage.output.ooxml.package import Relations, office, relations_of, relations_part, types_part
from wornpage.output.ooxml.xml import HEAD
from wornpage.output.stationery import Stationery
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.walk import walk

_HEAD, _FOOT = "header1.xml", "footer1.xml"


class Dress:
    """Our own dress."""

    def __init__(self, page: n.Composed, job: Job, options: DocxPress, looks: Looks) -> None:
        self.page, self.options, self.looks = page, options, looks
        self.running_title = job.settings.running_title or page.plain_title
        self.has_numbers = any(isinstance(node, n.Heading) and node.number for node in walk(page.blocks))
        self.language = language_tag(page)
        self.problems: list[Problem] = []
        self.read: tuple[Path, ...] = ()
        self.filled: frozenset[str] = frozenset()
        """What of the head of the page stands in places that the template has for it."""
        self.ids = self._ids()
        heads = tuple(self.ids[f"Heading{level}"] for level in range(1, DEEPEST + 1))
        self.numbering = Numbering(self.offset, page.terms.appendix[0], heads if self.has_numbers else ())
        self.sheet = self._sheet()

    offset = 0
    """Lists of ours have numbers above it."""
    first_bookmark, first_drawing = 20_000, 7_000
    """Ids of ours begin with these."""
    relations_from = "rIdW"
    """Ids of relationships of ours begin with it."""
    notes_before = 0
    """The number of the last note that is there already."""
    has_comments = False
    """Whether there are comments already, which are left alone."""
    keeps_numbers = False
    """Whether headings have numbers of their own, which are left to count."""

    def _ids(self) -> dict[str, str]:
        """The id of each style, by our key for it."""
        return {style.key: style.key for style in our_styles(self.looks, 0)} | {"Normal": "Normal"}

    def _sheet(self) -> Sheet:
        references = (
            '<w:headerReference w:type="default" r:id="rIdHead"/><w:footerReference w:type="first" r:id="rIdFoot"/>'
        )
        sheet = sheet_of(self.options.paper, self.looks, self.page.terms.right_to_left)
        return replace(sheet, before=references, first="<w:titlePg/>")

    def styles(self) -> str:
        """The part with the styles."""
        numbers = self.numbering.headings if self.has_numbers else 0
        own = "".join(style.xml(self.ids) for style in our_styles(self.looks, numbers))
        base = defaults(self.looks, self.language, self.page.terms.right_to_left)
        return f"{HEAD}<w:styles {NAMESPACES}>{base}{own}</w:styles>"

    def parts(
        self, body: str, notes: dict[int, str], pictures: dict[str, bytes], links: Relations, of_notes: Relations
    ) -> dict[str, bytes | str]:
        """All parts of the package, by name."""
        kind = "endnote" if self.options.notes == "end" else "footnote"
        made: dict[str, bytes | str] = {
            "[Content_Types].xml": "",
            "_rels/.rels": p.ROOT,
            properties.NAME: properties.properties(self.page.plain_title, self.page.head, self.language),
            "docProps/app.xml": p.APP,
            "word/document.xml": f"{HEAD}<w:document {NAMESPACES}><w:body>{body}</w:body></w:document>",
            "word/_rels/document.xml.rels": relations_part(self._leading(kind, bool(notes)) + links.xml()),
            "word/styles.xml": self.styles(),
            "word/numbering.xml": self.numbering.part(),
            "word/settings.xml": p.settings(self.language, kind if notes else "", self.page.terms),
            f"word/{_HEAD}": p.head(self.running_title, self.looks, self.ids),
            f"word/{_FOOT}": p.foot(self.ids),
        }
        if notes:
            made[f"word/{kind}s.xml"] = p.notes(kind, notes.values(), self.ids)
            if of_notes:
                made[f"word/_rels/{kind}s.xml.rels"] = relations_part(of_notes.xml())
        made |= {f"word/{name}": data for name, data in sorted(pictures.items())}
        made["[Content_Types].xml"] = types_part(_kinds(made))
        return made

    def carrying(self, parts: dict[str, bytes | str], name: str, source: str) -> dict[str, bytes | str]:
        """The same parts with the page's source, and what they hold now, in one of its own."""
        number = next(at for at in range(1, 1000) if f"customXml/item{at}.xml" not in parts)
        relations = relations_of(self.main_part)
        link = p.leading(f"{self.relations_from}Source", "customXml", f"/customXml/item{number}.xml")
        kind = f'<Override PartName="/customXml/itemProps{number}.xml" ContentType="{PROPERTIES}"/>'
        parts = {**parts, **carried(name, source, parts, self.went_out(), number)}
        parts[relations] = _with(parts[relations], link, "</Relationships>")
        parts["[Content_Types].xml"] = _with(parts["[Content_Types].xml"], kind, "</Types>")
        return parts

    def with_remarks(self, parts: dict[str, bytes | str], remarks: Remarks) -> dict[str, bytes | str]:
        """The same parts with those of comments."""
        folder = posixpath.dirname(self.main_part)
        relations = relations_of(self.main_part)
        for name, text in remarks.parts().items():
            leads, kind = TYPES[name]
            part = posixpath.join(folder, f"{name}.xml")
            parts[part] = text
            link = p.leading(f"{self.relations_from}{name}", leads, f"{name}.xml")
            parts[relations] = _with(parts[relations], link, "</Relationships>")
            told = f'<Override PartName="/{part}" ContentType="{kind}"/>'
            parts["[Content_Types].xml"] = _with(parts["[Content_Types].xml"], told, "</Types>")
        return parts

    main_part = "word/document.xml"

    def part_names(self) -> dict[str, str]:
        """The parts beside the main one, by what they are."""
        return {kind: f"word/{kind}.xml" for kind in WENT_OUT}

    def went_out(self) -> list[str]:
        """The parts that say what goes out, and what leads to them."""
        parts = [self.main_part, *(name for kind, name in self.part_names().items() if kind in WENT_OUT)]
        return [relations_of(""), *parts, *map(relations_of, parts)]

    def _leading(self, kind: str, has_notes: bool) -> str:
        leading = Relations("rIdD")
        for name in ("styles", "numbering", "settings", *([f"{kind}s"] if has_notes else [])):
            leading.to(name, f"{name}.xml")
        return leading.xml() + p.leading("rIdHead", "header", _HEAD) + p.leading("rIdFoot", "footer", _FOOT)


def dress_for(page: n.Composed, job: Job, options: DocxPress, looks: Looks, stationery: Stationery) -> Dress:
    """The template that the page or its stationery names; else our own dress. Raises `PageError` for one that cannot be used."""
    template = job.folder / options.template if options.template else stationery.assets.get("document.docx")
    if template is None:
        return Dress(page, job, options, looks)
    from wornpage.output.docx.template import TemplateDress

    return TemplateDress(page, job, options, looks, template)


def _with(part: bytes | str, piece: str, end: str) -> str:
    """A part with a piece more before its end."""
    text = part.decode("utf-8") if isinstance(part, bytes) else part
    head, _, _ = text.rpartition(end)
    return f"{head}{piece}{end}"


def language_tag(page: n.Composed) -> str:
    """The language of the page, with a region: spelling checkers want one."""
    return page.language if "-" in page.language else page.terms.locale.replace("_", "-")


def _kinds(parts: dict[str, bytes | str]) -> dict[str, str]:
    """The content type of each part that its end does not tell."""
    kinds = {
        "word/document.xml": "document.main", "word/styles.xml": "styles", "word/numbering.xml": "numbering",
        "word/settings.xml": "settings", "word/footnotes.xml": "footnotes", "word/endnotes.xml": "endnotes",
        f"word/{_HEAD}": "header", f"word/{_FOOT}": "footer",
    }  # fmt: skip
    made = {name: office(kind) for name, kind in kinds.items() if name in parts}
    made[properties.NAME] = properties.TYPE
    made["docProps/app.xml"] = "application/vnd.openxmlformats-officedocument.extended-properties+xml"
    return made
