"""A composed page as a source in reStructuredText, to be gone on with by hand."""

from __future__ import annotations

from pathlib import Path
from typing import assert_never

from wornpage.output.audience import for_output
from wornpage.output.bounds import bounded
from wornpage.output.kind import Job, Written
from wornpage.output.left_out import left_out
from wornpage.output.lowering import lower
from wornpage.output.outputs import options_in
from wornpage.output.picture_files import PictureFiles
from wornpage.output.pointing import goals_of
from wornpage.output.rst import letters
from wornpage.output.rst.grid import grid
from wornpage.output.rst.running import BREAK, Running, indented, option
from wornpage.tree import nodes as n
from wornpage.tree.files import as_utf8
from wornpage.tree.problem import Problem
from wornpage.tree.walk import walk, words_of

_ADORNMENTS = "=-~^\"'"
"""Under headings, by their level."""
_STEP = 3
"""Columns that what belongs to a directive stands further in."""


def write_rst(page: n.Composed, job: Job) -> Written:
    """The source and what lies beside it."""
    page, cut = bounded(for_output(page, "rst"), "source")
    writer = RstWriter(page, job)
    if page.host:
        from wornpage.output.rst.hosted import filled_source

        text = filled_source(page, job, writer)
    else:
        text = writer.source(options_in(job.settings, "rst").contents)
    return Written(as_utf8(text), (*cut, *writer.problems), dict(writer.pictures.files))


def _as_file(picture: n.Picture) -> tuple[bytes, str]:
    return picture.data, "jpg" if picture.format == "jpeg" else picture.format


