"""What a chunk shows, as blocks: its code, its outputs in order, captions joined to figures and tables."""

from __future__ import annotations

import re
from html import unescape
from typing import Protocol

from msgspec import Struct
from msgspec.structs import replace

from wornpage.compose.code import aside_inlines, show_code
from wornpage.compose.documentation import Documentation
from wornpage.compose.language import Language
from wornpage.compose.mathematics import formula_in, spoken
from wornpage.compose.pictures import natural_size
from wornpage.compose.tables import lay_out
from wornpage.compose.values import FormFault
from wornpage.session import results as r
from wornpage.session.failures import Places, page_traceback
from wornpage.settings.models import ChunkOptions
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.table import TableData, Told
from wornpage.tree.walk import words_of

Result = n.Figure | n.TableBlock


class Captioned(Struct, frozen=True):
    """One caption, already answered."""

    words: n.Inlines
    kind: str
    span: Span


class Teller(Protocol):
    """Whoever makes nodes of words that a chunk has written."""

    def words(self, inlines: n.Inlines) -> n.Inlines:
        """Words of the page's own, answered."""

    def inlines(self, told: Told, span: Span) -> n.Inlines:
        """Running text."""

    def blocks(self, told: Told, span: Span) -> n.Blocks:
        """Paragraphs and all else that a page may hold but chunks."""

    def label(self, wished: str, words: n.Inlines) -> str:
        """A label for a heading that no other has."""


def show_chunk(
    chunk: n.Chunk,
    result: r.ChunkResult,
    options: ChunkOptions,
    captions: tuple[Captioned, ...],
    language: Language,
    places: Places,
    teller: Teller,
    documentation: Documentation | None = None,
) -> tuple[n.ChunkView, list[Problem]]:
    """All that readers see of `chunk`; `captions` are those under it, in order."""
    shower = _Shower(chunk, options, captions, language, teller, documentation)
    blocks: list[n.Block] = []
    if options.show in {"all", "source"}:
        blocks.append(shower.code())
    if options.show in {"all", "output"}:
        blocks += shower.outputs(result.shown)
        if result.failure is not None:
            text = page_traceback(result.failure, places)
            blocks.append(n.OutputText(chunk.span, text, "error"))
    elif captions and options.show == "nothing":
        shower.complain(captions[0], "this caption belongs to a chunk that shows nothing.", Severity.WARNING)
    cells = tuple(
        n.SheetCell(one.place, one.type, one.value, one.form) for one in result.shown if isinstance(one, r.ShownCell)
    )
    filled = tuple(one.table for one in result.shown if isinstance(one, r.ShownTable) and one.table.cell)
    return n.ChunkView(chunk.span, chunk.label, tuple(blocks), options.output_goes, cells, filled), shower.problems


