"""Slides in the typesetter's notation: as pages are, in blocks of a slide's size."""

from __future__ import annotations

import json
from importlib.resources import files

from msgspec.structs import replace

from wornpage.output.bounds import bounded
from wornpage.output.deck.measuring import figure_rooms, ratio_of
from wornpage.output.deck.model import PLAIN, SECTION, TITLE, Deck, Slide
from wornpage.output.deck.options import DeckPress
from wornpage.output.deck.parting import deck_of
from wornpage.output.kind import Job, Written
from wornpage.output.outputs import options_in
from wornpage.output.pdf.fonts import Fonts, fonts_for
from wornpage.output.pdf.strings import string
from wornpage.output.pdf.writer import TypesetWriter, missing_letters, sheets_of, texts_of, typeset
from wornpage.output.sharing import shares
from wornpage.output.slides.drawn import drawn_in
from wornpage.output.slides_pdf.drawn import as_picture
from wornpage.output.slides_pdf.options import SlidesPdfPress
from wornpage.output.stationery import Stationery, find_stationery
from wornpage.tree import nodes as n
from wornpage.tree.colours import is_dark
from wornpage.tree.walk import words_of

_FACES = ("regular", "italic", "bold")


def write_slides_pdf(page: n.Composed, job: Job) -> Written:
    """Typeset the slides of `page`. Raises `PageError` where the typesetter refuses them."""
    options: SlidesPdfPress = options_in(job.settings, "slides-pdf")
    of_deck: DeckPress = options_in(job.settings, "slides")
    page, cut = bounded(page, "slides")
    deck, problems = deck_of(page, of_deck, "slides-pdf")
    own = [job.folder / path for path in options.fonts]
    fonts = fonts_for(texts_of(page), own)
    stationery = find_stationery(job.settings.stationery, job.folder / job.name)
    drawn, faults = drawn_in(job.folder, of_deck.drawn, deck)
    writer = SlidesTypesetter(deck, fonts, stationery, json.loads(drawn).get("slides", {}))
    source = writer.deck_source(options.sheets, job.settings.running_title or page.plain_title)
    sheets = {
        **sheets_of(stationery, page.terms.right_to_left),
        "deck-base.typ": stationery.looks["deck.typ"][0],
        "deck.typ": stationery.looks["deck.typ"][-1],
        "page.typ": source,
    }
    faces = {f"sans-{face}.ttf": (files("wornpage.output.deck") / f"sans-{face}.ttf").read_bytes() for face in _FACES}
    data = typeset(sheets, {**writer.files, **faces}, fonts, own, stationery, job.name)
    told = (*cut, *problems, *faults, *missing_letters(page, fonts, job.name), *writer.problems)
    return Written(data, told, read=(*fonts.read, *own), fonts=fonts.of_system)


