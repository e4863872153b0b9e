"""A composed page cut into slides: a new one at each heading down to a level, and wherever the page asks for one."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from msgspec.structs import replace

from wornpage.output.audience import DECKS, at_once, for_output, labels_in
from wornpage.output.deck.fitting import fitted
from wornpage.output.deck.model import PLAIN, SECTION, SHAPES, TITLE, Deck, Shape, Slide
from wornpage.output.deck.options import DeckPress
from wornpage.output.deck.staging import parts_of_view, staged
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.walk import rewrite, walk


def deck_of(page: n.Composed, options: DeckPress, kind: str, shape: Shape | None = None) -> tuple[Deck, list[Problem]]:
    """The slides of `page` for the output `kind`, and a warning for each that is too tall; `shape` is that of a template."""
    page = for_output(page, kind, DECKS)
    shape = shape or SHAPES[options.shape]
    parting = _Parting(page, options)
    made = [fitted(staged(slide, options.steps), shape, options.fit) for slide in parting.slides()]
    deck = Deck(
        page.head, page.plain_title, page.terms, page.language, shape, tuple(slide for slide, _ in made),
        options.footer or "", options.numbers, options.minutes,
    )  # fmt: skip
    return deck, [*parting.problems, *(problem for _, problem in made if problem is not None)]


class _Parting:
    """Goes through the blocks of a page, and begins a slide wherever one is due."""

    def __init__(self, page: n.Composed, options: DeckPress) -> None:
        self.page, self.options = page, options
        self.made: list[Slide] = []
        self.problems: list[Problem] = []
        self.labels = set(labels_in(walk(page.blocks)))
        self.open: Slide | None = None
        self.blocks: list[n.Block] = []
        self.due: n.SlideBreak | None = None
        """A slide that is to begin with the next block."""
        self.left_out = 0
        """The level of a heading whose section is on no slide; 0 for none."""

    def slides(self) -> list[Slide]:
        head = self.page.head
        if head.title or head.authors:
            span = head.title[0].span if head.title else Span("", 1)
            self.begin(TITLE, span, "", head.title, look=n.SlideLook())
        for block in self.flat(self.page.blocks):
            self.take(block)
        if self.due is not None:
            self.begin_due()
        self.close()
        return _with_parts(self.made)

    def flat(self, blocks: Iterable[n.Block]) -> Iterator[n.Block]:
        """Blocks of the page's own level; what only holds others together is opened where a slide begins within."""
        for block in blocks:
            if isinstance(block, n.Container) and block.chosen:
                yield from self.flat(block.blocks)
            elif isinstance(block, n.ChunkView):
                yield from self.flat_view(block) if block.blocks else ()
            else:
                yield block

    def flat_view(self, view: n.ChunkView) -> Iterator[n.Block]:
        """All that a chunk shows; headings that it has made stand by themselves."""
        code, shown = parts_of_view(view)
        if code and shown and view.output_goes == "next-slide":
            yield replace(view, blocks=code)
            yield n.SlideBreak(view.span)
            view = replace(view, blocks=shown)
        if not any(isinstance(block, n.Heading) for block in view.blocks):
            yield view
            return
        held: list[n.Block] = []
        for block in view.blocks:
            if isinstance(block, n.Heading):
                if held:
                    yield replace(view, blocks=tuple(held))
                held = []
                yield block
            else:
                held.append(block)
        if held:
            yield replace(view, blocks=tuple(held))

    # --- one block --------------------------------------------------------------------------------

    def take(self, block: n.Block) -> None:
        match block:
            case n.SlideBreak() as it:
                self.break_at(it)
            case n.SheetBreak() | n.AppendixBreak():
                pass
            case n.PartTitle() as it:
                number = f"{it.word} {it.number}" if it.word and it.number else it.number
                self.begin(SECTION, it.span, it.label, it.children, number)
            case n.Heading() as heading:
                self.heading(heading)
            case n.Container(kind="speaker") as notes:
                self.note(notes)
            case _ if not self.left_out:
                self.room_for(block)
                self.blocks.append(block)

    def break_at(self, block: n.SlideBreak) -> None:
        """A slide begins with what comes next: that of a heading, or one that goes on under the last heading."""
        if self.left_out:
            return
        if self.due is not None:
            self.begin_due()
        self.due = block

    def begin_due(self) -> None:
        """Begin the slide that goes on under the heading of the last one."""
        assert self.due is not None
        due, self.due, before = self.due, None, self.open
        goes_on = before is not None and before.kind != TITLE
        title, number = (before.title, before.number) if before is not None and goes_on else ((), "")
        self.begin(PLAIN, due.span, "", title, number, due.look)

    def heading(self, heading: n.Heading) -> None:
        if self.left_out and heading.level > self.left_out:
            return
        self.left_out = heading.level if heading.attributes.get("slide") == "no" else 0
        if self.left_out:
            self.due = None
            self.close()
            return
        due, self.due = self.due, None
        asked = due is not None or heading.attributes.get("slide") == "yes"
        if heading.level > self.options.new_slide_at and not asked:
            self.room_for(heading)
            self.blocks.append(heading)
            return
        number = f"{heading.word} {heading.number}" if heading.word else heading.number
        self.begin(
            PLAIN, heading.span, heading.label, heading.children, number, due.look if due else None, heading.level
        )

    def note(self, notes: n.Container) -> None:
        """What the speaker sees, on the slide where it is written."""
        if self.left_out:
            return
        self.room_for(notes)
        if self.open is not None:
            self.open = replace(self.open, speaker=(*self.open.speaker, *notes.blocks))

    def room_for(self, block: n.Block) -> None:
        """A slide must be open for what stands before the first heading."""
        if self.due is not None:
            self.begin_due()
        elif self.open is None:
            self.begin(PLAIN, block.span, "", ())
        elif self.open.kind == TITLE and not (isinstance(block, n.Container) and block.kind == "speaker"):
            self.begin(PLAIN, block.span, "", self.page.head.title)

    # --- slides -----------------------------------------------------------------------------------

    def begin(
        self,
        kind: str,
        span: Span,
        label: str,
        title: n.Inlines,
        number: str = "",
        look: n.SlideLook | None = None,
        level: int = 1,
    ) -> None:
        self.close()
        self.open = Slide(span, label, bool(label), kind, title, number, level, look=look or n.SlideLook())

    def close(self) -> None:
        """Keep the open slide."""
        slide, self.open, blocks, self.blocks = self.open, None, tuple(self.blocks), []
        if slide is None:
            return
        if slide.kind == PLAIN and not blocks and slide.title and slide.label:
            slide = replace(slide, kind=SECTION)
        elif slide.kind == PLAIN and not blocks and slide.look == n.SlideLook() and not slide.speaker:
            return
        blocks, said = self.taken_apart(blocks, slide.speaker)
        self.made.append(replace(slide, speaker=at_once(said, "slides"), label=self.address(slide), blocks=blocks))

    def taken_apart(self, blocks: n.Blocks, spoken: n.Blocks) -> tuple[n.Blocks, n.Blocks]:
        """What is seen, and what is said within it to the speaker, after what is `spoken` already; no slide begins within either."""
        said = list(spoken)

        def change(node: n.Node) -> n.Blocks | None:
            if isinstance(node, n.Container) and node.kind == "speaker":
                said.extend(node.blocks)
                return ()
            return () if isinstance(node, n.SlideBreak | n.SheetBreak) else None

        for node in walk((*blocks, *spoken)):
            if isinstance(node, n.SlideBreak):
                what = "no slide can begin within a list, a quotation, a box or what is said to the speaker."
                self.problems.append(Problem(node.span, what, "Put it between them.", Severity.WARNING))
        return rewrite(blocks, change), tuple(said)

    def address(self, slide: Slide) -> str:
        """The label of its heading, or its number among the slides, which nothing on the page is called by."""
        label = slide.label or f"slide-{len(self.made) + 1}"
        while label in self.labels and label != slide.label:
            label += "-x"
        self.labels.add(label)
        return label


def _with_parts(slides: list[Slide]) -> list[Slide]:
    """Slides that follow each other under one heading know which of them they are."""
    groups: list[list[Slide]] = []
    for slide in slides:
        last = groups[-1][0] if groups else None
        if last is not None and slide.title and slide.title is last.title and slide.kind == last.kind == PLAIN:
            groups[-1].append(slide)
        else:
            groups.append([slide])
    return [
        replace(slide, part=at, parts=len(group)) if len(group) > 1 else slide
        for group in groups
        for at, slide in enumerate(group, 1)
    ]
