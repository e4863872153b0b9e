"""One slide: its title and text in the placeholders of its layout, all else at places of its own."""

from __future__ import annotations

from collections.abc import Callable
from itertools import groupby, takewhile
from typing import assert_never

from msgspec import Struct
from msgspec.structs import replace

from wornpage.output.deck.measuring import BETWEEN_COLUMNS, Measure, ratio_of
from wornpage.output.deck.model import PLAIN, SECTION, TITLE, Deck, Slide
from wornpage.output.left_out import left_out
from wornpage.output.ooxml.media import Media
from wornpage.output.ooxml.package import Relations
from wornpage.output.ooxml.xml import HEAD, escaped
from wornpage.output.pptx.drawingml import BARE, DARK_MAP, GROUP, LIGHT_MAP, NAMESPACES, Box, Face, Lines, fill
from wornpage.output.pptx.own import CODE_FONT
from wornpage.output.pptx.shapes import Canvas
from wornpage.output.pptx.tables import table_frame, table_xml
from wornpage.output.pptx.template import Layout, Template
from wornpage.output.pptx.text import Paragraph, Text, caption_of, is_text
from wornpage.output.pptx.timing import Target, timing
from wornpage.tree import nodes as n
from wornpage.tree.colours import is_dark
from wornpage.tree.formula import length
from wornpage.tree.problem import Problem
from wornpage.tree.walk import words_of

_INK, _TINT, _PICKED = "1D2024", "F1EEE6", "E9E2CB"
_ROLES = {
    "keyword": "7A2E5D", "string": "3C6019", "number": "9A4A10", "constant": "9A4A10", "comment": "62655C", "name": "1B4F8A",
    "builtin": "28606A",
}  # fmt: skip
_SIDES = {"left": 0.0, "centre": 0.5, "right": 1.0}


class Made(Struct, frozen=True):
    """A slide as a part, and what leads from it."""

    xml: str
    relations: Relations
    layout: Layout


