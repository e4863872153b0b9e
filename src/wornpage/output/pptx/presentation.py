"""The whole presentation: a template with our slides in place of its own."""

from __future__ import annotations

import json
import posixpath
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from lxml import etree
from msgspec.structs import replace

from wornpage.output.audience import labels_in
from wornpage.output.bounds import bounded
from wornpage.output.deck.model import POINTS_A_CENTIMETRE, SHAPES, Deck, Slide
from wornpage.output.deck.options import DeckPress
from wornpage.output.deck.parting import deck_of
from wornpage.output.kind import Job, Written
from wornpage.output.ooxml import properties
from wornpage.output.ooxml.media import Media
from wornpage.output.ooxml.package import EXTENSIONS, Relations, packed, relations_of, relations_part
from wornpage.output.ooxml.reading import RELATIONSHIP, TYPES, leads_in, parsed, serialized, template_parts
from wornpage.output.ooxml.xml import R
from wornpage.output.outputs import options_in
from wornpage.output.pptx.drawingml import P
from wornpage.output.pptx.notes import notes_master, notes_page
from wornpage.output.pptx.options import USES, PptxPress
from wornpage.output.pptx.own import own_parts, theme
from wornpage.output.pptx.slide import SlideMaker
from wornpage.output.pptx.template import Template
from wornpage.output.slides.drawn import drawn_in
from wornpage.output.slides_pdf.drawn import as_picture
from wornpage.output.stationery import find_stationery
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

DECK = "deck.pptx"
"""What a template is called in a stationery."""
_OFFICE = "application/vnd.openxmlformats-officedocument.presentationml."
_FIRST_ID = 256
_SAVED = "Save it as a presentation (.pptx) or a template (.potx) without a password."


def write_pptx(page: n.Composed, job: Job) -> Written:
    """The presentation. Raises `PageError` for a template that cannot be used."""
    options: PptxPress = options_in(job.settings, "pptx")
    of_deck: DeckPress = options_in(job.settings, "slides")
    page, cut = bounded(page, "presentation")
    usual = SHAPES[of_deck.shape]
    path, said = _template_of(job, options)
    wished = {use: getattr(options, f"{use}_layout") or said.get(f"{use}-layout", "") for use in USES}
    parts = template_parts(path, job.name, _SAVED) if path is not None else own_parts(usual)
    template = Template(parts, path.name if path is not None else "of our own", job.name, wished)
    shape = template.shape(usual) if path is not None else usual
    deck, problems = deck_of(page, of_deck, "pptx", shape)
    drawn, faults = drawn_in(job.folder, of_deck.drawn, deck)
    strokes = json.loads(drawn).get("slides", {})
    if path is not None and strokes:
        what = "what was drawn on slides is not in the presentation: its template lays them out otherwise."
        faults.append(Problem(Span(job.name, 1), what, severity=Severity.WARNING))
        strokes = {}
    building = _Building(deck, template, strokes)
    data = building.written(of_deck.speaker)
    told = (*cut, *problems, *faults, *building.problems)
    return Written(data, told, read=(path,) if path is not None else ())


def _template_of(job: Job, options: PptxPress) -> tuple[Path | None, dict[str, str]]:
    """The file of the template and what is said of its layouts: the page's, else that of its stationery."""
    if options.template:
        return job.folder / options.template, {}
    stationery = find_stationery(job.settings.stationery, job.folder / job.name)
    own = stationery.folder / DECK if stationery.folder is not None else None
    return (own, stationery.said) if own is not None and own.is_file() else (None, {})


