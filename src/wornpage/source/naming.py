"""Names for what the author left unnamed, and complaints about names given twice."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter

from msgspec.structs import replace

from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span
from wornpage.tree.walk import map_blocks, walk, words_of


def slug(text: str) -> str:
    """`text` as a label: small letters, digits and `-`; letters of every script are kept."""
    folded = unicodedata.normalize("NFKC", text).lower()
    return re.sub(r"[^\w]+", "-", folded).replace("_", "-").strip("-")


def fresh_label(words: str, taken: set[str]) -> str:
    """A label made of `words` that is not among those `taken`."""
    return _untaken(slug(words) or "section", taken)


def _untaken(base: str, taken: set[str]) -> str:
    label, number = base, 1
    while label in taken:
        number += 1
        label = f"{base}-{number}"
    return label


def name_chunks(blocks: n.Blocks, top: str = "top") -> tuple[n.Blocks, list[Problem]]:
    """Name each unlabelled chunk after its heading and place under it; report labels given twice."""
    section, count = top, Counter[str]()
    seen: dict[str, Span] = {}
    inserts: set[str] = set()
    problems: list[Problem] = []

    def visit(block: n.Block) -> n.Block:
        nonlocal section
        if isinstance(block, n.Heading):
            section = _ascii(block.attributes.label or slug(words_of(block.children))) or "section"
        if isinstance(block, n.Insert) and not block.label:
            label = _untaken(f"insert-{stem_of(block.file)}", inserts)
            inserts.add(label)
            return replace(block, label=label)
        if not isinstance(block, n.Chunk):
            return block
        count[section] += 1
        label = block.label
        if not label:
            label = f"{section}-{count[section]}"
            while label in seen:
                label += "-b"
        elif label in seen:
            what = f"the label {label!r} is already that of the chunk in line {seen[label].line}."
            problems.append(Problem(block.span, what, "Give one of them another label."))
        seen.setdefault(label, block.span)
        return replace(block, label=label)

    return map_blocks(blocks, visit), problems


def stem_of(file: str) -> str:
    """The name of a file without its folder and ending, as a label."""
    return _ascii(file.replace("\\", "/").rpartition("/")[2].partition(".")[0]) or "file"


def _ascii(text: str) -> str:
    folded = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()
    return re.sub(r"[^A-Za-z0-9]+", "-", folded).strip("-")


def name_headings(blocks: n.Blocks) -> tuple[n.Blocks, list[Problem]]:
    """Give each heading a place to link to: the author's label, or its words, told apart by a number.

    A label made from words gives way to those that someone wrote for headings; two that were written are a fault.
    """
    taken: set[str] = set()
    problems: list[Problem] = []
    others = {label: node.span for node in walk(blocks) if (label := _label_of(node))}
    written_for_headings = {node.attributes.label for node in walk(blocks) if isinstance(node, n.Heading)}

    def visit(block: n.Block) -> n.Block:
        if not isinstance(block, n.Heading):
            return block
        written = block.attributes.label
        if written and (written in taken or written in others):
            other = (
                f"that of something in line {others[written].line}" if written in others else "that of another heading"
            )
            what = f"the label {written!r} is already {other}."
            problems.append(Problem(block.span, what, "Give one of them another label."))
        label = written or _untaken(slug(words_of(block.children)) or "section", taken | written_for_headings)
        taken.add(label)
        return replace(block, label=label)

    return map_blocks(blocks, visit), problems


def _label_of(node: n.Node) -> str:
    """The label that an author gave to something that can be pointed at and is no heading; empty for none."""
    if isinstance(node, n.Chunk):
        return node.label if node.named and node.captions else ""
    return node.label if isinstance(node, n.PipeTable | n.Listing | n.PictureBlock | n.RawMathBlock) else ""


def told_apart(blocks: n.Blocks) -> tuple[n.Blocks, list[Problem]]:
    """Names made for chunks and headings of several files, each once; report labels that authors gave twice."""
    seen: dict[str, Span] = {}
    headings: set[str] = set()
    problems: list[Problem] = []

    def visit(block: n.Block) -> n.Block:
        if isinstance(block, n.Heading):
            label = _untaken(block.label, headings)
            headings.add(label)
            return replace(block, label=label) if label != block.label else block
        if not isinstance(block, n.Chunk | n.Insert):
            return block
        if block.label in seen and (isinstance(block, n.Insert) or not block.named):
            block = replace(block, label=_untaken(block.label, set(seen)))
        elif block.label in seen:
            what = f"the label {block.label!r} is already that of the chunk at {seen[block.label]}."
            problems.append(Problem(block.span, what, "Give one of them another label."))
        seen.setdefault(block.label, block.span)
        return block

    return map_blocks(blocks, visit), problems
