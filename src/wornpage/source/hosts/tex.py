r"""LaTeX sources: `\begin{chunk}{python}[label=load, show=nothing]` … `\end{chunk}`, `\worn{expression}[form]`, settings in
lines that begin with `% worn:` at the head. What is commented out, or stands in verbatim text, is none of it.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from wornpage.source.attributes import unquoted
from wornpage.source.hosts.hosted import Hosted, Literal
from wornpage.source.marks.value import value_mark
from wornpage.source.naming import name_chunks
from wornpage.source.page import FrontMatter
from wornpage.source.pieces import Piece
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span

_SETTING = re.compile(r"%[ \t]*worn:[ \t]?(.*)")
_WIDTH = len("% worn: ")
_PLACE = re.compile(
    r"(?P<sign>\\[^A-Za-z])"
    r"|(?P<comment>%[^\n]*)"
    r"|(?P<verbatim>\\begin\{(?P<kind>verbatim\*?|Verbatim|lstlisting|comment|filecontents\*?)\}.*?\\end\{(?P=kind)\})"
    r"|(?P<verb>\\verb\*?(?P<fence>[^A-Za-z\s*]).*?(?P=fence))"
    r"|(?P<end>\\end\{document\})"
    r"|(?P<chunk>\\begin\{chunk\})"
    r"|(?P<mark>\\worn(?![A-Za-z@])\s*)",
    re.DOTALL,
)
_HEAD = re.compile(
    r"\\begin\{chunk\}[ \t]*(?:\{(?P<language>[^{}\n]*)\})?[ \t]*(?:\[(?P<options>[^\n]*)\])?[ \t]*(?P<rest>[^\n]*)\n?"
)
_FOOT = re.compile(r"^[ \t]*\\end\{chunk\}", re.MULTILINE)
_OPTION = re.compile(r"""[ \t]*((?:"[^"]*"|'[^']*'|[^,"'])*)(?:,|$)""")
_LABEL = re.compile(r"[A-Za-z0-9](?:[A-Za-z0-9-]*[A-Za-z0-9])?")
_ESCAPED = re.compile(r"\\([%#&])")


def read(text: str, name: str) -> Hosted:
    """The text with all that is to be filled in."""
    return _Reader(text, name).read()


class _Reader:
    def __init__(self, text: str, name: str) -> None:
        self.text, self.name = text, name
        self.starts = [0, *(found.end() for found in re.finditer("\n", text))]
        self.problems: list[Problem] = []
        self.blocks: list[n.Block] = []
        self.pieces: list[Literal | Span] = []
        self.done = 0
        """Up to where the text has gone into pieces."""

    def read(self) -> Hosted:
        at = 0
        while found := _PLACE.search(self.text, at):
            at = found.end()
            if found["end"]:
                break
            if found["chunk"]:
                at = self._chunk(found.start())
            elif found["mark"]:
                at = self._mark(found)
        self._literal(len(self.text))
        blocks, problems = name_chunks(tuple(self.blocks))
        return Hosted(self._front(), blocks, tuple(self.pieces), (*self.problems, *problems))

    # --- places -------------------------------------------------------------------------------

    def span(self, begins: int, ends: int) -> Span:
        """The place of a stretch of text."""
        line = self._line(begins)
        return Span(self.name, line, begins - self.starts[line - 1] + 1, self._line(max(begins, ends - 1)))

    def _line(self, at: int) -> int:
        low, high = 0, len(self.starts)
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (middle, high) if self.starts[middle] <= at else (low, middle)
        return low + 1

    def _literal(self, ends: int) -> None:
        if ends > self.done:
            self.pieces.append(Literal(self.text[self.done : ends], self._line(self.done)))
        self.done = ends

    def _filled(self, block: n.Block, begins: int, ends: int) -> None:
        self._literal(begins)
        self.pieces.append(block.span)
        self.blocks.append(block)
        self.done = ends

    # --- chunks -------------------------------------------------------------------------------

    def _chunk(self, begins: int) -> int:
        """Read a chunk; where the text goes on."""
        head = _HEAD.match(self.text, begins)
        assert head is not None
        foot = _FOOT.search(self.text, head.end())
        span = self.span(begins, head.end())
        if foot is None:
            self._complain(
                begins, "the chunk that begins here never ends.", r"Put a line with `\end{chunk}` after its last line."
            )
            return head.end()
        another = self.text.find("\\begin{chunk}", head.end(), foot.start())
        if another >= 0:
            what = f"the chunk that begins here does not end before the one in line {self._line(another)} begins."
            self._complain(begins, what, r"Put a line with `\end{chunk}` after its last line.")
            return another
        if not (head["language"] or "").strip():
            self._complain(begins, "this chunk names no language.", r"Write `\begin{chunk}{python}`.")
        if head["rest"].strip() and not head["rest"].strip().startswith("%"):
            self._complain(
                head.start("rest"), "nothing stands behind a chunk's options.", "Its code begins in the next line."
            )
        label, options = self._options(head)
        indent = span.column - 1 if not self.text[self.starts[span.line - 1] : begins].strip() else 0
        code = self.text[head.end() : foot.start()]
        lines = code.split("\n")
        if indent and all(not line.strip() or not line[:indent].strip() for line in lines):
            code = "\n".join(line[indent:] for line in lines)
        whole = self.span(begins, foot.end())
        language = (head["language"] or "python").strip().lower()
        self._filled(
            n.Chunk(
                whole, language, label, bool(label), options, code, self._line(head.end()), head[0].strip(), indent
            ),
            begins,
            foot.end(),
        )
        return foot.end()

    def _options(self, head: re.Match[str]) -> tuple[str, tuple[n.RawOption, ...]]:
        """The label and the options in a chunk's brackets."""
        label, options = "", dict[str, n.RawOption]()
        for found in _OPTION.finditer(head["options"] or ""):
            word = found[1].strip()
            at = head.start("options") + found.start(1)
            key, sign, value = (part.strip() for part in word.partition("="))
            if not word:
                continue
            if not sign:
                self._complain(
                    at,
                    f"{word!r} has no place among a chunk's options.",
                    f"Write `{word}=…`, or `label={word}` for a label.",
                )
            elif key == "label":
                label = self._label(value, at)
            elif key in options:
                self._complain(at, f"the option {key!r} stands here twice.", "Keep one of them.")
            else:
                options[key] = n.RawOption(key, unquoted(value), self.span(at, at + len(word)))
        return label, tuple(options.values())

    def _label(self, label: str, at: int) -> str:
        if _LABEL.fullmatch(label):
            return label
        self._complain(at, f"{label!r} cannot be a label.", "A label is made of letters a to z, digits and `-`.")
        return ""

    # --- marks --------------------------------------------------------------------------------

    def _mark(self, found: re.Match[str]) -> int:
        """Read a mark; where the text goes on."""
        begins, at = found.start(), found.end()
        ends = self._closing(at) if self.text[at : at + 1] == "{" else -1
        if ends < 0:
            what = (
                "this value has no expression."
                if self.text[at : at + 1] != "{"
                else "the brace of this value is never closed."
            )
            self._complain(begins, what, r"Write `\worn{name}`.")
            return at
        expression, form = self.text[at + 1 : ends - 1], ""
        if self.text[ends : ends + 1] == "[" and (stop := self.text.find("]", ends)) > 0:
            form, ends = self.text[ends + 1 : stop].strip(), stop + 1
        expression = _ESCAPED.sub(r"\1", expression)
        raw = f"{{= {expression}{f' as {form}' if form else ''}}}"
        span = self.span(begins, ends)
        mark, problem = value_mark(Piece("mark", raw, span), raw)
        self.problems += [problem] if problem else []
        self._filled(n.Paragraph(span, (mark,)), begins, ends)
        return ends

    def _closing(self, at: int) -> int:
        """Behind the brace that closes the one at `at`; -1 for none."""
        depth = 0
        for place in range(at, len(self.text)):
            if self.text[place - 1] == "\\" and self.text[place] in "{}":
                continue
            depth += {"{": 1, "}": -1}.get(self.text[place], 0)
            if not depth:
                return place + 1
        return -1

    def _complain(self, at: int, what: str, hint: str) -> None:
        self.problems.append(Problem(self.span(at, at + 1), what, hint))

    # --- settings -----------------------------------------------------------------------------

    def _front(self) -> FrontMatter:
        """The settings in comments at the head, each in its own line and column."""
        return FrontMatter("\n".join(self._settings()).rstrip() + "\n", 1)

    def _settings(self) -> Iterator[str]:
        for line in self.text.split("\n"):
            if line.strip() and not line.startswith("%"):
                return
            found = _SETTING.fullmatch(line.rstrip())
            yield " " * _WIDTH + found[1] if found else ""
