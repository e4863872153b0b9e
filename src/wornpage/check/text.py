"""What the page's text tells: pointers, citations, images, headings, listings, and what is too wide for a sheet."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from itertools import pairwise

from wornpage.check.code import at
from wornpage.check.others import Others
from wornpage.compose.citing import find_citations
from wornpage.compose.mathematics import read_written
from wornpage.compose.pictures import picture
from wornpage.output.stationery import Stationery
from wornpage.session.languages import language_of
from wornpage.settings import Settings
from wornpage.source import Page, all_blocks, all_chunks, templates
from wornpage.source.grammar import CAPTION
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.walk import walk, words_of

_DRAWS = re.compile(
    r"\bplt\.(?:subplots|figure|plot|hist|scatter|bar|barh|imshow|boxplot|pie)\b|\.plot(?:\.\w+)?\(|\.hist\("
)
_WIDTH_OF_A_SIGN = 0.17
"""Centimetres: code is set in 8 points."""


# --- labels -----------------------------------------------------------------------------------


class Labels:
    """What can be pointed to, as far as that is known without running."""

    def __init__(self, page: Page) -> None:
        self.known: set[str] = set()
        self.repeated: set[str] = set()
        """Labels within files that are inserted for something: each stands for several."""
        self.is_open = False
        """Whether code makes labels that cannot be read off it."""
        for node in walk(page.blocks):
            self._take(node, self.known)
        for insert in templates(page.blocks):
            for node in walk(insert.template.blocks if insert.template else ()):
                self._take(node, self.repeated if insert.target or insert.arguments else self.known)
        self.is_open = self.is_open or any(
            isinstance(node, n.Insert) and node.template is None for node in walk(page.blocks)
        )

    def _take(self, node: n.Node, into: set[str]) -> None:
        label = getattr(node, "label", "")
        if isinstance(label, str) and label:
            into.add(label)
        if isinstance(node, n.Container | n.Image) and node.attributes.label:
            into.add(node.attributes.label)
        if isinstance(node, n.Chunk):
            self._of_code(node, into)

    def _of_code(self, chunk: n.Chunk, into: set[str]) -> None:
        """Labels that calls of `page` give."""
        language = language_of(chunk.language)
        labels, are_others = language.code.labels(chunk.code) if language else (frozenset(), False)
        into.update(labels)
        self.is_open = self.is_open or are_others

    def has(self, label: str, apart: str) -> bool:
        """Whether something has a label, or may have it once the page has run."""
        stems = {label, label.rpartition(".")[0], label.partition(".")[0]} - {""}
        if stems & self.known:
            return True
        return self.is_open or bool(self.repeated & (stems if "." in label or apart else {label} if apart else set()))


def pointers(page: Page, others: Others | None = None) -> Iterator[Problem]:
    """Pointers and links to what is not there, nor on other pages."""
    labels = Labels(page)
    inside = {
        id(node)
        for insert in templates(page.blocks)
        for node in walk(insert.template.blocks if insert.template else ())
    }
    for node in walk(all_blocks(page)):
        wanted: tuple[str, ...] = ()
        if isinstance(node, n.PointerMark):
            wanted = node.labels
        elif isinstance(node, n.Link) and node.to:
            wanted = (node.to,)
        for label in wanted:
            own = "here" if id(node) in inside else ""
            if not labels.has(label, own) and (others is None or not others.has(label)):
                known = labels.known | labels.repeated | (others.known() if others is not None else set())
                yield Problem(node.span, f"nothing is labelled {label!r}.", near_miss(label, known))


def labels_twice(page: Page) -> Iterator[Problem]:
    """Labels that two things have: pointers would not know where to lead."""
    first: dict[str, n.Node] = {}
    for node in walk(page.blocks):
        label = getattr(node, "label", "")
        if isinstance(node, n.Chunk | n.PipeTable | n.Listing | n.PictureBlock | n.RawMathBlock) and label:
            earlier = first.setdefault(label, node)
            if earlier is not node:
                what = f"the label {label!r} is already that of something in line {earlier.span.line}."
                yield Problem(node.span, what, "Give one of them another label.")


def citations(page: Page, settings: Settings, head: tuple[n.Node, ...]) -> list[Problem]:
    """Citations without an entry, and bibliographies that cannot be read."""
    return list(find_citations(page, settings, head, all_blocks(page)).problems)


# --- formulas ---------------------------------------------------------------------------------


def formulas(page: Page, settings: Settings, head: tuple[n.Node, ...]) -> Iterator[Problem]:
    """What is wrong with the page's formulas; what only may be is a warning."""
    for node in walk((*head, *all_blocks(page))):
        if isinstance(node, n.RawMath | n.RawMathBlock):
            yield from read_written(node, settings.page.macros)[1]


# --- pictures ---------------------------------------------------------------------------------


def images(page: Page) -> Iterator[Problem]:
    """Images that are not there, or are broken."""
    for node in walk(all_blocks(page)):
        if isinstance(node, n.Image):
            _, problem = picture(node, page.path.parent)
            if problem is not None:
                yield problem


