"""A host text taken apart: what its reader finds goes in, pieces, blocks and faults with their places come out."""

from __future__ import annotations

import re
from bisect import bisect

from wornpage.source.header import LABEL
from wornpage.source.hosts.hosted import Hosted, Literal
from wornpage.source.marks.value import value_mark
from wornpage.source.naming import name_chunks
from wornpage.source.page import FrontMatter
from wornpage.source.pieces import Piece
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span


class Filling:
    """Takes places in the order of the text."""

    def __init__(self, text: str, name: str) -> None:
        self.text, self.name = text, name
        self._starts = [0, *(found.end() for found in re.finditer("\n", text))]
        self._problems: list[Problem] = []
        self._blocks: list[n.Block] = []
        self._pieces: list[Literal | Span] = []
        self._done = 0
        """Up to where the text has gone into pieces."""

    def hosted(self, front: FrontMatter) -> Hosted:
        """All of it."""
        self._literal(len(self.text))
        blocks, problems = name_chunks(tuple(self._blocks))
        return Hosted(front, blocks, tuple(self._pieces), (*self._problems, *problems))

    # --- places -------------------------------------------------------------------------------

    def span(self, begins: int, ends: int) -> Span:
        """The place of a stretch of text."""
        line = self.line(begins)
        return Span(self.name, line, begins - self._starts[line - 1] + 1, self.line(max(begins, ends - 1)))

    def line(self, at: int) -> int:
        """The line of a letter, counted from 1."""
        return bisect(self._starts, at)

    def complain(self, at: int, what: str, hint: str) -> None:
        """Tell of a fault."""
        self._problems.append(Problem(self.span(at, at + 1), what, hint))

    def label(self, label: str, at: int) -> str:
        """A label, if it can be one."""
        if LABEL.fullmatch(label):
            return label
        self.complain(at, f"{label!r} cannot be a label.", "A label is made of letters a to z, digits and `-`.")
        return ""

    # --- what is filled in --------------------------------------------------------------------

    def chunk(
        self,
        begins: int,
        ends: int,
        code: str,
        code_begins: int,
        language: str,
        label: str,
        options: tuple[n.RawOption, ...],
        head: str,
        lost: int = 0,
    ) -> None:
        """A chunk between `begins` and `ends`; code that is as far in as its beginning loses that much.

        `lost` says how much its lines have lost already.
        """
        span = self.span(begins, ends)
        indent = span.column - 1 if not self.text[self._starts[span.line - 1] : begins].strip() else 0
        lines = code.split("\n")
        if lost:
            indent = lost
        elif indent and all(not line.strip() or not line[:indent].strip() for line in lines):
            code = "\n".join(line[indent:] for line in lines)
        made = n.Chunk(span, language, label, bool(label), options, code, self.line(code_begins), head.strip(), indent)
        self._filled(made, begins, ends)

    def value(self, begins: int, ends: int, expression: str, form: str) -> None:
        """A value between `begins` and `ends`."""
        raw = f"{{= {expression}{f' as {form}' if form else ''}}}"
        span = self.span(begins, ends)
        mark, problem = value_mark(Piece("mark", raw, span), raw)
        self._problems += [problem] if problem else []
        self._filled(n.Paragraph(span, (mark,)), begins, ends)

    def _literal(self, ends: int) -> None:
        if ends > self._done:
            self._pieces.append(Literal(self.text[self._done : ends], self.line(self._done)))
        self._done = ends

    def _filled(self, block: n.Block, begins: int, ends: int) -> None:
        self._literal(begins)
        self._pieces.append(block.span)
        self._blocks.append(block)
        self._done = ends