class _Shower:
    def __init__(
        self,
        chunk: n.Chunk,
        options: ChunkOptions,
        captions: tuple[Captioned, ...],
        language: Language,
        teller: Teller,
        documentation: Documentation | None,
    ) -> None:
        self.chunk, self.options, self.captions, self.language = chunk, options, captions, language
        self.teller, self.documentation = teller, documentation
        self.problems: list[Problem] = []
        self.taken = 0
        """How many captioned things go by the chunk's label so far."""

    def complain(self, caption: Captioned, what: str, severity: Severity = Severity.ERROR, hint: str = "") -> None:
        self.problems.append(Problem(caption.span, what, hint, severity))

    # --- code ---------------------------------------------------------------------------------

    def code(self) -> n.CodeBlock:
        """The chunk's code; with a caption if code is all it shows."""
        chunk, options = self.chunk, self.options
        code, turns = chunk.code, options.pick_out
        if options.fence:
            ticks = chunk.fence.split(chunk.language, 1)[0].strip() or "```"
            code = f"{chunk.fence}\n{code.rstrip()}\n{ticks}"
            turns = tuple(tuple(line + 1 for line in turn) for turn in turns)
        shown = show_code(code, chunk.language, turns, self.documentation)
        asides = tuple(self.teller.words(aside_inlines(words, chunk.span)) for words in shown.asides)
        caption = self.captions[0].words if options.show == "source" and self.captions else ()
        first = 0 if options.fence else 1
        return n.CodeBlock(
            chunk.span, chunk.language, shown.lines, chunk.label if caption else "", options.tuck, options.line_numbers,
            asides, caption, first_number=first, name=chunk.label,
        )  # fmt: skip

    # --- outputs ------------------------------------------------------------------------------

    def outputs(self, shown: tuple[r.Shown, ...]) -> list[n.Block]:
        """What the chunk showed, in order."""
        blocks = [block for item in shown for block in self.blocks(item)]
        return self.with_captions(_joined_texts(blocks))

    def blocks(self, item: r.Shown) -> n.Blocks:
        """One thing shown, as blocks."""
        span = self.chunk.span
        match item:
            case r.ShownProse(told=told):
                return self.teller.blocks(told, span)
            case r.ShownHeading(told=told, level=level, label=label):
                words = self.teller.inlines(told, span)
                return (n.Heading(span, level, words, label=self.teller.label(self.apart(label), words)),)
        block = self.block(item)
        return (block,) if block is not None else ()

    def block(self, item: r.Shown) -> n.Block | None:
        span = self.chunk.span
        match item:
            case r.Printed(role="notice") if not self.options.notices:
                return None
            case r.Printed(text=text, role=role, lines_cut=lines):
                return self.text(text, role, lines)
            case r.ShownText(text=text):
                return self.text(text, "output", 0)
            case r.ShownFigure(caption=caption, label=label):
                figure = n.Figure(span, (self.picture(item),), align=self.options.align)
                return self.own_caption(figure, caption, self.apart(label))
            case r.ShownTable(table=table):
                return self.own_caption(self.table(table), table.caption, self.apart(table.label))
            case r.ShownFormula(latex=latex, text=text):
                formula = formula_in(latex)
                if formula is None:
                    return self.text(text, "output", 0)
                return n.MathBlock(span, formula, spoken(formula), latex=latex)
            case r.ShownHtml(html=html, text=text):
                self.tell_of_fetched(html)
                return n.RichHtml(span, html, text)
        return None

    def tell_of_fetched(self, html: str) -> None:
        """A page fetches nothing: what needs scripts or looks from elsewhere is not whole in it."""
        found = _FETCHED.search(unescape(html))
        if found:
            what = f"what the chunk `{self.chunk.label}` shows needs {found[1][:120]}, which a page does not fetch: it may stay empty."
            hint = "Have the library put its scripts into what it shows, or show a picture of it."
            self.problems.append(Problem(self.chunk.span, what, hint, Severity.WARNING))

    def table(self, table: TableData) -> n.TableBlock:
        span, whole = self.chunk.span, table
        table = table.first(self.options.rows)
        try:
            laid = lay_out(table, self.options.decimals, self.language, span, lambda t: self.teller.inlines(t, span))
        except FormFault as fault:
            self.problems.append(Problem(span, f"a table of the chunk `{self.chunk.label}`: {fault}."))
            laid = n.TextTable((), (), ())
        if table.remark:
            what = f"a table of the chunk `{self.chunk.label}` {table.remark}."
            self.problems.append(Problem(span, what, "", Severity.WARNING))
        places = self.options.decimals
        columns = tuple(replace(one, decimals=places) if one.decimals is None else one for one in whole.columns)
        return n.TableBlock(span, laid, align=self.options.align, data=replace(whole, columns=columns))

    def apart(self, label: str) -> str:
        """A label that code has given, as it is called in this repetition."""
        return f"{label}.{self.chunk.apart}" if label and self.chunk.apart else label

    def own_caption(self, block: Result, caption: Told | None, label: str) -> Result:
        """`block` with the caption and the label that its code gave it."""
        if caption is None and not label:
            return block
        words = self.teller.inlines(caption, block.span) if caption else ()
        made = self.captioned(block, Captioned(words, "", block.span), label)
        assert isinstance(made, Result)
        return made

    def text(self, text: str, role: str, lines_cut: int) -> n.OutputText | None:
        """Printed text up to `max-lines`, with a notice of what was cut."""
        lines = text.rstrip("\n").split("\n")
        if not text.strip("\n"):
            return None
        limit = self.options.max_lines
        cut = max(0, len(lines) - limit) + lines_cut
        kept = [line if len(line) <= _LONGEST else line[:_LONGEST] + " …" for line in lines[:limit]]
        note = self.language.lines_cut.format(count=self.language.count(cut)) if cut else ""
        return n.OutputText(self.chunk.span, "\n".join(kept), role, note)

    def picture(self, item: r.ShownFigure) -> n.Picture:
        scale, width, height = self.options.scale, item.width, item.height
        if item.remark:
            what = f"a figure of the chunk `{self.chunk.label}` {item.remark}."
            self.problems.append(Problem(self.chunk.span, what, item.advice, Severity.WARNING))
        if not width:  # a value that drew itself: its own size, or the one asked for
            width, height = natural_size(item.format, item.data)
            if self.options.width:
                width, height = self.options.width, (height / width if width else 0) * self.options.width
        elif item.live is not None and self.options.width:
            width, height = self.options.width, self.options.height or height / width * self.options.width
        alt = self.options.alt or item.alt
        return n.Picture(
            item.format, item.data, width * scale, height * scale, alt, "", item.live, item.look, item.undrawn
        )

    # --- captions -----------------------------------------------------------------------------

    def with_captions(self, blocks: list[n.Block]) -> list[n.Block]:
        """Captions join figures and tables: one for all figures, or one each in order."""
        captions = self.captions if self.options.show != "source" else ()
        results = [block for block in blocks if isinstance(block, Result) and not block.label]
        if not captions:
            return [self.described(block) for block in blocks]
        if not results:
            self.complain(captions[0], f"the chunk `{self.chunk.label}` shows no figure and no table for this caption.")
            return blocks
        figures = [block for block in results if isinstance(block, n.Figure)]
        tables = [block for block in results if isinstance(block, n.TableBlock)]
        if len(captions) == 1 and not captions[0].kind and figures and tables:
            hint = "Give each its own `Caption:` line, or write `Caption (table):` or `Caption (figure):`."
            self.complain(
                captions[0], "this chunk shows a figure and a table, and this caption could be for either.", hint=hint
            )
            return blocks
        return self.matched(blocks, captions, figures, tables)

    def matched(
        self,
        blocks: list[n.Block],
        captions: tuple[Captioned, ...],
        figures: list[n.Figure],
        tables: list[n.TableBlock],
    ) -> list[n.Block]:
        """Give each caption its result; a single one for figures takes all of them as lettered parts."""
        for_figures = [c for c in captions if c.kind == "figure"]
        if not figures or not tables:
            for_figures += [c for c in captions if not c.kind and figures]
        if len(for_figures) == 1 and len(figures) > 1:
            merged = n.Figure(figures[0].span, tuple(p for f in figures for p in f.pictures), align=self.options.align)
            blocks = [merged if b is figures[0] else b for b in blocks if not any(b is f for f in figures[1:])]
            figures = [merged]
        waiting: list[Result] = [block for block in blocks if isinstance(block, Result) and not block.label]
        given: dict[int, Captioned] = {}
        for caption in captions:
            wanted = {"figure": n.Figure, "table": n.TableBlock}.get(caption.kind, Result)
            target = next((block for block in waiting if isinstance(block, wanted)), None)
            if target is None:
                self.complain(
                    caption, f"the chunk `{self.chunk.label}` shows fewer figures and tables than it has captions."
                )
                continue
            waiting.remove(target)
            given[id(target)] = caption
        return [
            self.captioned(block, given[id(block)]) if id(block) in given else self.described(block) for block in blocks
        ]

    def captioned(self, block: n.Block, caption: Captioned, label: str = "") -> n.Block:
        """`block` with its caption; the chunk's label goes to the first captioned thing without a label of its own."""
        if not label:
            self.taken += 1
            label = self.chunk.label if self.taken == 1 else f"{self.chunk.label}.{self.taken}"
        words = caption.words
        if isinstance(block, n.TableBlock):
            return replace(block, caption=words, label=label, number="")
        assert isinstance(block, n.Figure)
        alt = words_of(words)
        pictures = tuple(_with_alt(p, self.options.alt or alt or p.alt) for p in block.pictures)
        return replace(block, pictures=pictures, caption=words, label=label, number="")

    def described(self, block: n.Block) -> n.Block:
        """Without a caption nothing is numbered; figures still need words for those who cannot see them."""
        if not isinstance(block, n.Figure) or block.label:
            return block
        fallback = self.language.drawn.format(label=self.chunk.label)
        return n.Figure(block.span, tuple(_with_alt(p, p.alt or fallback) for p in block.pictures), align=block.align)


_FETCHED = re.compile(r"""<(?:script|link)\b[^>]*?\b(?:src|href)\s*=\s*["']?((?:https?:)?//[^"'\s>]+)""", re.IGNORECASE)
"""A script, or a style sheet, that lies elsewhere."""
_LONGEST = 2_000
"""Letters of one printed line that are shown."""


def _with_alt(picture: n.Picture, alt: str) -> n.Picture:
    return replace(picture, alt=alt)


def _joined_texts(blocks: list[n.Block]) -> list[n.Block]:
    """Neighbouring outputs of one role become one block."""
    joined: list[n.Block] = []
    for block in blocks:
        last = joined[-1] if joined else None
        if (
            isinstance(block, n.OutputText)
            and isinstance(last, n.OutputText)
            and last.role == block.role
            and not last.cut
        ):
            joined[-1] = n.OutputText(last.span, f"{last.text}\n{block.text}", last.role, block.cut)
        else:
            joined.append(block)
    return joined