def without_words(page: Page, settings: Settings) -> Iterator[Problem]:
    """Images and figures that say nothing to those who cannot see them."""
    hint = 'Write a caption, or say in a sentence what is to be seen: `alt="…"`.'
    captioned = {
        id(image)
        for node in walk(all_blocks(page))
        if isinstance(node, n.PictureBlock) and node.caption
        for image in node.images
    }
    for node in walk(all_blocks(page)):
        if isinstance(node, n.Image) and not words_of(node.alt).strip() and id(node) not in captioned:
            yield Problem(
                node.span,
                "this image has no alternative text.",
                "Write it between the brackets: `![what is to be seen](…)`.",
            )
    for chunk in all_chunks(page):
        options = settings.of(chunk).options
        if (
            options.show in {"all", "output"}
            and not options.alt
            and not chunk.captions
            and _DRAWS.search(_without_comments(chunk.code))
        ):
            yield Problem(chunk.span, f"the figure of `{chunk.label}` has neither caption nor alternative text.", hint)


def _without_comments(code: str) -> str:
    return re.sub(r"#.*", "", code)


def figure_sizes(page: Page, settings: Settings, looks: Stationery) -> Iterator[Problem]:
    """Figures that are wider than the text between the margins."""
    for chunk in all_chunks(page):
        options = settings.of(chunk).options
        width = (options.width or 0) * options.scale
        if width > looks.text_width + 0.05:
            what = f"the figure of `{chunk.label}` is {width:g} cm wide, and the text {looks.text_width:g} cm."
            yield Problem(chunk.span, what, "It will be made smaller, and its words with it.")


# --- headings, listings, long lines -----------------------------------------------------------


def headings(page: Page) -> Iterator[Problem]:
    """Headings that say the same under one heading."""
    above: list[str] = []
    seen: dict[tuple[str, ...], n.Heading] = {}
    for node in walk(page.blocks):
        if isinstance(node, n.Heading):
            above = [*(above + [""] * 6)[: node.level - 1], words_of(node.children).strip().casefold()]
            earlier = seen.setdefault(tuple(above), node)
            if (
                earlier is not node
                and above[-1]
                and not any(isinstance(inner, n.ValueMark) for inner in walk(node.children))
            ):
                yield Problem(node.span, f"this heading says what that in line {earlier.span.line} says.")


_LIKE_A_CAPTION = re.compile(
    r"(?P<word>caption|figure|fig\.|fig|table|listing|label)(?!\w)[ \u00a0]*(?:\(\w+\)|\d+)?[ \u00a0]*:", re.IGNORECASE
)
_CAPTIONED = (n.Chunk, n.PipeTable, n.PictureBlock, n.Listing, n.RawMathBlock)


def captions(page: Page) -> Iterator[Problem]:
    """Paragraphs under what can have a caption that begin as captions do elsewhere."""
    sequences = [page.blocks, *filter(None, (getattr(node, "blocks", None) for node in walk(page.blocks)))]
    for above, block in (pair for blocks in sequences for pair in pairwise(blocks)):
        if not isinstance(above, _CAPTIONED) or not isinstance(block, n.Paragraph) or not block.children:
            continue
        first = block.children[0]
        match = _LIKE_A_CAPTION.match(first.text) if isinstance(first, n.Text) else None
        if match and not CAPTION.match(match.string):  # which begins a paragraph only where a backslash says so
            word, more = "Caption", "; figures and tables are numbered by themselves"
            if match["word"].lower() == "label":
                word, more = "Label", ""
            what = f"`{match[0]}` begins no {word.lower()} here, but a paragraph."
            yield Problem(block.span, what, f"Write `{word}: …`{more}.")


def listings(page: Page) -> Iterator[Problem]:
    """Listings that have a chunk's header without the word `run`, or write names that chunks use."""
    lines = page.text.split("\n")
    used: set[str] = set()
    written: set[str] = set()
    for chunk in all_chunks(page):
        used |= _names(chunk.code, ast.Load)
        written |= _names(chunk.code, ast.Store)
    for node in walk(page.blocks):
        if not isinstance(node, n.Listing) or node.language != "python" or node.span.file != page.name:
            continue
        header = lines[node.span.line - 1].partition("python")[2]
        wanted = sorted((_names(node.code, ast.Store) & used) - written)
        if re.search(r"(?:^|\s)(?:#[\w-]+|[a-z-]+=\S+)", header):
            yield Problem(
                node.span,
                "this listing has a chunk's header and does not run.",
                "Write ```` ```python run ````, or take the header away.",
            )
        elif wanted:
            yield Problem(
                node.span,
                f"this listing does not run, and chunks use {wanted[0]!r}, which only it defines.",
                "Write ```` ```python run ````.",
            )


def _names(code: str, context: type[object]) -> set[str]:
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return set()
    names = {node.id for node in ast.walk(tree) if isinstance(node, ast.Name) and isinstance(node.ctx, context)}
    if context is ast.Store:
        names |= {node.name for node in tree.body if isinstance(node, ast.FunctionDef | ast.ClassDef)}
    return names


def long_lines(page: Page, settings: Settings, looks: Stationery) -> Iterator[Problem]:
    """Lines of shown code that are broken on a sheet."""
    most = int(looks.column_width / _WIDTH_OF_A_SIGN) - 2
    for chunk in all_chunks(page):
        if settings.of(chunk).options.show in {"all", "source"}:
            for number, line in enumerate(chunk.code.splitlines(), 1):
                shown = re.sub(r"\s*#~.*", "", line)
                if len(shown) > most:
                    yield Problem(
                        at(chunk, number, most + 1),
                        f"this line has {len(shown)} letters; a sheet breaks it after {most}.",
                    )