class RstWriter:
    """Writes blocks; one method a node."""

    def __init__(self, page: n.Composed, job: Job) -> None:
        self.page, self.is_hosted = page, bool(page.host)
        self.problems: list[Problem] = []
        self.pictures = PictureFiles(f"{job.stem or Path(job.name).stem}-files", _as_file)
        marked = {node.anchor for node in walk(page.blocks) if isinstance(node, n.Citation)}
        goals = frozenset(goals_of(page.blocks).keys() - marked)
        self.running = Running(goals, self.pictures, self.blocks, self._left_out)
        self.chunk = ""
        """The label of the chunk whose results are written now."""

    # --- the whole ----------------------------------------------------------------------------

    def source(self, has_contents: bool) -> str:
        """The whole source."""
        head, line = self.page.head, self.running.line
        title = line(head.title) or letters.text(self.page.plain_title)
        rule = "=" * max(letters.width(title), 4)
        about = [f":Author: {_person(one)}" for one in head.authors]
        about += [f":Date: {letters.text(head.date)}"] if head.date else []
        about += [f":Keywords: {', '.join(map(line, head.keywords))}"] if head.keywords else []
        abstract = f".. topic:: {self.page.terms.abstract}\n\n" + indented(self.blocks(head.abstract), _STEP)
        parts = [
            f"{rule}\n{title}\n{rule}" if title else "",
            f"*{letters.text(words_of(head.subtitle).strip())}*" if head.subtitle else "",
            "\n".join(about),
            abstract if head.abstract else "",
            ".. contents::" if has_contents and self.page.contents else "",
            self.blocks(self.page.blocks),
            self.at_end(),
        ]
        return "\n\n".join(filter(None, parts)) + "\n"

    def at_end(self) -> str:
        """Notes, and what running text names."""
        return "\n\n".join(self.running.at_end.values())

    def _left_out(self, tag: n.RawHtmlInline) -> None:
        problem = left_out(tag.span, tag.html, "source")
        if problem is not None and problem not in self.problems:
            self.problems.append(problem)

    # --- blocks -------------------------------------------------------------------------------

    def blocks(self, blocks: n.Blocks) -> str:
        """Blocks with an empty line between them, and what keeps apart those that would run into each other."""
        made: list[str] = []
        before: n.Block | None = None
        for block in blocks:
            text = self.block(block)
            if not text:
                continue
            if (text.startswith(" ") and not isinstance(before, n.Paragraph)) or (
                isinstance(block, n.List | n.Definitions) and isinstance(before, n.List | n.Definitions)
            ):
                made.append("..")
            made.append(text)
            before = block
        return "\n\n".join(made)

    def block(self, node: n.Block) -> str:
        """One block."""
        match n.composed_block(node):
            case n.Heading() as it:
                return self.heading(it)
            case n.PartTitle() as it:
                number = f"{it.word} {it.number} ".lstrip() if it.number else ""
                return self.titled(number + self.running.line(it.children), 0, it.label)
            case n.Paragraph(children=children):
                return _paragraph(self.running.words(children))
            case n.Quote(blocks=blocks):
                return indented(self.blocks(blocks), _STEP)
            case n.List() as it:
                return self.item_list(it)
            case n.Definitions(entries=entries):
                return "\n".join(map(self.definition, entries))
            case n.Container() as it:
                return self.container(it)
            case n.ChunkView(label=label, blocks=blocks):
                self.chunk = label
                return self.blocks(blocks)
            case n.CodeBlock() as it:
                return self.code(it)
            case n.OutputText(text=text, role=role, cut=cut):
                return _directive("code-block", "text", {"class": role}, letters.lines(f"{text}\n{cut}".rstrip("\n")))
            case n.Figure() as it:
                return self.figure(it)
            case n.TableBlock() as it:
                return self.table(it)
            case n.MathBlock() as it:
                return self.math(it)
            case n.RawHtmlBlock(html=html):
                return "" if html.startswith("<!--") else _directive("raw", "html", {}, letters.lines(html))
            case n.ReferenceList(entries=entries):
                return "\n\n".join(map(self.reference, entries))
            case n.ContentsList(kind="contents"):
                return ".. contents::"
            case n.IndexList(entries=entries):
                return "\n\n".join(letters.at_beginning(line) for entry in entries for line in _index_lines(entry, ""))
            case n.SheetBreak() | n.AppendixBreak() | n.SlideBreak():
                return ""
            case n.ContentsList() | n.AboutHere() | n.Rule() | n.RichHtml() as richer:
                return self.blocks(lower((richer,)))
            case never:
                assert_never(never)

    def heading(self, node: n.Heading) -> str:
        number = f"{node.word} {node.number} ".lstrip() if node.number else ""
        return self.titled(number + self.running.line(node.children), node.level, node.label)

    def titled(self, title: str, level: int, label: str) -> str:
        """A heading; in somebody's own source, whose levels are not known, one that stands outside of them."""
        title = letters.at_beginning(title)
        if self.is_hosted:
            return target(label) + f".. rubric:: {title}"
        sign = _ADORNMENTS[min(max(level - 1, 0), len(_ADORNMENTS) - 1)]
        return target(label) + f"{title}\n{sign * max(letters.width(title), 4)}"

    def item_list(self, node: n.List) -> str:
        items = []
        for at, item in enumerate(node.items):
            sign = f"{node.start + at}." if node.ordered else "-"
            body = self.blocks(item.blocks)
            box = "" if item.done is None else "☑ " if item.done else "☐ "
            body = f"..\n\n{body}" if body.startswith(" ") else box + body
            items.append(f"{sign} {indented(body, len(sign) + 1).lstrip()}".rstrip())
        return ("\n" if node.tight and not any("\n\n" in item for item in items) else "\n\n").join(items)

    def definition(self, node: n.Definition) -> str:
        term = self.running.line(node.term).replace(" : ", r" \: ") or r"\ "
        return f"{term}\n" + indented("\n\n".join(map(self.blocks, node.meanings)), _STEP) + "\n"

    def container(self, node: n.Container) -> str:
        """A box with its title; what is for some outputs alone, or stands side by side, as it is."""
        inner, label = self.blocks(node.blocks), node.attributes.label
        if node.kind == "speaker":
            return ""
        if node.chosen or node.kind in {"side-by-side", "column", "step", "steps"}:
            return target(label) + inner
        title = self.running.line(node.title)
        name = f"admonition:: {title}" if title else f"container:: {node.kind.split()[0] if node.kind else 'box'}"
        return target(label) + f".. {name}\n\n{indented(inner, _STEP)}" if inner else ""

    # --- code, formulas, figures, tables --------------------------------------------------------

    def code(self, node: n.CodeBlock) -> str:
        lines = letters.lines("\n".join("".join(token.text for token in line.tokens) for line in node.lines))
        options = {"number-lines": str(node.first_number)} if node.numbered else {"class": "source"}
        made = _directive("code-block", _language(node.language), options, lines)
        asides = [f"{at}. {self.running.line(words)}" for at, words in enumerate(node.asides, 1)]
        caption = self.caption(node.word, node.number, node.caption)
        parts = [_paragraph(caption), made, "\n".join(asides)]
        return target(node.label) + "\n\n".join(filter(None, parts))

    def math(self, node: n.MathBlock) -> str:
        if not node.latex.strip():
            return target(node.label) + _paragraph(letters.at_beginning(letters.text(node.alt)))
        lines = [line for line in letters.lines(node.latex.strip()) if line.strip()]
        if node.number and not any(r"\tag" in line for line in lines):
            lines.append(rf"\tag{{{node.number}}}")
        return target(node.label) + _directive("math", "", {"class": "display"}, lines)

    def caption(self, word: str, number: str, words: n.Inlines) -> str:
        """What stands by a figure or a table, with its number."""
        if not number:
            return self.running.line(words)
        said = self.running.words(words, at_beginning=False).replace("\n", " ").replace(BREAK, " ")
        return f"**{letters.text(f'{word} {number}'.strip())}.** {said}".strip()

    def figure(self, node: n.Figure) -> str:
        caption = self.caption(node.word, node.number, node.caption)
        name = node.label or self.chunk or "figure"
        if len(node.pictures) == 1:
            made = self.picture(node.pictures[0], "figure" if caption else "image", name, node.align)
            return target(node.label) + made + (f"\n\n{indented(caption, _STEP)}" if caption else "")
        parts = []
        for picture in node.pictures:
            place = target(f"{node.label}.{picture.letter}") if node.label and picture.letter else ""
            parts.append(place + self.picture(picture, "image", f"{name}-{picture.letter}".rstrip("-"), node.align))
            parts += [f"\\ ({picture.letter})"] if picture.letter else []
        return target(node.label) + "\n\n".join([*parts, *([_paragraph(caption)] if caption else [])])

    def picture(self, picture: n.Picture, kind: str, name: str, align: str) -> str:
        width = f"{picture.width:.4g}cm" if picture.width else "100%"
        options = {"alt": option(picture.alt), "width": width, "align": "center" if align == "centre" else align}
        return _directive(kind, self.pictures.file(picture, name), options, [])

    def table(self, node: n.TableBlock) -> str:
        table = node.table
        caption = self.caption(node.word, node.number, node.caption)
        below = [f"… {letters.text(table.note)}"] if table.note else []
        below += [
            self.running.line((*((n.Superscript(node.span, mark), n.Text(node.span, " ")) if mark else ()), *said))
            for mark, said in table.notes
        ]
        if not table.rows or not table.aligns:
            drawn = [" ".join(filter(None, (self.running.line(cell.text) for row in table.heads for cell in row)))]
            return target(node.label) + "\n\n".join(filter(None, [caption, *drawn, *below]))
        align = "center" if node.align == "centre" else node.align
        made = _directive("table", caption, {"align": align}, grid(table, self._cell))
        return target(node.label) + "\n\n".join([made, *below])

    def _cell(self, words: n.Inlines) -> list[str]:
        made = self.running.words(words).replace("\n", " ")
        if not made.strip():
            return []
        return [f"| {part.strip()}" for part in made.split(BREAK)] if BREAK in made else [made.strip()]

    def reference(self, entry: n.Reference) -> str:
        label = self.running.line(entry.label)
        said = self.running.words(entry.words, at_beginning=not label)
        return target(entry.anchor) + _paragraph(f"{label} {said}" if label else said)


