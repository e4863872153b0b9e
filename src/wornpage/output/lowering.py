"""Rich nodes as simpler ones, so that a new output begins with a dozen of them and takes over more as it learns to.

Nothing is lost but looks: every word stays, in its order, and links lead where they led.
"""

from __future__ import annotations

from typing import cast

from wornpage.tree import nodes as n
from wornpage.tree.walk import rewrite

SimpleInline = (
    n.Text | n.Emphasis | n.Strong | n.Code | n.Raised | n.Link | n.HardBreak | n.Math | n.InlinePicture | n.Footnote
)
SimpleBlock = (
    n.Heading | n.Paragraph | n.Quote | n.List | n.CodeBlock | n.OutputText | n.Figure | n.TableBlock | n.MathBlock | n.SheetBreak
)  # fmt: skip


def lower(blocks: n.Blocks) -> tuple[SimpleBlock, ...]:
    """Blocks of a composed page, made of `SimpleBlock` and `SimpleInline` alone; so is all that stands in them."""
    return cast(tuple[SimpleBlock, ...], rewrite(blocks, _lowered))


def lower_words(inlines: n.Inlines) -> tuple[SimpleInline, ...]:
    """The same for running text."""
    return cast(tuple[SimpleInline, ...], rewrite(inlines, _lowered))


def _lowered(node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
    """What stands in a node's place, lowered itself; None for one that is simple."""
    match node:
        case n.Answered(children=children) | n.Citation(children=children):
            return lower_words(children)
        case n.Strike(children=children) | n.SmallCaps(children=children):
            return lower_words(children)
        case n.Superscript(text=text):
            return n.Raised(node.span, (n.Text(node.span, text),))
        case n.SoftBreak():
            return n.Text(node.span, " ")
        case n.RawHtmlInline() | n.RawHtmlBlock() | n.AppendixBreak() | n.SlideBreak():
            return ()
        case n.Definitions(entries=entries):
            return tuple(block for entry in entries for block in _definition(entry))
        case n.Container():
            return _container(node)
        case n.ChunkView(blocks=blocks):
            return lower(blocks)
        case n.RichHtml(text=text):
            return n.OutputText(node.span, text, "output")
        case n.AboutHere(words=words):
            return n.Paragraph(node.span, (n.Emphasis(node.span, (n.Text(node.span, words),)),))
        case n.Rule():
            return n.Paragraph(node.span, (n.Text(node.span, "* * *"),))
        case n.ContentsList(entries=entries):
            return _listed(node, [_entry(node, entry) for entry in entries])
        case n.ReferenceList(entries=references):
            return tuple(n.Paragraph(node.span, _reference(node, one)) for one in references)
    return None


def _definition(entry: n.Definition) -> n.Blocks:
    term = n.Paragraph(entry.span, (n.Strong(entry.span, lower_words(entry.term)),))
    return (term, *(n.Quote(entry.span, lower(meaning)) for meaning in entry.meanings))


def _container(node: n.Container) -> n.Blocks:
    """What is for some outputs alone, or for a speaker, is theirs; columns stand below each other; a box is set off as a quotation is."""
    inside = lower(node.blocks)
    if node.chosen or node.kind == "speaker":
        return ()
    if node.kind in {"side-by-side", "column", "step", "steps"}:
        return inside
    title = (n.Paragraph(node.span, (n.Strong(node.span, lower_words(node.title)),)),) if node.title else ()
    return (n.Quote(node.span, (*title, *inside)),)


def _listed(node: n.ContentsList, lines: list[n.Inlines]) -> n.Blocks:
    items = tuple(n.Item(node.span, (n.Paragraph(node.span, line),)) for line in lines)
    return (n.List(node.span, items, ordered=False),) if items else ()


def _entry(node: n.ContentsList, entry: n.ContentsEntry) -> n.Inlines:
    number = (n.Text(node.span, f"{entry.number} "),) if entry.number else ()
    return (n.Link(node.span, "", "", (*number, *lower_words(entry.children)), entry.label),)


def _reference(node: n.ReferenceList, entry: n.Reference) -> n.Inlines:
    label = (*lower_words(entry.label), n.Text(node.span, " ")) if entry.label else ()
    return (*label, *lower_words(entry.words))
