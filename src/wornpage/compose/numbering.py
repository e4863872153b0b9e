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
    """`figure`, `table`, `listing`, `equation` or `section`."""
    number: str
    words: n.Inlines
    """The heading's or caption's words."""
    anchor: str
    span: Span


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
        self.last_level = 0
        self.targets: dict[str, Target] = {}
        self.contents: list[n.ContentsEntry] = []
        self.problems: list[Problem] = []

    def visit(self, block: n.Block) -> n.Block:
        match block:
            case n.Heading():
                return self._heading(block)
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
        level = min(heading.level, self.last_level + 1)  # readers' aids forbid a skipped level
        self.last_level = level
        number = ""
        if self.sections and heading.attributes.get("number") != "no":
            self.path = (self.path + [0] * level)[:level]
            self.path[-1] += 1
            number = ".".join(map(str, self.path))
        self.contents.append(n.ContentsEntry(level, number, heading.label, heading.children))
        self._target(heading.label, Target("section", number, heading.children, heading.label, heading.span))
        return replace(heading, level=level, number=number)

    def _captioned(
        self, block: n.Figure | n.TableBlock | n.CodeBlock | n.MathBlock, kind: str, caption: n.Inlines
    ) -> n.Block:
        number = ""
        if caption or kind == "equation":
            self.counts[kind] += 1
            number = str(self.counts[kind])
        label = block.label or f"{kind}-{number}"
        self._target(label, Target(kind, number, caption, label, block.span))
        return replace(block, label=label, number=number)

    def _target(self, label: str, target: Target) -> None:
        earlier = self.targets.get(label)
        if earlier is None or earlier.kind == "section":
            self.targets[label] = target
        elif earlier.kind != "section" and target.kind != "section" and earlier.span != target.span:
            what = f"the label {label!r} is already that of something in line {earlier.span.line}."
            self.problems.append(Problem(target.span, what, "Give one of them another label."))