def _directive(name: str, argument: str, options: dict[str, str], lines: list[str]) -> str:
    """A directive; an option stands before text that may begin further in, which keeps its depth so."""
    made = [f".. {name}:: {argument}".rstrip()]
    made += [f"   :{key}: {value}".rstrip() for key, value in options.items() if value]
    if any(line.strip() for line in lines):
        made += ["", *(indented(line, _STEP) for line in lines)]
    return "\n".join(made).rstrip()


def target(label: str) -> str:
    """What makes a place that can be pointed at."""
    return f".. _{label}:\n\n" if label else ""


def _paragraph(words: str) -> str:
    if BREAK not in words:
        return words.strip()
    return "\n".join("| " + part.strip().replace("\n", "\n  ") for part in words.split(BREAK))


def _language(name: str) -> str:
    """The name of a language that code can be coloured in; other code is text."""
    from pygments.lexers import find_lexer_class_by_name
    from pygments.util import ClassNotFound

    try:
        find_lexer_class_by_name(name)
    except ClassNotFound:
        return "text"
    return name


def _person(person: n.Person) -> str:
    said = letters.text(person.name)
    places = ", ".join(letters.text(place) for place in person.affiliations)
    return said + (f" ({places})" if places else "") + (f" {letters.text(person.email)}" if person.email else "")


def _index_lines(entry: n.IndexEntry, before: str) -> list[str]:
    places = [place.said for place in entry.places if place.said]
    led = [*entry.see, *entry.also]
    words = letters.text(", ".join([before + entry.words, *places, *led]))
    return [words, *(line for one in entry.narrower for line in _index_lines(one, f"{entry.words}: "))]
