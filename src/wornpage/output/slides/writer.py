"""The blocks of a slide as HTML: as on a page, with what comes in steps marked as such."""

from __future__ import annotations

from html import escape

from wornpage.output.html.drawing import drawing
from wornpage.output.html.writer import HtmlWriter
from wornpage.tree import nodes as n
from wornpage.tree.language import Language


class SlideWriter(HtmlWriter):
    """Writes the nodes of all slides of one deck, slide by slide."""

    def __init__(self, language: Language, new_slide_at: int, name: str) -> None:
        super().__init__(language, titled=True, name=name)
        self.new_slide_at = new_slide_at
        self.noted: set[int] = set()
        """Notes that have stood at the foot of a slide."""
        self.called_here: set[int] = set()
        """Notes that the slide at hand has called."""

    def begin(self) -> None:
        """Begin a slide, or what is said on it to the speaker: it has called no notes yet."""
        self.footnotes, self.called_here = [], set()

    def notes_below(self) -> str:
        """The notes that the slide has called."""
        made = self.notes()
        return f'<ol class="notes">{made}</ol>' if made else ""

    def behind(self, picture: n.Picture) -> str:
        """A picture that lies behind a slide."""
        self.drawn += 1
        return f'<div class="behind" aria-hidden="true">{drawing(picture, self.drawn)}</div>'

    # --- what differs from a page -----------------------------------------------------------------

    def footnote(self, node: n.Footnote) -> str:
        """A call: the note stands at the foot of each slide that calls it."""
        if node.number not in self.called_here:
            self.called_here.add(node.number)
            if node.number in self.calls:
                self.footnotes.append(node)
        return super().footnote(node)

    def note(self, number: int, body: str) -> str:
        place = "" if number in self.noted else f' id="note-{number}"'
        self.noted.add(number)
        return f'<li{place} value="{number}">{body}</li>'

    def heading(self, node: n.Heading) -> str:
        """A heading within a slide."""
        level = min(max(node.level - self.new_slide_at + 2, 3), 6)
        number = f"{node.word}\u00a0{node.number}" if node.word else node.number
        shown = f'<span class="number">{escape(number)}</span>' if number else ""
        return f'<h{level} id="{escape(self.label(node.label))}">{shown}{self.inlines(node.children)}</h{level}>'

    def item_look(self, node: n.Item) -> str:
        step = f' data-step="{node.step}"' if node.step else ""
        return super().item_look(node) + step

    scales_figures = True

    def picture_look(self, picture: n.Picture) -> str:
        """Its shape: it takes the room that the slide leaves, and its caption stays with it."""
        return f' style="--ratio: {picture.width / picture.height:.4g}"' if picture.width and picture.height else ""

    def container(self, node: n.Container) -> str:
        if node.kind != "step":
            return super().container(node)
        label = f' id="{escape(node.attributes.label)}"' if node.attributes.label else ""
        return f'<div class="step"{label} data-step="{node.step}">\n{self.blocks(node.blocks)}\n</div>'

    def code(self, node: n.CodeBlock) -> str:
        made = super().code(node)
        return (
            f'<div class="turns" data-after="{node.step}" data-turns="{node.turns}">{made}</div>'
            if node.turns > 1
            else made
        )

    def line_look(self, line: n.CodeLine) -> str:
        return f' data-turns="{" ".join(map(str, line.turns))}"' if line.turns else ""
