"""Marks, mathematics and attribute lists, lifted out of the text before Markdown's own rules see them.

Each is replaced by a short run of noncharacters that Markdown takes for letters, so that `|`, `*`, `[0]` or
`}` inside an expression is safe, also in table cells. Lines keep their numbers; each piece keeps its place.
What turns out to stand in a code span, a listing or raw HTML is put back as it was (`Shielded.restore`).
"""

from __future__ import annotations

import re
from bisect import bisect_right

from msgspec import Struct

from wornpage.source.marks.verbs import COMMANDS, VERBS, WITH_ATTRIBUTES, opening
from wornpage.source.pieces import Piece
from wornpage.tree.brackets import closing_brace
from wornpage.tree.problem import Problem, Severity, near_miss
from wornpage.tree.span import Span

OPEN, FILL, CLOSE = "\ufdd0", "\ufdd1", "\ufdd2"
RUN = re.compile(f"{OPEN}(.)(.)[{FILL}\n]*{CLOSE}")

_MOST_LOOKED = 1_000_000
_PLANE = 0xF0000
_PLANE_SIZE = 0xFFFE
_RESERVED = re.compile("[\ufdd0-\ufdef]")
_FENCE = re.compile(r"^[ \t>]*(?:(?:[-*+]|\d{1,9}[.)])[ \t]+)*(`{3,}|~{3,})(.*)$")
_SPECIAL = re.compile(r"\\.|`+|\$\$?|\{", re.DOTALL)
_VALUE = re.compile(opening("=", then=r"[ \n]"))
_WORD = re.compile(r"\{([a-z]{2,12})(?=[ }])")
_ATTRIBUTES = re.compile(
    r"\{[ \t]*(?:[#.][\w.:-]+|[A-Za-z][\w-]*=(?:\"[^\"\n]*\"|'[^'\n]*'|[^\s}\"']+))"
    r"(?:[ \t]+(?:[#.][\w.:-]+|[A-Za-z][\w-]*=(?:\"[^\"\n]*\"|'[^'\n]*'|[^\s}\"']+)))*[ \t]*\}"
)
_LONGER_COMMAND = re.compile(
    r"\{(?:" + "|".join(WITH_ATTRIBUTES) + r")(?:[ \t]+[\w-]+=(?:\"[^\"\n]*\"|'[^'\n]*'|[^\s}\"']+))+[ \t]*\}"
)
_HEADING = re.compile(r"^[ \t>]*#{1,6}[ \t]")
_SETEXT = re.compile(r"^[ \t>]*(?:=+|-+)[ \t]*$")


_DOLLAR = re.compile(r"\\.|\$|`", re.DOTALL)
_FORMULA = re.compile(r"\\[A-Za-z]+|[\w})\]][_^][\w{(\\]|^\s*[A-Za-z]\s*[=<>]\s*$")
"""What tells a formula with spaces at its ends from two prices in a sentence."""


class Shielded(Struct, frozen=True):
    """A text whose marks and formulas have been lifted out."""

    text: str
    pieces: tuple[Piece, ...]
    problems: tuple[Problem, ...]

    def restore(self, text: str) -> str:
        """`text` with every piece written out again."""
        if OPEN not in text:
            return text
        return RUN.sub(lambda match: self.pieces[index_of(match)].raw, text)


def index_of(match: re.Match[str]) -> int:
    """Which piece a run of noncharacters stands for."""
    return (ord(match[1]) - _PLANE) * _PLANE_SIZE + ord(match[2]) - _PLANE


def shield(text: str, file: str) -> Shielded:
    """Lift marks, mathematics and attribute lists out of `text`; one pass, linear in its length."""
    return _Shield(_RESERVED.sub("\ufffd", text), file).run()


