"""Numbers for headings and captioned things, and what each label points to. One pass over the tree."""

from __future__ import annotations

from collections import Counter

from msgspec import Struct
from msgspec.structs import replace

from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span
from wornpage.tree.walk import map_blocks


class Target(Struct, frozen=True):
    """What a label points to."""

    kind: str
    """`figure`, `table`, `listing`, `equation`, `section` or `appendix`."""
    number: str
    words: n.Inlines
    """The heading's or caption's words."""
    anchor: str
    span: Span
    place: tuple[int, ...] = ()
    """The number as numbers, so that neighbours can be told; empty for what has none."""


class Numbered(Struct, frozen=True):
    """A tree with its numbers, and what its labels lead to."""

    blocks: n.Blocks
    targets: dict[str, Target]
    contents: tuple[n.ContentsEntry, ...]
    problems: tuple[Problem, ...]


def number(blocks: n.Blocks, sections: bool) -> Numbered:
    """Number everything in page order; headings only if `sections`."""
    numbering = _Numbering(sections)
    return Numbered(
        map_blocks(blocks, numbering.visit),
        numbering.targets,
        tuple(numbering.contents),
        tuple(numbering.problems),
    )


class _Numbering:
    def __init__(self, sections: bool) -> None:
        self.sections = sections
        self.counts = Counter[str]()
        self.path: list[int] = []
        self.in_appendix = False
        self.above: list[int] = []
        """Levels, as written, of the headings that the next one may stand under."""
        self.targets: dict[str, Target] = {}
        self.contents: list[n.ContentsEntry] = []
        self.problems: list[Problem] = []

    def visit(self, block: n.Block) -> n.Block:
        match block:
            case n.AppendixBreak():
                self.in_appendix, self.path = True, []
            case n.Heading():
                return self._heading(block)
            case n.Container(attributes=attributes, title=title) if attributes.label:
                words = title or (n.Text(block.span, block.kind),)
                self._target(attributes.label, Target("section", "", words, attributes.label, block.span))
            case n.Figure(caption=caption) if caption or block.label:
                return self._captioned(block, "figure", caption)
            case n.TableBlock(caption=caption) if caption or block.label:
                return self._captioned(block, "table", caption)
            case n.CodeBlock(caption=caption) if caption:
                return self._captioned(block, "listing", caption)
            case n.MathBlock(label=label) if label:
                return self._captioned(block, "equation", ())
        return block

    def _heading(self, heading: n.Heading) -> n.Heading:
        level = self._depth(heading.level)
        number = ""
        if self.sections and heading.attributes.get("number") != "no":
            self.path = (self.path + [0] * level)[:level]
            self.path[-1] += 1
            number = self._section_number()
        self.contents.append(n.ContentsEntry(level, number, heading.label, heading.children))
        kind = "appendix" if self.in_appendix else "section"
        place = tuple(self.path) if number else ()
        self._target(heading.label, Target(kind, number, heading.children, heading.label, heading.span, place))
        return replace(heading, level=level, number=number, is_appendix=self.in_appendix and level == 1)

    def _depth(self, written: int) -> int:
        """How deep a heading is below those it stands under: readers' aids forbid a skipped level."""
        while self.above and self.above[-1] >= written:
            self.above.pop()
        self.above.append(written)
        return len(self.above)

    def _section_number(self) -> str:
        """`2.1`, or `B.1` in the appendix."""
        first, *rest = self.path
        return ".".join([letters(first) if self.in_appendix else str(first), *map(str, rest)])

    def _captioned(
        self, block: n.Figure | n.TableBlock | n.CodeBlock | n.MathBlock, kind: str, caption: n.Inlines
    ) -> n.Block:
        number = ""
        if caption or kind == "equation":
            self.counts[kind] += 1
            number = str(self.counts[kind])
        label = block.label or f"{kind}-{number}"
        place = (self.counts[kind],) if number else ()
        self._target(label, Target(kind, number, caption, label, block.span, place))
        if isinstance(block, n.Figure) and number and len(block.pictures) > 1:
            for part in range(len(block.pictures)):
                letter = letters(part + 1).lower()
                target = Target(kind, number + letter, caption, label, block.span, (*place, part + 1))
                self._target(f"{label}.{letter}", target)
        return replace(block, label=label, number=number)

    def _target(self, label: str, target: Target) -> None:
        earlier = self.targets.get(label)
        if earlier is None or earlier.kind in _HEADINGS:
            self.targets[label] = target
        elif target.kind not in _HEADINGS and earlier.span != target.span:
            what = f"the label {label!r} is already that of something in line {earlier.span.line}."
            self.problems.append(Problem(target.span, what, "Give one of them another label."))


_HEADINGS = {"section", "appendix"}


def letters(number: int) -> str:
    """`A` to `Z`, then `AA`, `AB` and so on, for numbers from 1."""
    said = ""
    while number:
        number, rest = divmod(number - 1, 26)
        said = chr(ord("A") + rest) + said
    return said