class SlidesTypesetter(TypesetWriter):
    """Writes the nodes of slides; places are labelled on the last sheet of each slide alone."""

    def __init__(
        self, deck: Deck, fonts: Fonts, stationery: Stationery, drawn: dict[str, list[dict[str, object]]]
    ) -> None:
        super().__init__(deck.terms, fonts, stationery)
        self.deck, self.drawn = deck, drawn
        self.step, self.labels = 0, True
        self.rooms: dict[int, tuple[float, float]] = {}
        self.scale = 1.0
        self.notes: dict[int, n.Footnote] = {}
        self.deepest = 0
        """Levels of headings that are open: none may be skipped."""

    # --- the whole --------------------------------------------------------------------------------

    def deck_source(self, sheets: str, running: str) -> str:
        """The whole source."""
        deck, head = self.deck, self.deck.head
        authors = "".join(string(person.name) + "," for person in head.authors)
        keywords = "".join(string(words_of(keyword)) + "," for keyword in head.keywords)
        families = "".join(string(family) + "," for family in self.fonts.families)
        opening = (
            f'#import "deck.typ": *\n#show: deck.with(title: {string(self.clean(deck.plain_title))}, authors: ({authors}), '
            f"keywords: ({keywords}), language: {string(deck.language.split('-')[0])}, fonts: ({families}))\n"
        )
        shape = deck.shape
        size = f"(u({shape.width}), u({shape.height}))"
        made = [
            self.slide(slide, at, step, size)
            for at, slide in enumerate(deck.slides, 1)
            for step in (range(slide.steps + 1) if sheets == "steps" else [slide.steps])
        ]
        if sheets == "handout":
            return f"{opening}#handout({size}, ({''.join(f'{one},' for one in made)}), [{self.text(running)}])\n"
        pages = f"#set page(width: {size}.at(0), height: {size}.at(1), margin: 0pt)\n"
        return opening + pages + "\n#pagebreak()\n".join(f"#{one}" for one in made) + "\n"

    def slide(self, slide: Slide, at: int, step: int, size: str) -> str:
        """One slide at one step, as a call."""
        deck = self.deck
        self.step, self.labels, self.scale, self.notes = step, step == slide.steps, slide.scale, {}
        self.rooms = figure_rooms(slide, deck.shape)
        dark = slide.look.picture is not None or (
            is_dark(slide.look.background) if slide.look.background else slide.kind == SECTION
        )
        body = self.title_slide() if slide.kind == TITLE else self.blocks(slide.blocks)
        parts = {
            "size": size,
            "side": str(deck.shape.side),
            "kind": string(slide.kind),
            "vertical": string(slide.look.vertical or "top"),
            "ground": f"rgb({string(slide.look.background)})" if slide.look.background else "none",
            "dark": str(dark).lower(),
            "behind": self.behind(slide.look.picture) if slide.look.picture is not None else "none",
            "title": self.title_of(slide),
            "foot": f"[{self.text(deck.footer)}]" if deck.footer or deck.numbered else "none",
            "count": string(str(at) if deck.numbered else ""),
            "notes": self.notes_below(),
            "over": self.over(slide),
            "scale": f"{slide.scale:g}",
        }
        return f"slide({', '.join(f'{key}: {value}' for key, value in parts.items())}, [{body}])"

    def title_slide(self) -> str:
        head = self.deck.head
        people = "".join(
            f"(name: {self.text_string(one.name)}, places: ({''.join(self.text_string(place) + ',' for place in one.affiliations)})),"
            for one in head.authors
        )
        subtitle = f"[{self.inlines(head.subtitle)}]" if head.subtitle else "none"
        date = f"[{self.text(head.date)}]" if head.date else "none"
        return f"#head-of-deck([{self.inlines(head.title)}], {subtitle}, ({people}), {date})"

    def title_of(self, slide: Slide) -> str:
        """The title of a slide: a heading on its last sheet, and the same words without that on others."""
        if slide.kind == TITLE or not slide.title or not slide.look.titled:
            return "none"
        part = string(f"{slide.part}/{slide.parts}" if slide.parts and slide.kind == PLAIN else "")
        own_line = str(slide.kind == SECTION).lower()
        words = f"title-of({string(slide.number)}, [{self.inlines(slide.title)}], part: {part}, own-line: {own_line})"
        if not self.labels or slide.part > 1:
            return f"[#{words}]"
        level = min(slide.level, self.deepest + 1)
        self.deepest = level
        return f"[#heading(level: {level}, {words}){self.at(slide.label)}]"

    def behind(self, picture: n.Picture) -> str:
        return f'image({string(self.kept(picture))}, width: 100%, height: 100%, fit: "cover")'

    def over(self, slide: Slide) -> str:
        """What was drawn over a slide."""
        strokes = self.drawn.get(slide.label)
        if not strokes:
            return "none"
        file = f"drawn-{len(self.files) + 1}.svg"
        self.files[file] = as_picture(strokes, self.deck.shape)
        return f"image({string(file)}, width: 100%, height: 100%)"

    # --- what differs from a page -----------------------------------------------------------------

    def at(self, label: str) -> str:
        return super().at(label) if self.labels else ""

    def footnote(self, node: n.Footnote) -> str:
        """A call; the note stands at the foot of each slide that calls it."""
        self.notes.setdefault(node.number, node)
        return f"#super[{node.number}];"

    def notes_below(self) -> str:
        made: list[str] = []
        self.notes = dict(sorted(self.notes.items()))
        while len(made) < len(self.notes):  # notes may call notes
            number = list(self.notes)[len(made)]
            words = self.blocks(self.notes[number].blocks)
            made.append(f"#block(spacing: 0.3em)[{number}.#h(0.4em){words}]")
        return f"[{''.join(made)}]" if made else "none"

    def hidden(self, step: int, made: str) -> str:
        """What comes with a later step takes its room and shows nothing."""
        return f"#hide[{made}]" if step > self.step else made

    def item_list(self, node: n.List) -> str:
        """A list; items that come later take their room with their marks."""
        here = sum(item.step <= self.step for item in node.items)
        if here == len(node.items):
            return super().item_list(node)
        first, rest = node.items[:here], node.items[here:]
        later = super().item_list(replace(node, items=rest, start=node.start + here))
        shown = super().item_list(replace(node, items=first)) if first else ""
        between = "#v(-0.26em, weak: false)" if first else ""
        return f"{shown}{between}#hide[{later}]"

    def container(self, node: n.Container) -> str:
        if node.kind != "step":
            return super().container(node)
        return self.hidden(node.step, self.blocks(node.blocks))

    def columns(self, node: n.Container) -> str:
        cells = ", ".join(f"[{self.block(block)}]" for block in node.blocks)
        tracks = ", ".join(f"{width:g}fr" for width in shares(node))
        return f"#side-by-side(({tracks},), 0cm, {cells})"

    def block(self, node: n.Block) -> str:
        if isinstance(node, n.Heading):
            words = f"numbered({string(f'{node.word} {node.number}' if node.word else node.number)}, [{self.inlines(node.children)}])"
            if not self.labels:
                return f"#block(strong({words}))"
            level = self.deepest + 1
            return f"#heading(level: {level}, strong({words})){self.at(node.label)}"
        return super().block(node)

    def code_line(self, line: n.CodeLine, node: n.CodeBlock, number: int) -> str:
        tokens = "".join(self.token(token) for token in line.tokens) or '#"\u200b";'
        if line.aside:
            tokens += f"#aside({string(str(line.aside))});"
        options = f"number: {string(str(number) if number > 0 else '')}, " if node.numbered else ""
        return f"#code-line({options}look: {string(self.look_of(line, node))})[{tokens}];"

    def look_of(self, line: n.CodeLine, node: n.CodeBlock) -> str:
        """Whether a line is picked out, or dim beside others that are."""
        if node.turns < 2:
            return "picked" if line.picked else "plain"
        turn = min(max(self.step - node.step + 1, 1), node.turns)
        if all(turn in one.turns for one in node.lines):
            return "plain"
        return "picked" if turn in line.turns else "dim"

    def figure(self, node: n.Figure) -> str:
        """Pictures in the room that the slide leaves them."""
        width, height = self.rooms.get(id(node), (self.deck.shape.inner, 300.0))
        count = len(node.pictures)
        each = (width - 24.0 * (count - 1)) / max(count, 1)
        below = 24.0 * self.scale if any(one.letter for one in node.pictures) else 0.0
        drawn = [self.sized(one, each, max(height - below, 20.0)) for one in node.pictures]
        if count == 1:
            return self.captioned("image", node, drawn[0])
        parts = ", ".join(f"part({string(one.letter)}, {made})" for one, made in zip(node.pictures, drawn, strict=True))
        return self.captioned("image", node, f"shown-parts({parts})")

    def sized(self, picture: n.Picture, width: float, height: float) -> str:
        across = min(width, height * ratio_of(picture))
        alt = self.text_string(picture.alt or "Picture")
        return f"image({string(self.kept(picture))}, width: u({across:.2f}), alt: {alt})"

    def kept(self, picture: n.Picture) -> str:
        """A picture as a file, one for all sheets that show it."""
        kind = {"jpeg": "jpg"}.get(picture.format, picture.format)
        known = next((name for name, data in self.files.items() if data is picture.data), "")
        if known:
            return known
        file = f"picture-{len(self.files) + 1}.{kind}"
        self.files[file] = picture.data
        return file

    def table_within(self, node: n.TableBlock) -> str:
        """A table in the letters of slides, however wide."""
        table = node.table
        size = self.deck.shape.table * self.scale * 0.75
        wraps = frozenset(
            at for at in range(len(table.aligns)) if any(len(words_of(row[at])) > _LONG for row in table.plain_rows)
        )
        body = "#" + self.table_part(table, tuple(range(len(table.aligns))), size, wraps)
        if table.note:
            body += f"\n#sized(18, faint[{self.text('… ' + table.note)}])"
        for mark, words in table.notes:
            body += f"\n#block(spacing: 0.3em, sized(18, faint[{self.table_note(mark, words)}]))"
        return self.captioned("table", node, f"[{body}]")

    def references(self, node: n.ReferenceList) -> str:
        if self.labels:
            entries = tuple(replace(entry, backs=()) for entry in node.entries)
            return super().references(replace(node, entries=entries))
        entries = tuple(replace(entry, anchor="", backs=()) for entry in node.entries)
        return super().references(replace(node, entries=entries))


_LONG = 40
"""Letters of a cell that is broken into lines."""