class _Shield:
    def __init__(self, text: str, file: str) -> None:
        self.text = text
        self.file = file
        self.starts = [0, *(match.end() for match in re.finditer("\n", text))]
        self.pieces: list[Piece] = []
        self.problems: list[Problem] = []
        self.out: list[str] = []
        self.looked = 0
        """Letters gone through for marks that are never closed."""
        self.done = 0
        """How much of the text has been copied to `out`."""

    def run(self) -> Shielded:
        if not re.search(r"[{$]", self.text):
            return Shielded(self.text, (), ())
        for start, end in self._stretches():
            self._stretch(start, end)
        self.out.append(self.text[self.done :])
        return Shielded("".join(self.out), tuple(self.pieces), tuple(self.problems))

    def span(self, offset: int) -> Span:
        line = bisect_right(self.starts, offset)
        return Span(self.file, line, offset - self.starts[line - 1] + 1)

    def _stretches(self) -> list[tuple[int, int]]:
        """Parts of the text without fences or blank lines; everything else is passed through on the way."""
        found: list[tuple[int, int]] = []
        fence, begin, offset = "", -1, 0
        display_until = -1
        for line in self.text.splitlines(keepends=True):
            end = offset + len(line)
            match = _FENCE.match(line) if offset >= display_until else None
            if fence:
                if match and match[1].startswith(fence) and not match[2].strip():
                    fence = ""
            elif match and not (match[1][0] == "`" and "`" in match[2]):
                if begin >= 0:
                    found.append((begin, offset))
                begin, fence = -1, match[1]
            elif line.strip() or offset < display_until:
                if begin < 0:
                    begin = offset
                if offset >= display_until and line.lstrip(" \t>").startswith("$$"):
                    display_until = self._display_end(offset + line.index("$$"))
            elif begin >= 0:
                found.append((begin, offset))
                begin = -1
            offset = end
        if begin >= 0:
            found.append((begin, offset))
        return found

    def _display_end(self, offset: int) -> int:
        """Where the display that opens at `offset` ends; -1 if it is never closed before a heading or a fence."""
        stop = re.compile(r"^[ \t>]*(?:#{1,6}[ \t]|`{3}|~{3})", re.MULTILINE).search(self.text, offset + 2)
        end = self.text.find("$$", offset + 2, stop.start() if stop else len(self.text))
        return end + 2 if end >= 0 else -1

    def _stretch(self, begin: int, end: int) -> None:
        self.out.append(self.text[self.done : begin])
        self.done = begin
        position = begin
        while match := _SPECIAL.search(self.text, position, end):
            position = self._special(match, begin, end)
        self.out.append(self.text[self.done : end])
        self.done = end

    def _special(self, match: re.Match[str], begin: int, end: int) -> int:
        """Deal with one special sign; returns where to go on."""
        sign, at = match[0], match.start()
        if sign[0] == "\\":
            return match.end()
        if sign[0] == "`":
            closing = re.compile(rf"(?<!`){sign}(?!`)").search(self.text, match.end(), end)
            return closing.end() if closing else match.end()
        if sign == "$$":
            return self._display(at, end)
        if sign == "$":
            return self._inline_math(at, end)
        return self._brace(at, begin, end)

    def _lift(self, kind: str, start: int, stop: int) -> int:
        index, raw = len(self.pieces), self.text[start:stop]
        self.pieces.append(Piece(kind, raw, self.span(start)))
        lines = "".join(f"\n{FILL}" for _ in range(raw.count("\n")))
        number = chr(_PLANE + index // _PLANE_SIZE) + chr(_PLANE + index % _PLANE_SIZE)
        self.out += [self.text[self.done : start], OPEN, number, lines, CLOSE]
        self.done = stop
        return stop

    def _display(self, at: int, end: int) -> int:
        close = self.text.find("$$", at + 2, end)
        if close > at + 2:
            return self._lift("display", at, close + 2)
        if not self.text[self.starts[self.span(at).line - 1] : at].strip(" \t>"):
            what = "the formula that begins here is never closed."
            self.problems.append(Problem(self.span(at), what, "End it with `$$`."))
        return at + 2

    def _inline_math(self, at: int, end: int) -> int:
        for match in _DOLLAR.finditer(self.text, at + 1, end):
            if match[0] == "$":
                close = match.start()
                inner, after = self.text[at + 1 : close], self.text[close + 1 : close + 2]
                if inner.strip() and not after.isdigit() and (inner == inner.strip() or _FORMULA.search(inner)):
                    return self._lift("math", at, close + 1)
                return at + 1
        return at + 1

    def _brace(self, at: int, begin: int, end: int) -> int:
        text = self.text
        if _VALUE.match(text, at, end) and text[at - 1 : at] != ")":  # what follows a link or an image is none
            return self._mark(at, end)
        word = _WORD.match(text, at, end)
        if word and word[1] in VERBS:
            return self._mark(at, end)
        for command in COMMANDS:
            if text.startswith(command + "}", at + 1):
                return self._lift("mark", at, at + len(command) + 2)
        longer = _LONGER_COMMAND.match(text, at, end)
        if longer:
            return self._lift("mark", at, longer.end())
        attributes = _ATTRIBUTES.match(text, at, end)
        if attributes and self._may_have_attributes(at, attributes.end()):
            return self._lift("attributes", at, attributes.end())
        self._warn_of_near_miss(at, word)
        return at + 1

    def _mark(self, at: int, end: int) -> int:
        if self.looked > _MOST_LOOKED + 20 * len(self.text):
            return at + 1  # told already, and looking on would take as long as the square of what there is
        close = closing_brace(self.text, at, end)
        if close < 0:
            self.looked += end - at
            what = "the mark that begins here is never closed in its paragraph."
            hint = "End it with `}`, or write `\\{` for a brace."
            self.problems.append(Problem(self.span(at), what, hint))
            return at + 1
        return self._lift("mark", at, close)

    def _may_have_attributes(self, at: int, stop: int) -> bool:
        if self.text[at - 1 : at] == ")":
            return True
        number = self.span(at).line
        line = self.text[self.starts[number - 1] : at]
        rest = self.text[stop : stop + 400].split("\n", 2)
        if rest[0].strip():
            return False
        setext = len(rest) > 1 and bool(_SETEXT.match(rest[1]))
        return bool(_HEADING.match(line)) or setext or line.lstrip(" \t>").startswith(":::")

    def _warn_of_near_miss(self, at: int, word: re.Match[str] | None) -> None:
        what, hint = "", ""
        if self.text.startswith("{=", at) and self.text[at + 2 : at + 3] not in {"=", "}", ""}:
            what, hint = "this brace is taken for text.", "A value mark has a space after `=`."
        elif word:
            hint = near_miss(word[1], dict.fromkeys((*VERBS, *COMMANDS)))
            what = f"{word[0]!r} is no mark and is taken for text." if hint else ""
        if what:
            self.problems.append(Problem(self.span(at), what, hint, Severity.WARNING))
