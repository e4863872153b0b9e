"""Numbers for headings and captioned things, and what each label points to. One pass over each page."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from wornpage.compose.answering import Draft
from wornpage.compose.chapters import TOP, Chapter
from wornpage.tree import nodes as n
from wornpage.tree.counting import letters
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span
from wornpage.tree.walk import map_blocks, walk


class Target(Struct, frozen=True):
    """What a label points to."""

    kind: str
    """`figure`, `table`, `listing`, `equation`, `section`, `appendix` or `chapter`."""
    number: str
    words: n.Inlines
    """The heading's or caption's words."""
    anchor: str
    span: Span
    place: tuple[int, ...] = ()
    """The number as numbers, so that neighbours can be told; empty for what has none."""
    page: str = ""
    """The name of the page that it stands on."""
    is_part: bool = False
    """Whether it is a lettered part of a figure."""
    rivals: tuple[str, ...] = ()
    """Where no page but others has the label: all those that have it, if they are several."""


class Numbered(Struct, frozen=True):
    """One page with its numbers, and what its labels lead to."""

    blocks: n.Blocks
    targets: dict[str, Target]
    contents: tuple[n.ContentsEntry, ...]
    problems: tuple[Problem, ...]


def number(drafts: Sequence[Draft]) -> list[Numbered]:
    """Number everything in the order of the pages, right through them or by chapters; headings only where a page wishes it."""
    counting = _Counting()
    return [_Numbering(draft, counting).numbered() for draft in drafts]


class _Counting:
    """How far the numbers have come, over all pages."""

    def __init__(self) -> None:
        self.counts = Counter[str]()
        self.path: list[int] = []
        self.in_appendix = False
        self.outside = Counter[str]()
        """On pages of a volume that have no number, where others count by chapters."""

    def begin(self, chapter: Chapter | None) -> None:
        """A page of a volume begins: its sections count anew, and so may all else."""
        if chapter is None:
            return
        self.path, self.in_appendix = [], False
        if chapter.by_chapter:
            self.counts = Counter() if chapter.number else self.outside


class _Numbering:
    """The numbers of one page, which go on from those before."""

    def __init__(self, draft: Draft, counting: _Counting) -> None:
        self.draft, self.counting, self.chapter = draft, counting, draft.chapter
        counting.begin(draft.chapter)
        self.above: list[int] = []
        """Levels, as written, of the headings that the next one may stand under."""
        self.targets: dict[str, Target] = {}
        self.contents: list[n.ContentsEntry] = []
        self.problems: list[Problem] = []
        self.shown_by_chunks: set[str] = set()
        """Labels of what chunks show: their own, and no sign that it is to be numbered."""
        self.headings = {node.label for node in walk(draft.blocks) if isinstance(node, n.Heading)}
        self.claimed = {node.label for node in walk(draft.blocks) if isinstance(node, _CAPTIONED)}
        """Labels of figures and the like: a heading whose label was made from its words gives way to them."""

    def numbered(self) -> Numbered:
        blocks = map_blocks(self.draft.blocks, self.visit)
        if self.chapter is not None:
            self._own_place(self.chapter)
        return Numbered(blocks, self.targets, tuple(self.contents), tuple(self.problems))

    def visit(self, block: n.Block) -> n.Block:
        match block:
            case n.AppendixBreak():
                self.counting.in_appendix, self.counting.path = True, []
            case n.Heading():
                return self._heading(block)
            case n.ChunkView(blocks=blocks):
                self.shown_by_chunks.update(one.label for one in blocks if isinstance(one, n.Figure | n.TableBlock))
            case n.Container(attributes=attributes, title=title) if attributes.label:
                words = title or (n.Text(block.span, block.kind),)
                self._target(attributes.label, Target("section", "", words, attributes.label, block.span))
            case n.Figure(caption=caption) if caption or block.label:
                return self._captioned(block, "figure", caption)
            case n.TableBlock(caption=caption) if caption or block.label:
                return self._captioned(block, "table", caption)
            case n.CodeBlock(caption=caption, label=label) if caption or label:
                return self._captioned(block, "listing", caption)
            case n.MathBlock(label=label) if label:
                return self._captioned(block, "equation", ())
        return block

    def _free(self, label: str) -> str:
        """A label of our own making that nothing of the page has."""
        while label in self.targets or label in self.headings or label in self.claimed:
            label += ".b"
        return label

    def _heading(self, heading: n.Heading) -> n.Heading:
        gives_way = heading.label in self.claimed and not heading.attributes.label
        if (
            gives_way or heading.label in self.targets
        ):  # the latter: one that was made here, such as that of the references
            heading = replace(heading, label=self._free(heading.label))
        level = self._depth(heading.level)
        number = ""
        is_counted = self.chapter is None or self.chapter.number
        if is_counted and self.draft.settings.page.section_numbers and heading.attributes.get("number") != "no":
            self.counting.path = (self.counting.path + [0] * level)[:level]
            self.counting.path[-1] += 1
            number = self._section_number()
        self.contents.append(n.ContentsEntry(level, number, heading.label, heading.children))
        kind = "appendix" if self.counting.in_appendix and self.chapter is None else "section"
        place = self._place(*self.counting.path) if number else ()
        self._target(heading.label, Target(kind, number, heading.children, heading.label, heading.span, place))
        word = self.draft.language.appendix[0] if kind == "appendix" and level == 1 and number else ""
        return replace(heading, level=level, number=number, word=word)

    def _depth(self, written: int) -> int:
        """How deep a heading is below those it stands under: readers' aids forbid a skipped level."""
        while self.above and self.above[-1] >= written:
            self.above.pop()
        self.above.append(written)
        return len(self.above)

    def _section_number(self) -> str:
        """`2.1`, or `B.1` in the appendix."""
        first, *rest = self.counting.path
        own = [letters(first).upper() if self.counting.in_appendix else str(first), *map(str, rest)]
        return ".".join([self.chapter.number, *own] if self.chapter is not None else own)

    def _place(self, *numbers: int) -> tuple[int, ...]:
        """A number as numbers, that of the chapter before it where it counts by chapters."""
        return (self.chapter.order, *numbers) if self.chapter is not None else numbers

    def _own_place(self, chapter: Chapter) -> None:
        """What leads to the page as a whole."""
        kind = "appendix" if chapter.is_appendix else "chapter"
        words, span = self.draft.head.title, Span(self.draft.page.name, 1)
        place = (chapter.order,) if chapter.number else ()
        for label in dict.fromkeys((chapter.key, self.draft.head.label)):
            if label and label not in self.targets:
                self._target(label, Target(kind, chapter.number, words, TOP, span, place))

    def _captioned(
        self, block: n.Figure | n.TableBlock | n.CodeBlock | n.MathBlock, kind: str, caption: n.Inlines
    ) -> n.Block:
        number = ""
        if caption or kind in {"equation", "listing"} or (block.label and block.label not in self.shown_by_chunks):
            self.counting.counts[kind] += 1
            number = str(self.counting.counts[kind])
            if self.chapter is not None and self.chapter.by_chapter and self.chapter.number:
                number = f"{self.chapter.number}.{number}"
        label = block.label or self._free(f"{kind}-{number}")
        place = self._place(self.counting.counts[kind]) if number else ()
        self._target(label, Target(kind, number, caption, label, block.span, place))
        if isinstance(block, n.MathBlock):
            return replace(block, label=label, number=number)
        if isinstance(block, n.Figure) and number and len(block.pictures) > 1:
            block = replace(
                block, pictures=self._parts(block, label, Target(kind, number, caption, label, block.span, place))
            )
        return replace(block, label=label, number=number, word=getattr(self.draft.language, kind)[0])

    def _parts(self, figure: n.Figure, label: str, whole: Target) -> tuple[n.Picture, ...]:
        """The pictures of a figure, each with the letter that it goes by; a label of its own leads to each."""
        parts = []
        for place, picture in enumerate(figure.pictures, 1):
            letter = letters(place)
            self._target(
                f"{label}.{letter}",
                replace(whole, number=whole.number + letter, place=(*whole.place, place), is_part=True),
            )
            parts.append(replace(picture, letter=letter))
        return tuple(parts)

    def _target(self, label: str, target: Target) -> None:
        target = replace(target, page=self.draft.key)
        earlier = self.targets.get(label)
        if earlier is None or earlier.kind in _HEADINGS:
            self.targets[label] = target
        elif target.kind not in _HEADINGS and earlier.span != target.span:
            what = f"the label {label!r} is already that of something in line {earlier.span.line}."
            self.problems.append(Problem(target.span, what, "Give one of them another label."))


_HEADINGS = {"section", "appendix"}
_CAPTIONED = (n.Figure, n.TableBlock, n.CodeBlock, n.MathBlock)