class SlideMaker(Canvas):
    """Makes one slide, at one step of it or with its steps as effects."""

    def __init__(
        self, slide: Slide, at: int, deck: Deck, template: Template, media: Media, slide_of: Callable[[str], str],
        problems: list[Problem], step: int | None,
    ) -> None:  # fmt: skip
        super().__init__(deck.shape, slide.scale, media, step)
        self.slide, self.at, self.deck, self.template = slide, at, deck, template
        self.slide_of, self.problems = slide_of, problems
        self.notes: dict[int, n.Footnote] = {}
        self.measure = Measure(deck.shape, slide.scale)
        self.layout = template.by_use[self.use()]
        self.free = self.layout.texts if slide.kind == PLAIN else []
        """Placeholders for text that nothing stands in yet."""
        self.over: n.Picture | None = None
        """What was drawn over it."""

    def use(self) -> str:
        """What its layout is for."""
        slide = self.slide
        if slide.kind == TITLE:
            return "title"
        if not slide.title:
            return "blank"
        if not slide.look.titled:
            return "bare"
        if slide.kind == SECTION:
            return "section"
        if self.two_columns() is not None:
            return "columns"
        return "text" if slide.blocks and is_text(slide.blocks[0]) else "bare"

    def two_columns(self) -> n.Container | None:
        """The columns that are all there is on the slide, if there are two of them."""
        blocks = self.slide.blocks
        only = blocks[0] if len(blocks) == 1 else None
        is_two = isinstance(only, n.Container) and only.kind == "side-by-side" and len(only.blocks) == 2
        return only if is_two and isinstance(only, n.Container) else None

    # --- the whole ----------------------------------------------------------------------------------

    def made(self) -> Made:
        slide = self.slide
        if slide.look.picture is not None:
            self.veil()
        if slide.kind == TITLE:
            self.first()
        else:
            self.title()
        if slide.kind == PLAIN:
            self.body()
        else:
            shape = self.deck.shape
            height = self.measure.notes(slide, shape.inner)
            self.notes_below(Box(shape.side, shape.height - shape.foot - height, shape.inner, height))
        self.foot()
        if self.over is not None and self.media.can_show(self.over):
            shape = self.deck.shape
            self.picture(self.over, Box(0, 0, shape.width, shape.height), 0.0)
        behind = self.ground()
        colours = "<a:masterClrMapping/>"
        if slide.look.picture is not None or slide.look.background:
            colours = f"<a:overrideClrMapping {DARK_MAP if self.is_dark() else LIGHT_MAP}/>"
        xml = (
            f"{HEAD}<p:sld {NAMESPACES}><p:cSld>{behind}<p:spTree>{GROUP}{''.join(self.shapes)}</p:spTree></p:cSld>"
            f"<p:clrMapOvr>{colours}</p:clrMapOvr>{timing(self.coming)}</p:sld>"
        )
        return Made(xml, self.relations, self.layout)

    def is_dark(self) -> bool:
        """Whether its own ground wants light letters."""
        look = self.slide.look
        return look.picture is not None or bool(look.background and is_dark(look.background))

    def ground(self) -> str:
        look = self.slide.look
        if look.picture is not None and self.media.can_show(look.picture):
            held = self.relations.to("image", f"../{self.media.dots(look.picture)}")
            crop = _cover(ratio_of(look.picture), self.deck.shape.width / self.deck.shape.height)
            return f'<p:bg><p:bgPr><a:blipFill><a:blip r:embed="{held}"/>{crop}<a:stretch><a:fillRect/></a:stretch></a:blipFill><a:effectLst/></p:bgPr></p:bg>'
        if look.background:
            return f"<p:bg><p:bgPr>{fill(look.background[1:])}<a:effectLst/></p:bgPr></p:bg>"
        return ""

    def veil(self) -> None:
        """What darkens a picture behind a slide, so that letters can be read on it."""
        shape = self.deck.shape
        veil = '<a:solidFill><a:srgbClr val="0B1416"><a:alpha val="64000"/></a:srgbClr></a:solidFill>'
        self.plain("Veil", Box(0, 0, shape.width, shape.height), veil)

    def text(self, held: bool, size: float = 0.0) -> Text:
        """A writer of text."""
        deck = self.deck
        return Text(
            deck.language,
            deck.terms,
            self.relations,
            self.slide_of,
            held and self.template.says_sizes,
            size or self.measure.text,
            self.problems,
            "" if self.slide.look.background or self.slide.look.picture else self.template.ink,
        )

    # --- placeholders -------------------------------------------------------------------------------

    def first(self) -> None:
        """The first slide: what the head of the page says."""
        head = self.deck.head
        holder = self.layout.first("ctrTitle", "title")
        text = self.text(True)
        self.hold(holder, "Title", [text.paragraph(head.title, Lines(), Face())])
        self.notes.update(text.notes)
        below: list[Paragraph] = []
        text = self.text(True)
        if head.subtitle:
            below.append(text.paragraph(head.subtitle, Lines(), Face()))
        for person in head.authors:
            said = ", ".join((person.name, *person.affiliations))
            below.append(text.paragraph((n.Text(self.slide.span, said),), Lines(before=12), Face(size=21)))
        if head.date:
            below.append(text.paragraph((n.Text(self.slide.span, head.date),), Lines(before=12), Face(size=20)))
        under = self.layout.first("subTitle", "body", "obj")
        if below and under is not None:
            self.hold(under, "Subtitle", below)
        elif below:
            shape = self.deck.shape
            self.box("Subtitle", Box(shape.side, shape.height * 0.6, shape.inner, shape.height * 0.25), below)

    def title(self) -> None:
        slide = self.slide
        if not slide.title:
            return
        part = (n.Text(slide.span, f"  {slide.part}/{slide.parts}"),) if slide.parts and slide.kind == PLAIN else ()
        number = (n.Text(slide.span, f"{slide.number}  "),) if slide.number else ()
        text = self.text(True)
        made = [text.paragraph((*number, *slide.title, *part), Lines(), Face())]
        self.notes.update(text.notes)
        holder = self.layout.first("title", "ctrTitle")
        shape = self.deck.shape
        above = Box(shape.side, -shape.title * 2, shape.inner, shape.title * 1.5)  # for readers' aids, and out of sight
        self.hold(holder, "Title", made, None if slide.look.titled else above)

    def foot(self) -> None:
        """Footer and number, in the placeholders that the layout has for them."""
        deck = self.deck
        holder = self.layout.first("ftr")
        if deck.footer and holder is not None and self.slide.kind != TITLE:
            self.hold(
                holder, "Footer", [self.text(True).paragraph((n.Text(self.slide.span, deck.footer),), Lines(), Face())]
            )
        holder = self.layout.first("sldNum")
        if deck.numbered and holder is not None and self.slide.kind != TITLE:
            field = f'<a:p><a:fld id="{{B6F15528-21DE-4FAA-801E-634DDDAF4B2B}}" type="slidenum"><a:rPr lang="en"/><a:t>{self.at}</a:t></a:fld></a:p>'
            self.hold(holder, "Number", [Paragraph(field)])

    # --- blocks -------------------------------------------------------------------------------------

    def body(self) -> None:
        """All blocks, where the layout has its text."""
        shape = self.deck.shape
        two = self.two_columns()
        if two is not None and len(self.free) >= 2:
            left, right = self.free[:2]
            self.free = []
            for holder, block in ((left, two.blocks[0]), (right, two.blocks[1])):
                assert holder.box is not None
                self.free = [holder]
                self.column((block,), holder.box)
            below = self.measure.notes(self.slide, shape.inner)
            self.notes_below(Box(shape.side, shape.height - shape.foot - below, shape.inner, below))
            return
        room = self.free[0].box if self.free else None
        if room is None:
            first = self.template.by_use["text"].texts
            room = first[0].box if first else None
        if room is None:
            top = shape.top + shape.title * 1.15 + 20
            room = Box(shape.side, top, shape.inner, shape.height - top - shape.foot)
        if not self.slide.title or not self.slide.look.titled:
            room = Box(room.x, shape.top, room.width, room.y + room.height - shape.top)
        below = self.measure.notes(self.slide, room.width)
        self.column(self.slide.blocks, replace(room, height=room.height - below))
        self.notes_below(Box(room.x, room.y + room.height - below, room.width, below))

    def column(self, blocks: n.Blocks, room: Box) -> None:
        """Blocks below each other in a place."""
        heights = self.measure.share_out(blocks, room.width, room.height)
        gap = self.measure.gap
        used = sum(heights) + gap * max(sum(one > 0 for one in heights) - 1, 0)
        slack = max(room.height - used, 0.0)
        top = {"centre": slack / 2, "bottom": slack}.get(self.slide.look.vertical, 0.0)
        y = room.y + top
        whole_is_text = len(blocks) > 0 and all(map(is_text, blocks))
        for is_words, group in groupby(zip(blocks, heights, strict=True), key=lambda pair: is_text(pair[0])):
            pairs = list(group)
            shown = [height for _, height in pairs if height > 0]
            height = sum(shown) + gap * max(len(shown) - 1, 0)
            if is_words:
                box = Box(room.x, y, room.width, room.height if whole_is_text and not top else height)
                self.words(tuple(block for block, _ in pairs), box, whole_is_text and not top)
                y += height + gap
            else:
                for block, own in pairs:
                    if own > 0:
                        self.block(block, Box(room.x, y, room.width, own))
                        y += own + gap

    def words(self, blocks: n.Blocks, box: Box, fills: bool) -> None:
        """Text: in the layout's placeholder if that is still free, else in a box."""
        held = bool(self.free) and not self.under
        text = self.text(held)
        paragraphs = text.blocks(blocks)
        if held:
            holder = self.free.pop(0)
            self.hold(holder, "Text", paragraphs, None if fills and holder.box is not None else box)
        else:
            self.box("Text", box, paragraphs)
        self.after(text, box)

    def after(self, text: Text, box: Box) -> None:
        """What text cannot hold: notes, and pictures that stand among words."""
        self.notes.update(text.notes)
        for shown in text.pictures:
            if self.media.can_show(shown.picture):
                self.picture(
                    shown.picture, Box(box.x + box.width * 0.7, box.y, box.width * 0.3, min(box.height, 120.0)), 1.0
                )

    def block(self, block: n.Block, box: Box) -> None:
        match n.composed_block(block):
            case n.ChunkView(blocks=blocks):
                self.column(blocks, box)
            case n.Container(kind="side-by-side") as it:
                self.beside(it, box)
            case n.Container(kind="step") as it:
                self.later(it, box)
            case n.Container() as it:
                self.boxed(it, box)
            case n.CodeBlock() as it:
                self.code(it, box)
            case n.OutputText() as it:
                self.output(it, box)
            case n.Figure() as it:
                self.figure(it, box)
            case n.TableBlock() as it:
                self.table(it, box)
            case n.MathBlock() as it:
                self.math(it, box)
            case (n.List() | n.Quote()) as held:
                self.mixed(held, box)
            case n.Rule():
                self.bar(Box(box.x + box.width * 0.35, box.y + box.height / 2, box.width * 0.3, 2), "D8D4CA")
            case n.RichHtml(text=words):
                self.output(n.OutputText(block.span, words, "output"), box)
            case n.RawHtmlBlock(html=html):
                told = left_out(block.span, html, "presentation")
                self.problems += [told] if told and told not in self.problems else []
            case n.AppendixBreak() | n.SheetBreak() | n.SlideBreak():
                pass
            case (n.Paragraph() | n.Heading() | n.Definitions() | n.ContentsList() | n.ReferenceList() | n.IndexList() | n.AboutHere()
                  | n.PartTitle()):  # fmt: skip
                self.words((block,), box, False)
            case never:
                assert_never(never)

    def later(self, it: n.Container, box: Box) -> None:
        """What comes with a step."""
        if self.step is not None and it.step > self.step:
            return
        outer, self.under = self.under, it.step
        self.column(it.blocks, box)
        self.under = outer

    def beside(self, it: n.Container, box: Box) -> None:
        x = box.x
        for block, width in zip(it.blocks, self.measure.columns(it, box.width), strict=True):
            self.column((block,), Box(x, box.y, width, box.height))
            x += width + BETWEEN_COLUMNS

    def boxed(self, it: n.Container, box: Box) -> None:
        """A box: its ground and its edge first, then what stands in it."""
        alarms = it.kind in {"caution", "warning"}
        edge, ground = ("98321F", "F8E9E4") if alarms else ("accent1", _TINT)
        title = [
            self.text(False, self.measure.small).paragraph(
                it.title, Lines(mark=BARE), Face(size=self.measure.small, bold=True, colour=_INK)
            )
        ]
        plain = all(map(is_text, it.blocks))
        if plain:
            text = self.text(False)
            inner = text.blocks(it.blocks, face=Face(size=self.measure.text, colour=_INK))
            self.box("Box", box, [*(title if it.title else []), *inner], ground, edge, (20, 12))
            self.after(text, box)
            return
        self.box("Box", box, title if it.title else [Paragraph("<a:p/>")], ground, edge, (20, 12))
        above = self.measure.words(it.title, box.width, self.measure.small, bold=True) + 4 if it.title else 0.0
        self.column(it.blocks, Box(box.x + 20, box.y + 12 + above, box.width - 40, box.height - 24 - above))

    def mixed(self, block: n.List | n.Quote, box: Box) -> None:
        """A list or a quotation that holds more than text: its pieces in their order."""
        if isinstance(block, n.Quote):
            self.bar(Box(box.x, box.y, 5, box.height), "D8D4CA")
            self.column(block.blocks, Box(box.x + self.measure.text, box.y, box.width - self.measure.text, box.height))
        else:
            self.column(_pieces(block), box)

    def notes_below(self, box: Box) -> None:
        """The notes that the slide calls."""
        if not self.notes:
            return
        text = self.text(False, self.measure.small)
        text.notes = self.notes
        self.box("Notes", box, text.called(Face(size=self.measure.small)), anchor="b")
        text.tell_of_pictures()

    # --- code, output -------------------------------------------------------------------------------

    def code(self, it: n.CodeBlock, box: Box) -> None:
        size = self.measure.code
        caption = self.caption_above(it, box)
        box = Box(box.x, box.y + caption, box.width, box.height - caption)
        asides = sum(self.measure.words(words, box.width, self.measure.small) for words in it.asides)
        text = self.text(False, size)
        made = [self.code_line(text, line, it, it.first_number + at) for at, line in enumerate(it.lines)]
        self.box("Code", Box(box.x, box.y, box.width, box.height - asides), made, _TINT, "", (12, 12))
        if it.asides:
            small = self.text(False, self.measure.small)
            words = [
                small.paragraph(
                    (n.Text(it.span, f"{at}  "), *one), Lines(mark=BARE, before=2), Face(size=self.measure.small)
                )
                for at, one in enumerate(it.asides, 1)
            ]
            self.box("Remarks", Box(box.x, box.y + box.height - asides, box.width, asides), words)

    def code_line(self, text: Text, line: n.CodeLine, it: n.CodeBlock, number: int) -> Paragraph:
        size = self.measure.code
        turn = min(max((self.step or 0) - it.step + 1, 1), max(it.turns, 1))
        takes_turns = it.turns > 1 and not all(turn in one.turns for one in it.lines)
        picked = (turn in line.turns) if takes_turns else line.picked and it.turns < 2
        dim = takes_turns and turn not in line.turns
        plain = Face(size=size, font=CODE_FONT, colour="9A9C92" if dim else _INK, behind=_PICKED if picked else "")
        shown = f"{number if number > 0 else '':>3}  " if it.numbered else ""
        runs = text.letters(shown, replace(plain, colour="62655C")) + "".join(
            text.letters(
                token.text.expandtabs(4), replace(plain, colour=plain.colour if dim else _ROLES.get(token.role, _INK))
            )
            for token in line.tokens
        )
        if line.aside:
            runs += text.letters(f"  ({line.aside})", replace(plain, colour="1C5A63", bold=True))
        lines = Lines(align="l", mark=BARE, left=0, before=0, leading=112)
        return Paragraph(f"<a:p>{lines.xml()}{runs}{plain.properties('a:endParaRPr', 'en')}</a:p>")

    def output(self, it: n.OutputText, box: Box) -> None:
        size = self.measure.code
        colour, ground, edge = {
            "error": ("98321F", "F8E9E4", "98321F"), "notice": ("6A5312", "F6EFD9", "6A5312"),
        }.get(it.role, ("", "", "D8D4CA"))  # fmt: skip
        text = self.text(False, size)
        face = Face(size=size, font=CODE_FONT, colour=colour)
        lines = Lines(align="l", mark=BARE, left=0, before=0, leading=112)
        made = [
            Paragraph(
                f"<a:p>{lines.xml()}{text.letters(line.expandtabs(4), face)}{face.properties('a:endParaRPr', 'en')}</a:p>"
            )
            for line in it.text.split("\n")
        ]
        if it.cut:
            made.append(text.paragraph((n.Text(it.span, f"… {it.cut}"),), lines, Face(size=self.measure.small)))
        self.box("Output", box, made, ground, edge, (14, 6))

    # --- figures, tables, formulas ------------------------------------------------------------------

    def caption_at(self, it: n.Figure | n.TableBlock | n.CodeBlock, box: Box, align: str) -> None:
        text = self.text(False, self.measure.small)
        made = text.paragraph(caption_of(it), Lines(align=align, mark=BARE), Face(size=self.measure.small))
        self.box("Caption", box, [made])
        self.after(text, box)

    def caption_above(self, it: n.TableBlock | n.CodeBlock, box: Box) -> float:
        """Write the caption of something that has it above; how much room it takes."""
        if not it.number:
            return 0.0
        height = self.measure.caption(it.caption, box.width) or self.measure.small * 1.4 + 6
        align = "l" if isinstance(it, n.CodeBlock) else {"left": "l", "right": "r"}.get(it.align, "ctr")
        self.caption_at(it, Box(box.x, box.y, box.width, height), align)
        return height

    def figure(self, it: n.Figure, box: Box) -> None:
        caption = (self.measure.caption(it.caption, box.width) or self.measure.small * 1.4 + 6) if it.number else 0.0
        pictures = [one for one in it.pictures if self.media.can_show(one)]
        count = max(len(pictures), 1)
        each = (box.width - 24.0 * (count - 1)) / count
        lettered = self.measure.small * 1.4 if any(one.letter for one in pictures) else 0.0
        bottom = box.y
        for at, one in enumerate(pictures):
            place = Box(box.x + at * (each + 24.0), box.y, each, max(box.height - caption - lettered, 20.0))
            drawn = self.picture(one, place, _SIDES.get(it.align, 0.5))
            bottom = max(bottom, drawn.y + drawn.height)
            if one.letter:
                text = self.text(False, self.measure.small)
                letter = text.paragraph(
                    (n.Text(it.span, f"({one.letter})"),), Lines(align="ctr", mark=BARE), Face(size=self.measure.small)
                )
                self.box("Letter", Box(place.x, drawn.y + drawn.height, each, lettered), [letter])
        if it.number:
            align = {"left": "l", "right": "r"}.get(it.align, "ctr")
            self.caption_at(it, Box(box.x, bottom + lettered + 4, box.width, caption), align)

    def table(self, it: n.TableBlock, box: Box) -> None:
        caption = self.caption_above(it, box)
        text = self.text(False, self.measure.table)
        made, width, height = table_xml(it.table, text, self.measure, box.width, self.measure.table)
        x = box.x + (box.width - width) * _SIDES.get(it.align, 0.5)
        number = self.next()
        words = escaped(words_of(it.caption) or self.deck.terms.table[0])
        self.shapes.append(table_frame(number, f"Table {number}", words, Box(x, box.y + caption, width, height), made))
        if self.under:
            self.comes(self.under, Target(number))
        small = self.text(False, self.measure.small)
        below = [
            small.paragraph(
                (n.Superscript(it.span, mark), n.Text(it.span, " "), *words_) if mark else words_,
                Lines(mark=BARE, before=2),
                Face(size=self.measure.small),
            )
            for mark, words_ in it.table.notes
        ]
        if it.table.note:
            below.append(
                small.paragraph(
                    (n.Text(it.span, f"… {it.table.note}"),), Lines(mark=BARE), Face(size=self.measure.small)
                )
            )
        if below:
            top = box.y + caption + height + 4
            self.box("Table notes", Box(x, top, max(width, 300), max(box.y + box.height - top, 24)), below)
        self.after(text, box)

    def math(self, it: n.MathBlock, box: Box) -> None:
        """A formula in a line of its own, its number at the end of it."""
        text = self.text(False)
        size = self.measure.text * 1.12
        made = text.paragraph(
            (n.Math(it.span, it.formula, it.alt),),
            Lines(align="ctr", mark=BARE, left=0),
            Face(size=size, colour=text.ink),
        )
        across = min(max(length(it.formula) * 0.55, 3.0) * size, box.width)
        self.box("Formula", replace(box, x=box.x + (box.width - across) / 2, width=across), [made], anchor="ctr")
        if it.number:
            number = text.paragraph(
                (n.Text(it.span, f"({it.number})"),),
                Lines(align="r", mark=BARE, left=0),
                Face(size=self.measure.text * 0.8),
            )
            self.box("Number", Box(box.x + box.width - 100, box.y, 100, box.height), [number], anchor="ctr")


def _pieces(it: n.List) -> n.Blocks:
    """A list as shorter ones that are text, and what stands between."""
    made: list[n.Block] = []
    for at, item in enumerate(it.items):
        words = tuple(takewhile(is_text, item.blocks))
        if words:
            made.append(replace(it, items=(replace(item, blocks=words),), start=it.start + at))
        rest = item.blocks[len(words) :]
        if rest and item.step:
            made.append(n.Container(it.span, "step", n.NO_ATTRIBUTES, rest, step=item.step))
        else:
            made += rest
    return tuple(made)


def _cover(picture: float, slide: float) -> str:
    """What is cut off a picture so that it covers a slide of another shape."""
    if picture > slide:
        off = round((1 - slide / picture) / 2 * 100_000)
        return f'<a:srcRect l="{off}" r="{off}"/>'
    off = round((1 - picture / slide) / 2 * 100_000)
    return f'<a:srcRect t="{off}" b="{off}"/>'