class _Building:
    """Puts the parts together."""

    def __init__(self, deck: Deck, template: Template, drawn: dict[str, list[dict[str, Any]]]) -> None:
        self.deck, self.template, self.drawn = deck, template, drawn
        self.problems: list[Problem] = []
        self.sheets = list(_sheets(deck.slides))
        self.parts = dict(template.parts)
        self.types: dict[str, str] = {}
        names: dict[str, str] = {}
        for at, (slide, _) in enumerate(self.sheets, 1):
            for label in (slide.label, *labels_in(walk(slide.blocks))):
                names.setdefault(label, f"slide{at}.xml")
        self.slide_of = lambda label: names.get(label, "")
        shown = [one for slide in deck.slides for one in _pictures(slide)]
        shown += [self.overlay(slide) for slide in deck.slides if drawn.get(slide.label)]
        self.media = Media(shown)

    def overlay(self, slide: Slide) -> n.Picture:
        """What was drawn over a slide."""
        shape = self.deck.shape
        return n.Picture(
            "svg",
            as_picture(self.drawn[slide.label], shape),
            shape.width / POINTS_A_CENTIMETRE,
            shape.height / POINTS_A_CENTIMETRE,
            "Drawn over the slide",
        )

    def written(self, with_notes: bool) -> bytes:
        """The file."""
        self.strip()
        master = self.own_notes_master() if with_notes and any(slide.speaker for slide, _ in self.sheets) else ""
        ids = []
        for at, (slide, step) in enumerate(self.sheets, 1):
            ids.append(self.add(slide, at, step, master))
        self.lead_to_slides(ids, master)
        for name, data in self.media.files.items():
            self.parts[self.within(name)] = data
        self.about()
        self.drop_unreached()
        self.say_types()
        return packed(dict(sorted(self.parts.items(), key=lambda item: (item[0] != "[Content_Types].xml", item[0]))))

    def within(self, name: str) -> str:
        """The part of such a name, beside the main one."""
        return posixpath.join(self.template.folder, name)

    # --- what the template has ----------------------------------------------------------------------

    def strip(self) -> None:
        """Take the template's own slides out, and what only they lead to."""
        root = self.template.presentation
        for name in ("sldIdLst", "custShowLst", "extLst"):
            for one in root.findall(f"{{{P}}}{name}"):
                root.remove(one)
        relations = self.relations()
        for one in list(relations):
            kind = one.get("Type", "").rpartition("/")[2]
            if kind in {"slide", "vbaProject", "commentAuthors", "tags", "customXml"}:
                relations.remove(one)
                for gone in [held for held in root.iter() if held.get(f"{{{R}}}id") == one.get("Id")]:
                    parent = gone.getparent()
                    if parent is not None:
                        parent.remove(gone)
        self.parts[relations_of(self.template.main)] = serialized(relations)

    def relations(self) -> Any:
        return parsed(self.parts[relations_of(self.template.main)])

    def free_id(self, relations: Any) -> Iterator[str]:
        taken = {one.get("Id") for one in relations}
        number = 1
        while True:
            if f"rIdW{number}" not in taken:
                yield f"rIdW{number}"
            number += 1

    # --- slides -------------------------------------------------------------------------------------

    def add(self, slide: Slide, at: int, step: int | None, master: str) -> str:
        """A slide and its notes; the name of its part."""
        maker = SlideMaker(slide, at, self.deck, self.template, self.media, self.slide_of, self.problems, step)
        if self.drawn.get(slide.label):
            maker.over = self.overlay(slide)
        made = maker.made()
        name = self.within(f"slides/slide{at}.xml")
        made.relations.to("slideLayout", _between(name, made.layout.part))
        if slide.speaker and master:
            notes = self.within(f"notesSlides/notesSlide{at}.xml")
            leads = Relations("rIdW")
            text = notes_page(slide, self.deck, leads, self.problems)
            leads.to("notesMaster", _between(notes, master))
            leads.to("slide", _between(notes, name))
            made.relations.to("notesSlide", _between(name, notes))
            self.put(notes, text, "notesSlide", leads)
        self.put(name, made.xml, "slide", made.relations)
        return name

    def put(self, name: str, text: str, kind: str, relations: Relations | None = None) -> None:
        self.parts[name] = text.encode("utf-8")
        self.types[name] = f"{_OFFICE}{kind}+xml"
        if relations is not None:
            self.parts[relations_of(name)] = relations_part(relations.xml()).encode("utf-8")

    def own_notes_master(self) -> str:
        """The part that notes rest on: the template's, or one of our own."""
        if known := next(self.template.led_to(self.template.main, "notesMaster"), ""):
            return known
        name, look = self.within("notesMasters/notesMaster1.xml"), self.within("theme/themeOfNotes.xml")
        leads = Relations("rIdW")
        leads.to("theme", _between(name, look))
        self.put(name, notes_master(), "notesMaster", leads)
        self.parts[look] = theme("Notes").encode("utf-8")
        self.types[look] = "application/vnd.openxmlformats-officedocument.theme+xml"
        return name

    def lead_to_slides(self, names: Iterable[str], master: str) -> None:
        """Name slides, in their order, and the master of notes in the presentation."""
        root, relations = self.template.presentation, self.relations()
        free = self.free_id(relations)

        def lead(kind: str, target: str) -> str:
            main = self.template.main
            for own, part, known in leads_in(relations, main):
                if own.endswith(f"/{kind}") and part == target:
                    return known
            key = next(free)
            etree.SubElement(relations, RELATIONSHIP, Id=key, Type=f"{R}/{kind}", Target=_between(main, target))
            return key

        held = etree.Element(f"{{{P}}}sldIdLst")
        for at, name in enumerate(names):
            one = etree.SubElement(held, f"{{{P}}}sldId", id=str(_FIRST_ID + at))
            one.set(f"{{{R}}}id", lead("slide", name))
        if master and root.find(f"{{{P}}}notesMasterIdLst") is None:
            of_notes = etree.Element(f"{{{P}}}notesMasterIdLst")
            etree.SubElement(of_notes, f"{{{P}}}notesMasterId").set(f"{{{R}}}id", lead("notesMaster", master))
            _insert(root, of_notes, ("sldMasterIdLst",))
        _insert(root, held, ("sldMasterIdLst", "notesMasterIdLst", "handoutMasterIdLst"))
        self.parts[self.template.main] = serialized(root)
        self.parts[relations_of(self.template.main)] = serialized(relations)

    # --- the package --------------------------------------------------------------------------------

    def about(self) -> None:
        """Who wrote it, and what it is called."""
        root = parsed(self.parts["_rels/.rels"])
        for one in list(root):
            if not one.get("Type", "").endswith("/officeDocument"):
                root.remove(one)
        etree.SubElement(root, RELATIONSHIP, Id="rIdWCore", Type=properties.LEAD, Target=properties.NAME)
        self.parts["_rels/.rels"] = serialized(root)
        deck = self.deck
        told = properties.properties(deck.plain_title, deck.head, deck.language)
        self.parts[properties.NAME] = told.encode("utf-8")
        self.types[properties.NAME] = properties.TYPE

    def drop_unreached(self) -> None:
        """Parts that nothing leads to any more go."""
        reached: set[str] = set()
        todo = [""]
        while todo:
            part = todo.pop()
            name = relations_of(part)
            if name not in self.parts:
                continue
            reached.add(name)
            for _, target, _ in leads_in(parsed(self.parts[name]), part):
                if target in self.parts and target not in reached:
                    reached.add(target)
                    todo.append(target)
        self.parts = {
            name: data for name, data in self.parts.items() if name in reached or name == "[Content_Types].xml"
        }

    def say_types(self) -> None:
        """What each part is."""
        root = parsed(self.parts["[Content_Types].xml"])
        usual = {one.get("Extension", "").lower() for one in root.iter(f"{TYPES}Default")}
        for one in list(root.iter(f"{TYPES}Override")):
            name = one.get("PartName", "").lstrip("/")
            if name not in self.parts or name in self.types:
                root.remove(one)
            elif name == self.template.main:
                one.set("ContentType", f"{_OFFICE}presentation.main+xml")
        for end, kind in EXTENSIONS.items():
            if end not in usual:
                root.insert(0, etree.Element(f"{TYPES}Default", Extension=end, ContentType=kind))
        for name, kind in self.types.items():
            if name in self.parts:
                etree.SubElement(root, f"{TYPES}Override", PartName=f"/{name}", ContentType=kind)
        self.parts["[Content_Types].xml"] = serialized(root)


def _sheets(slides: Iterable[Slide]) -> Iterator[tuple[Slide, int | None]]:
    """The slides of the presentation: code that is picked out in turns has no effect for it, and takes a slide a step."""
    for slide in slides:
        if any(isinstance(node, n.CodeBlock) and node.turns > 1 for node in walk(slide.blocks)):
            for step in range(slide.steps + 1):
                is_whole = step == slide.steps
                yield (slide if is_whole else replace(slide, label=f"{slide.label}/{step}")), step
        else:
            yield slide, None


def _pictures(slide: Slide) -> Iterator[n.Picture]:
    if slide.look.picture is not None:
        yield slide.look.picture
    for node in walk(slide.blocks):
        if isinstance(node, n.Figure):
            yield from node.pictures
        elif isinstance(node, n.InlinePicture):
            yield node.picture


def _between(part: str, target: str) -> str:
    return posixpath.relpath(target, posixpath.dirname(part) or ".")


def _insert(root: Any, element: Any, after: tuple[str, ...]) -> None:
    """Put an element behind the last of those named, where the schema wants it."""
    place = 0
    for at, one in enumerate(root):
        if etree.QName(one).localname in after:
            place = at + 1
    root.insert(place, element)
